"""What each bar is like: drums, colour, harmony, loudness.

Sections are told apart by these. Drums and colour stay much the same through a section; harmony
moves within it, and comes back with the section.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace

import numpy as np
import numpy.typing as npt

from orchesis.audio.decode import SAMPLE_RATE
from orchesis.listening.ear import Heard
from orchesis.listening.features import band_centres
from orchesis.music.instruments import CYMBALS, TOMS, Instrument, Status
from orchesis.music.values import Bar, Hit

Matrix = npt.NDArray[np.float64]

PLACES = 16
FORM_VOICES: tuple[frozenset[Instrument], ...] = (
    frozenset({Instrument.KICK}),
    frozenset({Instrument.SNARE, Instrument.CLAP}),
    frozenset({Instrument.CROSS_STICK}),
    frozenset({Instrument.HIHAT_CLOSED}),
    frozenset({Instrument.HIHAT_OPEN}),
    frozenset({Instrument.RIDE, Instrument.RIDE_BELL}),
    frozenset({Instrument.CRASH, Instrument.CHINA, Instrument.SPLASH}),
    TOMS,
    frozenset({Instrument.HIHAT_FOOT, Instrument.HIHAT_SPLASH}),
    frozenset({Instrument.SHAKER, Instrument.TAMBOURINE, Instrument.COWBELL}),
)
COLOURS = 12
GHOST_WEIGHT = 0.4
COLOUR_OF_REST = 0.6
"""Colour is taken from what is not drums more than from all: the drums are described already."""


@dataclass(frozen=True, slots=True)
class BarsDescribed:
    """Rows are bars.

    drums : shape (bars, FORM_VOICES * PLACES), what is played where. amount : (bars, FORM_VOICES),
    how much of each. colour : (bars, COLOURS), mean level by pitch range. chroma : (bars, 2 * 12),
    the harmony of each half. loudness : (bars,). crash : (bars,), a crash on the one.
    """

    drums: Matrix
    amount: Matrix
    colour: Matrix
    chroma: Matrix
    loudness: Matrix
    crash: Matrix

    def after(self, first: int) -> BarsDescribed:
        """The same without the bars before `first`."""
        return BarsDescribed(*(getattr(self, item.name)[first:] for item in fields(self)))


def describe_bars(bars: Sequence[Bar], hits: Sequence[Hit], heard: Heard | None) -> BarsDescribed:
    """Describe every bar. Without `heard` (no audio at hand) only the drums count."""
    index_of = {bar.number: index for index, bar in enumerate(bars)}
    drums = np.zeros((len(bars), len(FORM_VOICES), PLACES))
    crash = np.zeros(len(bars))
    for hit in hits:
        index = index_of.get(hit.bar)
        if index is None or hit.status is Status.LEFT_OUT:
            continue
        weight = (GHOST_WEIGHT if hit.ghost else 1.0) * hit.confidence
        place = int(hit.position * PLACES)
        for row, family in enumerate(FORM_VOICES):
            if hit.instrument in family:
                drums[index, row, place] = max(drums[index, row, place], weight)
        if hit.instrument in CYMBALS and hit.instrument is Instrument.CRASH and hit.position == 0:
            crash[index] = 1.0
    colour, chroma = np.zeros((len(bars), COLOURS)), np.zeros((len(bars), 24))
    loudness = np.zeros(len(bars))
    if heard is not None and heard.detail is not None:
        colour, chroma, loudness = _sound(bars, heard)
    return BarsDescribed(
        drums=drums.reshape(len(bars), -1),
        amount=np.sqrt(drums.sum(axis=2)),
        colour=colour,
        chroma=chroma,
        loudness=loudness,
        crash=crash,
    )


def _sound(bars: Sequence[Bar], heard: Heard) -> tuple[Matrix, Matrix, Matrix]:
    assert heard.detail is not None
    level = heard.detail.features.astype(np.float64)
    masks = heard.detail.masks
    rest = level * (1.0 - masks) if masks is not None else level
    centres = band_centres(SAMPLE_RATE)
    groups = np.clip((np.arange(len(centres)) * COLOURS) // len(centres), 0, COLOURS - 1)
    tonal = (centres > 90) & (centres < 2000)
    pitch_class = np.round(12 * np.log2(centres / 440.0)).astype(int) % 12
    fold = np.zeros((len(centres), 12))
    fold[np.flatnonzero(tonal), pitch_class[tonal]] = 1.0
    colour, chroma = np.zeros((len(bars), COLOURS)), np.zeros((len(bars), 24))
    loudness = np.zeros(len(bars))
    for index, bar in enumerate(bars):
        edges = np.round(np.array([bar.start, (bar.start + bar.end) / 2, bar.end]) * 100).astype(
            int
        )
        first, middle, last = np.clip(edges, 0, len(level) - 1)
        if not first < middle < last:
            continue
        whole = level[first:last]
        tone = COLOUR_OF_REST * rest[first:last] + (1 - COLOUR_OF_REST) * whole
        colour[index] = np.bincount(groups, tone.mean(axis=0)) / np.bincount(groups)
        loudness[index] = float(whole.max(axis=1).mean())
        for half, (low, high) in enumerate(((first, middle), (middle, last))):
            # Median over time: attacks pass, what is held stays.
            held = np.maximum(np.median(rest[low:high], axis=0), 0.0) ** 2
            chroma[index, 12 * half : 12 * half + 12] = held @ fold
    norm = np.linalg.norm(chroma, axis=1, keepdims=True)
    return colour, chroma / np.maximum(norm, 1e-6), loudness


LONGEST_STOP = 2


def through_stops(described: BarsDescribed) -> BarsDescribed:
    """The same with stops of a bar or two filled in: a stop does not end a section."""
    silent = described.amount.sum(axis=1) == 0
    amount, colour = described.amount.copy(), described.colour.copy()
    drums, loudness = described.drums.copy(), described.loudness.copy()
    bar = 0
    while bar < len(silent):
        if not silent[bar]:
            bar += 1
            continue
        end = bar
        while end < len(silent) and silent[end]:
            end += 1
        if bar > 0 and end < len(silent) and end - bar <= LONGEST_STOP:
            for values in (amount, colour, drums, loudness):
                values[bar:end] = values[bar - 1]
        bar = end
    return replace(described, amount=amount, colour=colour, drums=drums, loudness=loudness)

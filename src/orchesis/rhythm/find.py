"""Finding the grid: from what was heard to bars, or to the finding that there is no steady beat."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orchesis.listening.ear import Heard
from orchesis.music.values import Bar
from orchesis.rhythm.beats import Times, draw_to_strokes, track_beats
from orchesis.rhythm.grid import lay_bars
from orchesis.rhythm.levels import SLOWEST_BPM, in_parts
from orchesis.rhythm.readings import Reading, rank_readings

FEWEST_BEATS = 8
LEAST_REGULARITY = 0.35
"""Share of beats that must have a stroke for the grid to be drawn at all."""


@dataclass(frozen=True, slots=True)
class Grid:
    """The possible readings, best first, the bars of the best, and the beats as tracked."""

    readings: tuple[Reading, ...]
    bars: tuple[Bar, ...]
    tracked: Times


def find_grid(heard: Heard) -> Grid | None:
    """The song's bars; None where no steady beat is found."""
    beats = draw_to_strokes(track_beats(heard.pulse, heard.frame_rate), heard.onsets)
    if len(beats) < FEWEST_BEATS or regularity(heard, beats) < LEAST_REGULARITY:
        return None
    readings = rank_readings(heard, beats)
    if readings and readings[0].key.startswith("third"):
        # Three eighths a beat: the beats themselves are followed, not every third of something
        # quicker, which goes astray for good where one is missed.
        slow = track_beats(
            heard.pulse, heard.frame_rate, slowest_bpm=SLOWEST_BPM, fastest_bpm=FASTEST_COMPOUND
        )
        if len(slow) >= FEWEST_BEATS:
            beats = in_parts(draw_to_strokes(slow, heard.onsets), 3)
            # What goes across these beats, two of their thirds each, is nobody's beat.
            readings = rank_readings(heard, beats, ("third", "tracked"))
    if not readings:
        return None
    bars = bars_of(readings[0], heard.onsets[0].time, heard.onsets[-1].time)
    bars = without_ringing(bars, heard)
    return Grid(readings, bars, beats) if bars else None


FASTEST_COMPOUND = 110.0
"""Dotted quarters a minute."""

SILENT_BELOW = 0.45
"""Of the song's loud frames, on the scale of the features: 33 dB below them."""


def without_ringing(bars: tuple[Bar, ...], heard: Heard) -> tuple[Bar, ...]:
    """The bars without those after the last stroke in which the record only rings out."""
    if heard.detail is None or not heard.onsets:
        return bars
    level = heard.detail.features.max(axis=1)
    last = heard.onsets[-1].time

    def sounds(bar: Bar) -> bool:
        middle = (bar.start + bar.end) / 2
        piece = level[round(middle * heard.frame_rate) : round(bar.end * heard.frame_rate)]
        return bar.start <= last or (len(piece) > 0 and float(piece.mean()) > SILENT_BELOW)

    keep = len(bars)
    while keep > 1 and not sounds(bars[keep - 1]):
        keep -= 1
    return bars[:keep]


def bars_of(reading: Reading, earliest: float, latest: float) -> tuple[Bar, ...]:
    """The bars of a reading, from the first stroke to the last, in seconds."""
    return lay_bars(reading.beats, reading.lines, reading.meter, earliest=earliest, latest=latest)


def regularity(heard: Heard, beats: Times) -> float:
    """Share of beats that have a stroke within 60 ms."""
    times = np.array([onset.time for onset in heard.onsets])
    if not len(times):
        return 0.0
    right = np.clip(np.searchsorted(times, beats), 0, len(times) - 1)
    left = np.clip(right - 1, 0, len(times) - 1)
    nearest = np.minimum(np.abs(times[right] - beats), np.abs(times[left] - beats))
    return float((nearest < 0.06).mean())

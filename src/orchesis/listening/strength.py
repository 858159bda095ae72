"""How loud each stroke was, against the others of its drum: measured in the sound.

The network's word on loudness is a value at the frame of the peak; it ranks strokes of one drum
less well than what the sound itself gains there. Witnesses are the power that the drums gain in
those few bands in which this drum stands out from the others of its song (this kit's bands, no rule
for all kits), in all of its spectrum and in broad bands, how it fades, what sounds with it, and the
network's word; how much each says was learnt from songs of trained sources (training/loudness.py).
The scale stays the network's: its values are given to the strokes in the order of what was
measured, so that what counts as a ghost is the same as before.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache
from pathlib import Path

import numpy as np
import numpy.typing as npt

from orchesis.listening.ear import Bands, Detail, Onset
from orchesis.listening.weights import read_weights
from orchesis.music.instruments import Instrument

MODEL = Path(__file__).parent / "models" / "strength.npz"

FEWEST = 8
"""Strokes of a drum: of fewer there is no order to be sure of."""

KNOWN = 4
"""Strokes by which what a drum sounds like is known well enough to tell others apart from it."""

OWN_BANDS = 6
BEFORE = (-4, -3)
AFTER = range(-1, 5)
"""Frames about the stroke: what sounded before it, and its attack."""

RIVAL_FLOOR = 0.02
MOST_APART = 3.0
"""A band in which no other drum gains anything counts no more than so many times."""

QUIETEST = 1e-7
DECADES = 6.0
"""Of power between nothing and the song's loud frames, as features have it."""

Levels = npt.NDArray[np.float64]


def with_measured_loudness(
    onsets: Sequence[Onset], detail: Detail, frame_rate: float
) -> list[Onset]:
    """The same strokes, those of each drum ranked by what was measured."""
    result = list(onsets)
    if not onsets:
        return result
    measured = _measured(witnesses(onsets, detail, frame_rate))
    for instrument in dict.fromkeys(onset.instrument for onset in onsets):
        mine = [i for i, onset in enumerate(onsets) if onset.instrument is instrument]
        if len(mine) < FEWEST:
            continue
        network_loudness = np.array([onsets[i].loudness for i in mine])
        order = np.argsort(measured[mine], kind="stable")
        ranked = np.empty(len(mine))
        ranked[order] = np.sort(network_loudness)
        for index, loudness in zip(mine, ranked, strict=True):
            result[index] = replace(onsets[index], loudness=float(loudness))
    return result


@lru_cache(maxsize=1)
def load_strength(path: Path = MODEL) -> dict[str, Levels]:
    """The networks' weights. Raises OrchesisError when the file is missing or damaged."""
    return {name: held.astype(np.float64) for name, held in read_weights(path).items()}


def _measured(table: Levels) -> Levels:
    """What the witnesses come to, without unit: the mean of the networks, shape (n,)."""
    held = load_strength()
    said = [
        np.maximum(table @ first.T + bias, 0.0) @ last
        for first, bias, last in zip(held["first"], held["first_bias"], held["last"], strict=True)
    ]
    mean: Levels = np.mean(said, axis=0)
    return mean


BROAD = 8
"""Groups of neighbouring bands."""

TOGETHER = 0.03
"""Seconds within which strokes sound as one."""

LATER = range(5, 10)
EVERY = tuple(Instrument)
WITNESSES = 7 + BROAD + 2 * len(EVERY)


def witnesses(onsets: Sequence[Onset], detail: Detail, frame_rate: float) -> Levels:
    """All that tells how loud each stroke was, against the others of its drum.

    Parameters
    ----------
    onsets : the strokes, n of them. detail : the network's words and the song's features.
    frame_rate : frames a second.

    Returns
    -------
    Shape (n, WITNESSES): the gain in the drum's own bands, in three of them, over its spectrum, the
    network's word, how sure it is, how it fades, how long after the drum's last stroke, the gain in
    BROAD groups of bands, all standardised within the drum; which drums sound with it; which drum
    it is. Zeros for a drum of few strokes.
    """
    table = np.zeros((len(onsets), WITNESSES))
    profiles = profiles_of(onsets, detail, frame_rate)
    times = np.array([onset.time for onset in onsets])
    number = {instrument: k for k, instrument in enumerate(EVERY)}
    for instrument in profiles:
        mine = np.array([k for k, onset in enumerate(onsets) if onset.instrument is instrument])
        frames = frames_of([onsets[k] for k in mine], frame_rate)
        after = power_at(detail, frames, AFTER).max(axis=1)
        gain = gained(after, power_at(detail, frames, BEFORE))
        profile = profiles[instrument]
        own = own_bands(instrument, profiles)
        later = power_at(detail, frames, LATER).mean(axis=1)
        since = np.diff(times[mine], prepend=times[mine[0]] - 2.0)
        peak = np.clip([onsets[k].confidence for k in mine], 0.01, 0.99)
        columns = [
            np.median(np.log10(gain[:, own] + QUIETEST), axis=1),
            np.median(np.log10(gain[:, own[:3]] + QUIETEST), axis=1),
            np.log(gain @ (profile / (profile.sum() + QUIETEST)) + QUIETEST),
            np.array([onsets[k].loudness for k in mine]),
            np.log(peak / (1.0 - peak)),
            np.log10(later[:, own].mean(axis=1) + QUIETEST),
            np.log(np.clip(since, 0.03, 2.0)),
        ]
        groups = np.array_split(np.log10(gain + QUIETEST), BROAD, axis=1)
        columns += [group.mean(axis=1) for group in groups]
        for column, values in enumerate(columns):
            table[mine, column] = np.clip(_standard(values), -3.0, 3.0)
        table[mine, 7 + BROAD + len(EVERY) + number[instrument]] = 1.0
    low = np.searchsorted(times, times - TOGETHER)
    high = np.searchsorted(times, times + TOGETHER)
    for k, (first, last) in enumerate(zip(low, high, strict=True)):
        for other in range(first, last):
            if other != k:
                table[k, 7 + BROAD + number[onsets[other].instrument]] = 1.0
    return table


def own_bands(instrument: Instrument, profiles: dict[Instrument, Levels]) -> npt.NDArray[np.int64]:
    """The OWN_BANDS bands in which a drum stands out most from the others of its song.

    Parameters
    ----------
    instrument : the drum. profiles : of all drums of the song, from `profiles_of`.
    """
    profile = profiles[instrument]
    rivals = [other for name, other in profiles.items() if name is not instrument]
    loudest = np.max(rivals, axis=0) if rivals else np.zeros_like(profile)
    apart = profile * np.clip(profile / (loudest + RIVAL_FLOOR), 0.0, MOST_APART)
    return np.argsort(-apart)[:OWN_BANDS]


def profiles_of(
    onsets: Sequence[Onset], detail: Detail, frame_rate: float
) -> dict[Instrument, Levels]:
    """What the sound gains at the strokes of each drum, per band, in decades: medians.

    Parameters
    ----------
    onsets : the strokes. detail : the network's words and the song's features.
    frame_rate : frames a second.

    Returns
    -------
    Of each drum that was struck KNOWN times or more, shape (bands,).
    """
    found = {}
    for instrument in dict.fromkeys(onset.instrument for onset in onsets):
        mine = [onset for onset in onsets if onset.instrument is instrument]
        if len(mine) < KNOWN:
            continue
        frames = frames_of(mine, frame_rate)
        after = _at(detail.features, frames, AFTER).max(axis=1)
        before = _at(detail.features, frames, BEFORE).mean(axis=1)
        found[instrument] = np.median(np.maximum(0.0, after - before), axis=0).astype(np.float64)
    return found


def frames_of(onsets: Sequence[Onset], frame_rate: float) -> npt.NDArray[np.int64]:
    """The frames of strokes, shape (n,)."""
    return np.round(np.array([onset.time for onset in onsets]) * frame_rate).astype(np.int64)


def _at(bands: Bands, frames: npt.NDArray[np.int64], offsets: Sequence[int]) -> Bands:
    """Bands at frames about others, shape (n, offsets, bands)."""
    found: Bands = bands[np.clip(frames[:, None] + np.array(offsets), 0, len(bands) - 1)]
    return found


def power_at(detail: Detail, frames: npt.NDArray[np.int64], offsets: Sequence[int]) -> Levels:
    """The drums' share of the power at frames about others.

    Parameters
    ----------
    detail : the song's features and masks. frames : shape (n,). offsets : frames.

    Returns
    -------
    Shape (n, offsets, bands), 1 in the song's loud frames.
    """
    power = 10.0 ** (DECADES * (_at(detail.features, frames, offsets).astype(np.float64) - 1.0))
    return power if detail.masks is None else power * _at(detail.masks, frames, offsets)


def gained(after: Levels, before: Levels) -> Levels:
    """What power gains over what was there before.

    Parameters
    ----------
    after : shape (n, bands). before : shape (n, offsets, bands), of which the mean counts.
    """
    gain: Levels = np.maximum(0.0, after - before.mean(axis=1))
    return gain


def _standard(values: Levels) -> Levels:
    scaled: Levels = (values - values.mean()) / (values.std() + 1e-9)
    return scaled

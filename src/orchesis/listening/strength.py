"""How loud each stroke was, against the others of its drum: measured in the sound.

The network's word on loudness is a value at the frame of the peak; it ranks strokes of one drum
less well than what the sound itself gains there. Three witnesses are put together: the power that
the drums gain in those few bands in which this drum stands out from the others of its song (this
kit's bands, no rule for all kits); the power that they gain over all of the drum's spectrum; and
the network's word. Weights and the number of bands were chosen on songs of trained sources
(docs/notebook.md). The scale stays the network's: its values are given to the strokes in the order
of what was measured, so that what counts as a ghost is the same as before.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from orchesis.listening.ear import Bands, Detail, Onset
from orchesis.music.instruments import Instrument

FEWEST = 8
"""Strokes of a drum: of fewer there is no order to be sure of."""

KNOWN = 4
"""Strokes by which what a drum sounds like is known well enough to tell others apart from it."""

OWN_BANDS = 6
OWN_WEIGHT = 2.0
"""Of the gain in the drum's own bands; the two other witnesses count once."""

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
    profiles = profiles_of(onsets, detail, frame_rate)
    for instrument in profiles:
        mine = [i for i, onset in enumerate(onsets) if onset.instrument is instrument]
        if len(mine) < FEWEST:
            continue
        network_loudness = np.array([onsets[i].loudness for i in mine])
        frames = frames_of([onsets[i] for i in mine], frame_rate)
        order = np.argsort(
            _measured(instrument, frames, network_loudness, detail, profiles), kind="stable"
        )
        ranked = np.empty(len(mine))
        ranked[order] = np.sort(network_loudness)
        for index, loudness in zip(mine, ranked, strict=True):
            result[index] = replace(onsets[index], loudness=float(loudness))
    return result


def _measured(
    instrument: Instrument,
    frames: npt.NDArray[np.int64],
    network_loudness: Levels,
    detail: Detail,
    profiles: dict[Instrument, Levels],
) -> Levels:
    """The three witnesses as one, without unit."""
    gain = gained(power_at(detail, frames, AFTER).max(axis=1), power_at(detail, frames, BEFORE))
    profile = profiles[instrument]
    own = own_bands(instrument, profiles)
    in_own = np.median(np.log10(gain[:, own] + QUIETEST), axis=1)
    whole = np.log(gain @ (profile / (profile.sum() + QUIETEST)) + QUIETEST)
    return OWN_WEIGHT * _standard(in_own) + _standard(whole) + _standard(network_loudness)


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

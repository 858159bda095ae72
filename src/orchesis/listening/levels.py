"""How loud strokes are in decibels, and how long drums ring: measured under the masks.

A level is what the power of a drum's own bands gains at the stroke, above what rings from before:
so levels of one drum compare with each other, not with those of another drum.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from orchesis.listening.ear import Detail, Onset
from orchesis.listening.strength import (
    AFTER,
    BEFORE,
    Levels,
    frames_of,
    gained,
    own_bands,
    power_at,
    profiles_of,
)
from orchesis.music.instruments import TOMS, Instrument

RINGING_BANDS = 10
"""The bands in which a drum gains most: its ring is measured in them."""

QUIETEST = 1e-7
SOUNDING = (Instrument.SNARE, Instrument.KICK)
"""Drums whose ring tells how dry the kit is."""

CLEAR_SECONDS = 0.3
"""No other drum with a skin is struck for so long after a stroke whose ring is measured."""

FALL_DB = 20.0
FROM_DB, TO_DB = 2.0, 22.0
"""The stretch of the fall that is measured: below the attack, above what else sounds."""

FEWEST_RINGS = 6

SKINS = TOMS | {Instrument.SNARE, Instrument.CROSS_STICK, Instrument.KICK}


@dataclass(frozen=True, slots=True)
class StrokeLevels:
    """Levels of strokes: seconds, drum (index in `classes`) and decibels, each of shape (n,)."""

    classes: tuple[Instrument, ...]
    time: npt.NDArray[np.float64]
    drum: npt.NDArray[np.int64]
    decibels: npt.NDArray[np.float32]

    def of(self, instrument: Instrument) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float32]]:
        """Seconds and decibels of one drum's strokes."""
        if instrument not in self.classes:
            return np.zeros(0), np.zeros(0, np.float32)
        mine = self.drum == self.classes.index(instrument)
        return self.time[mine], self.decibels[mine]


@dataclass(frozen=True, slots=True)
class Ring:
    """In how many seconds a drum falls by FALL_DB: the median of its strokes, 95 % interval."""

    instrument: Instrument
    seconds: float
    low: float
    high: float
    strokes: int


def stroke_levels(onsets: Sequence[Onset], detail: Detail, frame_rate: float) -> StrokeLevels:
    """The level of every stroke of every drum that was struck often enough to know its bands.

    Parameters
    ----------
    onsets : the strokes. detail : the network's words and the song's features.
    frame_rate : frames a second.

    Returns
    -------
    Levels in dB, 0 where a stroke gains as much power as the song's loud frames have in a band.
    """
    times: list[float] = []
    drums: list[int] = []
    levels: list[npt.NDArray[np.float64]] = []
    profiles = profiles_of(onsets, detail, frame_rate)
    for instrument in profiles:
        mine = [onset for onset in onsets if onset.instrument is instrument]
        frames = frames_of(mine, frame_rate)
        own = own_bands(instrument, profiles)
        gain = gained(power_at(detail, frames, AFTER).max(axis=1), power_at(detail, frames, BEFORE))
        # The median band: another drum's attack is in some of them, never in most.
        levels.append(10 * np.median(np.log10(gain[:, own] + QUIETEST), axis=1))
        times += [onset.time for onset in mine]
        drums += [detail.classes.index(instrument)] * len(mine)
    return StrokeLevels(
        detail.classes,
        np.array(times, np.float64),
        np.array(drums, np.int64),
        np.concatenate(levels).astype(np.float32) if levels else np.zeros(0, np.float32),
    )


def rings(onsets: Sequence[Onset], detail: Detail, frame_rate: float) -> tuple[Ring, ...]:
    """How long snare and kick ring, from strokes after which nothing else covers them.

    Parameters
    ----------
    onsets, detail, frame_rate : as for `stroke_levels`.
    """
    found = []
    skins = np.sort([o.time for o in onsets if o.instrument in SKINS])
    profiles = profiles_of(onsets, detail, frame_rate)
    for instrument in SOUNDING:
        if instrument not in profiles:
            continue
        clear = [
            onset
            for onset in onsets
            if onset.instrument is instrument and _is_clear(onset.time, skins)
        ]
        if len(clear) < FEWEST_RINGS:
            continue
        frames = frames_of(clear, frame_rate)
        own = np.argsort(-profiles[instrument])[:RINGING_BANDS]
        steps = range(int(CLEAR_SECONDS * frame_rate))
        power = power_at(detail, frames, steps)[:, :, own].mean(axis=2)
        falls = [_seconds_to_fall(curve, frame_rate) for curve in 10 * np.log10(power + QUIETEST)]
        known = np.sort([fall for fall in falls if fall is not None])
        if len(known) >= FEWEST_RINGS:
            low, high = interval_of_median(known)
            found.append(Ring(instrument, float(np.median(known)), low, high, len(known)))
    return tuple(found)


def _is_clear(time: float, skins: Levels) -> bool:
    """Whether nothing with a skin is struck together with a stroke, or shortly after it."""
    near = (skins > time - 0.03) & (skins < time + CLEAR_SECONDS)
    return int(near.sum()) <= 1


def _seconds_to_fall(curve: Levels, frame_rate: float) -> float | None:
    """How long a level takes to fall by FALL_DB, by the line through it; None: it does not."""
    peak = int(np.argmax(curve[: max(2, int(0.05 * frame_rate))]))
    below = curve[peak] - curve[peak:]
    inside = np.flatnonzero((below >= FROM_DB) & (below <= TO_DB))
    if len(inside) < 3:
        # It falls faster than that is seen in frames: at the end of it at the latest.
        beyond = np.flatnonzero(below > TO_DB)
        return float(beyond[0] / frame_rate) if len(beyond) else None
    end = inside[np.append(np.diff(inside) > 2, True)][0]
    mine = inside[inside <= end]
    slope = np.polyfit(mine / frame_rate, below[mine], 1)[0] if len(mine) > 2 else 0.0
    return float(FALL_DB / slope) if slope > 10 else None


def interval_of_median(ordered: Levels) -> tuple[float, float]:
    """The 95 % interval of a median, by order statistics.

    Parameters
    ----------
    ordered : shape (n,), ascending, n at least 2.

    Returns
    -------
    Its ends, in the unit of what is given.
    """
    count = len(ordered)
    reach = 0.98 * np.sqrt(count)
    low = ordered[max(0, int(count / 2 - reach))]
    high = ordered[min(count - 1, int(np.ceil(count / 2 + reach)) - 1)]
    return float(low), float(high)

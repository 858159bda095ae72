"""How far a hat is open: by how fast its sound fades, against this song's closed strokes.

A pair that is pressed together fades by 150 to 500 dB a second in the bands above 5 kHz, one that
hangs free by 10 to 60 (measured on the sounds that training uses); in between it is half open. The
stretch that is looked at ends with the next stroke of anything but the kick. One stroke under a
band says little: strokes are told apart within a song only where they fall into two clear groups
(Otsu, 1979, as accents are), otherwise the song's median is said of all.
"""

from __future__ import annotations

from collections.abc import Container, Sequence
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from orchesis.listening.ear import Detail, Onset
from orchesis.listening.features import band_centres
from orchesis.listening.strength import power_at
from orchesis.music.groups import two_groups
from orchesis.music.instruments import STRUCK_HATS, Instrument

LOWEST_HZ = 5000.0
SAMPLE_RATE = 44_100

FIRST_FRAME = 3
"""After the stroke: the attack is over, and the window of the spectrum no longer holds it."""

FEWEST_FRAMES = 6
MOST_FRAMES = 25

OPEN_DB, CLOSED_DB = 40.0, 220.0
"""Decibels a second by which a hat that hangs free and a closed one fade, where the song has too
few strokes of its own to tell."""

SLOWEST, FASTEST = 8.0, 600.0
LEAST_CLOSED = 120.0
CLEARLY_WIDER = 0.3
LEAST_SEPARATION = 0.62
FEWEST_ALIKE = 3
"""Two groups are told apart where their means are so far from each other, where that explains so
much of the spread (as for accents, `groove.dynamics`), and where either has so many strokes."""

FEWEST = 6
"""Measured strokes: of fewer nothing is said of a song."""

Values = npt.NDArray[np.float64]


def with_openings(onsets: Sequence[Onset], detail: Detail, frame_rate: float) -> list[Onset]:
    """The same strokes; those of open hats with how far they are open, where that can be told.

    Parameters
    ----------
    onsets : the strokes, in order of time. detail : the song's features and masks.
    frame_rate : frames a second.
    """
    result = list(onsets)
    opened = [k for k, onset in enumerate(onsets) if onset.instrument is Instrument.HIHAT_OPEN]
    if not opened:
        return result
    fades = fading(onsets, detail, frame_rate)
    measured = np.array([fades[k] for k in opened])
    known = ~np.isnan(measured)
    if known.sum() < FEWEST:
        return result
    closed = [
        fades[k] for k, onset in enumerate(onsets) if onset.instrument is Instrument.HIHAT_CLOSED
    ]
    amounts = amount_of(measured, np.array(closed, dtype=np.float64))
    for k, amount in zip(opened, together(amounts), strict=True):
        result[k] = replace(onsets[k], opening=round(float(amount), 2))
    return result


def fading(
    onsets: Sequence[Onset],
    detail: Detail,
    frame_rate: float,
    plates: Container[Instrument] = STRUCK_HATS,
) -> Values:
    """By how many decibels a second the high bands fade after each stroke of some plates.

    Parameters
    ----------
    onsets : n strokes, in order of time. detail : the song's features and masks.
    frame_rate : frames a second. plates : those that are asked about.

    Returns
    -------
    Shape (n,); nan where another stroke comes too soon, and for all other drums.
    """
    times = np.array([onset.time for onset in onsets])
    others = np.array([onset.time for onset in onsets if onset.instrument is not Instrument.KICK])
    high = band_centres(SAMPLE_RATE)[: detail.features.shape[1]] >= LOWEST_HZ
    offsets = np.arange(FIRST_FRAME, FIRST_FRAME + MOST_FRAMES)
    frames = np.round(times * frame_rate).astype(np.int64)
    found = np.full(len(onsets), np.nan)
    for k, time in enumerate(times):
        if onsets[k].instrument not in plates:
            continue
        after = np.searchsorted(others, time + 0.02)
        end = others[after] if after < len(others) else np.inf
        # A frame whose window reaches into the next stroke tells of that one.
        count = int(min(MOST_FRAMES, (end - time) * frame_rate - 2 - FIRST_FRAME))
        if count < FEWEST_FRAMES:
            continue
        power = power_at(detail, frames[k : k + 1], list(offsets[:count]))[0][:, high].sum(axis=1)
        level = 10 * np.log10(power + 1e-9)
        slope = np.polyfit(np.arange(count) / frame_rate, level, 1)[0]
        found[k] = np.clip(-slope, SLOWEST, FASTEST)
    return found


def amount_of(fades: Values, closed: Values) -> Values:
    """How far open strokes are that fade so fast, on the scale of this song's pair.

    Parameters
    ----------
    fades : decibels a second, shape (n,), of strokes called open; nan where not known.
    closed : of closed strokes, shape (m,), nan where not known.

    Returns
    -------
    Shape (n,), 0 to 1, nan where not known.
    """
    sure = closed[~np.isnan(closed)]
    shut = max(LEAST_CLOSED, float(np.median(sure))) if len(sure) >= FEWEST else CLOSED_DB
    free = min(OPEN_DB, float(np.nanpercentile(fades, 20)))
    amounts: Values = np.log(shut / fades) / np.log(shut / free)
    return np.clip(amounts, 0.0, 1.0)


def together(amounts: Values) -> Values:
    """One amount for each group of strokes: two groups where they are clearly two.

    Parameters
    ----------
    amounts : shape (n,), 0 to 1, nan where not known.

    Returns
    -------
    Shape (n,), without nan: what is not known is as most strokes are.
    """
    known = ~np.isnan(amounts)
    values = amounts[known]
    groups = two_groups(values)
    if (
        groups is None
        or groups.high - groups.low < CLEARLY_WIDER
        or groups.separation < LEAST_SEPARATION
        or min(groups.share, 1 - groups.share) * len(values) < FEWEST_ALIKE
    ):
        return np.full(len(amounts), float(np.median(values)))
    wide = values >= groups.bound
    of_wide, of_half = float(np.median(values[wide])), float(np.median(values[~wide]))
    result = np.full(len(amounts), of_wide if groups.share >= 0.5 else of_half)
    result[known] = np.where(wide, of_wide, of_half)
    return result

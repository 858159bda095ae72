"""Accents: which strokes of a drum are meant louder than its others.

Loudness is compared within one drum only. Where its strokes fall into two clear groups (Otsu, "A
threshold selection method from gray-level histograms", 1979), the louder one is accented, unless it
is most of them: then it is simply how this drum is played here. Ghosts are left aside.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from orchesis.music.groups import two_groups
from orchesis.music.instruments import FEET, Instrument
from orchesis.music.values import Hit

GHOST_SHARE, FIRM_PERCENTILE = 0.5, 90.0
"""A snare stroke below this share of the song's firm ones, which this percentile of all stands for,
is a soft tap: in a song full of ghosts three of four strokes are soft."""

PARTED, FEWEST_SNARES, FEWEST_FIRM = 2.3, 8, 0.1
"""Where loud and soft snare strokes lie so many times apart (7 dB), the bound is between them; the
loud ones must be so many of all. Fitted on trained kits: docs/notebook.md."""

FEWEST = 12
CLEARLY_LOUDER = 1.4
"""Mean loudness of the accents against the rest: a step that one hears."""

MOST_ACCENTED = 0.6
LEAST_SEPARATION = 0.62
"""Share of the spread of loudness that the two groups explain; an even spread reaches 0.75 at most
when there are two values, and about 0.6 when there is no group at all."""


def velocity_of(loudness: float) -> int:
    """The velocity, 1 to 127, that is written for a loudness from 0 to 1."""
    return int(np.clip(round(127 * loudness**0.9), 1, 127))


def loudness_of(velocity: int) -> float:
    """The loudness from 0 to 1 for which a velocity was written; see `velocity_of`."""
    return float((velocity / 127) ** (1 / 0.9))


def soft_below(loud: Sequence[float]) -> float:
    """The loudness below which a snare stroke of this song is a soft tap.

    Parameters
    ----------
    loud : of all its snare strokes, 0 to 1.

    Returns
    -------
    Loudness 0 to 1; 0 where there are none.
    """
    values = np.array(loud, dtype=float)
    if not len(values):
        return 0.0
    groups = two_groups(values) if len(values) >= FEWEST_SNARES else None
    if groups is not None and groups.share >= FEWEST_FIRM:
        softer = values < groups.bound
        soft, firm = float(np.median(values[softer])), float(np.median(values[~softer]))
        if firm >= PARTED * soft:
            return (soft + firm) / 2
    return GHOST_SHARE * float(np.percentile(values, FIRM_PERCENTILE))


def mark_accents(hits: Sequence[Hit]) -> list[Hit]:
    """The same hits, in the same order, accents marked."""
    by_drum: dict[Instrument, list[int]] = defaultdict(list)
    for index, hit in enumerate(hits):
        if not hit.ghost and hit.instrument not in FEET:
            by_drum[hit.instrument].append(index)
    result = list(hits)
    for members in by_drum.values():
        loud = np.array([hits[index].velocity for index in members], dtype=float)
        threshold = split(loud)
        if threshold is None:
            continue
        for index, velocity in zip(members, loud, strict=True):
            if velocity >= threshold:
                result[index] = replace(hits[index], accent=True)
    return result


def split(loud: np.ndarray) -> float | None:
    """The least loudness of an accent; None where there are no two groups.

    Parameters
    ----------
    loud : shape (n,), loudness 0 to 1.

    Returns
    -------
    Loudness 0 to 1, or None.
    """
    groups = two_groups(loud) if len(loud) >= FEWEST else None
    if (
        groups is None
        or groups.high < CLEARLY_LOUDER * groups.low
        or groups.share > MOST_ACCENTED
        or groups.separation < LEAST_SEPARATION
    ):
        return None
    return groups.bound

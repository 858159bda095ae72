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

GHOST_SHARE = 0.5
"""A snare stroke below half of the song's firm ones is a soft tap."""

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

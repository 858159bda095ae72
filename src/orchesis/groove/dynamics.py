"""Accents: which strokes of a drum are meant louder than its others.

Loudness is compared within one drum only, and with what is near: where the strokes of a beat or two
fall into two clear groups (Otsu, "A threshold selection method from gray-level histograms", 1979),
the louder one is accented, unless it is most of them: then it is simply how this drum is played
here. Ghosts are left aside.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

import numpy as np

from orchesis.music.groups import two_groups
from orchesis.music.instruments import FEET, TIMEKEEPERS, Instrument
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


def mark_accents(hits: Sequence[Hit], *, louder: float = CLEARLY_LOUDER) -> list[Hit]:
    """The same hits, in the same order, accents marked.

    A stroke is an accent against those around it: of the same drum, within half a bar on either
    side. Only where too few of them are that near is it held against the drum's strokes in the
    whole song. What a hat or a ride does on every beat is how the groove leans, not an accent.

    louder : times the mean of the others that accents are in the mean, at least.
    """
    by_drum: dict[Instrument, list[int]] = defaultdict(list)
    for index, hit in enumerate(hits):
        if not hit.ghost and hit.instrument not in FEET:
            by_drum[hit.instrument].append(index)
    result = list(hits)
    for drum, members in by_drum.items():
        members = sorted(members, key=lambda index: (hits[index].bar, hits[index].position))
        strokes = [hits[index] for index in members]
        marked = _accents_of(strokes, louder)
        if drum in TIMEKEEPERS and has_metric_accents(strokes, marked):
            continue
        for index, is_accent in zip(members, marked, strict=True):
            if is_accent:
                result[index] = replace(hits[index], accent=True)
    return result


def _accents_of(strokes: Sequence[Hit], louder: float) -> list[bool]:
    """Which strokes of one drum are accents; in order of time."""
    at = np.array([hit.bar + float(hit.position) for hit in strokes])
    loud = np.array([hit.velocity for hit in strokes], dtype=float)
    low, high = np.searchsorted(at, at - REACH_BARS), np.searchsorted(at, at + REACH_BARS)
    overall = split(loud)
    found = []
    for index, velocity in enumerate(loud):
        near = loud[low[index] : high[index]]
        if len(near) < FEWEST_NEAR:
            found.append(overall is not None and bool(velocity >= overall))
            continue
        groups = two_groups(near)
        found.append(
            groups is not None
            and groups.high >= louder * groups.low
            and groups.share <= MOST_NEAR
            and groups.separation >= NEAR_SEPARATION
            and groups.bound >= CLEAR_STEP * near[near < groups.bound].max()
            and bool(velocity >= groups.bound)
        )
    return found


def has_metric_accents(strokes: Sequence[Hit], marked: Sequence[bool]) -> bool:
    """Whether accents are no more than the weight of every beat or of every off-beat.

    strokes : of one drum. marked : which of them are accents.
    """
    total = sum(marked)
    if total < FEWEST:
        return False
    places: dict[Fraction, list[bool]] = defaultdict(list)
    for hit, is_accent in zip(strokes, marked, strict=True):
        places[hit.position].append(is_accent)
    regular = [
        len(here)
        for here in places.values()
        if len(here) >= FEWEST_BARS and sum(here) >= REGULAR * len(here)
    ]
    in_them = sum(sum(here) for here in places.values() if sum(here) >= REGULAR * max(1, len(here)))
    return len(regular) >= FEWEST_PLACES and in_them >= REGULAR * total


REACH_BARS = 0.5
"""So far before and after a stroke its neighbours are: two beats of four."""

CLEAR_STEP = 1.15
"""Times the loudest of the others that the softest accent is: in a crescendo there is no step."""

FEWEST_NEAR = 4
MOST_NEAR = 0.55
NEAR_SEPARATION = 0.7
"""As LEAST_SEPARATION, for a handful of strokes. Two groups explain as much of any four, so it is
the step between them that decides among few."""

LOUDER_AS_WRITTEN = 1.2
"""Velocities that somebody wrote have no error of measurement: 100 beside 80 is meant."""

REGULAR, FEWEST_PLACES, FEWEST_BARS = 0.7, 2, 4
"""Accents at so many places of the bar, each in so many of the bars, belong to the groove."""


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


def classify_dynamics(hits: Sequence[Hit]) -> list[Hit]:
    """Ghosts and accents by the velocities that came with hits, as they are told from a recording.

    What is marked already stays so.
    """
    soft = soft_below([hit.velocity / 127 for hit in hits if hit.instrument is Instrument.SNARE])
    told = [
        replace(hit, ghost=True)
        if hit.instrument is Instrument.SNARE and hit.velocity / 127 < soft and not hit.accent
        else hit
        for hit in hits
    ]
    return mark_accents(told, louder=LOUDER_AS_WRITTEN)

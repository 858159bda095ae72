"""Levels of the pulse: the beats as tracked, and what else a listener could tap."""

from __future__ import annotations

import numpy as np

from orchesis.rhythm.beats import FASTEST_BPM, Times, tempo_of

SLOWEST_BPM = 40.0
FEWEST_BEATS = 6

TRACKED_IN = {"tracked": 1, "half": 2, "third": 3}
"""Beats as tracked in one of these levels."""


def in_parts(beats: Times, parts: int) -> Times:
    """The beats with each divided evenly into so many."""
    steps = np.arange(len(beats) - 1)
    places = np.concatenate([steps + k / parts for k in range(parts)] + [[len(beats) - 1]])
    return np.asarray(np.interp(np.sort(places), np.arange(len(beats)), beats))


def candidate_levels(beats: Times) -> list[tuple[str, Times]]:
    """What could be the felt beats, by name, those that nobody would tap left out.

    As tracked, between those, twice and half as fast, a third as fast.
    """
    finer = in_parts(beats, 2)
    levels: list[tuple[str, Times]] = [("tracked", beats), ("off", finer[1::2]), ("double", finer)]
    levels += [(f"half-{phase}", beats[phase::2]) for phase in range(2)]
    levels += [(f"third-{phase}", beats[phase::3]) for phase in range(3)]
    return [
        (name, level)
        for name, level in levels
        if len(level) >= FEWEST_BEATS and SLOWEST_BPM <= tempo_of(level) <= FASTEST_BPM
    ]

"""Scores of what was heard against a known answer.

F is the harmonic mean of precision and recall after one-to-one matching in time, the convention
of the field: 70 ms for beats (Davies, Degara and Plumbley, 2009), 50 ms for drum onsets.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

BEAT_TOLERANCE = 0.070
HIT_TOLERANCE = 0.050
TOGETHER = 0.020


def match(
    reference: Sequence[float], estimate: Sequence[float], tolerance: float
) -> list[tuple[int, int]]:
    """Index pairs of a one-to-one matching within `tolerance` seconds, in order of time."""
    pairs, i, j = [], 0, 0
    while i < len(reference) and j < len(estimate):
        difference = estimate[j] - reference[i]
        if abs(difference) <= tolerance:
            pairs.append((i, j))
            i, j = i + 1, j + 1
        elif difference < 0:
            j += 1
        else:
            i += 1
    return pairs


def merged(times: Iterable[float]) -> list[float]:
    """Times in order, those within TOGETHER of the one before counted as one stroke.

    For families of drums: a ride and a foot hat that sound together are one onset of "hats and
    cymbals", in the reference as in the estimate.
    """
    kept: list[float] = []
    for time in sorted(times):
        if not kept or time - kept[-1] > TOGETHER:
            kept.append(time)
    return kept


def f_measure(reference: Sequence[float], estimate: Sequence[float], tolerance: float) -> float:
    """F of two sorted lists of times; 1.0 where both are empty."""
    if not reference and not estimate:
        return 1.0
    found = len(match(reference, estimate, tolerance))
    return 2 * found / (len(reference) + len(estimate))

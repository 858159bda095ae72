"""Beats that fall in three: compound time, shuffles, and beats tracked across the threes.

Three even parts of a beat are written in compound time where the steady hand plays all three
(6/8, 12/8), and as triplets in simple time where it leaves the middle one to ghost notes (the
shuffle and the half-time shuffle). A tracker may tap two of those parts, or six, as one beat.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from orchesis.listening.ear import Heard
from orchesis.music.instruments import TIMEKEEPERS
from orchesis.rhythm.beats import Times
from orchesis.rhythm.levels import in_parts

TERNARY_ABOVE = 0.5
"""Share of the strokes between beats that fall on thirds, for a beat that falls in three."""

COMPOUND_ABOVE = 0.16
"""Share of strokes between beats on the middle third: a plain shuffle leaves it out."""

NEAR_PLACE = 0.055
"""Of a beat: as far from a third a stroke still counts as on it."""

FEWEST_BETWEEN = 8
"""Strokes between beats (by confidence) without which nothing is said."""

LEFT_OUT_BELOW = 0.35
"""The steady hand leaves the middle third out where it plays it this much less than the last."""

SOFT_BELOW = 0.75
"""Ghost notes on the middle third are this much softer, in the mean, than what is on the beats."""

FASTEST_SHUFFLE = 200.0
"""Beats a minute of a half-time shuffle."""

FEWEST_BARS = 8
TWICE_THREE = (0.1, 0.5, 0.8, 0.1, 0.5)
THRICE_TWO = (0.3, 0.7, 0.3, 0.7, 0.3)
"""How strong the second to sixth eighth of a bar is, in two beats of three and in three of two."""

FITS_FROM, CLEARLY_BETTER = 0.5, 0.3
"""Correlation that bars must have with the first, and by how much it must lead the second."""

Levels = npt.NDArray[np.float64]


def place_onsets(heard: Heard, beats: Times) -> tuple[Levels, npt.NDArray[np.int64], Levels]:
    """Where in its beat each onset falls.

    Returns
    -------
    Places, 0 to 1, of the onsets between the first and the last beat; which onsets these are; and
    their confidences.
    """
    times = np.array([onset.time for onset in heard.onsets])
    weight = np.array([onset.confidence for onset in heard.onsets])
    inside = np.flatnonzero((times >= beats[0]) & (times < beats[-1]))
    index = np.clip(np.searchsorted(beats, times[inside], side="right") - 1, 0, len(beats) - 2)
    places = (times[inside] - beats[index]) / (beats[index + 1] - beats[index])
    return places, inside, weight[inside]


def measure_thirds(heard: Heard, beats: Times) -> tuple[float, float]:
    """Of the strokes between beats, the share on thirds, and the share on the middle one."""
    places, _, weight = place_onsets(heard, beats)
    total = float(weight[(places > 0.1) & (places < 0.9)].sum())
    if total < FEWEST_BETWEEN:
        return 0.0, 0.0
    first = float(weight[np.abs(places - 1 / 3) < NEAR_PLACE].sum())
    second = float(weight[np.abs(places - 2 / 3) < NEAR_PLACE].sum())
    return (first + second) / total, first / total


def is_in_threes(share: float, middle: float) -> bool:
    """Whether beats fall in three filled parts each, from what `measure_thirds` gives."""
    return share > TERNARY_ABOVE and middle > COMPOUND_ABOVE


def is_shuffle(heard: Heard, beats: Times) -> bool:
    """Whether the steady hand leaves the middle third to strokes that are softer.

    Of beats that fall in three filled parts; so it is a shuffle rather than compound time.
    """
    places, which, weight = place_onsets(heard, beats)
    hand = np.array([heard.onsets[i].instrument in TIMEKEEPERS for i in which], bool)
    loud = np.array([heard.onsets[i].loudness for i in which])
    middle, last = (np.abs(places - third) < NEAR_PLACE for third in (1 / 3, 2 / 3))
    on_beat = (places < NEAR_PLACE) | (places > 1 - NEAR_PLACE)
    by_hand = {name: float(weight[hand & at].sum()) for name, at in (("m", middle), ("l", last))}
    if by_hand["l"] < FEWEST_BETWEEN or by_hand["m"] > LEFT_OUT_BELOW * by_hand["l"]:
        return False
    ghosts = middle & ~hand
    if not ghosts.any() or not on_beat.any():
        return False
    return bool(loud[ghosts].mean() < SOFT_BELOW * loud[on_beat].mean())


def dotted_beats(heard: Heard, beats: Times, downbeats: tuple[int, ...]) -> Times | None:
    """Beats half as long again, where bars counted in three fall in twice three; else None.

    beats, downbeats : of bars of three beats. The strokes on the six eighths of such a bar are
    laid beside what 3/4 has there and what 6/8 has (Temperley, "The Cognition of Basic Musical
    Structures", 2001, on preferring strong beats where the loud events are).
    """
    ones = [one for one in downbeats if one + 3 < len(beats)]
    if len(ones) < FEWEST_BARS:
        return None
    eighths = in_parts(beats, 2)
    lengths = np.diff(eighths)
    strength = np.zeros(len(eighths))
    for onset in heard.onsets:
        near = int(np.clip(np.searchsorted(eighths, onset.time), 1, len(eighths) - 1))
        near -= int(onset.time - eighths[near - 1] < eighths[near] - onset.time)
        if abs(onset.time - eighths[near]) < 0.25 * lengths[min(near, len(lengths) - 1)]:
            strength[near] += onset.loudness * onset.confidence
    bars = np.array([strength[2 * one : 2 * one + 6] for one in ones])
    profile = bars.mean(axis=0)[1:]
    if profile.std() < 1e-6:
        return None
    twice, thrice = (
        float(np.corrcoef(profile, np.array(template))[0, 1])
        for template in (TWICE_THREE, THRICE_TWO)
    )
    if twice < FITS_FROM or twice < thrice + CLEARLY_BETTER:
        return None
    return eighths[(2 * ones[0]) % 3 :: 3]

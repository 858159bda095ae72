"""Where sections begin: the division of the song's bars that explains them best.

Each section should be alike within (drums and colour stray little from their mean), begin where
something happens (a crash, a fill just before, a jump in loudness), and be as long as phrases are:
fours and eights before anything else. The best division is found exactly, by dynamic programming
over all (after Jensen, "Multiple scale music segmentation using rhythm, timbre, and harmony",
EURASIP JASP 2007, with phrase lengths as a prior, Sargent, Bimbot and Vincent, ISMIR 2011).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orchesis.form.describe import BarsDescribed, Matrix

BOUNDARY_COST = 3.5
"""What a further section must explain, in variances of one bar."""

EVENT_WORTH = 3.0
"""What a plain sign of a new section takes off that cost."""

ENTRY_WORTH = 0.2
ENTERING = 2
"""The first of `describe.FORM_VOICES`: kick and snare."""

ENTRY_BARS = 4
HARDLY = 0.26
"""Share of the bars before an entry that may have a stroke of it, and of those after it that may
not: one of four."""

ABOUT_A_STROKE = 0.8

LENGTH_COST = {0: 0.0, 2: 0.9, 1: 1.8, 3: 1.8}
"""By length modulo four, for sections from four bars up."""

SHORT_COST = {1: 8.0, 2: 4.0, 3: 3.0}
"""Sections of fewer than four bars are rare: a bar alone is a fill or a stop, not a section."""

SHORT_AT_THE_ENDS = 0.75
"""... but for the first and the last."""

LONGEST = 64
WEIGHTS = {"amount": 1.0, "drums": 0.2, "colour": 1.0, "loudness": 0.4}


@dataclass(frozen=True, slots=True)
class Division:
    """Indices of the bars on which sections begin."""

    starts: tuple[int, ...]


def likenesses(described: BarsDescribed) -> Matrix:
    """What should stay alike within a section, scaled.

    Parameters
    ----------
    described : what is known of each bar.

    Returns
    -------
    Shape (bars, features).
    """
    parts = []
    for name, weight in WEIGHTS.items():
        values = getattr(described, name)
        values = values.reshape(len(values), -1)
        # A bar that stands out alone (a fill, a stop) should not break a section in two.
        calm = _medians(values)
        spread = np.sqrt(((values - values.mean(axis=0)) ** 2).sum(axis=1).mean())
        if spread > 1e-6:
            parts.append(weight * (calm - calm.mean(axis=0)) / spread)
    return np.concatenate(parts, axis=1) if parts else np.zeros((len(described.crash), 1))


def _medians(values: Matrix) -> Matrix:
    padded = np.pad(values, ((1, 1), (0, 0)), mode="edge")
    return np.asarray(np.median(np.stack([padded[:-2], padded[1:-1], padded[2:]]), axis=0))


def events(described: BarsDescribed, fills: Matrix) -> Matrix:
    """How plainly something begins on each bar: crash, fill before it, a step in sound.

    Parameters
    ----------
    described : what is known of each bar.
    fills : shape (bars,), 0 to 1, how much each bar ends in a fill.

    Returns
    -------
    Shape (bars,), 0 to 1.
    """
    bars = len(described.crash)
    step = np.zeros(bars)
    for name in ("amount", "colour"):
        values = getattr(described, name)
        spread = np.sqrt(((values - values.mean(axis=0)) ** 2).sum(axis=1).mean()) + 1e-6
        for bar in range(1, bars):
            before = values[max(0, bar - 3) : bar]
            after = values[bar : bar + 3]
            step[bar] += float(
                np.linalg.norm(np.median(after, axis=0) - np.median(before, axis=0)) / spread
            )
    step = np.clip(step / 2.5, 0.0, 1.0)
    result = 0.5 * step + 0.3 * described.crash + ENTRY_WORTH * _entries(described)
    result[1:] += 0.3 * fills[:-1]
    return np.clip(result, 0.0, 1.0)


def _entries(described: BarsDescribed) -> Matrix:
    """Where kick or snare come in for good: shape (bars,), up to 1 on the first bar that has them.

    An intro is often the verse without its backbeat: all that changes is that one limb joins.
    """
    played = described.amount[:, :ENTERING] > ABOUT_A_STROKE
    bars = len(played)
    entry = np.zeros(bars)
    for bar in range(2, bars - 2):
        before = played[max(0, bar - ENTRY_BARS) : bar].mean(axis=0)
        after = played[bar : bar + ENTRY_BARS].mean(axis=0)
        joins = (before <= HARDLY) & (after >= 1 - HARDLY)
        entry[bar] = np.where(joins, after - before, 0.0).max()
    strongest = np.array([entry[max(0, bar - 2) : bar + 3].max() for bar in range(bars)])
    return np.where(entry == strongest, entry, 0.0)


def divide(described: BarsDescribed, fills: Matrix) -> Division:
    """The best division of the bars into sections.

    Parameters
    ----------
    described : what is known of each bar.
    fills : shape (bars,), 0 to 1, how much each bar ends in a fill.

    Returns
    -------
    The sections' bars, with what they cost.
    """
    alike = likenesses(described)
    happening = events(described, fills)
    bars = len(alike)
    sums = np.concatenate([np.zeros((1, alike.shape[1])), np.cumsum(alike, axis=0)])
    squares = np.concatenate([[0.0], np.cumsum((alike**2).sum(axis=1))])
    best = np.full(bars + 1, np.inf)
    best[0] = 0.0
    came = np.zeros(bars + 1, int)
    for end in range(1, bars + 1):
        for start in range(max(0, end - LONGEST), end):
            length = end - start
            within = squares[end] - squares[start] - ((sums[end] - sums[start]) ** 2).sum() / length
            cost = best[start] + within + _length_cost(length, start, end, bars)
            if start:
                cost += BOUNDARY_COST - EVENT_WORTH * 2 * happening[start]
            if cost < best[end]:
                best[end], came[end] = cost, start
    starts = []
    end = bars
    while end > 0:
        starts.append(int(came[end]))
        end = int(came[end])
    starts.reverse()
    return Division(tuple(starts))


def _length_cost(length: int, start: int, end: int, bars: int) -> float:
    outer = start == 0 or end == bars
    if length < 4:
        return SHORT_AT_THE_ENDS if outer else SHORT_COST[length]
    return (0.4 if outer else 1.0) * LENGTH_COST[length % 4]

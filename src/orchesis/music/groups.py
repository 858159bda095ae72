"""Values that fall into two groups: loud and soft strokes, wide and half open hats.

N. Otsu, "A threshold selection method from gray-level histograms", IEEE Transactions on Systems,
Man, and Cybernetics 9 (1979).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt


@dataclass(frozen=True, slots=True)
class Groups:
    """The best parting of some values in two.

    bound : the least of the upper group. low, high : the means of both. share : of the values, that
    of the upper group. separation : the share of their variance that the parting explains.
    """

    bound: float
    low: float
    high: float
    share: float
    separation: float


def two_groups(values: npt.NDArray[np.float64]) -> Groups | None:
    """Part values where the variance between both groups is largest.

    Parameters
    ----------
    values : shape (n,), of any unit.

    Returns
    -------
    None where all are alike, or there are fewer than two.
    """
    if len(values) < 2 or values.std() < 1e-6:
        return None
    ordered = np.sort(values)
    count = len(ordered)
    below = np.arange(1, count)
    low = np.cumsum(ordered)[:-1] / below
    high = (ordered.sum() - np.cumsum(ordered)[:-1]) / (count - below)
    between = below * (count - below) * (high - low) ** 2 / count**2
    between[ordered[1:] == ordered[:-1]] = -1.0
    best = int(np.argmax(between))
    return Groups(
        bound=float(ordered[best + 1]),
        low=float(low[best]),
        high=float(high[best]),
        share=float((count - below[best]) / count),
        separation=float(between[best] / ordered.var()),
    )

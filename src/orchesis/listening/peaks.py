"""Peak picking: from a curve over time to onsets at better than frame resolution."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from scipy.ndimage import maximum_filter1d, uniform_filter1d

Curve = npt.NDArray[np.float32]


def pick_peaks(
    curve: Curve, *, half_width: int, above_mean: float, mean_width: int, floor: float
) -> npt.NDArray[np.intp]:
    """Frames that are the largest within +-half_width and stand out of their surroundings.

    A peak must reach `floor`, and exceed by `above_mean` the mean over `mean_width` frames
    (Boeck, Krebs and Schedl, "Evaluating the online capabilities of onset detection
    methods", ISMIR 2012).

    Parameters
    ----------
    curve : shape (frames,).
    half_width, mean_width : frames.
    above_mean, floor : in the units of the curve.

    Returns
    -------
    Shape (peaks,): their frames, ascending.
    """
    largest = maximum_filter1d(curve, 2 * half_width + 1, mode="constant")
    mean = uniform_filter1d(curve, mean_width, mode="nearest")
    hits = (curve == largest) & (curve >= floor) & (curve >= mean + above_mean)
    found: npt.NDArray[np.intp] = np.flatnonzero(hits)
    if len(found) < 2:
        return found
    apart = np.concatenate([[True], np.diff(found) > half_width])
    return np.compress(apart, found)

"""Harmonic change: where the chord changes, which speaks for a bar line."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from scipy.ndimage import uniform_filter1d

from orchesis.listening.ear import Bands, Curve

TONAL_HZ = (60.0, 2000.0)
HALF_SECONDS = 0.45


def harmonic_change(level: Bands, centres: npt.NDArray[np.float64], frame_rate: float) -> Curve:
    """How unlike the half second after each frame is to the one before, in bass and mids.

    Parameters
    ----------
    level : shape (frames, bands), compressed magnitudes.
    centres : shape (bands,), Hz.

    Returns
    -------
    Shape (frames,), about 0 to 1.5.
    """
    tonal = level[:, (centres > TONAL_HZ[0]) & (centres < TONAL_HZ[1])]
    width = int(HALF_SECONDS * frame_rate)
    mean = uniform_filter1d(tonal, width, axis=0, mode="nearest")
    shift = width // 2 + 2
    change = np.zeros(len(level), np.float32)
    if len(level) > 2 * shift:
        past, future = mean[: -2 * shift], mean[2 * shift :]
        norm = np.linalg.norm(past, axis=1) * np.linalg.norm(future, axis=1) + 1e-6
        change[shift:-shift] = 1.0 - (past * future).sum(axis=1) / norm
    return scaled_to_strong(change)


def scaled_to_strong(curve: npt.NDArray[np.floating]) -> Curve:
    """Scale so that strong values, the 98th percentile of what is there at all, are near 1.

    Parameters
    ----------
    curve : shape (frames,), not negative.

    Returns
    -------
    Shape (frames,), 0 to 1.5.
    """
    rising = curve[curve > 1e-4]
    top = float(np.percentile(rising, 98)) if len(rising) else 1.0
    scaled: Curve = np.clip(curve / max(top, 1e-3), 0.0, 1.5).astype(np.float32)
    return scaled

"""Peaks: how loud the recording is over time, for the ribbon."""

from __future__ import annotations

import numpy as np

from orchesis.audio.decode import Samples


def loudness_curve(samples: Samples, points: int) -> list[float]:
    """Root mean square of `points` equal stretches, scaled so that the loudest is 1.

    Parameters
    ----------
    samples : shape (n,)
    points : how many values to return.
    """
    edges = np.linspace(0, len(samples), points + 1).astype(int)
    squares = np.add.reduceat(
        np.square(samples, dtype=np.float64), edges[:-1].clip(0, max(0, len(samples) - 1))
    )
    level = np.sqrt(squares / np.maximum(1, np.diff(edges)))
    top = float(level.max()) if len(level) else 0.0
    return [round(float(value) / top, 3) if top > 0 else 0.0 for value in level]


PEAKS_A_SECOND = 100


def waveform_peaks(samples: Samples, sample_rate: int) -> bytes:
    """The largest amplitude of every hundredth of a second, a byte each, the song's largest 255.

    Enough for a picture at any zoom: 72 kB for twelve minutes.

    Parameters
    ----------
    samples : shape (n,), mono.
    sample_rate : Hz.

    Returns
    -------
    One byte, 0 to 255, for each 1 / PEAKS_A_SECOND s.
    """
    size = sample_rate // PEAKS_A_SECOND
    count = -(-len(samples) // size)
    padded = np.zeros(count * size, np.float32)
    padded[: len(samples)] = np.abs(samples)
    peaks = padded.reshape(count, size).max(axis=1)
    top = float(peaks.max()) if count else 0.0
    scaled = np.round(255 * peaks / top if top > 0 else peaks)
    return bytes(scaled.astype(np.uint8))

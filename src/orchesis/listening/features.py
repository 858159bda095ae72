"""The spectrograms that everything listens to: log-spaced bands of a short-time spectrum.

2048-sample Hann window at 44.1 kHz, a frame every 10 ms (441 samples), 12 bands an octave from
30 Hz to 17 kHz. Computed in blocks, so that memory does not grow with the length of the song
beyond the bands themselves (83 float32 a frame, 2 MB a minute). The low end is looked at in longer
windows besides, since a window of 46 ms does not tell the pitches of two toms apart.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import numpy.typing as npt
from scipy.fft import rfft
from scipy.signal import resample_poly

from orchesis.audio.decode import Samples
from orchesis.listening.ear import Bands, Progress

WINDOW = 2048
HOP = 441
LOWEST_HZ, HIGHEST_HZ = 30.0, 17_000.0
BANDS_PER_OCTAVE = 12
BANDS = 83
"""So many bands there are at 44.1 kHz."""
_BLOCK_FRAMES = 2048

LOW_DECIMATION = 21
"""The low end is looked at in sound of 2100 Hz: a hop is then 21 samples."""
LOW_WINDOW = 400
"""190 ms: tells the pitches of two toms, or of a tom and a bass, apart."""
LOW_LOWEST_HZ = 42.0
LOW_BANDS = 40
"""From there up, twelve an octave where the window tells so many apart: to 400 Hz."""


@lru_cache(maxsize=2)
def band_centres(sample_rate: int) -> npt.NDArray[np.float64]:
    """Centre frequency of each band. Bands narrower than a bin are merged into one.

    Parameters
    ----------
    sample_rate : Hz.

    Returns
    -------
    Shape (bands,), Hz, ascending; BANDS of them at 44.1 kHz.
    """
    octaves = np.log2(HIGHEST_HZ / LOWEST_HZ)
    wanted = LOWEST_HZ * 2.0 ** (np.arange(int(octaves * BANDS_PER_OCTAVE) + 1) / BANDS_PER_OCTAVE)
    bins = np.unique(np.round(wanted * WINDOW / sample_rate).astype(int))
    return bins[bins >= 1] * sample_rate / WINDOW


@lru_cache(maxsize=2)
def filterbank(sample_rate: int) -> npt.NDArray[np.float32]:
    """Triangular filters, each of unit sum.

    Parameters
    ----------
    sample_rate : Hz.

    Returns
    -------
    Shape (bins, bands).
    """
    centres = np.round(band_centres(sample_rate) * WINDOW / sample_rate).astype(int)
    edges = np.concatenate(
        [[max(0, centres[0] - 1)], centres, [centres[-1] + (centres[-1] - centres[-2])]]
    )
    bank = np.zeros((WINDOW // 2 + 1, len(centres)), dtype=np.float32)
    for band in range(len(centres)):
        low, mid, high = edges[band : band + 3]
        for position in range(low, min(high, WINDOW // 2) + 1):
            rising = (position - low) / max(1, mid - low)
            falling = (high - position) / max(1, high - mid)
            bank[position, band] = max(0.0, min(1.0, rising, falling))
        total = bank[:, band].sum()
        if total > 0:
            bank[:, band] /= total
    return bank


def band_spectrogram(samples: Samples, sample_rate: int, progress: Progress) -> Bands:
    """Magnitudes in log-spaced bands.

    Parameters
    ----------
    samples : shape (n,), mono.
    sample_rate : Hz.
    progress : told of the share done, 0 to 1.

    Returns
    -------
    Shape (frames, bands), full scale 1; frame t is centred on sample t * HOP.
    """
    frames = len(samples) // HOP + 1
    bank = filterbank(sample_rate)
    window = np.hanning(WINDOW).astype(np.float32) * (2.0 / WINDOW)
    padded = np.concatenate(
        [np.zeros(WINDOW // 2, np.float32), samples, np.zeros(WINDOW, np.float32)]
    )
    windows = np.lib.stride_tricks.sliding_window_view(padded, WINDOW)[::HOP]
    result = np.empty((frames, bank.shape[1]), dtype=np.float32)
    for first in range(0, frames, _BLOCK_FRAMES):
        last = min(frames, first + _BLOCK_FRAMES)
        spectrum = np.abs(rfft(windows[first:last] * window, axis=1))
        result[first:last] = spectrum.astype(np.float32) @ bank
        progress(last / frames)
    return result


@lru_cache(maxsize=2)
def low_filterbank(sample_rate: int) -> npt.NDArray[np.float32]:
    """Triangular filters on the low end's finer spectrum.

    Parameters
    ----------
    sample_rate : Hz, of the sound before it is thinned out.

    Returns
    -------
    Shape (bins, LOW_BANDS).
    """
    bin_width = sample_rate / LOW_DECIMATION / LOW_WINDOW
    centres = LOW_LOWEST_HZ / bin_width * 2.0 ** (np.arange(LOW_BANDS) / BANDS_PER_OCTAVE)
    # Below 90 Hz a semitone is less than a bin: no filter is narrower than one on either side.
    width = np.maximum(1.0, centres * (2.0 ** (1 / BANDS_PER_OCTAVE) - 1))
    bins = np.arange(LOW_WINDOW // 2 + 1)[:, None]
    bank = np.maximum(0.0, 1.0 - np.abs(bins - centres) / width)
    normed: npt.NDArray[np.float32] = (bank / bank.sum(axis=0)).astype(np.float32)
    return normed


def low_spectrogram(samples: Samples, sample_rate: int) -> Bands:
    """Magnitudes of the low end in long windows.

    Parameters
    ----------
    samples : shape (n,), mono.
    sample_rate : Hz.

    Returns
    -------
    Shape (frames, LOW_BANDS), full scale 1; frames as those of `band_spectrogram`.
    """
    frames = len(samples) // HOP + 1
    bank = low_filterbank(sample_rate)
    window = np.hanning(LOW_WINDOW).astype(np.float32) * (2.0 / LOW_WINDOW)
    slow = resample_poly(samples, 1, LOW_DECIMATION).astype(np.float32)
    padded = np.concatenate(
        [np.zeros(LOW_WINDOW // 2, np.float32), slow, np.zeros(LOW_WINDOW, np.float32)]
    )
    windows = np.lib.stride_tricks.sliding_window_view(padded, LOW_WINDOW)
    windows = windows[:: HOP // LOW_DECIMATION][:frames]
    result = np.empty((frames, LOW_BANDS), dtype=np.float32)
    for first in range(0, frames, _BLOCK_FRAMES):
        part = windows[first : first + _BLOCK_FRAMES]
        result[first : first + len(part)] = np.abs(rfft(part * window, axis=1)) @ bank
    return result


def ear_input(samples: Samples, sample_rate: int, progress: Progress) -> Bands:
    """Both spectrograms side by side.

    Parameters
    ----------
    samples : shape (n,), mono.
    sample_rate : Hz.
    progress : told of the share done, 0 to 1.

    Returns
    -------
    Shape (frames, BANDS + LOW_BANDS).
    """
    bands = band_spectrogram(samples, sample_rate, progress)
    return np.concatenate([bands, low_spectrogram(samples, sample_rate)], axis=1)

"""When exactly each stroke begins: the attacks looked for in steps of a millisecond.

The ear's frames are 10 ms apart and its windows 46 ms long; the place of a peak in its curves is 2
to 3 ms off, and to different sides for different drums, which matters to whoever asks how far a
backbeat lies behind. So the sound around every candidate is looked at again in windows of 6 ms. A
small network, trained on strokes of known times (training/attacks.py), says where within 20 ms of
the ear's word the attack of this drum is, knowing what else sounds there: two layers of convolution
over time, a weight for each millisecond, and their mean (soft-argmax: Chapelle and Wu, "Gradient
descent optimization of smoothed information retrieval metrics", Information Retrieval 2010).
"""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache
from pathlib import Path

import numpy as np
import numpy.typing as npt
from scipy.fft import rfft

from orchesis.audio.decode import Samples
from orchesis.listening.candidates import Candidates
from orchesis.listening.ear import Bands
from orchesis.listening.weights import read_weights

MODEL = Path(__file__).parent / "models" / "attacks.npz"

STEP = 0.001
WINDOW = 256
"""Samples, 6 ms."""

EDGES = (0, 1, 3, 6, 12, 24, 48, 97)
"""Bins of the spectrum at which its seven bands begin, at 44.1 kHz: 0, 172, 517 Hz, 1, 2, 4, 8
kHz."""

REACH = 40
"""Steps on either side that are looked at."""

MOST = 20
"""Steps by which a time is moved at most."""

NEAR_FRAMES = 3
"""Of the ear's: which drums it hears within so many says what else sounds there."""

RANGE = 6.0
"""Decades of power below the loudest of a stroke's surroundings that count."""

_BLOCK = 8192
_AT_ONCE = 512
_FLOOR = 1e-8

Floats = npt.NDArray[np.float32]


@lru_cache(maxsize=2)
def load_attacks(path: Path = MODEL) -> dict[str, Floats]:
    """The network's weights. Raises OrchesisError when the file is missing or damaged."""
    return read_weights(path)


def fine_levels(samples: Samples, sample_rate: int) -> Bands:
    """Power in seven bands, in steps of a millisecond.

    Parameters
    ----------
    samples : shape (n,), mono. sample_rate : Hz.

    Returns
    -------
    Shape (steps, 7), decades; step t is centred on t milliseconds.
    """
    steps = int(len(samples) / sample_rate / STEP) + 1
    padded = np.concatenate(
        [np.zeros(WINDOW // 2, np.float32), samples, np.zeros(WINDOW, np.float32)]
    )
    windows = np.lib.stride_tricks.sliding_window_view(padded, WINDOW)
    shape = np.hanning(WINDOW).astype(np.float32)
    result = np.empty((steps, len(EDGES) - 1), np.float32)
    for first in range(0, steps, _BLOCK):
        last = min(steps, first + _BLOCK)
        starts = np.round(np.arange(first, last) * STEP * sample_rate).astype(np.int64)
        spectrum = rfft(windows[starts] * shape, axis=1)
        power = spectrum.real**2 + spectrum.imag**2
        result[first:last] = np.log10(np.add.reduceat(power, EDGES[:-1], axis=1) + _FLOOR)
    return result


def surroundings(levels: Bands, centres: npt.NDArray[np.int64], reach: int = REACH) -> Floats:
    """The levels about some steps, each relative to the loudest of its surroundings.

    Parameters
    ----------
    levels : shape (steps, bands). centres : shape (n,), steps. reach : steps on either side.

    Returns
    -------
    Shape (n, 2 * reach + 1, bands); what lies beyond the ends is as the ends.
    """
    places = np.clip(centres[:, None] + np.arange(-reach, reach + 1), 0, len(levels) - 1)
    return scaled(levels[places])


def scaled(about: Floats) -> Floats:
    """Levels, shape (n, steps, bands), against the loudest of each n, about -2 to 2."""
    loudest = about.max(axis=(1, 2), keepdims=True)
    return np.asarray(np.maximum(about - loudest, -RANGE) / 1.5 + 2.0, np.float32)


def company(found: Candidates, onsets: Bands) -> Floats:
    """Which drum each candidate is, and what the ear hears of the others there.

    Parameters
    ----------
    found : n candidates. onsets : shape (frames, classes), the ear's curves.

    Returns
    -------
    Shape (n, 2 * classes), 0 to 1.
    """
    classes, count = onsets.shape[1], len(found)
    near = np.clip(
        found.frame[:, None] + np.arange(-NEAR_FRAMES, NEAR_FRAMES + 1), 0, len(onsets) - 1
    )
    said = np.zeros((count, 2 * classes), np.float32)
    said[np.arange(count), found.column] = 1.0
    said[:, classes:] = onsets[near].max(axis=1)
    said[np.arange(count), classes + found.column] = 0.0
    return said


def moved(about: Floats, drums: Floats, net: dict[str, Floats]) -> Floats:
    """By how many milliseconds each stroke begins later than the middle of its surroundings.

    Parameters
    ----------
    about : shape (n, 2 * REACH + 1, bands), from `surroundings`. drums : shape (n, 2 * classes).
    net : the weights.

    Returns
    -------
    Shape (n,), at most MOST either way.
    """
    first = _convolved(about, net["first"], net["first_bias"])
    first = np.maximum(first + (drums @ net["drum"] + net["drum_bias"])[:, None], 0.0)
    gate = 1.0 / (1.0 + np.exp(-(drums @ net["gate"] + net["gate_bias"])))
    second = np.maximum(_convolved(first, net["second"], net["second_bias"]), 0.0)
    said = _convolved(second * gate[:, None], net["last"], net["last_bias"])[..., 0]
    offset = np.arange(-REACH, REACH + 1, dtype=np.float32)
    said = said - net["narrow"] * (offset / 10.0) ** 2
    said[:, np.abs(offset) > MOST] = -np.inf
    weight = np.exp(said - said.max(axis=1, keepdims=True))
    return np.asarray((weight @ offset) / weight.sum(axis=1), np.float32)


def _convolved(x: Floats, weight: Floats, bias: Floats) -> Floats:
    """Along the steps, as long as before: x (n, steps, in), weight (width, in, out)."""
    width = len(weight)
    padded = np.pad(x, ((0, 0), (width // 2, width // 2), (0, 0)))
    windows = np.lib.stride_tricks.sliding_window_view(padded, width, axis=1)
    kernel = weight.transpose(1, 0, 2).reshape(-1, weight.shape[2])
    flat = windows.reshape(-1, kernel.shape[0]) @ kernel
    return np.asarray(flat.reshape(*x.shape[:2], -1) + bias, np.float32)


def with_exact_times(
    found: Candidates, onsets: Bands, samples: Samples, sample_rate: int
) -> Candidates:
    """The same candidates at the times at which their attacks begin, in their order.

    Parameters
    ----------
    found : n candidates. onsets : shape (frames, classes), the ear's curves.
    samples : shape (n,), the sound, mono. sample_rate : Hz.
    """
    if not len(found):
        return found
    net, levels = load_attacks(), fine_levels(samples, sample_rate)
    drums = company(found, onsets)
    time = found.time.copy()
    for first in range(0, len(found), _AT_ONCE):
        part = slice(first, first + _AT_ONCE)
        centres = np.round(found.time[part] / STEP).astype(np.int64)
        late = moved(surroundings(levels, centres), drums[part], net)
        time[part] = np.maximum(0.0, (centres + late) * STEP)
    order = np.argsort(time, kind="stable")
    return replace(
        found,
        frame=found.frame[order],
        column=found.column[order],
        time=time[order],
        peak=found.peak[order],
        loudness=found.loudness[order],
    )

"""Sums of damped sines: what drums, plates and bars are when they ring."""

from __future__ import annotations

import numpy as np

from training.fluid import RATE

BLOCK = 256
"""Samples in a block of `ringing`."""


def ringing(hertz: np.ndarray, gains: np.ndarray, seconds: np.ndarray, length: int) -> np.ndarray:
    """The sum of damped sines, float32 of shape (length,).

    `hertz`, `gains` and `seconds` (until a mode has fallen to 1/e) have shape (modes,). A damped
    sine at sample k * BLOCK + j is the product of one number of k and one of j: two small tables
    and a product of matrices instead of a sine for every sample.
    """
    step = (2j * np.pi * hertz - 1 / seconds) / RATE
    blocks = -(-length // BLOCK)
    late = np.exp(np.outer(np.arange(blocks) * BLOCK, step)) * gains
    early = np.exp(np.outer(step, np.arange(BLOCK)))
    wave = late.real @ early.imag + late.imag @ early.real
    return wave.reshape(-1)[:length].astype(np.float32)

"""What is drawn at random in more than one place."""

from __future__ import annotations

import numpy as np


def log_uniform(rng: np.random.Generator, low: float, high: float) -> float:
    """A number between two that are above 0, even in its logarithm: times, frequencies, gains."""
    return float(np.exp(rng.uniform(np.log(low), np.log(high))))

"""Numbers drawn evenly in their logarithm."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from training.chance import log_uniform


@given(st.integers(0, 1000), st.floats(1e-4, 100.0), st.floats(1.0, 1000.0))
def test_it_lies_between_the_two(seed: int, low: float, times: float) -> None:
    drawn = log_uniform(np.random.default_rng(seed), low, low * times)
    assert low * (1 - 1e-9) <= drawn <= low * times * (1 + 1e-9)


def test_each_octave_comes_up_as_often_as_another() -> None:
    rng = np.random.default_rng(1)
    drawn = [log_uniform(rng, 50, 12_800) for _ in range(8000)]
    octaves = np.bincount(np.floor(np.log2(np.array(drawn) / 50)).astype(int), minlength=8)
    assert octaves.min() > 0.85 * 1000
    assert octaves.max() < 1.15 * 1000

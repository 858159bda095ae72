"""How sure what is written is: one number, fitted on what was there."""

import numpy as np
import pytest

from training.winners import fitted, loss


def strokes(rng, won, count=4000):
    """Strokes that are likelier by `won` in log odds than was said of them."""
    odds = rng.normal(0.5, 1.5, count)
    return odds, rng.random(count) < 1 / (1 + np.exp(-odds - won))


def test_what_was_said_too_low_is_found_out():
    sets = [strokes(np.random.default_rng(seed), 0.6) for seed in (1, 2)]
    assert fitted(sets) == pytest.approx(0.6, abs=0.1)


def test_what_was_said_rightly_stays_as_it_is():
    assert fitted([strokes(np.random.default_rng(3), 0.0, 20_000)]) == pytest.approx(0, abs=0.06)


def test_a_small_set_counts_as_much_as_a_large_one():
    rng = np.random.default_rng(4)
    sets = [strokes(rng, 1.0, 20_000), strokes(rng, 0.0, 2_000)]
    assert 0.3 < fitted(sets) < 0.7
    assert loss(fitted(sets), sets) < min(loss(0.0, sets), loss(1.0, sets))

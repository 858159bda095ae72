"""What is done to clips while a network learns leaves the labels true."""

from __future__ import annotations

import numpy as np
import pytest

from orchesis.listening.features import BANDS, LOW_BANDS
from orchesis.listening.network_ear import normalised as heard
from training.mixing import as_another_kit, joined, normalised, overlaid, remixed

INPUTS = BANDS + LOW_BANDS
FRAMES = 60
QUIET = -0.6
"""Features of what nobody hears, before they are cut at 0."""


def window(*strokes: tuple[int, int, float]) -> np.ndarray:
    """Features that are quiet but for strokes: (frame, first of ten bands, level)."""
    made = np.full((FRAMES, INPUTS), QUIET, np.float32)
    for frame, band, level in strokes:
        made[frame : frame + 4, band : band + 10] = level
    return made


NONE, ALL = np.zeros((FRAMES, INPUTS)), np.ones((FRAMES, INPUTS))


def test_features_go_by_the_clips_own_loud_frames() -> None:
    level = np.random.default_rng(0).normal(-2, 0.5, (400, INPUTS))
    one, louder = normalised(level), normalised(level + 0.8)
    assert np.allclose(one, louder, atol=1e-5)
    assert float(np.percentile(one[:, :BANDS].max(axis=1), 99)) == pytest.approx(1, abs=0.02)


def test_of_another_clip_only_what_is_no_drum_comes_in() -> None:
    own, other = window((10, 5, 1.0)), window((30, 40, 1.0), (45, 60, 1.0))
    drums_there = NONE.copy()
    drums_there[45:49, 60:70] = 1.0
    mixed, share = remixed(own, ALL, other, drums_there, 0.0)
    assert mixed[11, 8] == pytest.approx(1, abs=0.05)
    assert mixed[31, 44] == pytest.approx(1, abs=0.05)
    assert mixed[46, 64] < 0.2
    assert share[11, 8] > 0.99
    assert share[31, 44] < 0.01


def test_louder_rests_cover_more() -> None:
    own, other = window((10, 5, 0.8)), window((10, 5, 0.8))
    shares = [remixed(own, ALL, other, NONE, gain)[1][11, 8] for gain in (-0.5, 0.0, 0.3)]
    assert shares == sorted(shares, reverse=True)
    assert shares[1] == pytest.approx(0.5, abs=0.01)


def test_two_drummers_are_both_heard_and_both_are_drums() -> None:
    own, other = window((10, 5, 1.0)), window((30, 40, 1.0))
    mixed, share = overlaid(own, ALL, other, ALL, -0.2)
    assert mixed[11, 8] == pytest.approx(1, abs=0.05)
    assert 0.8 < mixed[31, 44] < mixed[11, 8]
    assert share[11, 8] > 0.99
    assert share[31, 44] > 0.99


def test_powers_add() -> None:
    own = window((10, 5, 0.9))
    twice, _ = overlaid(own, ALL, own, ALL, 0.0)
    alone, _ = overlaid(own, ALL, np.full_like(own, -3.0), ALL, 0.0)
    # Both are levelled to their own top: what is over is the same stroke, 3 dB further above
    # what nobody hears.
    assert np.allclose(twice[own > 0], alone[own > 0], atol=1e-3)
    assert np.allclose(alone[own < 0] - twice[own < 0], np.log10(2) / 2 / 3, atol=1e-3)


def test_a_stroke_of_either_is_asked_for_and_what_is_covered_is_not() -> None:
    one = np.array([[1, 0, 2, 2, 0]], np.uint8)
    two = np.array([[0, 1, 1, 0, 0]], np.uint8)
    both = joined(one, two)
    assert both.tolist() == [[1, 1, 1, 2, 0]]
    assert both.dtype == np.uint8
    assert joined(two, one).tolist() == both.tolist()


def test_another_kit_moves_no_stroke() -> None:
    rng = np.random.default_rng(3)
    own = np.clip(window((20, 30, 1.0)), 0, None)
    made = [as_another_kit(own.copy(), rng) for _ in range(20)]
    for changed in made:
        assert int(np.argmax(changed[:, 30:40].sum(axis=1))) in range(20, 24)
        assert changed[20:24, 30:40].min() > changed[own == 0].max()
    assert np.std([changed[20:24, 30:40].mean() for changed in made]) > 0.02


def test_what_is_learnt_from_is_what_the_product_hears() -> None:
    bands = 10 ** np.random.default_rng(1).normal(-2, 0.7, (500, INPUTS)).astype(np.float32)
    assert np.allclose(normalised(np.log10(1e-6 + bands)), heard(bands), atol=1e-5)

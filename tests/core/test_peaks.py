"""Peaks of a curve: what begins, found once each, however the curve looks."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from orchesis.listening.peaks import pick_peaks

PLAIN = {"half_width": 2, "above_mean": 0.0, "mean_width": 5, "floor": 0.1}


def curve_of(places, length=100, high=0.8):
    """A curve that is nothing but a short rise and fall at each place."""
    curve = np.zeros(length, np.float32)
    for place in places:
        curve[place - 1 : place + 2] = np.maximum(
            curve[place - 1 : place + 2], [high / 2, high, high / 2]
        )
    return curve


def test_each_stroke_is_found_where_it_is():
    assert list(pick_peaks(curve_of([10, 14, 60]), **PLAIN)) == [10, 14, 60]


def test_two_that_are_too_close_are_one():
    curve = curve_of([10], high=0.8)
    curve[12] = 0.7
    assert list(pick_peaks(curve, **PLAIN)) == [10]


def test_a_plateau_is_one_peak():
    curve = np.zeros(40, np.float32)
    curve[10:13] = 0.9
    assert list(pick_peaks(curve, **PLAIN)) == [10]


@pytest.mark.parametrize(("floor", "found"), [(0.1, 2), (0.5, 1), (0.9, 0)])
def test_what_is_lower_than_the_floor_is_none(floor, found):
    curve = np.maximum(curve_of([20], high=0.8), curve_of([50], high=0.3))
    assert len(pick_peaks(curve, **{**PLAIN, "floor": floor})) == found


def test_what_does_not_stand_out_of_its_surroundings_is_none():
    hum = 0.6 + curve_of([50], high=0.05)
    assert not len(pick_peaks(hum, **{**PLAIN, "above_mean": 0.1}))
    assert list(pick_peaks(hum + curve_of([50], high=0.4), **{**PLAIN, "above_mean": 0.1})) == [50]


@given(
    arrays(np.float32, st.integers(1, 200), elements=st.floats(0, 1, width=32)),
    st.integers(1, 6),
    st.floats(0.0, 0.9),
)
def test_peaks_are_in_order_apart_high_enough_and_the_highest_near_them(curve, half_width, floor):
    peaks = pick_peaks(curve, half_width=half_width, above_mean=0.0, mean_width=5, floor=floor)
    assert (np.diff(peaks) > half_width).all()
    assert (curve[peaks] >= floor).all()
    for peak in peaks:
        near = curve[max(0, peak - half_width) : peak + half_width + 1]
        assert curve[peak] == near.max()

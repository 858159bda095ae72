"""The measures themselves: they must not flatter."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from benchmarks.scores import f_measure, merged
from benchmarks.server import percentile, summary

times = st.lists(st.floats(0, 100), max_size=40).map(sorted)


@given(times, times)
def test_f_lies_between_nought_and_one_and_is_symmetric(one, other):
    forth, back = f_measure(one, other, 0.05), f_measure(other, one, 0.05)
    assert 0 <= forth <= 1
    assert forth == pytest.approx(back)


@given(times)
def test_what_is_the_same_scores_one_and_what_is_far_scores_nought(one):
    apart = merged(one)
    assert f_measure(apart, apart, 0.01) == 1.0
    if apart:
        assert f_measure(apart, [time + 1000 for time in apart], 0.05) == 0.0


@pytest.mark.parametrize(
    ("reference", "estimate", "expected"),
    [
        ([1.0, 2.0], [1.0], 2 / 3),
        ([1.0], [1.0, 1.02, 1.04], 0.5),
        ([], [1.0], 0.0),
        ([], [], 1.0),
        ([1.0, 1.06], [1.05], 2 / 3),
    ],
)
def test_known_cases(reference, estimate, expected):
    assert f_measure(reference, estimate, 0.05) == pytest.approx(expected)


@given(times)
def test_merging_keeps_strokes_apart_and_loses_none_far_from_others(one):
    kept = merged(one)
    assert all(after - before > 0.02 for before, after in pairwise(kept))
    assert set(kept) <= set(one)
    assert all(any(0 <= time - k <= 0.02 for k in kept) for time in one)


def test_percentiles():
    values = [float(n) for n in range(1, 101)]
    assert percentile(values, 0.95) == 95
    assert summary("wait", [5.0]).p95 == 5.0

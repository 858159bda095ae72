"""How far somebody is with what he was given: there, at it, stuck, not begun."""

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.practice.progress import Effort, Standing, progress
from orchesis.practice.schedule import Feeling

TODAY = date(2026, 3, 20)


def played(ago, bpm, *, loops=4, feeling=Feeling.WORK, minutes=5.0):
    return Effort(TODAY - timedelta(days=ago), bpm, loops, minutes, feeling)


def test_nothing_played_is_not_begun():
    found = progress([], 96, TODAY)
    assert (found.standing, found.words, found.last) == (Standing.NOT_BEGUN, "not begun", None)


def test_who_holds_the_tempo_is_there():
    found = progress([played(3, 70), played(1, 95)], 96, TODAY)
    assert found.standing is Standing.THERE
    assert found.best_bpm == 95
    assert found.words == "there: held at 95 of 96"


@pytest.mark.parametrize(
    "effort", [played(1, 96, feeling=Feeling.TENSE), played(1, 96, loops=1)], ids=["tense", "once"]
)
def test_a_tempo_that_was_only_touched_is_not_held(effort):
    assert progress([effort], 96, TODAY).standing is Standing.AT_IT


def test_three_days_without_getting_on_is_stuck():
    assert (
        progress([played(5, 72), played(3, 72), played(1, 73)], 96, TODAY).standing
        is Standing.STUCK
    )


def test_three_days_on_which_it_got_faster_is_not():
    efforts = [played(5, 66), played(3, 72), played(1, 78)]
    found = progress(efforts, 96, TODAY)
    assert found.standing is Standing.AT_IT
    assert found.words == "at 78 of 96"


def test_many_tries_on_one_day_are_one_day():
    assert progress([played(1, 70)] * 9, 96, TODAY).standing is Standing.AT_IT


def test_what_is_late_is_said():
    late = progress([played(1, 70)], 96, TODAY, TODAY - timedelta(days=2))
    assert late.words == "at 70 of 96; it was due 2 days ago"
    there = progress([played(1, 96)], 96, TODAY, TODAY - timedelta(days=2))
    assert "due" not in there.words


EFFORTS = st.lists(
    st.builds(
        played,
        st.integers(0, 40),
        st.floats(30, 120),
        loops=st.integers(0, 8),
        feeling=st.sampled_from(list(Feeling)),
    ),
    max_size=12,
)


@given(EFFORTS)
def test_another_tempo_held_never_sets_anybody_back(efforts):
    before = progress(efforts, 100, TODAY)
    after = progress([*efforts, played(0, 130)], 100, TODAY)
    assert after.standing is Standing.THERE
    assert after.best_bpm >= before.best_bpm
    assert after.days >= before.days

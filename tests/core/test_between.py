"""Edits that lead from one version of a song to another."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.edits.between import edits_between, same_grid
from orchesis.edits.gesture import Gesture, apply_gesture
from orchesis.music.instruments import Instrument
from tests.composing import ROCK, song

ROWS = st.lists(st.text("x.g", min_size=16, max_size=16), min_size=3, max_size=3)


def piece(snares):
    return song([{**ROCK, Instrument.SNARE: row} for row in snares])


@given(ROWS, ROWS)
def test_they_make_the_one_the_other(before, after):
    old, new = piece(before), piece(after)
    edits = tuple(edit for bar in edits_between(old, new) for edit in bar.edits)
    if not edits:
        assert old.hits == new.hits
        return
    bars = {bar.number: old.hits_of(bar.number) for bar in old.bars}
    changed = apply_gesture(bars, Gesture(edits))
    for number, hits in {**bars, **changed}.items():
        assert sorted(hits, key=repr) == sorted(new.hits_of(number), key=repr)


def test_bars_that_are_the_same_are_not_told():
    one, other = piece(["x" * 16] * 3), piece(["x" * 16, "x" * 15 + ".", "x" * 16])
    assert [bar.bar for bar in edits_between(one, other)] == [2]


@pytest.mark.parametrize("value", [0.01, -0.01])
def test_another_line_is_another_grid_and_another_division_is_not(value):
    one = piece(["x" * 16] * 3)
    moved = replace(one, bars=(replace(one.bars[0], start=value), *one.bars[1:]))
    divided = replace(one, bars=(replace(one.bars[0], divisions=(3, 3, 3, 3)), *one.bars[1:]))
    assert not same_grid(one, moved)
    assert same_grid(one, divided)

"""Edits as values: applied, taken back, told in words."""

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.edits.edit import (
    Edit,
    EditConflict,
    apply_to_bar,
    edit_from_json,
    edit_to_json,
    explain,
    inverse,
)
from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import Instrument
from orchesis.music.values import Hit, Meter, in_order
from tests.composing import ROCK, grid, hits

BAR = tuple(sorted(hits(grid(1)[0], ROCK), key=in_order))
GHOST = Hit(0.9, Instrument.SNARE, 30, 1, Fraction(7, 16), ghost=True)


def edits_that_fit(draw_index, kind):
    hit = BAR[draw_index % len(BAR)]
    if kind == "remove":
        return Edit(hit, None)
    if kind == "ghost":
        return Edit(hit, replace(hit, ghost=not hit.ghost))
    if kind == "move":
        return Edit(hit, replace(hit, position=Fraction(2 * draw_index + 1, 64)))
    return Edit(None, replace(hit, position=Fraction(2 * draw_index + 1, 64)))


any_edit = st.builds(
    edits_that_fit, st.integers(0, 30), st.sampled_from(["remove", "ghost", "move", "add"])
)


@given(any_edit)
def test_an_edit_and_its_inverse_leave_the_bar_as_it_was(edit):
    assert apply_to_bar(apply_to_bar(BAR, edit), inverse(edit)) == BAR


@given(any_edit)
def test_an_edit_survives_json(edit):
    assert edit_from_json(edit_to_json(edit)) == edit


@given(any_edit, any_edit)
def test_edits_of_different_notes_commute(one, other):
    places = [hit.place for edit in (one, other) for hit in (edit.before, edit.after) if hit]
    if len(set(places)) < len(places) - (one.before == one.after) - (other.before == other.after):
        return
    touched = {hit.place for hit in (one.before, one.after) if hit}
    if touched & {hit.place for hit in (other.before, other.after) if hit}:
        return
    assert apply_to_bar(apply_to_bar(BAR, one), other) == apply_to_bar(
        apply_to_bar(BAR, other), one
    )


def test_an_edit_of_a_note_that_somebody_else_changed_is_a_conflict():
    changed = apply_to_bar(BAR, Edit(BAR[0], replace(BAR[0], accent=True)))
    with pytest.raises(EditConflict):
        apply_to_bar(changed, Edit(BAR[0], None))


def test_a_note_cannot_be_added_where_it_is_already():
    with pytest.raises(EditConflict):
        apply_to_bar(BAR, Edit(None, replace(BAR[0], velocity=20)))


@pytest.mark.parametrize(("before", "after"), [(None, None), (GHOST, replace(GHOST, bar=2))])
def test_an_edit_that_says_nothing_or_leaves_its_bar_is_refused(before, after):
    with pytest.raises(InvalidTranscription):
        Edit(before, after)


@pytest.mark.parametrize(
    ("edit", "words"),
    [
        (Edit(None, GHOST), "Bar 1: snare on the a of 2 added"),
        (Edit(GHOST, None), "Bar 1: snare on the a of 2 removed"),
        (Edit(GHOST, replace(GHOST, ghost=False)), "Bar 1: snare on the a of 2 no longer a ghost"),
        (Edit(GHOST, replace(GHOST, accent=True)), "Bar 1: snare on the a of 2 accented"),
        (
            Edit(GHOST, replace(GHOST, instrument=Instrument.CROSS_STICK)),
            "Bar 1: cross-stick on the a of 2 instead of snare",
        ),
        (
            Edit(GHOST, replace(GHOST, position=Fraction(1, 2))),
            "Bar 1: snare on beat 3 moved there from the a of 2",
        ),
    ],
)
def test_an_edit_is_told_in_a_drummer_s_words(edit, words):
    assert explain(edit, Meter(4, 4)) == words

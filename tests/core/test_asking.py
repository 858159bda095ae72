"""What is asked for in a word becomes edits of notes: like bars, the phrase, copies, confirming."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.edits.ask import (
    confirm_gesture,
    copy_gesture,
    like_bars,
    like_gesture,
    named,
    phrase_gesture,
)
from orchesis.edits.edit import Edit
from orchesis.edits.gesture import Gesture, apply_gesture, explain_gesture
from orchesis.edits.threeway import MISSING, Clash, merged_value
from orchesis.errors import InvalidTranscription
from orchesis.form.edit import FormChange, changed
from orchesis.limbs.lanes import lane_of, lane_strengths
from orchesis.music.instruments import Instrument, Limb
from orchesis.music.values import written
from tests.composing import ROCK, song

FILL = {Instrument.TOM_HIGH: "xxxxxxxx........", Instrument.SNARE: "........xxxxxxxx"}
PIECE = song([ROCK, ROCK, ROCK, FILL, ROCK, ROCK])
BARS = {bar.number: PIECE.hits_of(bar.number) for bar in PIECE.bars}


def first_kick(number):
    return next(hit for hit in BARS[number] if hit.instrument is Instrument.KICK)


def test_the_same_goes_to_the_bars_that_played_the_same_before():
    edited = apply_gesture(BARS, copy_gesture(PIECE, [4], [1]))
    kick = first_kick(2)
    edit = Edit(kick, replace(kick, accent=True))
    assert like_bars(PIECE, [edit]) == [1, 2, 3, 5, 6]
    after = PIECE.with_hits([h for h in PIECE.hits if h != kick] + [edit.after])
    gesture = like_gesture(after, [edit])
    assert gesture.bars == (1, 3, 5, 6)
    assert gesture.words == "The same in 4 bars"
    assert edited[1] != BARS[1]


def test_several_edits_go_to_like_bars_together():
    """Another drum, a removal and a new note, as somebody mends a bar."""
    hats = [hit for hit in BARS[2] if hit.instrument is Instrument.HIHAT_CLOSED][:2]
    kick = first_kick(2)
    edits = [
        Edit(hats[0], replace(hats[0], instrument=Instrument.RIDE)),
        Edit(hats[1], None),
        Edit(None, replace(kick, position=Fraction(3, 8), settled=True)),
    ]
    made = apply_gesture(BARS, Gesture(tuple(edits)))
    after = PIECE.with_hits([h for h in PIECE.hits if h.bar != 2] + list(made[2]))
    gesture = like_gesture(after, edits)
    assert gesture.bars == (1, 3, 5, 6)
    changed = apply_gesture(BARS, gesture)
    for number in gesture.bars:
        places = {(hit.position, hit.instrument) for hit in changed[number]}
        assert places == {(hit.position, hit.instrument) for hit in made[2]}


def test_a_bar_outside_all_sections_is_like_no_other():
    bare = replace(PIECE, sections=())
    kick = first_kick(1)
    with pytest.raises(InvalidTranscription, match="no other bar"):
        like_gesture(bare, [Edit(kick, None)])
    with pytest.raises(InvalidTranscription, match="in no section"):
        phrase_gesture(bare, [1])


def test_a_fill_made_as_the_phrase_plays_the_groove():
    gesture = phrase_gesture(PIECE, [4])
    made = apply_gesture(BARS, gesture)[4]
    assert {(h.instrument, h.position) for h in written(made)} == {
        (h.instrument, h.position) for h in BARS[1]
    }
    assert gesture.words == "Bar 4 made as the phrase"


def test_confirming_settles_every_note_and_opening_takes_it_back():
    gesture = confirm_gesture(PIECE, [1, 2], settled=True)
    made = apply_gesture(BARS, gesture)
    assert all(hit.settled for hits in made.values() for hit in hits)
    assert explain_gesture(gesture, PIECE.meter) == "Bars 1 to 2 confirmed"


@pytest.mark.parametrize(
    ("bars", "words"), [([4], "bar 4"), ([4, 5, 6], "bars 4 to 6"), ([1, 3, 9], "3 bars")]
)
def test_bars_are_named_in_few_words(bars, words):
    assert named(bars) == words


def test_sections_know_their_bars_and_notes():
    made = changed(PIECE.sections, PIECE.bars, FormChange("split", 4))
    piece = replace(PIECE, sections=made)
    verse, rest = made
    assert [bar.number for bar in piece.bars_in(rest)] == [4, 5, 6]
    assert piece.hits_in(verse) + piece.hits_in(rest) == piece.hits
    assert piece.section_of(5) is rest
    assert piece.section_of(99) is None


def test_twins_are_renamed_together_where_that_is_asked():
    first, second = changed(PIECE.sections, PIECE.bars, FormChange("split", 4))
    twins = (replace(first, mark="A"), replace(second, mark="A"))
    alone = changed(twins, PIECE.bars, FormChange("rename", 4, label="Refrain"))
    assert [section.label for section in alone] == [first.label, "Refrain"]
    both = changed(twins, PIECE.bars, FormChange("rename", 4, label="Refrain", twins=True))
    assert [section.label for section in both] == ["Refrain", "Refrain"]
    others = (replace(first, mark="A"), replace(second, mark="B"))
    made = changed(others, PIECE.bars, FormChange("rename", 4, label="Refrain", twins=True))
    assert made[0].label == first.label


def test_a_boundary_that_goes_nowhere_is_refused():
    with pytest.raises(InvalidTranscription, match="say to which bar"):
        changed(PIECE.sections, PIECE.bars, FormChange("move", 1))


def test_a_drum_that_another_limb_plays_is_shown_where_it_is_written():
    heard = np.array([[0.9, 0.4], [0.1, 0.8]])
    drums = (Instrument.SNARE, Instrument.KICK)
    plain = lane_strengths(["0", "1/2"], heard, drums, [])
    assert lane_of(Instrument.SNARE) is Limb.LEFT_HAND
    assert plain[Limb.LEFT_HAND].tolist() == [0.9, 0.1]
    assert plain[Limb.RIGHT_FOOT].tolist() == [0.4, 0.8]
    snare = replace(BARS[1][0], instrument=Instrument.SNARE, limb=Limb.RIGHT_HAND)
    moved = lane_strengths([str(snare.position), "1/2"], heard, drums, [snare])
    assert moved[Limb.RIGHT_HAND].tolist() == [0.9, 0.0]


VALUES = st.recursive(
    st.integers() | st.text(max_size=3) | st.none(),
    lambda inner: st.dictionaries(st.sampled_from("abc"), inner) | st.lists(inner, max_size=3),
    max_leaves=8,
)


@given(VALUES, VALUES)
def test_a_step_that_nobody_built_on_is_taken_whole(before, after):
    assert merged_value(after, expected=after, target=before) == before
    assert merged_value(before, expected=before, target=before) == before


@given(st.dictionaries(st.sampled_from("abcd"), st.integers()), st.integers())
def test_other_values_stay_when_one_is_taken_back(values, new):
    before = {**values, "mine": 1}
    after = {**values, "mine": 2}
    now = {**after, "theirs": new}
    assert merged_value(now, expected=after, target=before) == {**before, "theirs": new}


def test_sets_of_words_lose_only_what_was_added():
    both = ["feel", "meter", "tempo"]
    assert merged_value(both, expected=["tempo"], target=[]) == ["feel", "meter"]
    assert merged_value(["feel"], expected=["feel"], target=MISSING) is MISSING


def test_null_is_a_value_and_no_hole():
    before, after = {"swing": None, "x": 1}, {"swing": None, "x": 2}
    now = {"swing": None, "x": 2, "y": 3}
    assert merged_value(now, expected=after, target=before) == {"swing": None, "x": 1, "y": 3}


@pytest.mark.parametrize(("now", "left", "back"), [(3, 2, 1), ([1], [2], [3]), ([{}], [], [{}])])
def test_what_both_sides_changed_clashes(now, left, back):
    if now == back:
        return
    with pytest.raises(Clash):
        merged_value(now, expected=left, target=back)

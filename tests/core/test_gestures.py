"""Gestures: many edits as one, undone as one; like bars, the phrase, copies, confirming."""

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.edits.edit import Edit
from orchesis.edits.gesture import (
    BarConflict,
    Gesture,
    apply_gesture,
    check_places,
    explain_gesture,
    gesture_from_json,
    gesture_to_json,
    inverted,
)
from orchesis.edits.make import (
    as_bar,
    as_the_phrase,
    between,
    confirmed,
    in_like_bars,
    settled_bars,
)
from orchesis.edits.merge import with_settled
from orchesis.errors import InvalidTranscription
from orchesis.groove.phrase import find_phrases
from orchesis.music.instruments import Instrument, Ornament, Status
from orchesis.music.values import Meter, in_order
from tests.composing import ROCK, hits, song

KICK, SNARE = Instrument.KICK, Instrument.SNARE
OTHER = {**ROCK, KICK: "x..x......x.....", SNARE: "....X..g....X..."}
PIECE = song([ROCK, OTHER, ROCK, {}])
BARS = {bar.number: PIECE.hits_of(bar.number) for bar in PIECE.bars}


def gestures():
    """Any gesture: some bars of the piece made into something else."""
    rows = st.sampled_from([ROCK, OTHER, {}, {KICK: "xxxx"}])
    wishes = st.dictionaries(st.sampled_from([1, 2, 3, 4]), rows, min_size=1)

    def made(wish):
        edits = []
        for number, row in wish.items():
            edits += between(BARS[number], hits(PIECE.bar(number), row))
        return edits

    return wishes.map(made).filter(bool).map(lambda edits: Gesture(tuple(edits)))


def after(gesture, bars=BARS):
    return {**bars, **apply_gesture(bars, gesture)}


@given(gestures())
def test_a_gesture_and_its_inverse_leave_the_song_as_it_was(gesture):
    assert after(inverted(gesture), after(gesture)) == BARS


@given(gestures(), gestures())
def test_gestures_in_different_bars_commute(one, other):
    if set(one.bars) & set(other.bars):
        return
    assert after(other, after(one)) == after(one, after(other))


@given(gestures())
def test_a_gesture_survives_json(gesture):
    assert gesture_from_json(gesture_to_json(gesture)) == gesture


def test_an_edit_as_it_was_stored_before_is_read_as_a_gesture():
    hit = BARS[1][0]
    data = gesture_to_json(Gesture((Edit(hit, None),)))["edits"][0]
    assert gesture_from_json(data) == Gesture((Edit(hit, None),))


def test_a_gesture_that_meets_changed_bars_names_them_all_and_changes_nothing():
    gesture = Gesture(tuple(Edit(BARS[number][0], None) for number in (1, 2, 3)))
    changed = {**BARS, 1: BARS[1][1:], 3: BARS[3][1:]}
    with pytest.raises(BarConflict, match="bars 1, 3 have changed meanwhile") as caught:
        apply_gesture(changed, gesture)
    assert caught.value.bars == (1, 3)


def test_a_gesture_of_a_bar_that_is_not_there_is_refused():
    with pytest.raises(InvalidTranscription, match="no bar 9"):
        apply_gesture(BARS, Gesture((Edit(None, replace(BARS[1][0], bar=9)),)))


def test_many_edits_are_told_in_one_sentence():
    gesture = Gesture(tuple(Edit(hit, None) for hit in (*BARS[1], *BARS[2])))
    words = explain_gesture(gesture, Meter(4, 4))
    assert words.startswith("Bar 1: ")
    assert words.endswith(f"and {len(gesture.edits) - 1} more, in 2 bars")


def snare(number, position=Fraction(1, 4)):
    return next(
        h for h in PIECE.hits_of(number) if h.instrument is SNARE and h.position == position
    )


def test_an_edit_goes_to_like_bars_and_leaves_their_own_time_and_loudness():
    soft = PIECE.with_hits(
        replace(hit, velocity=77, time=hit.time + 0.004) if hit == snare(3) else hit
        for hit in PIECE.hits
    )
    edit = Edit(snare(1), replace(snare(1), ornament=Ornament.FLAM, settled=True))
    (there,) = in_like_bars(soft, edit, [1, 3])
    assert there.after == replace(there.before, ornament=Ornament.FLAM, settled=True)
    assert (there.after.bar, there.after.velocity) == (3, 77)


def test_an_added_note_goes_to_like_bars_at_their_own_time_and_not_twice():
    ghost = replace(snare(2, Fraction(7, 16)), bar=1, time=1.4)
    edits = in_like_bars(PIECE, Edit(None, ghost), [1, 2, 3])
    assert [edit.bar for edit in edits] == [3]
    assert edits[0].after.time == pytest.approx(PIECE.bar(3).time_at(Fraction(7, 16)))


def test_a_removal_goes_to_the_like_bars_that_have_the_note():
    kick = next(h for h in PIECE.hits_of(2) if h.position == Fraction(3, 16))
    assert in_like_bars(PIECE, Edit(kick, None), [1, 3]) == ()


def test_a_bar_made_into_the_phrase_plays_it_and_loses_nothing():
    piece = song([ROCK] * 6 + [OTHER])
    (phrase,) = find_phrases(piece.bars, piece.hits)
    bars = {7: piece.hits_of(7)}
    made = apply_gesture(bars, Gesture(as_the_phrase(piece, phrase, 7)))[7]
    sounding = {(h.position, h.instrument) for h in made if h.status is not Status.LEFT_OUT}
    assert sounding == {(h.position, h.instrument) for h in piece.hits_of(1)}
    assert {h.place for h in bars[7]} <= {h.place for h in made}


def test_a_copied_bar_plays_the_same_at_its_own_time():
    made = apply_gesture(BARS, Gesture(as_bar(PIECE, 2, 4)))[4]
    assert [h.place[1:] for h in made] == [h.place[1:] for h in sorted(BARS[2], key=in_order)]
    assert all(PIECE.bar(4).start <= h.time < PIECE.bar(4).end for h in made)


def test_confirming_settles_every_note_and_takes_doubts_as_heard():
    unsure = PIECE.with_hits(
        replace(hit, status=Status.DOUBTFUL) if hit == snare(1) else hit for hit in PIECE.hits
    )
    edits = confirmed(unsure, [1])
    bars = {bar.number: unsure.hits_of(bar.number) for bar in unsure.bars}
    done = unsure.with_hits(
        hit
        for hits_there in {**bars, **apply_gesture(bars, Gesture(edits))}.values()
        for hit in hits_there
    )
    assert settled_bars(done) == {1}
    assert {hit.status for hit in done.hits_of(1)} == {Status.HEARD}
    assert settled_bars(PIECE) == frozenset()


def test_what_was_settled_outlives_a_new_run():
    """Bar 2 was settled; a left-out snare in bar 1 too; then the song is heard anew."""
    old = PIECE.with_hits(
        replace(hit, settled=True)
        if hit.bar == 2
        else replace(hit, status=Status.LEFT_OUT, settled=True)
        if hit == snare(1)
        else hit
        for hit in PIECE.hits
    )
    heard_anew = song([ROCK, ROCK, ROCK, ROCK])
    kept = with_settled(old, heard_anew)
    assert kept.hits_of(2) == old.hits_of(2)
    assert [h.status for h in kept.hits_of(1) if h.position == Fraction(1, 4) and
            h.instrument is SNARE] == [Status.LEFT_OUT]  # fmt: skip
    assert kept.hits_of(3) == heard_anew.hits_of(3)
    assert with_settled(PIECE, heard_anew) == heard_anew


def written_at(position, time):
    """A kick added to bar 2 at a place and a time."""
    kick = next(hit for hit in BARS[2] if hit.instrument is KICK)
    new = replace(kick, instrument=Instrument.COWBELL, position=position, time=time)
    return Gesture((Edit(None, new),))


@pytest.mark.parametrize("away", [-3.0, 6.0, 9e5])
def test_a_note_far_from_its_bar_is_refused(away):
    later = replace(PIECE.bar(2), start=10.0, end=12.0, beats=(10.0, 10.5, 11.0, 11.5))
    check_places(written_at(Fraction(1, 4), 10.5), {2: later})
    with pytest.raises(InvalidTranscription, match="cannot sound at"):
        check_places(written_at(Fraction(1, 4), 10.0 + away), {2: later})


@pytest.mark.parametrize(
    "place", [Fraction(1, 3), Fraction(5, 24), Fraction(3, 64), Fraction(2, 7)]
)
def test_every_place_that_drummers_count_is_taken(place):
    check_places(written_at(place, PIECE.bar(2).start), {2: PIECE.bar(2)})


@pytest.mark.parametrize("place", [Fraction(1, 11), Fraction(17, 9973), Fraction(1, 4096)])
def test_a_place_that_no_division_of_a_beat_has_is_refused(place):
    with pytest.raises(InvalidTranscription, match="no place of a beat"):
        check_places(written_at(place, PIECE.bar(2).start), {2: PIECE.bar(2)})


def test_what_stands_where_it_stood_is_not_judged_again():
    odd = replace(BARS[2][0], position=Fraction(1, 11))
    check_places(Gesture((Edit(odd, None),)), {2: PIECE.bar(2)})

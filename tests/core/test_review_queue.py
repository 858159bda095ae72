"""The review: questions in the order of what they change, and what an answer does."""

from dataclasses import replace
from fractions import Fraction

import pytest

from orchesis.edits.gesture import apply_gesture
from orchesis.edits.review_queue import (
    MOST_QUESTIONS,
    NO,
    NOT_PLAYED,
    YES,
    Kind,
    answer_question,
    answer_words,
    review_queue,
)
from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import Instrument, Status
from tests.composing import ROCK, song
from tests.evidence import evidence_of

HAT, RIDE, CRASH = Instrument.HIHAT_CLOSED, Instrument.RIDE, Instrument.CRASH
KICK, SNARE, SHAKER = Instrument.KICK, Instrument.SNARE, Instrument.SHAKER


def after(piece, gesture):
    """The song with an answer."""
    by_bar = {bar.number: piece.hits_of(bar.number) for bar in piece.bars}
    changed = apply_gesture(by_bar, gesture)
    return piece.with_hits(
        [hit for number in by_bar for hit in changed.get(number, by_bar[number])]
    )


def plain(hit):
    """A network that hears every stroke as what it is."""
    return {hit.instrument: 0.9}


def ride_in_chorus(hit):
    """Hats from bar 9 on sound as much like a ride."""
    if hit.instrument is not HAT:
        return {hit.instrument: 0.9}
    return {HAT: 0.6, RIDE: 0.7, CRASH: 0.3} if hit.bar > 8 else {HAT: 0.9}


@pytest.fixture
def two_sections():
    piece = song([ROCK] * 16)
    first = piece.sections[0]
    verse = replace(first, label="Verse", bars=8, first_bar=1, mark="A")
    chorus = replace(first, label="Chorus 1", bars=8, first_bar=9, mark="B")
    return replace(piece, sections=(verse, chorus))


@pytest.fixture
def stray_kicks():
    """A kick on the & of 3, in two of twelve bars that are alike."""
    odd = {**ROCK, KICK: "x.......x.x....."}
    return song([ROCK] * 10 + [odd] * 2)


def test_a_song_that_is_heard_plainly_asks_nothing():
    piece = song([ROCK] * 8)
    assert review_queue(piece, evidence_of(piece, plain)) == ()
    assert review_queue(piece, None) == ()


def test_a_voice_is_asked_about_where_it_is_open_with_the_whole_family_to_answer(two_sections):
    evidence = evidence_of(two_sections, ride_in_chorus)
    (asked,) = review_queue(two_sections, evidence)
    assert asked.kind is Kind.VOICE
    assert asked.words == "64 strokes in Chorus: closed hat or ride?"
    assert {hit.bar for hit in asked.hits} == set(range(9, 17))
    assert asked.answers[:3] == ("hihat_closed", "ride", "crash")
    assert {"ride_bell", "hihat_open", "hihat_foot"} < set(asked.answers)
    assert asked.answers[-1] == NOT_PLAYED
    assert answer_words(asked, "ride_bell") == "Ride bell"


def test_a_voice_that_is_named_is_another_one_there_and_only_there(two_sections):
    evidence = evidence_of(two_sections, ride_in_chorus)
    (asked,) = review_queue(two_sections, evidence)
    named = after(two_sections, answer_question(two_sections, evidence, asked.key, "ride"))
    assert {hit.bar for hit in named.hits if hit.instrument is RIDE} == set(range(9, 17))
    assert {hit.bar for hit in named.hits if hit.instrument is HAT} == set(range(1, 9))
    assert review_queue(named, evidence) == ()


def test_where_the_name_is_written_already_the_stroke_is_left_out(two_sections):
    evidence = evidence_of(two_sections, ride_in_chorus)
    (asked,) = review_queue(two_sections, evidence)
    chosen = asked.hits[0]
    both = two_sections.with_hits([*two_sections.hits, replace(chosen, instrument=CRASH)])
    (again,) = review_queue(both, evidence)
    named = after(both, answer_question(both, evidence, again.key, "crash"))
    here = [hit for hit in named.hits if hit.place[:2] == chosen.place[:2]]
    assert sum(hit.instrument is CRASH and hit.status is Status.HEARD for hit in here) == 1
    assert any(hit.status is Status.LEFT_OUT for hit in here)


def test_a_note_in_a_few_bars_only_is_one_question_and_no_takes_it_out(stray_kicks):
    (asked,) = review_queue(stray_kicks, None)
    assert asked.kind is Kind.SPOT
    assert {hit.bar for hit in asked.hits} == {11, 12}
    cleared = after(stray_kicks, answer_question(stray_kicks, None, asked.key, NO))
    assert review_queue(cleared, None) == ()
    kept = after(stray_kicks, answer_question(stray_kicks, None, asked.key, YES))
    assert review_queue(kept, None) == ()
    assert all(hit.status is Status.HEARD for hit in kept.hits)


def test_a_missing_note_is_written_or_settled_as_not_played():
    gap = {**ROCK, SNARE: "....x..........."}
    piece = song([ROCK] * 11 + [gap])
    (asked,) = review_queue(piece, None)
    assert asked.is_missing
    assert answer_words(asked, YES) == "Write it"
    place = (12, Fraction(3, 4), SNARE)
    written = after(piece, answer_question(piece, None, asked.key, YES))
    (found,) = [hit for hit in written.hits if hit.place == place]
    assert found.status is Status.HEARD
    refused = after(piece, answer_question(piece, None, asked.key, NO))
    (found,) = [hit for hit in refused.hits if hit.place == place]
    assert found.status is Status.LEFT_OUT
    assert review_queue(refused, None) == ()


def test_a_larger_question_takes_the_notes_of_a_smaller_one():
    doubled = song([{**ROCK, SHAKER: ROCK[HAT]}] * 12)
    unsure = doubled.with_hits(
        replace(hit, status=Status.DOUBTFUL, confidence=0.4) if hit.instrument is SHAKER else hit
        for hit in doubled.hits
    )
    asked = review_queue(unsure, None)
    assert [one.kind for one in asked] == [Kind.LAYER]
    cleared = after(unsure, answer_question(unsure, None, asked[0].key, NO))
    assert review_queue(cleared, None) == ()


def test_the_costliest_comes_first_and_no_note_is_asked_about_twice(stray_kicks):
    unsure = stray_kicks.with_hits(
        replace(hit, status=Status.DOUBTFUL, confidence=0.2)
        if hit.instrument is HAT and hit.bar % 2
        else hit
        for hit in stray_kicks.hits
    )
    asked = review_queue(unsure, None)
    assert 1 < len(asked) <= MOST_QUESTIONS
    costs = [one.cost for one in asked]
    assert costs == sorted(costs, reverse=True)
    places = [hit.place for one in asked for hit in one.hits]
    assert len(places) == len(set(places))


def test_an_answer_to_a_question_that_is_gone_or_that_it_does_not_take_is_refused(stray_kicks):
    (asked,) = review_queue(stray_kicks, None)
    with pytest.raises(InvalidTranscription, match="takes no answer"):
        answer_question(stray_kicks, None, asked.key, "ride")
    cleared = after(stray_kicks, answer_question(stray_kicks, None, asked.key, NO))
    with pytest.raises(InvalidTranscription, match="changed meanwhile"):
        answer_question(cleared, None, asked.key, NO)

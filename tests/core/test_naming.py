"""Which instrument is this voice: asked where the network can hardly tell, once for all strokes."""

from dataclasses import replace

import pytest

from orchesis.edits.naming import MOST_QUESTIONS, naming_questions
from orchesis.music.instruments import Instrument
from tests.composing import ROCK, song
from tests.evidence import CLASSES, evidence_of

HAT, OPEN, RIDE, SNARE = (
    Instrument.HIHAT_CLOSED,
    Instrument.HIHAT_OPEN,
    Instrument.RIDE,
    Instrument.SNARE,
)
CLAP, KICK, CRASH = Instrument.CLAP, Instrument.KICK, Instrument.CRASH


@pytest.fixture
def rock():
    return song([ROCK] * 8)


def test_a_kit_that_is_heard_plainly_is_not_asked_about(rock):
    assert naming_questions(rock, evidence_of(rock, lambda hit: {hit.instrument: 0.9})) == ()


def test_a_hat_that_may_be_a_ride_is_one_question_with_strokes_to_listen_to(rock):
    def said(hit):
        if hit.instrument is not HAT:
            return {hit.instrument: 0.9}
        # The hats of bar 3 ring: they are what speaks most for a ride.
        return {HAT: 0.6, RIDE: 0.9 if hit.bar == 3 else 0.5}

    (asked,) = naming_questions(rock, evidence_of(rock, said))
    assert (asked.instrument, asked.rival) == (HAT, RIDE)
    assert len(asked.hits) == 64
    assert asked.words == "64 strokes all song long: closed hat or ride?"
    assert {hit.bar for hit in asked.like_rival} == {3}
    assert 3 not in {hit.bar for hit in asked.like_itself}


def test_hats_that_the_network_took_for_crashes_are_asked_about(rock):
    """`listening.naming` called them hats all song long: whoever hears crashes says so once."""

    def said(hit):
        return {CRASH: 0.7, HAT: 0.1} if hit.instrument is HAT else {hit.instrument: 0.9}

    (asked,) = naming_questions(rock, evidence_of(rock, said))
    assert asked.words == "64 strokes all song long: closed hat or crash?"


def test_where_both_are_written_neither_is_doubted(rock):
    both = song([{**ROCK, CLAP: ROCK[SNARE]}] * 8)
    alike = evidence_of(both, lambda hit: {hit.instrument: 0.7})
    assert naming_questions(both, alike) == ()


def test_claps_that_are_as_much_snares_are_asked_about_and_a_few_are_not():
    claps = {**{k: v for k, v in ROCK.items() if k is not SNARE}, CLAP: ROCK[SNARE]}

    def said(hit):
        return {CLAP: 0.5, SNARE: 0.7} if hit.instrument is CLAP else {hit.instrument: 0.9}

    many, few = song([claps] * 8), song([claps] * 2 + [ROCK] * 6)
    (asked,) = naming_questions(many, evidence_of(many, said))
    assert (asked.instrument, asked.rival) == (CLAP, SNARE)
    assert naming_questions(few, evidence_of(few, said)) == ()


def test_a_hat_that_is_always_open_is_asked_about_however_sure_the_network_is():
    loose = song([{**{k: v for k, v in ROCK.items() if k is not HAT}, OPEN: ROCK[HAT]}] * 8)
    (asked,) = naming_questions(loose, evidence_of(loose, lambda hit: {hit.instrument: 0.95}))
    assert (asked.instrument, asked.rival) == (OPEN, HAT)
    assert "loose pair" in asked.words


def test_what_is_settled_is_asked_about_no_more(rock):
    torn = evidence_of(rock, lambda hit: dict.fromkeys((HAT, RIDE), 0.6))
    assert naming_questions(rock, torn)
    done = rock.with_hits([replace(hit, settled=True) for hit in rock.hits])
    assert naming_questions(done, torn) == ()


def test_there_are_never_more_questions_than_one_answers_gladly():
    rich = song([{**ROCK, RIDE: ROCK[HAT], CRASH: ROCK[HAT], CLAP: ".x.x.x.x.x.x.x.x"}] * 8)
    torn = evidence_of(rich, lambda hit: dict.fromkeys(CLASSES, 0.5))
    assert len(naming_questions(rich, torn)) <= MOST_QUESTIONS

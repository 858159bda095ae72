"""Which uncertain notes are marked: the costliest, as many as a person looks at."""

from dataclasses import replace
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from orchesis.edits.doubts import FEWEST_MARKED, MARKED_PER_BAR, mark_doubts
from orchesis.edits.questions import questions
from orchesis.edits.review import Why, review_places
from orchesis.groove.alike import patterns
from orchesis.groove.cells import belief
from orchesis.music.instruments import Instrument, Status
from orchesis.music.values import Hit
from tests.composing import ROCK, song

BARS = 100
HAT, KICK, SNARE = Instrument.HIHAT_CLOSED, Instrument.KICK, Instrument.SNARE


def faint(bar, instrument, confidence, **values):
    at = Fraction(1, 4)
    status = Status.DOUBTFUL
    return Hit(float(bar), instrument, 80, bar, at, confidence=confidence, status=status, **values)


def marked(hits):
    return [hit for hit in hits if hit.status is Status.DOUBTFUL]


def test_a_few_doubts_are_all_marked():
    hits = [faint(bar, HAT, 0.5) for bar in range(1, FEWEST_MARKED + 1)]
    assert mark_doubts(hits, 4) == hits


def test_kicks_and_snares_go_before_hats_and_ghosts_that_are_as_faint():
    hats = [faint(bar, HAT, 0.5) for bar in range(1, 41)]
    ghosts = [faint(bar, SNARE, 0.5, ghost=True) for bar in range(41, 81)]
    kicks = [faint(bar, KICK, 0.5) for bar in range(81, 91)]
    found = marked(mark_doubts([*hats, *ghosts, *kicks], BARS))
    assert len(found) == MARKED_PER_BAR * BARS
    assert [hit for hit in found if hit.instrument is KICK] == kicks
    assert not [hit for hit in found if hit.ghost]


def test_of_one_drum_the_faintest_are_marked():
    kicks = [faint(bar, KICK, 0.2 + 0.01 * (bar % 40)) for bar in range(1, 41)]
    found = marked(mark_doubts(kicks, 40))
    assert max(hit.confidence for hit in found) <= 0.26


@given(st.lists(st.sampled_from(list(Instrument)), min_size=1, max_size=60), st.integers(1, 300))
def test_no_note_is_lost_and_only_marks_are_taken_off(drums, bars):
    hits = [faint(bar, drum, 0.4) for bar, drum in enumerate(drums, start=1)]
    after = mark_doubts(hits, bars)
    assert [replace(hit, status=Status.DOUBTFUL) for hit in after] == hits
    assert len(marked(after)) <= max(FEWEST_MARKED, MARKED_PER_BAR * bars)


def unmarked_song():
    """Eight bars of rock whose hats on the and of four are faint, and not marked."""
    piece = song([ROCK] * 8)
    return piece.with_hits(
        replace(hit, confidence=0.4)
        if hit.instrument is HAT and hit.position == Fraction(7, 8)
        else hit
        for hit in piece.hits
    )


def test_what_is_not_marked_is_uncertain_all_the_same():
    piece = unmarked_song()
    faint_hats = [hit for hit in piece.hits if hit.confidence == 0.4]
    assert len(faint_hats) == 8
    assert all(hit.is_uncertain and belief(hit) == 0.4 for hit in faint_hats)
    assert all((Fraction(7, 8), HAT) not in bar for bar in patterns(piece.hits).values())
    (asked,) = questions(piece)
    assert set(asked.hits) == set(faint_hats)
    (place,) = [place for place in review_places(piece) if place.why is Why.UNCERTAIN]
    assert set(place.hits) == set(faint_hats)


def test_what_a_person_confirmed_is_certain():
    piece = unmarked_song()
    confirmed = piece.with_hits(replace(hit, settled=True) for hit in piece.hits)
    assert not any(hit.is_uncertain for hit in confirmed.hits)
    assert questions(confirmed) == ()

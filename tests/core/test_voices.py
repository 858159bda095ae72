"""One drum of a section, of all like it, or of the song, changed in one gesture."""

from dataclasses import replace

import pytest

from orchesis.edits.gesture import apply_gesture, inverted
from orchesis.edits.voice import Scope, change_voice
from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import Instrument, Status
from orchesis.music.values import Section
from tests.composing import ROCK, song

HAT, RIDE, SNARE, KICK = (
    Instrument.HIHAT_CLOSED,
    Instrument.RIDE,
    Instrument.SNARE,
    Instrument.KICK,
)


@pytest.fixture
def score():
    """A B A B, four bars each."""
    bare = song([ROCK] * 16)
    sections = []
    for index, mark in enumerate("ABAB"):
        first = 4 * index
        sections.append(
            Section(
                f"{mark} {index // 2 + 1}",
                bare.bars[first].start,
                bare.bars[first + 3].end,
                4,
                bare.bars[first].number,
                mark=mark,
            )
        )
    return replace(bare, sections=tuple(sections))


def done(score, gesture):
    bars = {bar.number: score.hits_of(bar.number) for bar in score.bars}
    changed = apply_gesture(bars, gesture)
    return score.with_hits(hit for n, hits in (bars | changed).items() for hit in hits)


def bars_with(score, instrument):
    return sorted(
        {
            hit.bar
            for hit in score.hits
            if hit.instrument is instrument and hit.status is not Status.LEFT_OUT
        }
    )


@pytest.mark.parametrize(
    ("scope", "bars"),
    [
        (Scope.SECTION, [5, 6, 7, 8]),
        (Scope.LIKE, [5, 6, 7, 8, 13, 14, 15, 16]),
        (Scope.SONG, list(range(1, 17))),
    ],
)
def test_all_hats_of_the_choruses_are_ride_in_one_gesture(score, scope, bars):
    gesture = change_voice(score, HAT, 6, scope, RIDE)
    now = done(score, gesture)
    assert bars_with(now, RIDE) == bars
    assert bars_with(now, HAT) == [n for n in range(1, 17) if n not in bars]
    assert all(hit.settled for hit in now.hits if hit.instrument is RIDE)
    assert done(now, inverted(gesture)).hits == score.hits, "and taken back in one"


def test_a_drum_that_never_plays_is_left_out_and_can_be_brought_back(score):
    now = done(score, change_voice(score, SNARE, 1, Scope.SONG, None))
    assert bars_with(now, SNARE) == []
    assert len(now.hits) == len(score.hits), "nothing is lost"


def test_the_words_say_what_and_where(score):
    words = change_voice(score, HAT, 6, Scope.LIKE, RIDE).words
    assert words.startswith("Closed hat is a ride in B 1 and B 2: ")


def test_a_stroke_that_would_be_there_twice_is_left_out(score):
    both = score.with_hits(
        [
            *score.hits,
            *(replace(h, instrument=RIDE) for h in score.hits_of(1) if h.instrument is HAT),
        ]
    )
    now = done(both, change_voice(both, HAT, 1, Scope.SECTION, RIDE))
    places = [h.place for h in now.hits if h.status is not Status.LEFT_OUT]
    assert len(places) == len(set(places))


@pytest.mark.parametrize(
    ("instrument", "to"), [(HAT, HAT), (KICK, SNARE), (Instrument.COWBELL, RIDE)]
)
def test_what_cannot_be_meant_is_refused(score, instrument, to):
    with pytest.raises(InvalidTranscription):
        change_voice(score, instrument, 1, Scope.SONG, to)

"""What is heard anew beside settled bars is written as it would have been at first."""

from dataclasses import replace

import pytest

from orchesis.edits import relisten
from orchesis.limbs.assign import assign_limbs
from orchesis.listening.ear import Onset
from orchesis.music.instruments import Instrument
from tests.composing import ROCK, song

SNARE = Instrument.SNARE
WITH_GHOSTS = {**ROCK, SNARE: "....X..g....X..g"}


def proposed(monkeypatch, loudness):
    """What is proposed for the second bar, where one more snare stroke is heard, this loud."""
    piece = song([WITH_GHOSTS, WITH_GHOSTS])
    limbed = assign_limbs(list(piece.hits), 4)
    piece = piece.with_hits(replace(hit, settled=hit.bar == 1) for hit in limbed)
    beside = piece.bars[1].beats[2] + 0.125
    heard = [Onset(hit.time, hit.instrument, 0.5, 0.9) for hit in piece.hits if hit.bar == 2]
    heard.append(Onset(beside, SNARE, loudness, 0.9))
    monkeypatch.setattr(relisten, "listen_again", lambda *_: heard)
    (bar,) = relisten.propose(piece, evidence=None, judge=None)
    (edit,) = bar.edits
    assert edit.before is None
    return edit.after


@pytest.mark.parametrize(("loudness", "is_ghost"), [(0.15, True), (0.8, False)])
def test_a_stroke_that_is_heard_anew_is_a_ghost_by_the_song_s_own_loudnesses(
    monkeypatch, loudness, is_ghost
):
    hit = proposed(monkeypatch, loudness)
    assert (hit.bar, hit.instrument, hit.ghost) == (2, SNARE, is_ghost)


HAT, RIDE = Instrument.HIHAT_CLOSED, Instrument.RIDE
ON_RIDE = {RIDE if drum is HAT else drum: line for drum, line in ROCK.items()}


def with_settled(bars, *numbers):
    piece = song(bars)
    limbed = assign_limbs(list(piece.hits), 4)
    return piece.with_hits(replace(hit, settled=hit.bar in numbers) for hit in limbed)


def replace_onsets(piece, bar, old, new):
    """The onsets of a bar, one drum replaced by another."""
    return [
        Onset(hit.time, new if hit.instrument is old else hit.instrument, 0.5, 0.9)
        for hit in piece.hits
        if hit.bar == bar
    ]


def test_a_drum_is_not_taken_for_another_against_most_of_what_was_confirmed(monkeypatch):
    piece = with_settled([ROCK, ROCK, ON_RIDE, ROCK], 1, 2, 3)
    heard = replace_onsets(piece, 4, HAT, RIDE)
    monkeypatch.setattr(relisten, "listen_again", lambda *_: heard)
    assert relisten.propose(piece, evidence=None, judge=None) == ()


def test_where_most_confirmed_bars_have_the_other_drum_it_is_taken(monkeypatch):
    piece = with_settled([ON_RIDE, ROCK, ON_RIDE, ROCK], 1, 2, 3)
    heard = replace_onsets(piece, 4, HAT, RIDE)
    monkeypatch.setattr(relisten, "listen_again", lambda *_: heard)
    (bar,) = relisten.propose(piece, evidence=None, judge=None)
    come = {edit.after.instrument for edit in bar.edits if edit.before.instrument is HAT}
    assert come == {RIDE}


def test_bars_of_another_rhythm_have_no_say(monkeypatch):
    march = {HAT: "X...X...X...X...", SNARE: "X.XXX.XXX.XXX.XX"}
    piece = with_settled([ON_RIDE, march, march, ROCK], 1, 2, 3)
    heard = replace_onsets(piece, 4, HAT, RIDE)
    monkeypatch.setattr(relisten, "listen_again", lambda *_: heard)
    (bar,) = relisten.propose(piece, evidence=None, judge=None)
    assert bar.edits


def test_the_bar_that_contradicts_the_others_is_named():
    piece = with_settled([ROCK, ROCK, ROCK, ON_RIDE, ON_RIDE], 1, 2, 3, 4)
    (found,) = relisten.contradictions(piece)
    assert (found.bar, found.instrument, found.usual, found.others) == (4, RIDE, HAT, 3)
    assert found.words.startswith("Bar 4 has the ride where 3 confirmed bars")


def test_two_halves_that_differ_contradict_nobody():
    piece = with_settled([ROCK, ROCK, ROCK, ON_RIDE, ON_RIDE, ON_RIDE], 1, 2, 3, 4, 5, 6)
    assert relisten.contradictions(piece) == ()

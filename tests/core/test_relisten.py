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

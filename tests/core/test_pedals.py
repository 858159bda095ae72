"""Two pedals are assumed where one foot cannot have been meant."""

from dataclasses import replace

from orchesis.limbs.assign import assign_limbs
from orchesis.limbs.kit import STANDARD
from orchesis.limbs.pedals import TWO_PEDALS, needs_two_pedals, player_for
from orchesis.limbs.playable import Kind, problems_of
from orchesis.music.instruments import Instrument, Limb
from tests.composing import ROCK, song

KICK = Instrument.KICK
ROLLING = {**ROCK, KICK: "xxxxxxxxxxxxxxxx"}
QUICK_DOUBLE = {**ROCK, KICK: "xx......xx......"}


def feet(hits):
    return {hit.limb for hit in hits if hit.instrument is KICK}


def test_sixteenths_of_the_kick_for_bars_are_two_feet_in_turn():
    piece = song([ROLLING] * 4, bpm=160)
    assert needs_two_pedals(piece.hits)
    played = assign_limbs(piece.hits, 4, player_for(piece.hits))
    assert feet(played) == {Limb.RIGHT_FOOT, Limb.LEFT_FOOT}
    assert problems_of(played, 4) == ()


def test_doubles_of_one_foot_need_no_second_pedal():
    piece = song([QUICK_DOUBLE] * 12, bpm=120)
    assert player_for(piece.hits) == STANDARD


def test_slow_sixteenths_are_one_foot_s():
    assert not needs_two_pedals(song([ROLLING] * 8, bpm=70).hits)


def test_a_section_that_hardly_needs_them_is_played_by_the_feet_of_the_song():
    triple = {**ROCK, KICK: "xxx............."}
    piece = song([ROLLING] * 4 + [triple], bpm=160)
    played = assign_limbs(piece.hits, 4, player_for(piece.hits))
    last = [hit for hit in played if hit.bar == 5]
    assert feet(last) == {Limb.RIGHT_FOOT, Limb.LEFT_FOOT}
    assert problems_of(last, 4) == ()


def test_one_run_may_be_a_mistake_and_stays_a_question():
    piece = song([ROCK] * 6 + [{**ROCK, KICK: "xxxxxxxx........"}], bpm=160)
    assert player_for(piece.hits) == STANDARD
    assert any(problem.kind is Kind.PEDAL for problem in problems_of(piece.hits, 4))


def test_a_kit_that_somebody_chose_keeps_its_one_pedal():
    piece = song([ROLLING] * 4, bpm=160)
    mine = replace(STANDARD, name="Practice room")
    assert player_for(piece.hits, mine) is mine
    assert player_for(piece.hits) == TWO_PEDALS
    played = assign_limbs(piece.hits, 4, mine)
    assert any(problem.kind is Kind.PEDAL for problem in problems_of(played, 4, mine))

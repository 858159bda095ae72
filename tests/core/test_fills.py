"""Fills in every feel: where the steady hand leaves its cymbal for something else."""

from fractions import Fraction

import pytest

from orchesis.fills.find import find_fills
from orchesis.music.instruments import Instrument
from tests.composing import ROCK, song

KICK, SNARE, HAT, RIDE = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED, Instrument.RIDE
TOM = Instrument.TOM_FLOOR
SHUFFLE = {HAT: "x.xx.xx.xx.x", SNARE: "...X.....X..", KICK: "x.....x....."}
HALF = {HAT: "x.x.x.x.x.x.x.x.", SNARE: "........X.......", KICK: "x.....x........."}
WALTZ = {RIDE: "x.x.x.", SNARE: "..x.x.", KICK: "x....."}
JAZZ = {RIDE: "x..x.xx..x.x", Instrument.HIHAT_FOOT: "...x.....x..", SNARE: ".....g......"}


@pytest.mark.parametrize(
    ("groove", "fill", "beats", "begins"),
    [
        (SHUFFLE, {SNARE: "...X..xx.xxx", KICK: "x.....x....."}, 4, 2),
        (SHUFFLE, {SNARE: "...g..gg.gXx", KICK: "x..........."}, 4, 2),
        (
            HALF,
            {SNARE: "........X...x.x.", TOM: "..........x.....", KICK: "x..............."},
            4,
            2,
        ),
        (WALTZ, {SNARE: "X.xxxx", KICK: "x....."}, 3, 0),
        (JAZZ, {SNARE: "......x.xX.x", KICK: "x..........."}, 4, 2),
    ],
    ids=["shuffle", "soft", "half-time", "waltz", "jazz"],
)
def test_a_fill_is_found_in_every_feel(groove, fill, beats, begins):
    piece = song([groove] * 7 + [fill] + [groove] * 8, beats=beats)
    (found,) = find_fills(piece.bars, piece.hits)
    assert found.bar == 8
    assert found.start == pytest.approx(piece.bars[7].beats[begins])
    assert found.end == piece.bars[7].end


@pytest.mark.parametrize(
    "bar",
    [
        {KICK: "x.......x.......", SNARE: "....X.......X..."},
        {HAT: "x.x.x.x.........", KICK: "x.......x.......", SNARE: "....X.......X..."},
        {KICK: "x...............", SNARE: "....X..........."},
        {HAT: "x.x.x.x.x.x.x...", KICK: "x.......x.......", SNARE: "....X.......X.g."},
        {KICK: "x.......x.x.....", SNARE: "....X.......X..g"},
    ],
    ids=["hats not heard", "half of them not", "a stop", "a ghost more", "a pick-up of the kick"],
)
def test_a_hand_that_is_gone_is_not_yet_a_fill(bar):
    piece = song([ROCK] * 7 + [bar] + [ROCK] * 8)
    assert find_fills(piece.bars, piece.hits) == ()


def test_a_hand_that_comes_back_is_counted_by_its_last_beats_only():
    opening = {SNARE: "xxxx........X...", HAT: "........x.x.x.x.", KICK: "x.......x......."}
    piece = song([ROCK] * 7 + [opening] + [ROCK] * 8)
    assert find_fills(piece.bars, piece.hits) == (), "it is over before the bar is"


def test_a_fill_in_the_last_beats_does_not_reach_back_over_the_groove():
    fill = {HAT: "x.x.x.x.........", SNARE: "....X...x.xxxxxx", KICK: "x......."}
    piece = song([ROCK] * 7 + [fill] + [ROCK] * 8)
    (found,) = find_fills(piece.bars, piece.hits)
    assert found.start == pytest.approx(piece.bars[7].time_at(Fraction(1, 2)))


@pytest.mark.parametrize("sections", [[], [range(4), range(4, 13)], [range(13)]])
@pytest.mark.parametrize(
    ("pick_up", "at"),
    [
        ({SNARE: "............xxxx"}, Fraction(3, 4)),
        ({SNARE: "............x.x.", TOM: "..............xx"}, Fraction(3, 4)),
        ({SNARE: "........xxxxxxxx"}, Fraction(1, 2)),
    ],
)
def test_a_pick_up_into_the_first_bar_of_the_drums_is_a_fill(pick_up, at, sections):
    """Whatever is made of the silent bars before it."""
    entry = {**ROCK, Instrument.CRASH: "x..............."}
    piece = song([{}] * 3 + [pick_up, entry] + [ROCK] * 8)
    (found,) = find_fills(piece.bars, piece.hits, sections)
    assert (found.bar, found.at, found.until) == (4, at, 1)

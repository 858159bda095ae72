"""What is said of a bar: its count in the words of a school, what falls together and between."""

from dataclasses import replace
from fractions import Fraction

import pytest

from orchesis.groove.coordination import coordination
from orchesis.groove.count import SCHOOLS, spoken_count
from orchesis.limbs.assign import assign_limbs
from orchesis.music.instruments import Instrument, Ornament
from tests.composing import ROCK, song

KICK, SNARE, HAT = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED


def counted(rows, school="e-and-a"):
    piece = song([rows])
    return spoken_count(piece.bars, piece.hits, SCHOOLS[school])


@pytest.mark.parametrize(
    ("rows", "school", "said"),
    [
        (ROCK, "e-and-a", "1 & 2 & 3 & 4 &"),
        ({KICK: "x..xx.........x."}, "e-and-a", "1 a 2 (3) (4) &"),
        ({KICK: "x..xx.........x."}, "e-and-ah", "1 ah 2 (3) (4) &"),
        ({KICK: "x..xx.........x."}, "e-and-da", "1 da 2 (3) (4) &"),
        ({HAT: "x.xx.xx.xx.x"}, "e-and-a", "1 let 2 let 3 let 4 let"),
        ({HAT: "x.xx.xx.xx.x"}, "e-and-ah", "1 li 2 li 3 li 4 li"),
        ({HAT: "xxxxxx" + "." * 18}, "e-and-a", "1 ta la & ta la (2) (3) (4)"),
        ({HAT: "xxxxxx" + "." * 18}, "e-and-da", "1 ta trip ta let ta (2) (3) (4)"),
        ({HAT: "xxxx" + "." * 28}, "e-and-a", "1 t e t (2) (3) (4)"),
    ],
)
def test_a_bar_is_counted_in_the_words_of_the_school(rows, school, said):
    assert counted(rows, school) == said


def test_bars_are_counted_one_after_the_other():
    piece = song([{KICK: "x..............."}, {KICK: "..x............."}])
    assert spoken_count(piece.bars, piece.hits) == "1 (2) (3) (4) | (1) & (2) (3) (4)"


@pytest.mark.parametrize(("ornament", "said"), [("flam", "ka-2"), ("drag", "ka-ka-2")])
def test_grace_notes_come_before_their_word(ornament, said):
    piece = song([{SNARE: "....x..........."}])
    graced = [replace(hit, ornament=Ornament(ornament)) for hit in piece.hits]
    assert spoken_count(piece.bars, graced) == f"(1) {said} (3) (4)"


def sentences(rows):
    piece = song([rows])
    return coordination(piece.bars, assign_limbs(piece.hits, 4))


def test_what_falls_together_and_between_is_told():
    found = sentences({**ROCK, KICK: "x......x..x....."})
    assert (
        "Kick foot with the right hand on 1 and the & of 3; between its strokes on the a of 2."
        in (found)
    )
    assert "Left hand always lands with the right hand." in found
    assert "Left hand and kick foot never together: it falls between." in found
    assert "Kick foot alone on the a of 2." in found


def test_a_single_limb_has_nothing_to_fall_together_with():
    assert sentences({KICK: "x...x..."}) == ()


def test_the_place_of_a_bar_is_named_in_a_selection():
    piece = song([ROCK, {**ROCK, KICK: "...x............"}])
    found = coordination(piece.bars, assign_limbs(piece.hits, 4))
    assert any("the a of 1 of bar 2" in sentence for sentence in found)
    assert Fraction(3, 16) in {hit.position for hit in piece.hits_of(2)}

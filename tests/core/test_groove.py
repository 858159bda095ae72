"""The groove: its typical bar, its spoken count, its hands and feet."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.groove.count import SCHOOLS, count_ruler, said_in_full, spoken
from orchesis.limbs.assign import assign_limbs
from orchesis.music.instruments import Instrument, Limb
from orchesis.music.values import Meter
from orchesis.practice.click import clicks, count_in
from tests.composing import ROCK, grid, hits, song

KICK, SNARE, HAT = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED
COMMON = Meter(4, 4)


@pytest.mark.parametrize(
    ("position", "word", "full"),
    [
        (Fraction(0), "1", "beat 1"),
        (Fraction(1, 4), "2", "beat 2"),
        (Fraction(7, 16), "a", "the a of 2"),
        (Fraction(5, 16), "e", "the e of 2"),
        (Fraction(3, 8), "&", "the & of 2"),
        (Fraction(1, 12), "trip", "the trip of 1"),
        (Fraction(2, 12), "let", "the let of 1"),
        (Fraction(1, 32), "t", "1/8 into beat 1"),
    ],
)
def test_places_are_said_as_drummers_say_them(position, word, full):
    assert spoken(position, COMMON) == word
    assert said_in_full(position, COMMON) == full


def test_every_place_of_every_ruler_has_a_word_in_every_school():
    for words in SCHOOLS.values():
        for divisions in [(4,) * 4, (3,) * 4, (2, 4, 3, 1), (6,) * 4]:
            bar = grid(1)[0]
            ruled = type(bar)(bar.number, bar.start, bar.end, bar.meter, bar.beats, divisions)
            ruler = count_ruler(ruled, words)
            assert len(ruler) == sum(divisions)
            assert all(word for _, word in ruler)


def limbs_of(rows):
    bar = grid(1)[0]
    strokes = sorted(hits(bar, rows), key=lambda hit: hit.position)
    return {
        (hit.position, hit.instrument): hit.limb for hit in assign_limbs(strokes, bar.meter.beats)
    }


def test_a_rock_beat_is_played_crossed_with_the_right_on_the_hat():
    limbs = limbs_of(ROCK)
    assert limbs[Fraction(0), HAT] is Limb.RIGHT_HAND
    assert limbs[Fraction(1, 4), HAT] is Limb.RIGHT_HAND
    assert limbs[Fraction(1, 4), SNARE] is Limb.LEFT_HAND
    assert limbs[Fraction(0), KICK] is Limb.RIGHT_FOOT


def test_ghosts_between_hats_belong_to_the_left_hand():
    limbs = limbs_of({**ROCK, SNARE: "....X..g.g..X..."})
    assert limbs[Fraction(7, 16), SNARE] is Limb.LEFT_HAND
    assert limbs[Fraction(9, 16), SNARE] is Limb.LEFT_HAND


def test_a_fill_without_a_steady_limb_alternates():
    limbs = limbs_of({SNARE: "xxxxxxxxxxxxxxxx"})
    order = [limbs[Fraction(cell, 16), SNARE] for cell in range(16)]
    assert order == [Limb.RIGHT_HAND, Limb.LEFT_HAND] * 8


def test_a_third_note_for_two_hands_is_an_overdub():
    limbs = limbs_of({HAT: "x...", SNARE: "x...", Instrument.TAMBOURINE: "x..."})
    assert sorted(limb.value for limb in limbs.values() if limb) == ["LH", "RH"]
    assert list(limbs.values()).count(None) == 1


@given(st.lists(st.sampled_from(["x...", ".x..", "xxxx", "x.x."]), min_size=6, max_size=6))
def test_no_limb_ever_plays_two_things_at_once(rows):
    kit = [KICK, SNARE, HAT, Instrument.CRASH, Instrument.TOM_FLOOR, Instrument.HIHAT_FOOT]
    bar = grid(1)[0]
    strokes = assign_limbs(
        sorted(hits(bar, dict(zip(kit, rows, strict=True))), key=lambda hit: hit.position), 4
    )
    busy = [(hit.position, hit.limb) for hit in strokes if hit.limb]
    assert len(busy) == len(set(busy))


@pytest.mark.parametrize(("name", "a_bar"), [("quarters", 4), ("eighths", 8), ("triplets", 12)])
def test_clicks_fall_on_the_song_s_own_beats(name, a_bar):
    piece = song([ROCK] * 2)
    points = clicks(piece, name)
    assert len(points) == 2 * a_bar
    assert [point.time for point in points if point.strength == 2] == [0.5, 2.5]


def test_the_count_in_is_one_bar_and_starts_with_a_one():
    points = count_in(song([ROCK] * 2), 2)
    assert [point.time for point in points] == [-2.0, -1.5, -1.0, -0.5]
    assert [point.strength for point in points] == [2, 1, 1, 1]

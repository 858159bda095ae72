"""Levels of the pulse, and when written notes are due under a song's swing."""

from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.music.values import Feel
from orchesis.rhythm.beats import FASTEST_BPM, tempo_of
from orchesis.rhythm.due import swung_place, written_time
from orchesis.rhythm.levels import FEWEST_BEATS, SLOWEST_BPM, candidate_levels, in_parts
from orchesis.rhythm.swing import FEWEST_PAIRS, swing_from_phases, warp
from tests.composing import ROCK, song

STRAIGHT = Feel(1.0, 1.0)
TRIPLETS = Feel(swing_8=2.0)
RATIOS = st.none() | st.floats(0.8, 3.0)


def steady(bpm, count=32, start=1.0):
    return start + 60.0 / bpm * np.arange(count)


@given(st.integers(1, 6), st.lists(st.floats(0.2, 2.0), min_size=2, max_size=20))
def test_parts_of_beats_are_even_and_the_beats_stay(parts, lengths):
    beats = np.cumsum([0.5, *lengths])
    made = in_parts(beats, parts)
    assert np.allclose(made[::parts], beats)
    assert len(made) == parts * (len(beats) - 1) + 1
    inside = np.diff(made).reshape(-1, parts)
    assert np.allclose(inside, inside[:, :1])


def test_what_one_could_tap_at_120():
    levels = dict(candidate_levels(steady(120)))
    tempi = {name: round(tempo_of(level)) for name, level in levels.items()}
    halves = {"half-0": 60, "half-1": 60}
    assert tempi == {"tracked": 120, "off": 120, **halves} | {f"third-{k}": 40 for k in range(3)}
    assert np.allclose(levels["off"], levels["tracked"][:-1] + 0.25)
    assert np.allclose(np.diff(levels["half-1"]), 1.0)
    assert levels["half-1"][0] == levels["tracked"][1]


@pytest.mark.parametrize("bpm", [48, 70, 100, 150, 200])
def test_nobody_taps_too_slowly_or_too_fast(bpm):
    levels = candidate_levels(steady(bpm))
    assert "tracked" in dict(levels)
    for _, level in levels:
        assert SLOWEST_BPM <= tempo_of(level) <= FASTEST_BPM
        assert len(level) >= FEWEST_BEATS


def test_of_few_beats_there_is_no_half():
    assert "half-0" not in dict(candidate_levels(steady(120, count=FEWEST_BEATS + 2)))
    assert candidate_levels(steady(120, count=FEWEST_BEATS - 1)) == []


@given(RATIOS, RATIOS, st.lists(st.floats(0, 1), min_size=2, max_size=12))
def test_swing_moves_no_beat_and_changes_no_order(eighths, sixteenths, places):
    feel = Feel(swing_8=eighths, swing_16=sixteenths)
    assert (warp(0.0, feel), warp(1.0, feel)) == (0.0, 1.0)
    swung = [warp(place, feel) for place in sorted(places)]
    assert all(one <= other + 1e-12 for one, other in pairwise(swung))


@given(st.floats(0, 1))
def test_straight_is_where_it_is_written(place):
    assert warp(place, STRAIGHT) == pytest.approx(place)
    assert warp(place, Feel()) == pytest.approx(place)


@pytest.mark.parametrize(
    ("feel", "place", "sounds"),
    [
        (TRIPLETS, 0.5, 2 / 3),
        (Feel(swing_8=1.5), 0.5, 0.6),
        (Feel(swing_16=2.0), 0.25, 1 / 3),
        (Feel(swing_16=2.0), 0.5, 0.5),
        (Feel(swing_16=2.0), 0.75, 5 / 6),
    ],
)
def test_where_off_beats_fall(feel, place, sounds):
    assert warp(place, feel) == pytest.approx(sounds)


def test_a_triplet_that_is_written_as_one_is_not_swung_again():
    beat = Fraction(1, 4)
    assert swung_place(Fraction(2, 3) * beat, 4, TRIPLETS) == pytest.approx(2 / 3 / 4)
    assert swung_place(Fraction(1, 2) * beat, 4, TRIPLETS) == pytest.approx(2 / 3 / 4)
    assert swung_place(Fraction(5, 6) * beat, 4, TRIPLETS) == pytest.approx(5 / 6 / 4)


@pytest.mark.parametrize("beat", range(4))
def test_each_beat_of_the_bar_swings_alike(beat):
    place = Fraction(2 * beat + 1, 8)
    assert swung_place(place, 4, TRIPLETS) == pytest.approx((beat + 2 / 3) / 4)
    assert swung_place(Fraction(beat, 4), 4, TRIPLETS) == pytest.approx(beat / 4)


def test_a_note_is_due_where_the_song_swings_it():
    piece = song([ROCK] * 2)
    swung = replace(piece, feel=TRIPLETS)
    # At 120 beats a minute bar 2 begins at 2.5 s; an eighth is a quarter of a second.
    assert written_time(piece, 2, Fraction(1, 8)) == pytest.approx(2.75)
    assert written_time(swung, 2, Fraction(1, 8)) == pytest.approx(2.5 + 1 / 3)
    assert written_time(swung, 2, Fraction(1, 4)) == pytest.approx(3.0)


def phases(*places, times=12):
    return [place for place in places for _ in range(times)]


def test_a_shuffle_is_heard_by_its_late_off_beats():
    feel = swing_from_phases(phases(0.0, 2 / 3))
    assert feel.swing_8 == pytest.approx(2.0, rel=0.01)
    assert feel.swing_16 is None


def test_straight_eighths_and_swung_sixteenths_are_told_apart():
    straight = swing_from_phases(phases(0.0, 0.25, 0.5, 0.75))
    assert straight.swing_8 == pytest.approx(1.0)
    assert straight.swing_16 == pytest.approx(1.0)
    swung = swing_from_phases(phases(0.0, 0.3, 0.5, 0.8))
    assert swung.swing_8 == pytest.approx(1.0)
    assert swung.swing_16 == pytest.approx(1.5)


def test_full_triplets_are_no_swing():
    """Both thirds are struck: that is a metre in three, not a late off-beat."""
    assert swing_from_phases(phases(0.0, 1 / 3, 2 / 3)).swing_8 is None


def test_of_few_pairs_nothing_is_said():
    assert swing_from_phases([]) == Feel()
    assert swing_from_phases(phases(0.0, 0.5, times=FEWEST_PAIRS - 1)).swing_8 is None

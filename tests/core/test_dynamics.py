"""Accents are told within one drum, where its strokes fall into two clear groups."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.groove.dynamics import (
    classify_dynamics,
    has_metric_accents,
    loudness_of,
    mark_accents,
    soft_below,
    split,
    velocity_of,
)
from orchesis.music.instruments import Instrument
from orchesis.music.values import Hit
from tests.composing import grid, hits

HAT, SNARE, KICK = Instrument.HIHAT_CLOSED, Instrument.SNARE, Instrument.KICK


def played(rows, bars=4, scatter=4):
    rng = np.random.default_rng(2)
    strokes = [hit for bar in grid(bars) for hit in hits(bar, rows)]
    return [
        replace(h, accent=False, velocity=int(np.clip(h.velocity + rng.normal(0, scatter), 1, 127)))
        for h in strokes
    ]


def test_isolated_hihat_accents_are_detected():
    strokes = played({HAT: "x.x.x.x.x.x.x.x."}, bars=3)
    strokes = [
        replace(h, velocity=40) if (h.bar, h.position) != (2, Fraction(3, 8)) else h
        for h in strokes
    ]
    marked = {hit.place[:2] for hit in mark_accents(strokes) if hit.accent}
    assert marked == {(2, Fraction(3, 8))}


def test_an_even_hat_has_no_accents():
    assert not any(hit.accent for hit in mark_accents(played({HAT: "x.x.x.x.x.x.x.x."}, scatter=9)))


def test_backbeats_among_ghosts_are_plain_strokes():
    strokes = played({SNARE: "....x.g..g..x..g"}, bars=8)
    assert not any(hit.accent for hit in mark_accents(strokes))


def figure(velocities, bar=1, parts=6, drum=SNARE):
    """Strokes on an even grid from a bar's first beat on, as loud as that."""
    return [
        Hit(0.1 * i, drum, velocity, bar + i // (4 * parts), Fraction(i % (4 * parts), 4 * parts))
        for i, velocity in enumerate(velocities)
    ]


SIX_STROKES = [104, 60, 64, 58, 62, 100]


def accented(strokes, **how):
    return [index for index, hit in enumerate(mark_accents(strokes, **how)) if hit.accent]


def test_accents_are_detected_relative_to_their_figure():
    """The accents of a roll that is played softly are softer than the backbeats of the song."""
    loud = figure([118] * 8, bar=1, parts=2)
    soft_roll = figure([int(0.6 * v) for v in SIX_STROKES * 2], bar=9)
    assert accented([*loud, *soft_roll]) == [8, 13, 14, 19]


@pytest.mark.parametrize("scale", [0.5, 0.8, 1.0])
def test_the_pattern_of_a_six_stroke_roll_is_found_at_any_level(scale):
    assert accented(figure([int(scale * v) for v in SIX_STROKES * 2])) == [0, 5, 6, 11]


def test_a_crescendo_is_no_row_of_accents():
    rising = [50, 56, 62, 68, 74, 80, 86, 92]
    assert len(accented(figure(rising, parts=4))) <= 2


def test_a_hat_that_leans_on_every_beat_is_a_way_of_playing_and_no_accents():
    """Said once, of the groove: two hundred signs would hide the rest."""
    strokes = [h for bar in range(1, 9) for h in figure([100, 60] * 4, bar=bar, parts=2, drum=HAT)]
    assert accented(strokes) == []
    odd = [*strokes[:-8], *figure([100, 60, 60, 60, 60, 104, 60, 60], bar=8, parts=2, drum=HAT)]
    assert has_metric_accents(odd, [hit.velocity > 80 for hit in odd])


def test_velocities_that_were_written_are_taken_at_their_word():
    written = figure([100, 80, 80, 80] * 2, parts=4)
    assert accented(written) == [], "of a recording that is too little to be sure"
    assert [i for i, hit in enumerate(classify_dynamics(written)) if hit.accent] == [0, 4]


def test_ghosts_that_come_in_as_soft_strokes_are_graded():
    soft = classify_dynamics(figure([110, 30, 30, 110, 30, 30, 110, 30] * 4, parts=4))
    assert sum(hit.ghost for hit in soft) == 20
    assert not any(hit.ghost for hit in classify_dynamics(figure([90] * 16, parts=4)))


def test_feet_have_no_accents():
    strokes = played({KICK: "x...x...x...x..."})
    strokes = [replace(h, velocity=40) if h.position else h for h in strokes]
    assert not any(hit.accent for hit in mark_accents(strokes))


def snares(soft, firm, scatter=0.1, seed=4):
    """Loudnesses of so many soft and firm strokes, each (how many, how loud)."""
    rng = np.random.default_rng(seed)
    drawn = [loud * np.exp(rng.normal(0, scatter, count)) for count, loud in (soft, firm)]
    return np.concatenate(drawn)


@pytest.mark.parametrize("ghosts", [8, 30, 90])
def test_ghosts_are_told_however_many_there_are(ghosts):
    loud = snares((ghosts, 0.2), (10, 0.8))
    assert (loud < soft_below(loud)).sum() == ghosts


def test_strokes_of_one_loudness_are_no_ghosts():
    loud = snares((0, 1.0), (40, 0.5))
    assert not (loud < soft_below(loud)).any()


def test_a_backbeat_with_accents_has_no_ghosts():
    loud = snares((30, 0.6), (10, 1.0), scatter=0.05)
    assert not (loud < soft_below(loud)).any()


def test_one_stray_crack_does_not_make_ghosts_of_all_others():
    loud = np.append(snares((0, 1.0), (40, 0.35)), 1.0)
    assert not (loud < soft_below(loud)).any()


def test_no_snare_has_no_ghosts():
    assert soft_below([]) == 0.0


@given(st.integers(1, 127))
def test_a_velocity_is_read_back_as_the_loudness_it_was_written_for(velocity):
    assert velocity_of(loudness_of(velocity)) == velocity


@given(st.lists(st.floats(0.01, 1.0), min_size=1, max_size=60), st.floats(0.1, 1.0))
def test_the_bound_of_ghosts_grows_with_the_song(values, gain):
    assert soft_below([gain * v for v in values]) == pytest.approx(gain * soft_below(values))


@given(st.lists(st.integers(1, 127), max_size=60))
def test_accents_are_always_the_louder_and_the_fewer(values):
    threshold = split(np.array(values, dtype=float))
    if threshold is not None:
        louder = [value for value in values if value >= threshold]
        assert 0 < len(louder) <= 0.6 * len(values)

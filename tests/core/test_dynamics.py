"""Accents are told within one drum, where its strokes fall into two clear groups."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.groove.dynamics import loudness_of, mark_accents, soft_below, split, velocity_of
from orchesis.music.instruments import Instrument
from tests.composing import grid, hits

HAT, SNARE, KICK = Instrument.HIHAT_CLOSED, Instrument.SNARE, Instrument.KICK


def played(rows, bars=4, scatter=4):
    rng = np.random.default_rng(2)
    strokes = [hit for bar in grid(bars) for hit in hits(bar, rows)]
    return [
        replace(h, accent=False, velocity=int(np.clip(h.velocity + rng.normal(0, scatter), 1, 127)))
        for h in strokes
    ]


def test_a_hat_accented_on_the_beat_is_heard_as_such():
    strokes = played({HAT: "X.x.X.x.X.x.X.x."})
    strokes = [replace(h, velocity=h.velocity // 2) if h.position * 8 % 2 else h for h in strokes]
    marked = {hit.position for hit in mark_accents(strokes) if hit.accent}
    assert marked == {hit.position for hit in strokes if hit.position * 4 % 1 == 0}


def test_an_even_hat_has_no_accents():
    assert not any(hit.accent for hit in mark_accents(played({HAT: "x.x.x.x.x.x.x.x."}, scatter=9)))


def test_backbeats_among_ghosts_are_plain_strokes():
    strokes = played({SNARE: "....x.g..g..x..g"}, bars=8)
    assert not any(hit.accent for hit in mark_accents(strokes))


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

"""Accents are told within one drum, where its strokes fall into two clear groups."""

from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from orchesis.groove.dynamics import mark_accents, split
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


@given(st.lists(st.integers(1, 127), max_size=60))
def test_accents_are_always_the_louder_and_the_fewer(values):
    threshold = split(np.array(values, dtype=float))
    if threshold is not None:
        louder = [value for value in values if value >= threshold]
        assert 0 < len(louder) <= 0.6 * len(values)

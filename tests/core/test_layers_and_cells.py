"""Voices that double another, and bars as rows of cells."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from orchesis.groove.cells import Cell, bar_table, belief
from orchesis.groove.layers import FEWEST, doubling_layers
from orchesis.music.instruments import Instrument, Status
from orchesis.music.values import Fill
from tests.composing import ROCK, grid, hits, song

KICK, SNARE, HAT = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED
OPEN, RIDE, SHAKER = Instrument.HIHAT_OPEN, Instrument.RIDE, Instrument.SHAKER
TAMBOURINE, CRASH = Instrument.TAMBOURINE, Instrument.CRASH
EIGHTHS = ROCK[HAT]


def layers(*bars):
    return doubling_layers(song(list(bars)).hits)


def test_a_band_without_doubles_has_none():
    assert layers(*[ROCK] * 8) == ()
    assert doubling_layers([]) == ()


@pytest.mark.parametrize("doubling", [SHAKER, TAMBOURINE, RIDE])
def test_what_goes_with_every_hat_is_a_layer_of_the_hat(doubling):
    (found,) = layers(*[{**ROCK, doubling: EIGHTHS}] * 8)
    assert found.in_unison
    assert {found.instrument, found.doubled} == {doubling, HAT}
    assert len(found.hits) == 64


def test_of_hat_and_shaker_the_shaker_is_the_one_that_may_not_be_there():
    """Although it is struck more often: it plays the intro alone."""
    intro = {**ROCK, HAT: "................", SHAKER: EIGHTHS}
    found = layers(*[{**ROCK, SHAKER: EIGHTHS}] * 24, intro)
    assert [layer.instrument for layer in found] == [SHAKER]
    assert found[0].doubled is HAT


def test_a_voice_that_fills_between_the_hats_is_its_own():
    assert layers(*[{**ROCK, SHAKER: "xxxxxxxxxxxxxxxx"}] * 8) == ()


def test_a_voice_on_every_other_hat_is_its_own():
    assert layers(*[{**ROCK, TAMBOURINE: "....x.......x..."}] * 8) == ()


def test_two_bars_together_are_a_passage():
    both = {**ROCK, RIDE: "x...x...x...x..."}
    assert FEWEST > 8
    assert layers(both, both, *[ROCK] * 6) == ()


def test_open_and_closed_hats_are_one_voice():
    barked = {**ROCK, HAT: "x.x.x.x.x.x.x...", OPEN: "..............x."}
    (found,) = layers(*[{**barked, SHAKER: EIGHTHS}] * 8)
    assert (found.instrument, found.doubled) == (SHAKER, HAT)


def test_a_shaker_that_goes_from_the_hat_to_the_ride_is_the_hiss_of_both():
    verse = {**ROCK, SHAKER: EIGHTHS}
    bridge = {KICK: ROCK[KICK], SNARE: ROCK[SNARE], RIDE: EIGHTHS, SHAKER: EIGHTHS}
    (found,) = layers(*[verse] * 6, *[bridge] * 4)
    assert not found.in_unison
    assert (found.instrument, found.doubled) == (SHAKER, HAT)


def test_so_is_a_faint_one_that_is_hardly_ever_heard_by_itself():
    some = {**ROCK, SHAKER: "x.......x......."}
    piece = song([some] * 8)
    assert doubling_layers(piece.hits) == ()
    faint = [replace(h, confidence=0.4) if h.instrument is SHAKER else h for h in piece.hits]
    (found,) = doubling_layers(faint)
    assert not found.in_unison
    assert len(found.hits) == 16


def test_a_bar_is_a_row_of_the_cells_that_it_plays():
    bars = grid(2)
    played = hits(bars[0], ROCK) + hits(bars[1], {**ROCK, KICK: "x.......x.x....."})
    table = bar_table(bars, played)
    assert table.played.shape == (2, len(table.cells))
    extra = Cell(Fraction(10, 16), KICK)
    column = table.cells.index(extra)
    assert table.played[:, column].tolist() == [0.0, 1.0]
    rest = np.delete(table.played, column, axis=1)
    assert (rest == 1.0).all()
    assert (table.asked == 1.0).all()


def test_how_it_is_played_is_part_of_the_cell():
    bars = grid(3)
    rows = [{SNARE: "x..............."}, {SNARE: "X..............."}, {SNARE: "g..............."}]
    table = bar_table(
        bars, [h for bar, row in zip(bars, rows, strict=True) for h in hits(bar, row)]
    )
    assert set(table.cells) == {
        Cell(Fraction(0), SNARE),
        Cell(Fraction(0), SNARE, accent=True),
        Cell(Fraction(0), SNARE, ghost=True),
    }
    assert (table.played.sum(axis=1) == 1.0).all()


def test_a_doubtful_note_counts_as_far_as_it_is_believed():
    (bar,) = grid(1)
    sure, doubtful = hits(bar, {KICK: "x...x..........."})
    doubtful = replace(doubtful, status=Status.DOUBTFUL, confidence=0.3)
    assert (belief(sure), belief(doubtful)) == (1.0, 0.3)
    assert bar_table([bar], [sure, doubtful]).played.tolist() == [[1.0, 0.3]]


def test_silent_bars_are_not_asked_and_other_bars_are_passed_over():
    bars = grid(3)
    table = bar_table(bars[:2], [*hits(bars[0], ROCK), *hits(bars[2], {CRASH: "x..............."})])
    assert CRASH not in {cell.instrument for cell in table.cells}
    assert (table.asked[0] == 1.0).all()
    assert (table.asked[1] == 0.0).all()


def test_of_a_fill_nothing_is_asked_and_of_what_is_before_it_all():
    (bar,) = grid(1)
    fill = Fill(bar=1, start=bar.time_at(Fraction(3, 4)), end=bar.end)
    table = bar_table([bar], hits(bar, ROCK), [fill])
    late = np.array([cell.position >= Fraction(3, 4) for cell in table.cells])
    assert (table.asked[0, late] == 0.0).all()
    assert (table.played[0, late] == 0.0).all()
    assert (table.asked[0, ~late] == 1.0).all()


def test_a_fill_of_another_bar_changes_nothing():
    bars = grid(2)
    fill = Fill(bar=2, start=bars[1].start, end=bars[1].end)
    table = bar_table(bars[:1], hits(bars[0], ROCK), [fill])
    assert (table.asked == 1.0).all()

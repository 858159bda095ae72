"""Bars as rows of cells: what each bar of a stretch plays, weighed by how sure it is.

A cell is a place, a drum, and whether it is a ghost or an accent; a doubtful note counts as far as
it is believed. Where a bar turns into a fill, its cells say nothing about the groove.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
import numpy.typing as npt

from orchesis.music.instruments import Instrument
from orchesis.music.values import Bar, Fill, Hit, written


@dataclass(frozen=True, slots=True, order=True)
class Cell:
    """A place in the bar, a drum, and how it is played there."""

    position: Fraction
    instrument: Instrument
    ghost: bool = False
    accent: bool = False


@dataclass(frozen=True, slots=True)
class BarTable:
    """Which cells each bar plays.

    bars : the bars, in order. cells : the columns.
    played : shape (bars, cells), 0 to 1. asked : shape (bars, cells), 1 where the bar says
        something about that cell, 0 in silent bars and in fills.
    """

    bars: tuple[Bar, ...]
    cells: tuple[Cell, ...]
    played: npt.NDArray[np.float64]
    asked: npt.NDArray[np.float64]


def belief(hit: Hit) -> float:
    """How much a note counts: an uncertain one as far as it is sure."""
    return hit.confidence if hit.is_uncertain else 1.0


def bar_table(bars: Sequence[Bar], hits: Sequence[Hit], fills: Sequence[Fill] = ()) -> BarTable:
    """The table of these bars; hits of other bars are passed over."""
    row_of = {bar.number: row for row, bar in enumerate(bars)}
    mine = [hit for hit in written(hits) if hit.bar in row_of]
    cells = sorted({Cell(h.position, h.instrument, h.ghost, h.accent) for h in mine})
    column_of = {cell: column for column, cell in enumerate(cells)}
    played = np.zeros((len(bars), len(cells)))
    for hit in mine:
        cell = Cell(hit.position, hit.instrument, hit.ghost, hit.accent)
        played[row_of[hit.bar], column_of[cell]] = belief(hit)
    asked = np.repeat((played.sum(axis=1, keepdims=True) > 0).astype(float), len(cells), axis=1)
    for fill in fills:
        row = row_of.get(fill.bar)
        if row is None:
            continue
        bar = bars[row]
        start = (fill.start - bar.start) / (bar.end - bar.start)
        late = np.array([float(cell.position) >= start - 0.01 for cell in cells], dtype=bool)
        asked[row, late] = 0.0
    return BarTable(tuple(bars), tuple(cells), played * asked, asked)

"""The grid: bars built from beats, and places in it for times.

Bars before the first downbeat and after the last are completed by carrying the nearest tempo on,
so that every hit has a bar; a pick-up bar has the number 0.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from orchesis.music.values import Bar, Meter
from orchesis.rhythm.bars import BarLines
from orchesis.rhythm.beats import Times

PACE = 8
"""Beats of which the pace is carried on before the first and after the last; a single one is early
or late with its stroke."""


def lay_bars(
    beats: Times, lines: BarLines, meter: Meter, *, earliest: float, latest: float
) -> tuple[Bar, ...]:
    """Bars over all beats.

    Parameters
    ----------
    beats : felt beats, seconds. lines : which of them are downbeats.
    meter : of an ordinary bar; bars with more or fewer beats get a metre of their own.
    earliest, latest : seconds of the first and last stroke; bars are added to reach them.
    """
    if len(beats) < 2 or not lines.downbeats:
        return ()
    steps = np.diff(beats)
    opening, closing = float(np.median(steps[:PACE])), float(np.median(steps[-PACE:]))
    count = lines.beats_a_bar
    line = [float(beat) for beat in beats]
    starts = list(lines.downbeats)
    phase = starts[0]
    pick_up = phase > 0 and earliest < beats[phase] - 0.25 * opening
    if pick_up:
        missing = max(0, count - phase)
        line = [line[0] - opening * step for step in range(missing, 0, -1)] + line
        starts = [0, *(start + missing for start in starts)]
    else:
        line = line[phase:]
        starts = [start - phase for start in starts]
    # The last bar is completed, and further ones follow as long as there are strokes.
    ends = [*starts[1:], starts[-1] + count]
    while len(line) <= ends[-1]:
        line.append(line[-1] + closing)
    while line[ends[-1]] < latest + 0.02:
        starts.append(ends[-1])
        ends.append(ends[-1] + count)
        line += [line[-1] + closing * (k + 1) for k in range(count)]
    bars = []
    for index, (start, end) in enumerate(zip(starts, ends, strict=True)):
        parts = end - start
        own = meter if parts == count else meter_of(parts, compound=meter.is_compound)
        bars.append(
            Bar(
                number=index + (0 if pick_up else 1),
                start=line[start],
                end=line[end],
                meter=own,
                beats=tuple(line[start:end]),
                divisions=(4,) * parts,
            )
        )
    return tuple(bars)


def meter_of(beats: int, *, compound: bool) -> Meter:
    """The metre of a bar of so many felt beats; of five, say, there is no compound one."""
    return Meter(3 * beats, 8) if compound and beats in (2, 3, 4) else Meter(beats, 4)


def all_edges(bars: Sequence[Bar]) -> Times:
    """Times of every beat of these bars, and of the end of the last."""
    if not bars:
        return np.empty(0)
    return np.array([beat for bar in bars for beat in bar.beats] + [bars[-1].end])


def place_in_beats(edges: Times, times: Times) -> tuple[Times, Times]:
    """For each time the index of its beat and the place within it, 0 to 1."""
    index = np.clip(np.searchsorted(edges, times, side="right") - 1, 0, len(edges) - 2)
    place = (times - edges[index]) / (edges[index + 1] - edges[index])
    return index.astype(float), place


def with_divisions(bars: Sequence[Bar], divisions: Sequence[int]) -> tuple[Bar, ...]:
    """The same bars, each beat written in the given number of parts (one value a beat)."""
    result, at = [], 0
    for bar in bars:
        count = len(bar.beats)
        result.append(replace(bar, divisions=tuple(divisions[at : at + count])))
        at += count
    return tuple(result)

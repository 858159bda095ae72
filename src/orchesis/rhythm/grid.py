"""The grid: bars built from beats, and places in it for times.

Bars before the first downbeat and after the last are completed by carrying the nearest tempo on,
so that every hit has a bar; a pick-up bar has the number 0.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from orchesis.music.values import Bar, Meter
from orchesis.rhythm.beats import Times


def lay_bars(
    beats: Times, beats_a_bar: int, first: int, *, earliest: float, latest: float
) -> tuple[Bar, ...]:
    """Bars over all beats.

    Parameters
    ----------
    first : index of a beat that is a downbeat.
    earliest, latest : seconds of the first and last stroke; bars are added to reach them.
    """
    if len(beats) < 2:
        return ()
    opening, closing = float(beats[1] - beats[0]), float(beats[-1] - beats[-2])
    line = [float(beat) for beat in beats]
    phase = first % beats_a_bar
    pick_up = phase > 0 and earliest < beats[phase] - 0.25 * opening
    if pick_up:
        missing = beats_a_bar - phase
        line = [line[0] - opening * step for step in range(missing, 0, -1)] + line
    else:
        line = line[phase:]
    while (len(line) - 1) % beats_a_bar or line[-1] < latest + 0.02:
        line.append(line[-1] + closing)
    meter = Meter(beats_a_bar, 4)
    bars = []
    for index in range((len(line) - 1) // beats_a_bar):
        edges = line[index * beats_a_bar : (index + 1) * beats_a_bar + 1]
        bars.append(
            Bar(
                number=index + (0 if pick_up else 1),
                start=edges[0],
                end=edges[-1],
                meter=meter,
                beats=tuple(edges[:-1]),
                divisions=(4,) * beats_a_bar,
            )
        )
    return tuple(bars)


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
        count = bar.meter.beats
        result.append(replace(bar, divisions=tuple(divisions[at : at + count])))
        at += count
    return tuple(result)

"""Fills: where a bar leaves its groove for snare, toms and crashes, and how far back it does.

A bar is compared with the groove around it: the typical bar of the sixteen bars about it. Where the
steady hand stops and snare or toms play what the groove does not, a fill is under way; it lasts
to the end of its bar.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np

from orchesis.music.instruments import TIMEKEEPERS, TOMS, Instrument
from orchesis.music.values import Bar, Fill, Hit, written

AROUND = 8
FEWEST_BARS = 4
FILLING = TOMS | {Instrument.SNARE}
LEAST_STROKES = 3
"""Fewer strokes beyond the groove are a variation."""

LEAST_WITHOUT_TIME = 2
"""So many are a fill where the steady hand has left its cymbal for two beats or more."""


def find_fills(
    bars: Sequence[Bar], hits: Sequence[Hit], sections: Sequence[range] = ()
) -> tuple[Fill, ...]:
    """The fills of a song, in order.

    sections : indices of the bars of each section, where they are known: a bar is then compared
        with its own section only, where that has enough of them.
    """
    by_bar: dict[int, list[Hit]] = defaultdict(list)
    for hit in written(hits):
        by_bar[hit.bar].append(hit)
    found = []
    for index, bar in enumerate(bars):
        span = range(max(0, index - AROUND), min(len(bars), index + AROUND + 1))
        own = next((s for s in sections if index in s and len(s) >= FEWEST_BARS), span)
        near = [bars[i].number for i in own if i != index and len(bars[i].beats) == len(bar.beats)]
        first = _fill_beat(bar, by_bar, near)
        if first is not None:
            found.append(Fill(bar.beats[first], bar.end, bar.number))
    return tuple(found)


def _fill_beat(bar: Bar, by_bar: dict[int, list[Hit]], near: list[int]) -> int | None:
    """The beat on which a fill begins in this bar, from 0; None where there is no fill."""
    mine = by_bar[bar.number]
    if not mine or not near:
        return None
    count = len(bar.beats)

    def beats_of(strokes: list[Hit], kinds: frozenset[Instrument]) -> np.ndarray:
        total = np.zeros(count)
        for hit in strokes:
            if hit.instrument in kinds:
                # Soft strokes between loud ones count half: groove and fill may both have them.
                total[int(hit.position * count)] += 0.5 if hit.ghost else 1.0
        return total

    steady, filling = frozenset(TIMEKEEPERS), frozenset(FILLING)
    usual_steady = np.median([beats_of(by_bar[n], steady) for n in near], axis=0)
    usual_filling = np.median([beats_of(by_bar[n], filling) for n in near], axis=0)
    extra = beats_of(mine, filling) - usual_filling
    gone = beats_of(mine, steady) < 0.5 * np.maximum(usual_steady, 1)
    busy = (extra >= 1) & (gone | (extra >= 2))
    # The hand has left its cymbal and does not come back in this bar: less is a fill then.
    away = _to_the_end(gone & (usual_steady >= 1))
    if away >= 2 and extra[-away:].clip(0).sum() >= LEAST_WITHOUT_TIME:
        return count - away + int(np.flatnonzero(extra[-away:] > 0)[0])
    if not busy[-1] and not (count > 2 and busy[-2]):
        return None
    first = count - 1
    while first > 0 and busy[first - 1]:
        first -= 1
    if not busy[-1]:
        first = min(first, count - 2)
        while first > 0 and busy[first - 1]:
            first -= 1
    return first if extra[first:].clip(0).sum() >= LEAST_STROKES else None


def _to_the_end(beats: np.ndarray) -> int:
    """How many of these beats in a row, up to the last."""
    lacking = np.flatnonzero(~beats)
    return len(beats) - (int(lacking[-1]) + 1 if len(lacking) else 0)


def fill_shares(bars: Sequence[Bar], fills: Sequence[Fill]) -> np.ndarray:
    """1 for each bar that ends in a fill.

    Parameters
    ----------
    bars, fills : of one song.

    Returns
    -------
    Shape (bars,), 0 or 1.
    """
    with_fill = {fill.bar for fill in fills}
    return np.array([1.0 if bar.number in with_fill else 0.0 for bar in bars])

"""Fills: where a bar leaves its groove for snare, toms and crashes, from where exactly to where.

A bar is compared with the groove around it: the typical bar of its section, or of the sixteen bars
about it. Where the steady hand stops and snare or toms play what the groove does not, a fill is
under way. It begins with the first stroke after the last one in time, and ends where time is kept
again: with its bar, as a rule. What fills the end of one bar and goes on over the next is one fill.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from orchesis.music.instruments import FEET, TIMEKEEPERS, TOMS, Instrument
from orchesis.music.values import Bar, Fill, FillDecision, Hit, written

AROUND = 8
FEWEST_BARS = 4
FILLING = TOMS | {Instrument.SNARE}
STEADY = frozenset(TIMEKEEPERS)
LEAST_STROKES = 3
"""Fewer strokes beyond the groove are a variation."""

LEAST_AT_THE_END = 2
"""So many are a fill in the last beat of a phrase, where a tom is among them or a crash follows."""

LEAST_WITHOUT_TIME = 2
"""So many are a fill where the steady hand has left its cymbal for two beats or more."""

USUAL_SHARE = 0.4
"""Of the bars like it: a stroke that so many have belongs to the groove."""

PHRASE_BARS = 4
LONGEST_BARS = 2
"""Of snare and toms without time for longer, the last two bars are the fill."""

GRID_PARTS = 24
"""Places of a fill drawn by hand: the nearest 24th of a beat."""

Place = tuple[Fraction, Instrument]


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
    usual = _Usual(bars, by_bar)
    found: list[Fill] = []
    for index, bar in enumerate(bars):
        span = range(max(0, index - AROUND), min(len(bars), index + AROUND + 1))
        own = next((s for s in sections if index in s and len(s) >= FEWEST_BARS), span)
        near = [bars[i].number for i in own if i != index and len(bars[i].beats) == len(bar.beats)]
        landing = by_bar[bars[index + 1].number] if index + 1 < len(bars) else []
        ends = (index + 1 - own.start) % PHRASE_BARS == 0 or index + 1 == own.stop
        if not by_bar[bar.number] or not near:
            continue
        steady, filling = usual.beats[bar.number]
        usual_steady, usual_filling = usual.of(near, own)
        beats = _Beats(steady, filling - usual_filling, usual_steady)
        first = _fill_beat(bar, by_bar[bar.number], beats, landing if ends else None)
        if first is None:
            continue
        at, until = _exactly(bar, by_bar, usual.places(near, own), first)
        fill = Fill(bar.time_at(at), bar.time_at(until), bar.number, bar.number, at, until)
        found = [*found[:-1], *_joined(found[-1:], fill, by_bar)]
    return tuple(found)


def with_decisions(
    fills: Iterable[Fill], bars: Sequence[Bar], decisions: Sequence[FillDecision]
) -> tuple[Fill, ...]:
    """What was found, with what people said of it: theirs replaces what it overlaps."""
    kept = [
        fill
        for fill in fills
        if not any(min(d.end, fill.end) - max(d.start, fill.start) > 0 for d in decisions)
    ]
    drawn = [drawn_fill(bars, d.start, d.end) for d in decisions if d.is_fill]
    return tuple(sorted([*kept, *(fill for fill in drawn if fill)], key=lambda fill: fill.start))


def drawn_fill(bars: Sequence[Bar], start: float, end: float) -> Fill | None:
    """The fill between two times in seconds, at the nearest places of the grid; None outside."""
    inside = [bar for bar in bars if bar.end > start + 1e-3 and bar.start < end - 1e-3]
    if not inside:
        return None
    at, until = _nearest(inside[0], start), _nearest(inside[-1], end)
    if at == 1 and len(inside) > 1:
        inside, at = inside[1:], Fraction(0)
    if until == 0 and len(inside) > 1:
        inside, until = inside[:-1], Fraction(1)
    first, last = inside[0], inside[-1]
    return Fill(first.time_at(at), last.time_at(until), last.number, first.number, at, until, True)


def _nearest(bar: Bar, time: float) -> Fraction:
    parts = GRID_PARTS * len(bar.beats)
    times = np.array([bar.time_at(Fraction(part, parts)) for part in range(parts + 1)])
    return Fraction(int(np.argmin(np.abs(times - time))), parts)


def _joined(before: Sequence[Fill], fill: Fill, by_bar: dict[int, list[Hit]]) -> list[Fill]:
    """A fill and what leads into it over the bar line: one fill, of at most LONGEST_BARS."""
    if not before:
        return [fill]
    (last,) = before
    adjoins = last.bar == fill.bar - 1 and last.until == 1
    timeless = not any(
        hit.instrument in TIMEKEEPERS and hit.position < fill.at for hit in by_bar[fill.bar]
    )
    if not (adjoins and timeless and fill.bar - last.begins_in < LONGEST_BARS):
        return [last, fill]
    return [replace(fill, start=last.start, first_bar=last.begins_in, at=last.at)]


class _Usual:
    """What the bars about a bar usually play; of a long section worked out once for all of it."""

    def __init__(self, bars: Sequence[Bar], by_bar: dict[int, list[Hit]]) -> None:
        self._by_bar = by_bar
        self.beats = {bar.number: _beats_of(bar, by_bar[bar.number]) for bar in bars}
        self._medians: dict[tuple[range, int], tuple[np.ndarray, np.ndarray]] = {}
        self._places: dict[tuple[range, int], set[Place]] = {}

    def of(self, near: list[int], span: range) -> tuple[np.ndarray, np.ndarray]:
        """Strokes in time and strokes of what fills, of each beat: medians of the bars near."""
        key = (span, len(self.beats[near[0]][0]))
        if key not in self._medians or len(near) < FEW:
            steady = np.median([self.beats[n][0] for n in near], axis=0)
            filling = np.median([self.beats[n][1] for n in near], axis=0)
            if len(near) < FEW:
                return steady, filling
            self._medians[key] = steady, filling
        return self._medians[key]

    def places(self, near: list[int], span: range) -> set[Place]:
        """The strokes that so many of them have that they belong to the groove."""
        key = (span, len(self.beats[near[0]][0]))
        if key not in self._places or len(near) < FEW:
            found = _usual_places(self._by_bar, near)
            if len(near) < FEW:
                return found
            self._places[key] = found
        return self._places[key]


FEW = 12
"""Bars near: of fewer each bar is left out of what it is compared with."""


@dataclass(frozen=True, slots=True)
class _Beats:
    """Of each beat of a bar: strokes in time, strokes beyond what fills usually, time as usual."""

    steady: np.ndarray
    extra: np.ndarray
    usual_steady: np.ndarray


def _beats_of(bar: Bar, strokes: Sequence[Hit]) -> tuple[np.ndarray, np.ndarray]:
    """How many strokes in time, and how many of what fills, each beat has."""
    count = len(bar.beats)
    steady, filling = [0.0] * count, [0.0] * count
    for hit in strokes:
        # The same as int(position * count), which takes longer than all the rest.
        beat = hit.position.numerator * count // hit.position.denominator
        # Soft strokes between loud ones count half: groove and fill may both have them.
        weight = 0.5 if hit.ghost else 1.0
        if hit.instrument in STEADY:
            steady[beat] += weight
        elif hit.instrument in FILLING:
            filling[beat] += weight
    return np.array(steady), np.array(filling)


def _fill_beat(bar: Bar, mine: list[Hit], beats: _Beats, landing: list[Hit] | None) -> int | None:
    """The beat on which a fill begins in this bar, from 0; None where there is no fill.

    landing : what the next bar plays, where this bar is the last of a phrase.
    """
    count = len(bar.beats)
    extra, usual_steady = beats.extra, beats.usual_steady
    gone = beats.steady < 0.5 * np.maximum(usual_steady, 1)
    busy = (extra >= 1) & (gone | (extra >= 2))
    # The hand has left its cymbal and does not come back in this bar: less is a fill then.
    away = _to_the_end(gone & (usual_steady >= 1))
    if away >= 2 and extra[-away:].clip(0).sum() >= LEAST_WITHOUT_TIME:
        return count - away + int(np.flatnonzero(extra[-away:] > 0)[0])
    if away >= 2 and _hits_together(mine, bar, count - away):
        return count - away
    if not busy[-1] and not (count > 2 and busy[-2]):
        return _short_fill(mine, count, extra, gone, usual_steady, landing)
    first = count - 1
    while first > 0 and busy[first - 1]:
        first -= 1
    if not busy[-1]:
        first = min(first, count - 2)
        while first > 0 and busy[first - 1]:
            first -= 1
    if extra[first:].clip(0).sum() >= LEAST_STROKES:
        return first
    return _short_fill(mine, count, extra, gone, usual_steady, landing)


def _short_fill(
    mine: list[Hit],
    count: int,
    extra: np.ndarray,
    gone: np.ndarray,
    usual_steady: np.ndarray,
    landing: list[Hit] | None,
) -> int | None:
    """The last beat of a phrase, given to the drums: a tom in it, or a crash after it."""
    if landing is None or not gone[-1] or not usual_steady[-1]:
        return None
    last = [h for h in mine if h.position * count >= count - 1 and h.instrument in FILLING]
    crashes = any(h.instrument is Instrument.CRASH and h.position == 0 for h in landing)
    told = any(h.instrument in TOMS for h in last) or crashes
    return count - 1 if told and extra[-1] > 0 and len(last) >= LEAST_AT_THE_END else None


def _hits_together(mine: list[Hit], bar: Bar, first: int) -> bool:
    """Breakdown hits: the kit together, two times or more, with rests between, nobody in time."""
    count = len(bar.beats)
    at: dict[Fraction, set[Instrument]] = defaultdict(set)
    for hit in mine:
        if hit.position * count >= first:
            at[hit.position].add(hit.instrument)
    together = [kinds for kinds in at.values() if len(kinds) >= 2 and not kinds <= FEET]
    return len(together) >= LEAST_WITHOUT_TIME and len(together) >= 0.75 * len(at)


def _exactly(
    bar: Bar, by_bar: dict[int, list[Hit]], usual: set[Place], first: int
) -> tuple[Fraction, Fraction]:
    """Where a fill that was found from a beat on begins and ends, as shares of its bar.

    It begins with the first stroke of the hands or the kick after the last one in time, no earlier
    than a beat before; it ends where time is kept again for good.
    """
    count = len(bar.beats)
    mine = sorted(by_bar[bar.number], key=lambda hit: hit.position)
    earliest = Fraction(max(0, first - 1), count)
    beyond = [
        hit.position
        for hit in mine
        if hit.instrument in FILLING
        and hit.position >= earliest
        and not (hit.ghost and hit.position < Fraction(first, count))
        and (hit.position, hit.instrument) not in usual
    ]
    # Strokes of the beat before belong to it where time has stopped before them.
    beat = Fraction(first, count)
    in_time = [h.position for h in mine if h.instrument in TIMEKEEPERS]
    departs = next((p for p in beyond if p >= beat or not any(q >= p for q in in_time)), beat)
    last_in_time = max((p for p in in_time if p < departs), default=Fraction(-1))
    if any(p >= departs for p in in_time if p < beat + Fraction(1, count)):
        # The hand keeps time on through the fill: it begins where the other one departs.
        at = departs
    else:
        at = next(
            (
                hit.position
                for hit in mine
                if last_in_time < hit.position <= departs
                and hit.instrument not in TIMEKEEPERS
                and hit.instrument is not Instrument.HIHAT_FOOT
                and (
                    hit.position >= beat
                    or (not hit.ghost and (hit.position, hit.instrument) not in usual)
                )
            ),
            departs,
        )
        at = at if at >= earliest else departs
    last = max((p for p in beyond if p >= at), default=at)
    again = [p for p in in_time if p > last]
    back = again[0] if again and 1 - again[0] >= Fraction(1, count) else Fraction(1)
    return at, back


def _usual_places(by_bar: dict[int, list[Hit]], near: list[int]) -> set[Place]:
    counts: dict[Place, int] = defaultdict(int)
    for number in near:
        for hit in by_bar[number]:
            counts[hit.position, hit.instrument] += 1
    return {place for place, seen in counts.items() if seen >= USUAL_SHARE * len(near)}


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

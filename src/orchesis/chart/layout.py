"""Lines and pages: how many bars a line holds, and where a page is turned.

Both are shortest paths over all possible breaks, as paragraphs are set (Knuth and Plass, "Breaking
paragraphs into lines", Software: Practice and Experience 11, 1981): dense bars get room, phrases
stay together, a section begins a line, and pages end where a reader can turn them.
Lengths are hundredths of a millimetre.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from orchesis.chart.kept import KeptByIdentity
from orchesis.chart.options import ChartOptions, Notation
from orchesis.chart.ornaments import GRACES
from orchesis.chart.score import Kind, Measure
from orchesis.music.instruments import Status
from orchesis.music.values import Meter

BAR_OVERHEAD = 900.0
COLUMN = 300.0
COLUMN_WITH_COUNT = 360.0
BRACKETS = 180.0
"""What brackets about a head want beside it."""

LIMB_COLUMN = 290.0
LIMB_EDGES = 700.0
GRACE = 200.0
NARROWEST = 1900.0
SIGN = {1: 1300.0, 2: 1900.0, 4: 1900.0}
REST = 2200.0
REPEAT_BAR = 260.0
CLEF = 750.0
METER = 450.0
MOST_WRITTEN = 4
MOST_MEASURES = 8

LOOSE = 0.62
"""A last line that is less full than this is not stretched."""

LINE_COST = 0.3
OFF_PHRASE = 0.35
OFF_PAIR = 0.25


@dataclass(frozen=True, slots=True)
class Line:
    """The measures of one system, and how wide it is."""

    measures: tuple[Measure, ...]
    width: float
    before: Meter | None


def room_of(measure: Measure, options: ChartOptions) -> float:
    """How much of a line a measure wants."""
    ends = REPEAT_BAR * (measure.opens_repeat + bool(measure.times))
    if measure.kind is Kind.REST:
        return REST + ends
    if measure.kind is Kind.REPEAT:
        return SIGN.get(measure.span, SIGN[4]) + ends
    graces = sum(GRACES.get(hit.ornament, 0) for hit in measure.hits if hit.ornament)
    if options.notation is Notation.LIMBS:
        return limb_room(measure) + graces * GRACE + ends
    columns = {hit.position for hit in measure.hits}
    bracketed = {hit.position for hit in measure.hits if hit.ghost or hit.status is Status.DOUBTFUL}
    wide = COLUMN_WITH_COUNT if options.count else COLUMN
    need = len(columns) * wide + len(bracketed) * BRACKETS + graces * GRACE
    return max(NARROWEST, BAR_OVERHEAD + need) + ends


def limb_room(measure: Measure) -> float:
    """How wide a bar of limb lines is: a place in it is a place on the line.

    So the two strokes of one limb that are nearest say it; those of others are on other lines.
    """
    if measure.kind is not Kind.WRITTEN:
        return SIGN[2]
    nearest = Fraction(1, 4)
    places: dict[object, set[Fraction]] = defaultdict(set)
    for hit in measure.hits:
        places[hit.limb].add(hit.position)
    for limb in places.values():
        gaps = [after - before for before, after in pairwise(sorted(limb))]
        nearest = min([nearest, *gaps])
    return max(NARROWEST, LIMB_EDGES + LIMB_COLUMN / float(nearest))


def plan_lines(
    measures: Sequence[Measure], options: ChartOptions, *, width: float
) -> tuple[Line, ...]:
    """The measures as lines of at most that width; each section begins one."""
    lines: list[Line] = []
    run: list[Measure] = []
    before: Meter | None = None
    for measure in (*measures, None):
        if measure is not None and not (measure.heading and run):
            run.append(measure)
            continue
        if run:
            lines += kept_lines.get(
                run,
                (options, width, before),
                lambda run=run, before=before: tuple(  # type: ignore[misc]
                    _run_lines(run, options, width, before)
                ),
            )
            before = run[-1].meter
        run = [measure] if measure is not None else []
    return tuple(lines)


kept_lines: KeptByIdentity[tuple[Line, ...]] = KeptByIdentity(256)


def _run_lines(
    run: Sequence[Measure], options: ChartOptions, width: float, before: Meter | None
) -> list[Line]:
    rooms = [room_of(measure, options) for measure in run]
    bars = [0]
    for measure in run:
        bars.append(bars[-1] + (measure.span if measure.kind is not Kind.WRITTEN else 1))

    def need(start: int, end: int) -> float:
        meters = [before if start == 0 else run[start - 1].meter]
        meters += [measure.meter for measure in run[start:end]]
        changes = sum(a != b for a, b in pairwise(meters))
        return CLEF + changes * METER + sum(rooms[start:end])

    def cost(start: int, end: int) -> float | None:
        inside = run[start:end]
        full = need(start, end) / width
        many = sum(measure.kind is Kind.WRITTEN for measure in inside) > MOST_WRITTEN
        if len(inside) > 1 and (full > 1 or many or len(inside) > MOST_MEASURES):
            return None
        loose = max(0.0, 1.0 - full)
        if end == len(run):
            return LINE_COST + 0.2 * loose
        off = OFF_PHRASE * (bars[end] % 4 != 0) + OFF_PAIR * (bars[end] % 2 != 0)
        return LINE_COST + loose**2 + off

    lines = []
    for start, end in shortest_breaks(len(run), cost):
        full = need(start, end)
        stretched = end < len(run) or full >= LOOSE * width
        lines.append(
            Line(
                tuple(run[start:end]),
                width if stretched else min(width, full * 1.12),
                before if start == 0 else run[start - 1].meter,
            )
        )
    return lines


TURN_COST = {"section": 0.0, "phrase": 0.03, "rest": 0.02, "else": 0.2}
"""What it costs to turn the page there."""


def plan_pages(
    heights: Sequence[float],
    turns: Sequence[str],
    *,
    first_room: float,
    room: float,
    gap: float,
) -> list[tuple[int, int]]:
    """Which blocks stand on which page.

    Parameters
    ----------
    heights : of each block, from top to bottom.
    turns : for each block what a page turn after it is: a key of TURN_COST.
    first_room, room : height for blocks on the first page and on the others.
    """

    def cost(start: int, end: int) -> float | None:
        height = sum(heights[start:end]) + gap * (end - start - 1)
        have = first_room if start == 0 else room
        if height > have and end - start > 1:
            return None
        loose = max(0.0, 1.0 - height / have)
        if end == len(heights):
            return 1.0
        return 1.0 + loose**2 + TURN_COST[turns[end - 1]]

    return shortest_breaks(len(heights), cost)


def shortest_breaks(count: int, cost: Callable[[int, int], float | None]) -> list[tuple[int, int]]:
    """The cheapest way to cut `count` things into stretches; None from `cost` forbids one."""
    best: list[tuple[float, int]] = [(0.0, 0)]
    for end in range(1, count + 1):
        options = []
        for start in range(end - 1, -1, -1):
            price = cost(start, end)
            if price is None and end - start > MOST_MEASURES * 4:
                break
            if price is not None:
                options.append((best[start][0] + price, start))
        best.append(min(options))
    cuts = []
    end = count
    while end:
        start = best[end][1]
        cuts.append((start, end))
        end = start
    return cuts[::-1]

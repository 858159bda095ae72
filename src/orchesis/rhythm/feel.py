"""Feel: how the beat is divided and how unevenly, with how sure that is.

A ratio long:short comes from where the strokes between the beats really fall; its confidence
interval is that of the median of those places (order statistics), so that it tells how many pairs
it rests on. The steady hand and the ghosts are measured apart: a straight hat over swung ghosts is
a feel of its own.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from orchesis.music.instruments import TIMEKEEPERS, Instrument
from orchesis.music.values import Bar, Feel, Hit, written
from orchesis.rhythm.ternary import LEFT_OUT_BELOW

FEWEST_PAIRS = 8
FINE_INTERVAL = 0.06
"""A ratio whose interval is narrower than this is known to two places."""

STRAIGHT_UP_TO, SHUFFLE_FROM = 1.12, 1.75
PARTS = 24
"""Places within the beat are told apart as 24ths: sixteenths and thirds are whole numbers."""
HALF, QUARTER, LAST_QUARTER = 12, 6, 18
THIRDS = (8, 16)


@dataclass(frozen=True, slots=True)
class Ratio:
    """Long:short, with its 95 % interval and the number of pairs that it rests on."""

    value: float
    low: float
    high: float
    pairs: int

    def __str__(self) -> str:
        digits = 2 if self.high - self.low < FINE_INTERVAL else 1
        value, low, high = (f"{one:.{digits}f}" for one in (self.value, self.low, self.high))
        around = f" ({low} to {high})" if low != high else ""
        return f"{value} : 1{around}"


@dataclass(frozen=True, slots=True)
class FeelReport:
    """What was measured, and one sentence of it.

    subdivision : "quarters", "eighths", "triplets" or "sixteenths".
    compound : three eighths a beat.
    shuffle : the steady hand leaves the middle of three out.
    offbeats : for each stroke between beats its place, 0 to 1, for the picture.
    """

    subdivision: str
    swing_8: Ratio | None
    swing_16: Ratio | None
    hands_16: Ratio | None
    ghosts_16: Ratio | None
    half_time: bool
    offbeats: tuple[float, ...]
    words: str
    compound: bool = False
    shuffle: bool = False


def ratio_of(places: Sequence[float]) -> Ratio | None:
    """The ratio of pairs whose second stroke falls at these places (0 to 1) between two others."""
    if len(places) < FEWEST_PAIRS:
        return None
    ordered = np.sort(np.clip(np.asarray(places), 0.05, 0.95))
    count = len(ordered)
    reach = 0.98 * np.sqrt(count)
    low = ordered[max(0, int(count / 2 - reach))]
    high = ordered[min(count - 1, int(np.ceil(count / 2 + reach)) - 1)]
    middle = float(np.median(ordered))

    def as_ratio(place: float) -> float:
        return float(place / (1.0 - place))

    return Ratio(as_ratio(middle), as_ratio(low), as_ratio(high), count)


BINS = 48
"""Of a beat, for the picture of where notes fall."""


def places_in_beat(
    bars: Sequence[Bar], hits: Sequence[Hit], instruments: frozenset[Instrument]
) -> tuple[int, ...]:
    """How many strokes of these drums fall in each BINS-th of a beat, from -1/2 bin on."""
    by_number = {bar.number: bar for bar in bars}
    counts = [0] * BINS
    for hit in written(hits):
        bar = by_number.get(hit.bar)
        if bar is None or hit.instrument not in instruments:
            continue
        edges = (*bar.beats, bar.end)
        index = min(max(bisect_right(edges, hit.time) - 1, 0), len(edges) - 2)
        place = (hit.time - edges[index]) / (edges[index + 1] - edges[index])
        counts[round(place * BINS) % BINS] += 1
    return tuple(counts)


def _split(position: Fraction, beats: int) -> tuple[int, int]:
    """The beat, from 0, and how many 24ths of a beat after it; -1 where it is no whole number."""
    place = PARTS * beats * position.numerator
    whole, rest = divmod(place, position.denominator)
    beat, within = divmod(whole, PARTS)
    return beat, -1 if rest else within


_Placed = list[tuple[Hit, int, float]]
FEWEST_ON_BEATS = 8

VOICES: tuple[frozenset[Instrument], ...] = (
    TIMEKEEPERS,
    frozenset({Instrument.SNARE, Instrument.CROSS_STICK, Instrument.CLAP}),
    frozenset({Instrument.KICK}),
)
"""Drums that sit together against the grid."""


def _without_pocket(placed: _Placed) -> _Placed:
    """The places less how late each voice is on the beats.

    A snare that sits behind the beat has its ghosts behind too: that is pocket, and would be read
    as swing.
    """
    late: dict[Instrument, float] = {}
    for voice in VOICES:
        on_beats = [p for hit, within, p in placed if hit.instrument in voice and within == 0]
        if len(on_beats) >= FEWEST_ON_BEATS:
            late |= dict.fromkeys(voice, float(np.median(on_beats)))
    return [(hit, within, place - late.get(hit.instrument, 0.0)) for hit, within, place in placed]


def feel_report(bars: Sequence[Bar], hits: Sequence[Hit], *, half_time: bool) -> FeelReport:
    """The feel of these bars."""
    by_number = {bar.number: bar for bar in bars}
    placed = []
    for hit in written(hits):
        bar = by_number.get(hit.bar)
        if bar is None:
            continue
        beat, within = _split(hit.position, len(bar.beats))
        edges = (*bar.beats, bar.end)
        length = edges[beat + 1] - edges[beat]
        placed.append((hit, within, (hit.time - edges[beat]) / length))
    placed = _without_pocket(placed)
    eighths = [place for _, within, place in placed if within == HALF]
    ratio_8 = ratio_of(eighths)
    half = float(np.median(eighths)) if len(eighths) >= FEWEST_PAIRS else 0.5

    def sixteenths(chosen: list[tuple[Hit, int, float]]) -> list[float]:
        first = [place / half for _, within, place in chosen if within == QUARTER]
        second = [(p - half) / (1 - half) for _, within, p in chosen if within == LAST_QUARTER]
        return first + second

    hands = [item for item in placed if item[0].instrument in TIMEKEEPERS]
    ghosts = [item for item in placed if item[0].ghost]
    thirds = sum(1 for _, within, _ in placed if within in THIRDS)
    quarters = sum(1 for _, within, _ in placed if within in (QUARTER, LAST_QUARTER))
    between = max(1, sum(1 for _, within, _ in placed if within))
    subdivision = "quarters"
    if thirds > 0.4 * between:
        subdivision = "triplets"
    elif quarters > 0.12 * between:
        subdivision = "sixteenths"
    elif eighths:
        subdivision = "eighths"
    report = FeelReport(
        subdivision=subdivision,
        swing_8=ratio_8,
        swing_16=ratio_of(sixteenths(placed)),
        hands_16=ratio_of(sixteenths(hands)),
        ghosts_16=ratio_of(sixteenths(ghosts)),
        half_time=half_time,
        offbeats=tuple(round(place, 3) for _, within, place in placed if within),
        words="",
        compound=bool(bars) and bars[0].meter.is_compound,
        shuffle=_is_shuffle(hands),
    )
    return replace(report, words=_sentence(report))


def _is_shuffle(hands: _Placed) -> bool:
    """Whether the steady hand plays the last of three and leaves the middle one out."""
    middle, last = (sum(1 for _, within, _ in hands if within == third) for third in THIRDS)
    return last >= FEWEST_PAIRS and middle < LEFT_OUT_BELOW * last


SAME_FEEL = 0.5
"""Of a ratio: so near it is a better value of what was found before."""


def measured_feel(bars: Sequence[Bar], hits: Sequence[Hit], feel: Feel) -> Feel:
    """The feel with its ratios as the written strokes have them, pocket taken out.

    Before strokes have names and places, what sits late as a whole cannot be told from what swings.
    """
    report = feel_report(bars, hits, half_time=feel.half_time)

    def better(before: float | None, found: Ratio | None) -> float | None:
        if before is None or found is None or abs(found.value - before) > SAME_FEEL:
            return before
        return found.value

    return replace(
        feel,
        swing_8=better(feel.swing_8, report.swing_8),
        swing_16=better(feel.swing_16, report.swing_16),
    )


def _sentence(report: FeelReport) -> str:
    lead = "Half-time, " if report.half_time else ""
    swing_8, swing_16 = report.swing_8, report.swing_16
    if swing_8 and swing_8.low > STRAIGHT_UP_TO:
        kind = "a shuffle" if swing_8.value >= SHUFFLE_FROM else "swung eighths"
        said = f"{kind}: the off-beats lean to {swing_8}."
    elif report.compound:
        said = "three eighths a beat, even."
    elif report.subdivision == "triplets":
        said = "a shuffle in triplets." if report.shuffle else "triplets, even."
    elif swing_16 and swing_16.low > STRAIGHT_UP_TO:
        hat, soft = report.hands_16, report.ghosts_16
        if hat and soft and hat.high < STRAIGHT_UP_TO < soft.low:
            said = f"a straight hat over swung ghosts, {soft}."
        else:
            said = f"swung sixteenths over straight eighths, {swing_16}."
    elif report.subdivision == "quarters":
        said = "quarters; nothing falls between the beats."
    else:
        said = f"straight {report.subdivision}."
    said = lead + said
    return said[0].upper() + said[1:]

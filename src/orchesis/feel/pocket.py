"""Pocket: how far each voice is from the grid, how that moves over the song, who waits for whom.

Only places where the grid says exactly when a stroke is due are asked: off-beats are expected
where the song's own swing puts them. Medians with intervals by order statistics; trends by Theil
and Sen's slope (Sen, "Estimates of the regression coefficient based on Kendall's tau", JASA 1968).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
import numpy.typing as npt
from scipy.stats import theilslopes

from orchesis.listening.levels import interval_of_median
from orchesis.music.instruments import TIMEKEEPERS, Instrument
from orchesis.music.values import Bar, Feel, Hit, written

FEWEST = 12
"""Strokes: of fewer nothing is said."""

FEWEST_FOR_A_TREND = 40
FARTHEST_MS = 70.0
"""What is farther off is another place, or no stroke."""

ON_THE_GRID_MS = 4.0
"""Nearer than anybody hears."""

CLEAR_TREND_MS = 3.0
"""Over the whole song: a trend below it is none."""

Offsets = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Voice:
    """Strokes that are felt as one part."""

    name: str
    instruments: frozenset[Instrument]
    ghosts: bool = False


VOICES: tuple[Voice, ...] = (
    Voice("hat and ride", frozenset(TIMEKEEPERS)),
    Voice("backbeat", frozenset({Instrument.SNARE, Instrument.CROSS_STICK, Instrument.CLAP})),
    Voice("ghosts", frozenset({Instrument.SNARE}), ghosts=True),
    Voice("kick", frozenset({Instrument.KICK})),
    Voice("foot hat", frozenset({Instrument.HIHAT_FOOT})),
)


@dataclass(frozen=True, slots=True)
class Pocket:
    """How far one voice is from the grid, in milliseconds; behind is positive.

    low, high : 95 % interval of the median. spread : median distance from it. trend : ms over the
    whole song, None where none is clear. points : seconds and ms of each stroke, for the picture.
    """

    voice: str
    ms: float
    low: float
    high: float
    spread: float
    strokes: int
    trend: float | None
    points: tuple[tuple[float, float], ...]


def expected_place(within: Fraction, feel: Feel) -> float:
    """Where in the beat a place is due under the song's swing: 0 to 1.

    The eighth off-beat moves first, then the sixteenths between eighths, each pair in the ratio
    long:short. Thirds of a beat are where they are.
    """
    if (within * 4).denominator != 1:
        return float(within)
    half = _share(feel.swing_8)
    quarter = _share(feel.swing_16)
    knots = [0.0, half * quarter, half, half + (1.0 - half) * quarter, 1.0]
    return knots[int(within * 4)]


def _share(ratio: float | None) -> float:
    return 0.5 if ratio is None else ratio / (1.0 + ratio)


def offsets(
    bars: Sequence[Bar], hits: Sequence[Hit], feel: Feel, voice: Voice
) -> tuple[Offsets, Offsets]:
    """When each stroke of a voice sounds, and how far it is behind the grid.

    Parameters
    ----------
    bars, hits, feel : of the song. voice : whose strokes.

    Returns
    -------
    Seconds, and milliseconds, each of shape (n,), in order.
    """
    by_number = {bar.number: bar for bar in bars}
    times, late = [], []
    for hit in written(hits):
        bar = by_number.get(hit.bar)
        if bar is None or hit.instrument not in voice.instruments or hit.ghost != voice.ghosts:
            continue
        if hit.ornament is not None or hit.settled:
            continue
        count = len(bar.beats)
        beat = int(hit.position * count)
        edges = (*bar.beats, bar.end)
        place = expected_place(hit.position * count - beat, feel)
        due = edges[beat] + place * (edges[beat + 1] - edges[beat])
        behind = 1000 * (hit.time - due)
        if abs(behind) <= FARTHEST_MS:
            times.append(hit.time)
            late.append(behind)
    order = np.argsort(times)
    return np.array(times, np.float64)[order], np.array(late, np.float64)[order]


def pockets(bars: Sequence[Bar], hits: Sequence[Hit], feel: Feel) -> tuple[Pocket, ...]:
    """The pocket of every voice that has strokes enough."""
    found = []
    for voice in VOICES:
        times, late = offsets(bars, hits, feel, voice)
        if len(late) < FEWEST:
            continue
        low, high = interval_of_median(np.sort(late))
        middle = float(np.median(late))
        found.append(
            Pocket(
                voice=voice.name,
                ms=middle,
                low=low,
                high=high,
                spread=float(np.median(np.abs(late - middle))),
                strokes=len(late),
                trend=_trend(times, late),
                points=tuple(zip(times.tolist(), late.tolist(), strict=True)),
            )
        )
    return tuple(found)


def _trend(times: Offsets, late: Offsets) -> float | None:
    """How much later at the end than at the beginning; None where that may be nothing."""
    if len(late) < FEWEST_FOR_A_TREND:
        return None
    slope, _, low, high = theilslopes(late, times, alpha=0.95)
    span = float(times[-1] - times[0])
    clear = low * high > 0 and abs(slope * span) >= CLEAR_TREND_MS
    return float(slope * span) if clear else None


def pocket_words(pocket: Pocket) -> str:
    """Where a voice sits, in one sentence: "The backbeat sits 12 ms behind the grid (10 to 14)"."""
    plural = pocket.voice in ("ghosts", "hat and ride")
    name, sits = f"The {pocket.voice}", "sit" if plural else "sits"
    trend = ""
    if pocket.trend is not None:
        trend = f", and {abs(pocket.trend):.0f} ms {'later' if pocket.trend > 0 else 'earlier'} "
        trend += "at the end than at the beginning"
    if abs(pocket.ms) < ON_THE_GRID_MS and pocket.low <= 0 <= pocket.high + ON_THE_GRID_MS:
        return f"{name} {sits} on the grid{trend}."
    where = "behind" if pocket.ms > 0 else "ahead of"
    low, high = sorted((abs(pocket.low), abs(pocket.high)))
    return (
        f"{name} {sits} {abs(pocket.ms):.0f} ms {where} the grid ({low:.0f} to {high:.0f}){trend}."
    )


def pocket_advice(found: Sequence[Pocket]) -> str:
    """What to do at the kit, from who waits for whom."""
    by_voice = {pocket.voice: pocket for pocket in found}
    hat, back = by_voice.get("hat and ride"), by_voice.get("backbeat")
    if hat is None or back is None:
        return "There are too few strokes to say who waits for whom."
    apart = back.ms - hat.ms
    if apart - _doubt(hat, back) > ON_THE_GRID_MS:
        return (
            f"The backbeat waits {apart:.0f} ms for the hat: keep the right hand on the click and "
            "let the left one fall late."
        )
    if apart + _doubt(hat, back) < -ON_THE_GRID_MS:
        return (
            f"The backbeat comes {-apart:.0f} ms before the hat: lean into two and four, and do "
            "not let the hat hurry after it."
        )
    return "Hands and feet fall together: aim all of them at the click."


def _doubt(one: Pocket, other: Pocket) -> float:
    return float(np.hypot((one.high - one.low) / 2, (other.high - other.low) / 2))

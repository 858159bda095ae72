"""The tempo report: how fast, how steady, with a click or without."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from orchesis.music.values import Bar

CLICK_RANGE = 0.012
"""A click keeps every stretch of four bars within 1.2 % of the others."""

STRETCH_BARS = 4
STEP = 0.05
"""Share by which a tempo differs from the one before to be another tempo, and no drift."""

FEWEST_BARS = 8


@dataclass(frozen=True, slots=True)
class TempoReport:
    """Beats a minute. `curve` has a (seconds, tempo) pair for each bar.

    drift : (fastest - slowest) / median over stretches of four bars, within one tempo where the
    song has several. click : whether it was played to one; None where the song is too short to say.
    """

    median: float
    slowest: float
    fastest: float
    drift: float
    click: bool | None
    curve: tuple[tuple[float, float], ...]
    words: str


def tempo_report(bars: Sequence[Bar]) -> TempoReport:
    """How the tempo runs over these bars."""
    curve = tuple((bar.start, 60.0 * len(bar.beats) / (bar.end - bar.start)) for bar in bars)
    if not curve:
        return TempoReport(0.0, 0.0, 0.0, 0.0, None, (), "No steady tempo was found.")
    tempi = np.array([tempo for _, tempo in curve])
    stretches = _stretches(tempi)
    if len(stretches) > 1 and all(
        len(_select_steady(tempi[a:b])) >= STRETCH_BARS for a, b in stretches
    ):
        return _of_stretches(bars, curve, tempi, stretches)
    width = min(STRETCH_BARS, len(tempi))
    calm = np.convolve(tempi, np.ones(width) / width, mode="valid")
    median = float(np.median(tempi))
    slowest, fastest = float(calm.min()), float(calm.max())
    drift = (fastest - slowest) / median
    click = drift < CLICK_RANGE if len(bars) >= FEWEST_BARS else None
    spread = f"between {slowest:.1f} and {fastest:.1f}, {drift:.1%} apart over stretches of 4 bars"
    if click is None:
        words = f"{median:.1f} beats a minute; too few bars to say whether there was a click."
    elif click:
        words = f"Steady at {median:.1f}: {spread}, as to a click."
    else:
        third = max(1, len(tempi) // 3)
        change = float(tempi[-third:].mean() / tempi[:third].mean() - 1)
        how = "breathes"
        if abs(change) > 0.6 * drift and abs(change) > 0.008:
            how = "speeds up" if change > 0 else "slows down"
        words = f"It {how}: {spread}. Played without a click, most likely."
    return TempoReport(median, slowest, fastest, drift, click, curve, words)


def _stretches(tempi: np.ndarray) -> list[tuple[int, int]]:
    """Where a song keeps one tempo: first bar and the one after the last, as indices.

    A new stretch begins where the four bars ahead differ by STEP from the four before.
    """
    cuts = [0]
    place = STRETCH_BARS
    while place <= len(tempi) - STRETCH_BARS:
        if _step(tempi, place) >= STEP:
            near = range(place, min(place + STRETCH_BARS, len(tempi) - STRETCH_BARS + 1))
            place = max(near, key=lambda at: _step(tempi, at))
            cuts.append(place)
            place += STRETCH_BARS
        else:
            place += 1
    return list(pairwise([*cuts, len(tempi)]))


def _select_steady(own: np.ndarray) -> np.ndarray:
    """The bars of a stretch at its tempo; those at its ends are on their way to another."""
    steady: np.ndarray = own[np.abs(own / np.median(own) - 1) < STEP / 2]
    return steady


def _step(tempi: np.ndarray, place: int) -> float:
    before = float(np.median(tempi[place - STRETCH_BARS : place]))
    return abs(float(np.median(tempi[place : place + STRETCH_BARS])) / before - 1)


def _of_stretches(
    bars: Sequence[Bar],
    curve: tuple[tuple[float, float], ...],
    tempi: np.ndarray,
    stretches: Sequence[tuple[int, int]],
) -> TempoReport:
    """The report of a song that changes its tempo: each one, and whether each is steady."""
    phrases, drifts = [], []
    for first, after in stretches:
        steady = _select_steady(tempi[first:after])
        middle = float(np.median(steady))
        calm = np.convolve(steady, np.ones(STRETCH_BARS) / STRETCH_BARS, mode="valid")
        drifts.append(float((calm.max() - calm.min()) / middle))
        where = f" from bar {bars[first].number}" if first else ""
        phrases.append(f"{middle:.1f}{where}")
    drift = max(drifts)
    click = drift < CLICK_RANGE
    how = "Steady within each, as to a click." if click else "Played without a click, most likely."
    words = f"The tempo changes: {', '.join(phrases)}. {how}"
    median = float(np.median(tempi))
    return TempoReport(median, float(tempi.min()), float(tempi.max()), drift, click, curve, words)

"""The tempo report: how fast, how steady, with a click or without."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orchesis.music.values import Bar

CLICK_RANGE = 0.012
"""A click keeps every stretch of four bars within 1.2 % of the others."""

STRETCH_BARS = 4
FEWEST_BARS = 8


@dataclass(frozen=True, slots=True)
class TempoReport:
    """Beats a minute. `curve` has a (seconds, tempo) pair for each bar.

    drift : (fastest - slowest) / median over stretches of four bars. click : whether it was played
    to one; None where the song is too short to say.
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

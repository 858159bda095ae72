"""How long it takes to find the kin of a groove among ten thousand bars, and a chain of stages."""

from __future__ import annotations

import statistics
import time
from collections.abc import Hashable

import numpy as np

from orchesis.groove.kinship import PARTS, PLACES, Library

BARS = 10_000
QUESTIONS = 25
SIXTEENTH = PARTS // 4


def some_bar(rng: np.random.Generator) -> int:
    """A bar of common shape: eighths on the hat, a backbeat, kicks and ghosts where they fall."""
    value = 0
    for voice, chances in (
        (2, [1.0, 0.15] * 8),
        (1, [0.05, 0.1, 0.1, 0.15, 0.95, 0.1, 0.1, 0.35] * 2),
        (0, [0.95, 0.05, 0.3, 0.2, 0.05, 0.1, 0.4, 0.2] * 2),
    ):
        for cell, chance in enumerate(chances):
            if rng.random() < chance:
                value |= 1 << (voice * PLACES + cell * SIXTEENTH)
    return value


def measure() -> dict[str, float]:
    """Median milliseconds of each."""
    rng = np.random.default_rng(11)
    bars: dict[Hashable, int] = {number: some_bar(rng) for number in range(BARS)}
    began = time.perf_counter()
    library = Library(bars)
    built = 1000 * (time.perf_counter() - began)
    kin, chains = [], []
    for _ in range(QUESTIONS):
        start, goal = (bars[int(number)] for number in rng.integers(0, BARS, 2))
        began = time.perf_counter()
        library.relatives(start)
        kin.append(1000 * (time.perf_counter() - began))
        began = time.perf_counter()
        library.chain(start, goal)
        chains.append(1000 * (time.perf_counter() - began))
    return {
        "library of 10,000 bars": built,
        "kin of a bar": statistics.median(kin),
        "chain of stages": statistics.median(chains),
    }


def table(figures: dict[str, float]) -> str:
    """As a table."""
    rows = "\n".join(f"| {name} | {value:.0f} |" for name, value in figures.items())
    return f"| what | median ms |\n|---|---|\n{rows}"

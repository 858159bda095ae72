"""Lessons for the bar network: every level of a song in numbers, with what is true of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orchesis.rhythm.described import describe_beats
from orchesis.rhythm.find import ways_of
from orchesis.rhythm.levels import candidate_levels
from training.metre_songs import Case

NEAR = 0.07
"""Seconds."""

RIGHT_F = 0.9
"""From here on a level counts as the felt one."""

FEWEST_BEATS = 12


@dataclass
class Row:
    """One level of one song: its beats described; truths; which song."""

    song: int
    name: str
    table: np.ndarray
    down: np.ndarray
    known: np.ndarray
    is_right: bool


def rows_of(number: int, case: Case) -> list[Row]:
    """Every level of a song, of its beats as tracked and as one pulse."""
    heard = case.heard
    if len(case.beats) < FEWEST_BEATS:
        return []
    true, ones = np.array(case.beats), np.array(case.downbeats)
    rows = []
    for beats in ways_of(heard):
        if len(beats) < FEWEST_BEATS:
            continue
        for name, level in candidate_levels(beats):
            inside = (level > true[0] - NEAR) & (level < true[-1] + NEAR)
            hits = near(level, true)
            inner = (true > level[0] - NEAR) & (true < level[-1] + NEAR)
            f = 2 * hits.sum() / max(1, inside.sum() + inner.sum())
            table = describe_beats(heard, level)
            rows.append(Row(number, name, table, near(level, ones), inside, f >= RIGHT_F))
    return rows


def near(times: np.ndarray, others: np.ndarray) -> np.ndarray:
    """Which of these times have one of the others near."""
    if not len(others):
        return np.zeros(len(times), bool)
    index = np.clip(np.searchsorted(others, times), 1, len(others) - 1)
    gap = np.minimum(np.abs(others[index] - times), np.abs(others[index - 1] - times))
    return gap < NEAR

"""How far somebody is with what a teacher gave him: there, at it, stuck, or not begun.

What a teacher asks at a glance: who needs me? By rule, from the log alone, so that student and
teacher are told the same.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum

from orchesis.practice.schedule import Feeling

REACHED = 0.98
"""Of the tempo asked for: nobody hears the rest."""

PASSES_TO_BE_THERE = 2
"""Passes in a row at that tempo: one alone may be luck."""

DAYS_LOOKED_AT = 14
DAYS_OF_PLAY_TO_BE_STUCK = 3
GAIN = 0.02
"""Of the tempo asked for: who gains less in so many days of play does not get on."""


class Standing(StrEnum):
    """Where somebody stands."""

    NOT_BEGUN = "not begun"
    AT_IT = "at it"
    STUCK = "stuck"
    THERE = "there"


@dataclass(frozen=True, slots=True)
class Effort:
    """An entry of the log for the thing that was given. bpm : the tempo it was played at."""

    day: date
    bpm: float
    loops: int
    minutes: float
    feeling: Feeling


@dataclass(frozen=True, slots=True)
class Progress:
    """How far somebody is. best_bpm : the highest tempo that he held, 0 where none."""

    standing: Standing
    best_bpm: float
    minutes: float
    days: int
    last: date | None
    words: str


def progress(
    efforts: Sequence[Effort], bpm: float, today: date, due: date | None = None
) -> Progress:
    """Say where somebody stands.

    Parameters
    ----------
    efforts : what he played of it, in any order.
    bpm : the tempo that was asked for.
    due : the day by which it was asked for.
    """
    ordered = sorted(efforts, key=lambda one: one.day)
    held = [one for one in ordered if _is_held(one)]
    best = max((one.bpm for one in held), default=0.0)
    days = sorted({one.day for one in ordered})
    standing = _standing(ordered, best, bpm, today)
    return Progress(
        standing,
        best,
        sum(one.minutes for one in ordered),
        len(days),
        days[-1] if days else None,
        _words(standing, best, bpm, today, due),
    )


def _is_held(effort: Effort) -> bool:
    return effort.loops >= PASSES_TO_BE_THERE and effort.feeling is not Feeling.TENSE


def _standing(efforts: Sequence[Effort], best: float, bpm: float, today: date) -> Standing:
    if not efforts:
        return Standing.NOT_BEGUN
    if best >= REACHED * bpm:
        return Standing.THERE
    recent = [one for one in efforts if today - one.day <= timedelta(days=DAYS_LOOKED_AT)]
    days = sorted({one.day for one in recent})
    if len(days) < DAYS_OF_PLAY_TO_BE_STUCK:
        return Standing.AT_IT
    since = days[-DAYS_OF_PLAY_TO_BE_STUCK]
    before = max((one.bpm for one in efforts if one.day <= since and _is_held(one)), default=0.0)
    after = max((one.bpm for one in recent if one.day > since and _is_held(one)), default=0.0)
    return Standing.STUCK if after <= before + GAIN * bpm else Standing.AT_IT


def _words(standing: Standing, best: float, bpm: float, today: date, due: date | None) -> str:
    late = ""
    if due is not None and standing is not Standing.THERE:
        left = (due - today).days
        late = f"; it was due {-left} days ago" if left < 0 else "; due today" if left == 0 else ""
    match standing:
        case Standing.NOT_BEGUN:
            return f"not begun{late}"
        case Standing.THERE:
            return f"there: held at {best:.0f} of {bpm:.0f}"
        case Standing.STUCK:
            at = f"at {best:.0f} of {bpm:.0f}" if best else "no tempo held yet"
            return f"stuck {at}: three days of play without getting on{late}"
        case _:
            return (
                f"at {best:.0f} of {bpm:.0f}{late}" if best else f"begun, no tempo held yet{late}"
            )

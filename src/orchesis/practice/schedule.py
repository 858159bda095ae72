"""What to practise next: by rule from what was practised, in short sessions on many days.

A step that went easily comes back after a day, then two, four, seven and fourteen; one that was
work comes back the next day; one that was tense comes back slower. The intervals are those of
spaced practice (Cepeda et al., "Distributed practice in verbal recall tasks", Psychological
Bulletin 132, 2006), which holds for motor skills too.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum

INTERVALS_DAYS = (1, 2, 4, 7, 14)
SESSION_MINUTES = 20
SLOWER = 0.9
UP_TO_TEMPO = 1.0
MOST_NEW = 1
"""New steps a session: what is new is learnt best alone."""


class Feeling(StrEnum):
    """How it felt."""

    EASY = "easy"
    WORK = "work"
    TENSE = "tense"


@dataclass(frozen=True, slots=True)
class Played:
    """One entry of the log. step : its key. share : of the record's tempo that was reached."""

    step: str
    day: date
    share: float
    loops: int
    minutes: float
    feeling: Feeling


@dataclass(frozen=True, slots=True)
class Due:
    """A step of the next session: with which tempo to begin, for how long, and why now."""

    step: str
    share: float
    minutes: float
    words: str


def next_session(
    steps: Sequence[str],
    log: Sequence[Played],
    today: date,
    minutes: float = SESSION_MINUTES,
) -> tuple[Due, ...]:
    """What to play today, what is due longest first, then what is new.

    Parameters
    ----------
    steps : the keys of the plan's steps, in order. log : in order of days.
    """
    dues: list[tuple[int, Due]] = []
    new = 0
    for index, step in enumerate(steps):
        mine = [entry for entry in log if entry.step == step]
        if not mine:
            # The next step waits until the one before was not tense any more.
            ready = index == 0 or _is_settled(steps[index - 1], log)
            if ready and new < MOST_NEW:
                new += 1
                dues.append((-1, Due(step, 0.0, 0.0, "new")))
            continue
        last = mine[-1]
        late = (today - due_day(mine)).days
        if late < 0:
            continue
        share = last.share * SLOWER if last.feeling is Feeling.TENSE else last.share
        dues.append((late, Due(step, round(share, 3), 0.0, _why(last, late))))
    dues.sort(key=lambda item: -item[0])
    if not dues:
        return ()
    each = minutes / len(dues)
    return tuple(Due(due.step, due.share, round(each, 1), due.words) for _, due in dues)


def due_day(entries: Sequence[Played]) -> date:
    """When a step comes back: later each time that it was easy, the next day where it was not."""
    easy = 0
    for entry in reversed(entries):
        if entry.feeling is not Feeling.EASY or entry.share < UP_TO_TEMPO:
            break
        easy += 1
    days = INTERVALS_DAYS[min(easy, len(INTERVALS_DAYS) - 1)]
    return entries[-1].day + timedelta(days=days)


def _is_settled(step: str, log: Sequence[Played]) -> bool:
    mine = [entry for entry in log if entry.step == step]
    return bool(mine) and mine[-1].feeling is not Feeling.TENSE


def _why(last: Played, late: int) -> str:
    felt = {
        Feeling.EASY: "it was easy",
        Feeling.WORK: "it was work",
        Feeling.TENSE: "it was tense: slower, and shorter",
    }[last.feeling]
    since = "today" if late == 0 else "since yesterday" if late == 1 else f"since {late} days"
    return f"{felt}; due {since}"

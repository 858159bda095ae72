"""How long ears may hear how much: the usual limit at work, as a share used up.

85 dB(A) for eight hours, and for each 3 dB more half of the time (NIOSH, "Criteria for a
recommended standard: occupational noise exposure", 1998). Local rules come first. Drums at the ear
are often beyond 100 dB(A), which leaves a quarter of an hour.
"""

from __future__ import annotations

from collections.abc import Iterable

LIMIT_DB = 85.0
LIMIT_MINUTES = 8 * 60.0
EXCHANGE_DB = 3.0
BREAK_AFTER_MINUTES = 25.0

STOP_WORDS = (
    "Pain, numbness or tingling: stop for today. If it comes back, see somebody who treats "
    "musicians. Ears that ring have heard too much: wear protection, and play less loud."
)


WARM_UP_WORDS = (
    "Begin with five quiet minutes: single strokes from slow to easy, wrists and ankles loose, "
    "shoulders low. What is tense at the start stays tense."
)
LOCAL_RULES_WORDS = (
    "85 dB(A) for eight hours, and half of that time for each 3 dB more, is the usual limit at "
    "work. Where other rules hold, those come first."
)


def allowed_minutes(level_db: float) -> float:
    """How long a day that level may be heard, in minutes; at most a whole day."""
    halvings = (level_db - LIMIT_DB) / EXCHANGE_DB
    return float(min(24 * 60.0, LIMIT_MINUTES * 2.0**-halvings))


def dose(heard: Iterable[tuple[float, float]]) -> float:
    """The share of a day's limit that is used up: 1 is all of it.

    Parameters
    ----------
    heard : level in dB(A) and minutes, for each stretch of the day.
    """
    return sum(minutes / allowed_minutes(level) for level, minutes in heard)


def minutes_left(heard: Iterable[tuple[float, float]], level_db: float) -> float:
    """How long one may go on at that level today."""
    return max(0.0, (1.0 - dose(heard)) * allowed_minutes(level_db))

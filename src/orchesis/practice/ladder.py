"""The tempo ladder: from a comfortable start to the tempo of the record and a little beyond.

The harder it is the lower one starts, between two thirds and half of the tempo; steps shrink near
the top, where each of them is felt; a new layer falls back by one rung and a half of tempo already
reached. How it swings and where it sits against the beat are kept as shares of the beat, so that a
slow loop feels as the fast one does; an offset in milliseconds never grows beyond what can still be
felt as pocket (Friberg and Sundstroem, "Swing ratios and ensemble timing in jazz performance",
Music Perception 2002: the ratio of swing grows as tempo falls; it is kept here, since what is
practised is the record's).
"""

from __future__ import annotations

from dataclasses import dataclass

from orchesis.limbs.difficulty import EASIEST, HARDEST
from orchesis.practice.material import Material

EASY_START, HARD_START = 2 / 3, 1 / 2
BEYOND = 1.04
FEWEST_STEPS, MOST_STEPS = 2, 8
"""From the start to the tempo of the record, for the easiest and the hardest: a backbeat alone
needs no ten rungs."""

SHRINKING = 1.6
"""Steps shrink towards the top, where each is felt; 1 would make them even."""

SMALLEST_RUNG = 0.02
FALL_BACK = 0.85
SAME_RUNG = 0.01
"""A tempo that is asked for and lies so near to a rung is that rung."""

LOOPS_A_RUNG = 8
FARTHEST_POCKET_MS = 30.0


@dataclass(frozen=True, slots=True)
class Ladder:
    """Rungs as shares of the record's tempo, rising; how often each is played; minutes in all.

    asked : the rung that somebody asked for, None where nobody did.
    """

    rungs: tuple[float, ...]
    loops: int
    minutes: float
    asked: float | None = None

    @property
    def words(self) -> str:
        """The rule by which one climbs."""
        return f"{self.loops} times without a slip: a rung up; a slip twice: a rung down"


def start_share(hard: float) -> float:
    """With which share of the tempo to begin with something so hard (1 to 10)."""
    place = min(1.0, max(0.0, (hard - EASIEST) / (HARDEST - EASIEST)))
    return EASY_START + (HARD_START - EASY_START) * place


def ladder(
    material: Material, hard: float, *, with_layer_after: float = 0.0, asked: float | None = None
) -> Ladder:
    """The rungs for a loop that is so hard.

    Parameters
    ----------
    with_layer_after : the share that was reached before this layer came; 0: nothing was.
    asked : the share of the tempo that a teacher asks for; it is a rung of its own.
    """
    start = start_share(hard)
    if with_layer_after:
        # What was reached without the new layer counts for something, but never all of it.
        start = min(max(start, with_layer_after * FALL_BACK * start), FALL_BACK)
    rungs = [*_climb(start, hard), BEYOND]
    if asked is not None:
        asked = round(asked, 3)
        # A rung that is all but the one asked for would be climbed for nothing.
        rungs = sorted([rung for rung in rungs if abs(rung - asked) > SAME_RUNG] + [asked])
    minutes = sum(LOOPS_A_RUNG * material.seconds / rung for rung in rungs) / 60
    return Ladder(tuple(rungs), LOOPS_A_RUNG, round(minutes, 1), asked)


def _climb(start: float, hard: float) -> list[float]:
    """From the start to the tempo of the record: the harder, the more steps."""
    place = min(1.0, max(0.0, (hard - EASIEST) / (HARDEST - EASIEST)))
    steps = round(FEWEST_STEPS + (MOST_STEPS - FEWEST_STEPS) * place)
    while steps > 1 and (1.0 - start) * steps**-SHRINKING < SMALLEST_RUNG:
        steps -= 1
    left = [(1.0 - step / steps) ** SHRINKING for step in range(steps + 1)]
    return [round(1.0 - (1.0 - start) * share, 3) for share in left]


def slowed_offset(offset_ms: float, share: float) -> float:
    """Where a stroke sits against the beat at a share of the tempo, in milliseconds."""
    slowed = offset_ms / share
    return max(-FARTHEST_POCKET_MS, min(FARTHEST_POCKET_MS, slowed))

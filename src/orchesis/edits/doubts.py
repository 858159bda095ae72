"""Which of the uncertain notes are marked: so many as a person will look at.

Two hundred marks in a hundred bars are looked at by nobody. Marked are those whose mistake would
cost the chart most; the others are written with their probability, and questions still take them
in.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

from orchesis.music.instruments import TOMS, Instrument, Status
from orchesis.music.values import Hit

MARKED_PER_BAR = 0.15
FEWEST_MARKED = 4
"""A short song has at least so many marks."""

COST: Mapping[Instrument, float] = {
    Instrument.KICK: 3.0,
    Instrument.SNARE: 3.0,
    Instrument.CROSS_STICK: 3.0,
    Instrument.CRASH: 1.5,
}
GHOST_COST, TOM_COST, OTHER_COST = 0.7, 1.5, 1.0
"""What a wrong note costs who plays from the chart: the groove is in kick and snare."""


def mark_doubts(hits: Sequence[Hit], bars: int) -> list[Hit]:
    """The same notes; of those in doubt only the costliest are marked so, the others are heard.

    Parameters
    ----------
    bars : how many the song has: the marks allowed grow with it.
    """
    doubtful = [hit for hit in hits if hit.status is Status.DOUBTFUL]
    allowed = max(FEWEST_MARKED, math.floor(MARKED_PER_BAR * bars))
    costliest = sorted(doubtful, key=lambda hit: (-expected_cost(hit), hit.time))
    unmarked = {id(hit) for hit in costliest[allowed:]}
    return [replace(hit, status=Status.HEARD) if id(hit) in unmarked else hit for hit in hits]


def expected_cost(hit: Hit) -> float:
    """What the note as it stands costs on average: how likely it is wrong, times `cost_of`."""
    return (1 - hit.confidence) * cost_of(hit)


def cost_of(hit: Hit) -> float:
    """What it costs who plays from the chart when this note is wrong; unitless."""
    if hit.ghost:
        return GHOST_COST
    if hit.instrument in TOMS:
        return TOM_COST
    return COST.get(hit.instrument, OTHER_COST)

"""How flams, drags and buzzes sound: softer strokes just before the main one, or right after it."""

from __future__ import annotations

from orchesis.music.instruments import Ornament
from orchesis.music.values import Hit

SOFTER = 0.45
AWAY: dict[Ornament, tuple[float, ...]] = {
    Ornament.FLAM: (-0.035,),
    Ornament.DRAG: (-0.07, -0.035),
    Ornament.BUZZ: (0.03, 0.06, 0.09),
}
"""Seconds from the main stroke. The page's kit plays them alike (`studio.vocabulary`)."""

GRACES = {Ornament.FLAM: 1, Ornament.DRAG: 2}
"""Grace notes that are written; a buzz is a sign on the stem."""


def strokes_beside(hit: Hit) -> list[tuple[float, int]]:
    """The soft strokes that belong to a hit: seconds from it, and velocity."""
    if hit.ornament is None:
        return []
    velocity = max(1, round(hit.velocity * SOFTER))
    return [(away, velocity) for away in AWAY[hit.ornament]]

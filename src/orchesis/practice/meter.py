"""A simulated level meter: how loud a step is at the ear of who plays it, estimated from its notes.

No microphone is asked. Each stroke has a sound exposure level at the player's ear, a little below
what is reported of kits played in small rooms (drummers' exposure of 95 to 105 dB(A): Behar et al.,
"Sound exposure of rock musicians", 2006, among others); softer strokes have less, and what falls
in a second is summed. A measured value always replaces it.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

from orchesis.music.instruments import CYMBALS, FEET, STRUCK_HATS, Instrument

EXPOSURE_DB = {"kick": 89.0, "snare": 97.0, "hat": 88.0, "cymbal": 95.0, "other": 93.0}
"""Sound exposure level of one stroke at velocity 100, dB(A)."""

FULL_VELOCITY = 100
DB_A_DECADE = 32.0
"""Loudness follows velocity to the power of 1.6, as in the kit that plays."""

QUIETEST_DB = 45.0


def level_at_ear(strokes: Iterable[tuple[Instrument, int]], seconds: float) -> float:
    """The equivalent level of strokes (drum and velocity) over a time, in dB(A)."""
    energy = sum(10 ** (_exposure(drum, velocity) / 10) for drum, velocity in strokes)
    if energy <= 0 or seconds <= 0:
        return QUIETEST_DB
    return max(QUIETEST_DB, 10 * math.log10(energy / seconds))


def _exposure(drum: Instrument, velocity: int) -> float:
    if drum is Instrument.KICK:
        kind = "kick"
    elif drum in FEET or drum in STRUCK_HATS:
        kind = "hat"
    elif drum in CYMBALS:
        kind = "cymbal"
    else:
        kind = "snare" if drum is Instrument.SNARE else "other"
    return EXPOSURE_DB[kind] + DB_A_DECADE * math.log10(max(1, velocity) / FULL_VELOCITY)

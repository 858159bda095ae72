"""Layers: a voice that keeps time together with another on every stroke, all song long.

Two hands cannot tell what one stroke is made of, and no ear can be sure of it: a shaker or a
tambourine in strict unison with a hat or a ride is nearly always that hat or ride itself.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis.music.instruments import STRUCK_HATS, TIMEKEEPERS, Instrument
from orchesis.music.values import Hit

FEWEST = 16
"""Strokes: four bars of quarters, below which a doubled voice may be a passage."""

SAME_STROKES = 0.95
"""Share of a layer's strokes that fall together with those that it doubles."""

COVERED = 0.8
"""Share of the doubled voice's strokes, in the bars of the layer, that the layer doubles."""

SHAKEN = frozenset({Instrument.SHAKER, Instrument.TAMBOURINE})
"""What is heard into the hiss of a cymbal."""

Place = tuple[int, Fraction]


@dataclass(frozen=True, slots=True)
class Layer:
    """A voice and the one that it doubles. Open and closed hats are one voice, named closed."""

    instrument: Instrument
    doubled: Instrument
    hits: tuple[Hit, ...]


def doubling_layers(hits: Sequence[Hit]) -> tuple[Layer, ...]:
    """The layers among these hits; of two voices that are the same the rarer is the layer."""
    at: dict[Instrument, dict[Place, Hit]] = defaultdict(dict)
    for hit in hits:
        if hit.instrument in TIMEKEEPERS:
            at[hit.instrument][hit.place[:2]] = hit
    hat = {place: hit for i in STRUCK_HATS for place, hit in at.pop(i, {}).items()}
    voices: dict[Instrument, dict[Place, Hit]] = dict(at)
    if hat:
        voices[Instrument.HIHAT_CLOSED] = hat
    found = []
    # What is shaken comes first: where two are the same, it is the one that may not be there.
    order = sorted(voices.items(), key=lambda item: (item[0] not in SHAKEN, len(item[1])))
    for instrument, mine in order:
        others = [i for i in voices if i is not instrument]
        doubled = next((i for i in others if _doubles(mine, voices[i])), None)
        if doubled is not None:
            del voices[instrument]
            found.append(Layer(instrument, doubled, tuple(mine.values())))
    return tuple(found)


def _doubles(mine: dict[Place, Hit], their: dict[Place, Hit]) -> bool:
    """Whether a voice has all its strokes together with another, and misses few of that one's."""
    if len(mine) < FEWEST or len(mine) > len(their) / COVERED:
        return False
    together = mine.keys() & their.keys()
    bars = {bar for bar, _ in mine}
    asked = sum(bar in bars for bar, _ in their)
    return len(together) >= SAME_STROKES * len(mine) and len(together) >= COVERED * asked

"""Layers: a voice that keeps time together with another on every stroke, all song long.

Two hands cannot tell what one stroke is made of, and no ear can be sure of it: a shaker or a
tambourine in strict unison with a hat or a ride is nearly always that hat or ride itself. What is
shaken and never heard by itself may fall now on a hat, now on another cymbal, because it is their
hiss.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from fractions import Fraction
from statistics import fmean

from orchesis.music.instruments import CYMBALS, STRUCK_HATS, TIMEKEEPERS, Instrument
from orchesis.music.values import Hit

FEWEST = 16
"""Strokes: four bars of quarters, below which a doubled voice may be a passage."""

SAME_STROKES = 0.95
"""Share of a layer's strokes that fall together with those that it doubles."""

COVERED = 0.8
"""Share of the doubled voice's strokes, in the bars of the layer, that the layer doubles."""

SHAKEN = frozenset({Instrument.SHAKER, Instrument.TAMBOURINE})
"""What is heard into the hiss of a cymbal."""

SHAKEN_WITH = 0.8
"""Share of the strokes of what is shaken that fall together with some hat or cymbal."""

FEWEST_FAINT = 8
FAINT_BELOW = 0.7
"""What is so unsure in the mean of its strokes, and hardly ever heard by itself, is another's hiss.
Parts of their own that go with the hats all along are surer (docs/notebook.md)."""

HISSING = STRUCK_HATS | CYMBALS | {Instrument.HIHAT_FOOT, Instrument.HIHAT_SPLASH}

Place = tuple[int, Fraction]


@dataclass(frozen=True, slots=True)
class Layer:
    """A voice and the one that it doubles. Open and closed hats are one voice, named closed.

    in_unison : it has that one's rhythm; otherwise it goes with several, `doubled` most of all.
    """

    instrument: Instrument
    doubled: Instrument
    hits: tuple[Hit, ...]
    in_unison: bool = True


def doubling_layers(hits: Sequence[Hit]) -> tuple[Layer, ...]:
    """The layers among these hits; of two voices that are the same the rarer is the layer."""
    voices = _voices(hits, TIMEKEEPERS)
    hissing: dict[Place, set[Instrument]] = defaultdict(set)
    for voice, strokes in _voices(hits, HISSING).items():
        for place in strokes:
            hissing[place].add(voice)
    found = []
    # What is shaken comes first: where two are the same, it is the one that may not be there.
    order = sorted(voices.items(), key=lambda item: (item[0] not in SHAKEN, len(item[1])))
    for instrument, mine in order:
        others = [i for i in voices if i is not instrument]
        doubled = next((i for i in others if _doubles(mine, voices[i])), None)
        in_unison = doubled is not None
        if doubled is None and instrument in SHAKEN:
            doubled = _hiss_of(mine, hissing)
        if doubled is not None:
            del voices[instrument]
            found.append(Layer(instrument, doubled, tuple(mine.values()), in_unison))
    return tuple(found)


def _voices(
    hits: Sequence[Hit], instruments: Collection[Instrument]
) -> dict[Instrument, dict[Place, Hit]]:
    """The strokes of each by their places; struck hats are one voice, named closed."""
    voices: dict[Instrument, dict[Place, Hit]] = defaultdict(dict)
    for hit in hits:
        if hit.instrument in instruments:
            is_hat = hit.instrument in STRUCK_HATS
            voices[Instrument.HIHAT_CLOSED if is_hat else hit.instrument][hit.place[:2]] = hit
    return dict(voices)


def _doubles(mine: dict[Place, Hit], their: dict[Place, Hit]) -> bool:
    """Whether a voice has all its strokes together with another, and misses few of that one's."""
    if len(mine) < FEWEST or len(mine) > len(their) / COVERED:
        return False
    together = mine.keys() & their.keys()
    return len(together) >= SAME_STROKES * len(mine) and _covers(mine, their)


def _covers(mine: Collection[Place], their: Collection[Place]) -> bool:
    """Whether a voice goes with most of the others' strokes in the bars in which it plays."""
    bars = {bar for bar, _ in mine}
    asked = sum(bar in bars for bar, _ in their)
    return sum(place in their for place in mine) >= COVERED * asked


def _hiss_of(mine: dict[Place, Hit], hissing: dict[Place, set[Instrument]]) -> Instrument | None:
    """What a shaken voice is the hiss of, most of all: it is heard wherever hats and cymbals sound
    and hardly anywhere else, on nearly all of their strokes, or so faintly that it is in doubt.
    """
    together = mine.keys() & hissing.keys()
    if len(mine) < FEWEST_FAINT or len(together) < SHAKEN_WITH * len(mine):
        return None
    is_faint = fmean(hit.confidence for hit in mine.values()) < FAINT_BELOW
    if not is_faint and (len(mine) < FEWEST or not _covers(mine, hissing)):
        return None
    beside = Counter(voice for place in together for voice in hissing[place])
    return max(sorted(beside), key=lambda voice: beside[voice])

"""Variants and energy: which form of a layer is played in which sections, and whether the fuller
ones go with the louder passages.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis.groove.count import place_words
from orchesis.groove.phrase import Phrase, Standing
from orchesis.music.instruments import STRUCK_HATS, TIMEKEEPERS, Instrument
from orchesis.music.values import Meter

LAYERS: dict[str, frozenset[Instrument]] = {
    "kick": frozenset({Instrument.KICK}),
    "snare": frozenset({Instrument.SNARE, Instrument.CROSS_STICK}),
    "steady hand": frozenset(TIMEKEEPERS | STRUCK_HATS),
}
CLEARLY_LOUDER_DB = 1.0
NEARLY = 1
"""Layers that differ in no more notes a phrase than this are one variant."""

Places = frozenset[tuple[int, Fraction]]


@dataclass(frozen=True, slots=True)
class Variant:
    """One form of a layer: its places in a phrase of `length` bars, the sections that play it."""

    places: Places
    length: int
    sections: tuple[str, ...]
    level_db: float

    @property
    def a_bar(self) -> float:
        """Strokes a bar."""
        return len(self.places) / self.length


@dataclass(frozen=True, slots=True)
class LayerVariants:
    """The variants of a layer, the fullest first, and what they have to do with loudness."""

    layer: str
    variants: tuple[Variant, ...]
    words: str


def find_variants(
    phrases: Mapping[str, Phrase], levels: Mapping[str, float], meter: Meter
) -> tuple[LayerVariants, ...]:
    """The variants of each layer that has more than one.

    Parameters
    ----------
    phrases : the main phrase of each section, by the section's label.
    levels : the loudness of each section in dB, by the same labels.
    """
    found = []
    for layer, drums in LAYERS.items():
        grouped: list[tuple[Places, int, list[str]]] = []
        for label, phrase in phrases.items():
            places = _places(phrase, drums)
            if not places:
                continue
            home = next(
                (group for group in grouped if _apart(group[0], group[1], places, phrase.length)),
                None,
            )
            if home:
                home[2].append(label)
            else:
                grouped.append((places, phrase.length, [label]))
        if len(grouped) < 2:
            continue
        variants = [
            Variant(places, length, tuple(labels), sum(levels[x] for x in labels) / len(labels))
            for places, length, labels in grouped
        ]
        variants.sort(key=lambda variant: -variant.a_bar)
        found.append(LayerVariants(layer, tuple(variants), _sentence(layer, variants, meter)))
    return tuple(found)


def _places(phrase: Phrase, drums: frozenset[Instrument]) -> Places:
    return frozenset(
        (note.bar, note.position)
        for note in phrase.notes
        if note.instrument in drums and note.standing is not Standing.OCCASIONAL and not note.ghost
    )


def _unrolled(places: Places, length: int, to: int) -> Places:
    return frozenset((b + length * k, p) for b, p in places for k in range(to // length))


def _apart(one: Places, one_length: int, other: Places, other_length: int) -> bool:
    """True when the two are one variant, written out to the same number of bars."""
    longest = max(one_length, other_length)
    difference = _unrolled(one, one_length, longest) ^ _unrolled(other, other_length, longest)
    return len(difference) <= NEARLY * longest / 2


def _sentence(layer: str, variants: Sequence[Variant], meter: Meter) -> str:
    fullest, sparsest = variants[0], variants[-1]
    if fullest.a_bar <= sparsest.a_bar:
        return f"The {layer} has {len(variants)} forms, none fuller than the others."
    text = (
        f"The {layer} is fullest in {_listed(fullest.sections)} ({fullest.a_bar:.3g} a bar) and "
        f"plays only {_said(sparsest, meter)} in {_listed(sparsest.sections)}"
    )
    louder = fullest.level_db - sparsest.level_db
    if louder >= CLEARLY_LOUDER_DB:
        return f"{text}; the fuller form goes with the louder passage (+{louder:.1f} dB)."
    if louder <= -CLEARLY_LOUDER_DB:
        return f"{text}, although that is the louder passage ({-louder:+.1f} dB)."
    return f"{text}; both are about equally loud."


def _said(variant: Variant, meter: Meter) -> str:
    if len(variant.places) > 4 or variant.length > 1:
        return f"{variant.a_bar:.3g} a bar"
    said = [place_words(position, meter) for _, position in sorted(variant.places)]
    return said[0] if len(said) == 1 else f"{', '.join(said[:-1])} and {said[-1]}"


def _listed(labels: Sequence[str]) -> str:
    if len(labels) == 1:
        return labels[0]
    shown = [*labels[:3], f"{len(labels) - 3} more"] if len(labels) > 4 else list(labels)
    return f"{', '.join(shown[:-1])} and {shown[-1]}"

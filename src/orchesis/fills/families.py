"""Recurrences: the same fill again, the same rhythm on other drums, the same with another ending.

Drummers have a few fills and use them again. Fills of a family are told with their places: "first
in bar 12, the last of the first verse; again in bar 28".
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction

from orchesis.fills.describe import Place
from orchesis.music.instruments import Instrument
from orchesis.music.values import Fill, Section

Strokes = frozenset[tuple[Fraction, Instrument]]

NEARLY = 0.8
"""Share of notes that two fills have in common, of all that either has: heard apart, not played."""

LEAST_BEGINNING = 3
"""Strokes that two fills with different endings begin alike with, and half of the shorter one."""


class Kinship(StrEnum):
    """How a fill is like the first one of its family."""

    FIRST = "first"
    SAME = "same"
    NEARLY = "nearly"
    RHYTHM = "rhythm"
    BEGINNING = "beginning"


KINSHIP_WORDS: dict[Kinship, str] = {
    Kinship.FIRST: "the first of its kind",
    Kinship.SAME: "the same again",
    Kinship.NEARLY: "nearly the same",
    Kinship.RHYTHM: "the same rhythm on other drums",
    Kinship.BEGINNING: "begins alike, with another ending",
}


@dataclass(frozen=True, slots=True)
class Member:
    """A fill of a family: its index among the song's, and how it is like the first."""

    index: int
    kinship: Kinship


@dataclass(frozen=True, slots=True)
class Family:
    """Fills that belong together, in order; named A, B, … by their first appearance."""

    name: str
    members: tuple[Member, ...]


def notes_of(places: Sequence[Place], end: Fraction) -> Strokes:
    """The notes of a fill by their beats to its end: where it lands is what counts."""
    return frozenset((end - place.offset, drum) for place in places for drum in place.drums)


def kinship(one: Strokes, other: Strokes) -> Kinship | None:
    """How one fill is like another; None: not at all."""
    if one == other:
        return Kinship.SAME
    if not one or not other:
        return None
    if len(one & other) >= NEARLY * len(one | other):
        return Kinship.NEARLY
    rhythm = {offset for offset, _ in one}, {offset for offset, _ in other}
    if rhythm[0] == rhythm[1] and len(rhythm[0]) >= LEAST_BEGINNING:
        return Kinship.RHYTHM
    alike = _alike_at_the_beginning(one, other)
    shorter = min(len(rhythm[0]), len(rhythm[1]))
    if alike >= LEAST_BEGINNING and 2 * alike >= shorter:
        return Kinship.BEGINNING
    return None


def _alike_at_the_beginning(one: Strokes, other: Strokes) -> int:
    """At how many places, from the beginning on, two fills have the same notes.

    They begin at the same distance from where they land: four snares in the last beat are no
    beginning of a whole bar that has them in its first.
    """
    if max(offset for offset, _ in one) != max(offset for offset, _ in other):
        return 0
    first, second = _from_the_beginning(one), _from_the_beginning(other)
    count = 0
    for a, b in zip(first, second, strict=False):
        if a != b:
            break
        count += 1
    return count


def _from_the_beginning(strokes: Strokes) -> list[tuple[Fraction, frozenset[Instrument]]]:
    start = max(offset for offset, _ in strokes)
    at: dict[Fraction, set[Instrument]] = {}
    for offset, drum in strokes:
        at.setdefault(start - offset, set()).add(drum)
    return [(offset, frozenset(drums)) for offset, drums in sorted(at.items())]


def families(strokes: Sequence[Strokes]) -> tuple[Family, ...]:
    """The families of a song's fills, in order of their first one; each fill is in one.

    The nearest kinship wins: a fill that is the same as one is not put with one that begins alike.
    """
    groups: list[list[Member]] = []
    order = list(Kinship)
    for index, mine in enumerate(strokes):
        found = [
            (order.index(how), number, how)
            for number, group in enumerate(groups)
            if (how := kinship(strokes[group[0].index], mine)) is not None
        ]
        if found:
            _, number, how = min(found)
            groups[number].append(Member(index, how))
        else:
            groups.append([Member(index, Kinship.FIRST)])
    return tuple(Family(_name(number), tuple(group)) for number, group in enumerate(groups))


def _name(number: int) -> str:
    letters = ""
    number += 1
    while number:
        number, rest = divmod(number - 1, 26)
        letters = chr(ord("A") + rest) + letters
    return letters


def family_words(family: Family, fills: Sequence[Fill], sections: Sequence[Section]) -> str:
    """Where the fills of a family are: "In bar 12, the last of Verse 1; the same again in 28"."""
    parts = []
    for member in family.members:
        fill = fills[member.index]
        place = place_in_form(fill, sections)
        if member.kinship is Kinship.FIRST:
            parts.append(f"bar {fill.bar}{place}")
        else:
            parts.append(f"{KINSHIP_WORDS[member.kinship]} in bar {fill.bar}{place}")
    text = "; ".join(parts)
    return text[0].upper() + text[1:] + "."


def place_in_form(fill: Fill, sections: Sequence[Section]) -> str:
    """Where in the form a fill is: ", the last of Verse 1"; nothing outside of the form."""
    for section in sections:
        if section.first_bar <= fill.bar < section.first_bar + section.bars:
            number = fill.bar - section.first_bar + 1
            if number == section.bars:
                return f", the last of {section.label}"
            return f", bar {number} of {section.label}"
    return ""

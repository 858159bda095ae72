"""Kinship: the same groove elsewhere, and the stages by which one groove becomes another.

A bar becomes a row of bits, twelve places a beat for each voice, so that two bars differ in as many
notes as bits; ten thousand bars are compared by a handful of machine words each.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction

import numpy as np
import numpy.typing as npt

from orchesis.groove.alike import Pattern
from orchesis.music.instruments import CYMBALS, STRUCK_HATS, TOMS, Instrument

PARTS = 12
"""Places a beat: sixteenths, triplets and sextuplets fall on them; finer ones to the nearest."""

MOST_PULSES = 7
"""Beats a bar: metres of five and seven are told apart on every beat."""

PLACES = PARTS * MOST_PULSES

VOICES: tuple[frozenset[Instrument], ...] = (
    frozenset({Instrument.KICK}),
    frozenset({Instrument.SNARE, Instrument.CROSS_STICK, Instrument.CLAP}),
    STRUCK_HATS,
    CYMBALS,
    TOMS,
    frozenset({Instrument.HIHAT_FOOT, Instrument.HIHAT_SPLASH}),
)
"""Drums that do the same job: a groove with the ride instead of the hat is still another one."""

VOICE_NAMES = ("kick", "snare", "hat", "cymbal", "toms", "hat foot")
LEARNT_IN_ORDER = (2, 3, 1, 0, 5, 4)
"""Voices as one learns a groove: the steady hand, the backbeat, the kick, the foot, the rest."""

WORDS = (PLACES * len(VOICES) + 63) // 64
LARGEST_STEP = 2
"""Notes by which two stages of a chain may differ."""

Bits = npt.NDArray[np.uint64]
Mask = npt.NDArray[np.bool_]


class Kin(StrEnum):
    """How a bar is related to another."""

    SAME = "the same"
    ONE_NOTE = "one note away"
    SAME_KICK = "the same kick"
    WITHIN = "contained in it"
    CONTAINS = "contains it"


@dataclass(frozen=True, slots=True)
class Relative:
    """A bar that is kin: its key, how, and in how many notes it differs."""

    key: Hashable
    kin: Kin
    distance: int


@dataclass(frozen=True, slots=True)
class Stage:
    """A step on the way: what is added and left out, in words, and a bar that plays it."""

    words: str
    notes: int
    key: Hashable | None


def bits_of(pattern: Iterable[tuple[Fraction, Instrument]], pulses: int) -> int:
    """A bar as one large number; notes of no voice (shakers) are left out."""
    value = 0
    for position, instrument in pattern:
        place = min(PLACES - 1, round(float(position) * pulses * PARTS))
        for voice, drums in enumerate(VOICES):
            if instrument in drums:
                value |= 1 << (voice * PLACES + place)
    return value


def _words(value: int) -> list[int]:
    return [(value >> (64 * word)) & (2**64 - 1) for word in range(WORDS)]


class Library:
    """Many bars, ready to be compared. Bars of one meter only: compare like with like."""

    def __init__(self, bars: Mapping[Hashable, int]) -> None:
        self.keys = list(bars)
        self.values = [bars[key] for key in self.keys]
        self.bits: Bits = np.array(
            [_words(value) for value in self.values] or np.zeros((0, WORDS)), dtype=np.uint64
        )

    def distances(self, value: int) -> npt.NDArray[np.int64]:
        """In how many notes each bar differs, shape (bars,)."""
        counts = np.bitwise_count(self.bits ^ np.array(_words(value), dtype=np.uint64))
        total: npt.NDArray[np.int64] = counts.sum(axis=1, dtype=np.int64)
        return total

    def relatives(self, value: int, most: int = 40) -> list[Relative]:
        """The bars that are kin, nearest first, `most` of each kind."""
        query = np.array(_words(value), dtype=np.uint64)
        distance = self.distances(value)
        kick = np.array(_words((1 << PLACES) - 1), dtype=np.uint64)
        has_kick = bool((query & kick).any())
        same_kick: Mask = ((self.bits & kick) == (query & kick)).all(axis=1) & has_kick
        within: Mask = ((self.bits & ~query) == 0).all(axis=1) & (self.bits != 0).any(axis=1)
        contains: Mask = ((~self.bits & query) == 0).all(axis=1) & bool(query.any())
        free = np.ones(len(self.keys), dtype=bool)
        found = []
        for kin, mask in (
            (Kin.SAME, distance == 0),
            (Kin.ONE_NOTE, distance == 1),
            (Kin.WITHIN, within),
            (Kin.CONTAINS, contains),
            (Kin.SAME_KICK, same_kick),
        ):
            members = np.flatnonzero(mask & free)
            free[members] = False
            nearest = members[np.argsort(distance[members], kind="stable")][:most]
            found += [Relative(self.keys[i], kin, int(distance[i])) for i in nearest]
        return found

    def chain(self, start: int, goal: int) -> list[Stage]:
        """The stages from one groove to another, each a note or two from the last.

        Bars that are really played are taken as stages where they lead on (breadth first, so with
        the fewest stages); where they do not, notes are added voice by voice, as one learns them.
        """
        path = self._played_path(start, goal)
        if path is None:
            path = _composed_path(start, goal)
        key_of = dict(zip(reversed(self.values), reversed(self.keys), strict=True))
        return [
            Stage(step_words(one, other), other.bit_count(), key_of.get(other))
            for one, other in zip([start, *path], path, strict=False)
        ]

    def _played_path(self, start: int, goal: int) -> list[int] | None:
        distinct = list(dict.fromkeys([goal, *self.values]))
        bits = np.array([_words(value) for value in distinct], dtype=np.uint64)
        came_from: dict[int, int] = {}
        explained = np.zeros(len(distinct), dtype=bool)
        edge = [(start, -1)]
        # Never farther from the goal: a detour is no way to learn.
        left = np.bitwise_count(bits ^ bits[0]).sum(axis=1, dtype=np.int64)
        while edge:
            fresh: list[tuple[int, int]] = []
            for value, index in edge:
                own_left = (value ^ goal).bit_count()
                step = np.bitwise_count(bits ^ np.array(_words(value), dtype=np.uint64)).sum(axis=1)
                for near in np.flatnonzero((step <= LARGEST_STEP) & ~explained & (left < own_left)):
                    explained[near] = True
                    came_from[int(near)] = index
                    if near == 0:
                        return _walked(0, came_from, distinct)
                    fresh.append((distinct[near], int(near)))
            edge = fresh
        return None


def _walked(last: int, came_from: dict[int, int], distinct: Sequence[int]) -> list[int]:
    path = []
    index = last
    while index >= 0:
        path.append(distinct[index])
        index = came_from[index]
    return path[::-1]


def _voice(value: int, voice: int) -> int:
    return value & (((1 << PLACES) - 1) << (voice * PLACES))


def _composed_path(start: int, goal: int) -> list[int]:
    """First what has to go, then what comes, voice by voice and at most two notes at a time."""
    path, now = [], start
    for wanted in (start & goal, goal):
        for voice in LEARNT_IN_ORDER:
            missing = _voice(now ^ wanted, voice)
            while missing:
                step = 0
                for _ in range(LARGEST_STEP):
                    lowest = missing & -missing
                    step |= lowest
                    missing ^= lowest
                now ^= step
                path.append(now)
    return path


def step_words(one: int, other: int) -> str:
    """What is added and left out from one stage to the next."""
    parts = []
    for verb, notes in (("leave out", one & ~other), ("add", other & ~one)):
        for voice, name in enumerate(VOICE_NAMES):
            mine = _voice(notes, voice) >> (voice * PLACES)
            places = [place for place in range(PLACES) if mine >> place & 1]
            if places:
                said = " and ".join(_place_name(place) for place in places[:4])
                parts.append(f"{verb} the {name} on {said}")
    return ", ".join(parts) if parts else "nothing changes"


def _place_name(place: int) -> str:
    beat, within = divmod(place, PARTS)
    names = {0: "", 3: "e", 6: "&", 9: "a", 4: "trip", 8: "let"}
    word = names.get(within)
    if word is None:
        return f"{Fraction(within, PARTS)} into beat {beat + 1}"
    return f"the {word} of {beat + 1}" if word else str(beat + 1)


def values_of(patterns: Mapping[Hashable, Pattern], pulses: int) -> dict[Hashable, int]:
    """Bars as numbers, silent ones left out."""
    found = {key: bits_of(pattern, pulses) for key, pattern in patterns.items()}
    return {key: value for key, value in found.items() if value}

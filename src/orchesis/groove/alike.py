"""Like bars: bars grouped by what they play, so that an edit can go to all of a kind."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis.music.instruments import Instrument
from orchesis.music.values import Bar, Hit, Meter, written

NEAR = 1
"""Bars that differ in no more notes than this from the commonest of a kind are of that kind."""

Pattern = frozenset[tuple[Fraction, Instrument]]


@dataclass(frozen=True, slots=True)
class Kind:
    """Bars that play the same. `exact` play just the pattern, `near` all but a note of it."""

    pattern: Pattern
    exact: tuple[int, ...]
    near: tuple[int, ...]

    @property
    def bars(self) -> tuple[int, ...]:
        """All of them, in order."""
        return tuple(sorted((*self.exact, *self.near)))


def patterns(hits: Sequence[Hit]) -> dict[int, Pattern]:
    """What each bar plays, without how loud; doubts tell nothing apart."""
    found: dict[int, set[tuple[Fraction, Instrument]]] = defaultdict(set)
    for hit in written(hits):
        notes = found[hit.bar]
        if not hit.is_uncertain:
            notes.add((hit.position, hit.instrument))
    return {bar: frozenset(notes) for bar, notes in found.items()}


def kinds_of_bars(bars: Sequence[Bar], hits: Sequence[Hit]) -> tuple[Kind, ...]:
    """The kinds among these bars, the commonest first; silent bars belong to none.

    Kinds are settled from the commonest pattern down: a bar that is a note away from one that is
    already a kind joins it, and no bar joins by way of another (no chains).
    """
    played = patterns(hits)
    by_meter: dict[Meter, dict[Pattern, list[int]]] = defaultdict(lambda: defaultdict(list))
    for bar in bars:
        if played.get(bar.number):
            by_meter[bar.meter][played[bar.number]].append(bar.number)
    kinds: list[tuple[Pattern, list[int], list[int]]] = []
    for groups in by_meter.values():
        notes = {note: 1 << index for index, note in enumerate(set().union(*groups))}
        mine: list[tuple[int, tuple[Pattern, list[int], list[int]]]] = []
        # Numbers come in order, so the first of a group is its first bar.
        for pattern, members in sorted(
            groups.items(), key=lambda item: (-len(item[1]), item[1][0])
        ):
            bits = sum(notes[note] for note in pattern)
            home = next((kind for known, kind in mine if (known ^ bits).bit_count() <= NEAR), None)
            if home is not None:
                home[2].extend(members)
            else:
                mine.append((bits, (pattern, members, [])))
        kinds += [kind for _, kind in mine]
    kinds.sort(key=lambda kind: (-len(kind[1]) - len(kind[2]), min(kind[1])))
    return tuple(Kind(p, tuple(sorted(e)), tuple(sorted(n))) for p, e, n in kinds)

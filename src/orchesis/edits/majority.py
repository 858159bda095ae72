"""What the confirmed bars say of a drum together, and which of them contradicts the others.

One bar that was confirmed with a slip (a ride where all others have the hat) teaches its mistake
to the whole song. So a drum is never written for another of its family against the majority of the
confirmed bars that are alike, and the bar that stands against them is named.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from fractions import Fraction

from orchesis.music.instruments import CYMBALS, SPOKEN_NAMES, STRUCK_HATS, TOMS, Instrument
from orchesis.music.values import Transcription, written

ALIKE = 0.6
"""Bars share so much of their rhythm (Jaccard over places and families) to be compared."""

FEWEST_OTHERS = 3
CLEAR = 0.75
"""So many confirmed bars, in such agreement, make another one a contradiction."""

FAMILIES: tuple[frozenset[Instrument], ...] = (
    frozenset({Instrument.SNARE, Instrument.CROSS_STICK}),
    TOMS,
    frozenset(CYMBALS) | STRUCK_HATS,
)
"""Drums that one hand plays in place of one another, and that are mistaken for one another."""

Rhythm = frozenset[tuple[Fraction, int]]


@dataclass(frozen=True, slots=True)
class Contradiction:
    """A confirmed bar that has one drum where `others` confirmed bars like it have another."""

    bar: int
    instrument: Instrument
    usual: Instrument
    others: int

    @property
    def words(self) -> str:
        """The same as a sentence."""
        return (
            f"Bar {self.bar} has the {SPOKEN_NAMES[self.instrument]} where {self.others} confirmed "
            f"bars like it have the {SPOKEN_NAMES[self.usual]}."
        )


class Confirmed:
    """What a song's confirmed bars play, to be asked about others."""

    def __init__(self, song: Transcription, bars: Iterable[int]) -> None:
        numbers = frozenset(bars)
        self._bars = sorted(numbers)
        self._meters = {bar.number: bar.meter for bar in song.bars}
        self._drums: dict[int, dict[Fraction, set[Instrument]]] = {n: {} for n in self._meters}
        for hit in written(song.hits):
            self._drums[hit.bar].setdefault(hit.position, set()).add(hit.instrument)
        self._rhythms = {number: _rhythm(drums) for number, drums in self._drums.items()}

    def like(self, bar: int) -> list[int]:
        """The confirmed bars whose rhythm is that of a bar, itself not among them."""
        mine = self._rhythms[bar]
        return [
            other
            for other in self._bars
            if other != bar
            and self._meters[other] == self._meters[bar]
            and len(mine & self._rhythms[other]) >= ALIKE * len(mine | self._rhythms[other]) > 0
        ]

    def speaks_against(
        self, bar: int, position: Fraction, old: Instrument, new: Instrument
    ) -> bool:
        """Whether more of the confirmed bars like this one have `old` there than have `new`."""
        votes = self._votes(self.like(bar), position)
        return votes[old] > votes[new]

    def contradictions(self) -> tuple[Contradiction, ...]:
        """Confirmed bars that stand against the others like them, each drum of a bar once."""
        found: dict[tuple[int, Instrument, Instrument], Contradiction] = {}
        for bar in self._bars:
            others = self.like(bar)
            if len(others) < FEWEST_OTHERS:
                continue
            for position, drums in self._drums[bar].items():
                votes = self._votes(others, position)
                for drum in sorted(drums):
                    usual = _usual(drum, votes)
                    if (
                        usual is not None
                        and usual not in drums
                        and votes[usual] >= CLEAR * len(others)
                        and votes[drum] <= (1 - CLEAR) * len(others)
                    ):
                        item = Contradiction(bar, drum, usual, votes[usual])
                        found.setdefault((bar, drum, usual), item)
        return tuple(found.values())

    def _votes(self, bars: Iterable[int], position: Fraction) -> Counter[Instrument]:
        return Counter(drum for bar in bars for drum in self._drums[bar].get(position, ()))


def are_kin(one: Instrument, other: Instrument) -> bool:
    """Whether they are two drums of one family."""
    return one is not other and any(one in family and other in family for family in FAMILIES)


def _usual(drum: Instrument, votes: Counter[Instrument]) -> Instrument | None:
    """The drum of the same family that is there most."""
    family = [(count, other) for other, count in votes.items() if are_kin(drum, other)]
    return max(family)[1] if family else None


def _rhythm(drums: Mapping[Fraction, set[Instrument]]) -> Rhythm:
    """Where a bar plays and what family: the drum within it left open."""
    alone = len(FAMILIES)
    return frozenset(
        (position, next((n for n, family in enumerate(FAMILIES) if drum in family), alone))
        for position, there in drums.items()
        for drum in there
    )

"""What changes in mid-section, in words: "from bar 9 the kick leaves the 1"."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from orchesis.groove.cells import bar_table
from orchesis.groove.count import place_words
from orchesis.groove.phrase import Phrase
from orchesis.music.instruments import CYMBALS, SPOKEN_NAMES, TIMEKEEPERS, Instrument
from orchesis.music.values import Bar, Fill, Hit, Meter

CLEAR = 0.5
"""A note must be played in so much larger a share of the bars to be called new, or gone."""

FEW = 4
"""More places than these are counted, not listed."""


@dataclass(frozen=True, slots=True)
class Change:
    """A change at `bar`, in words, with the figures that it rests on."""

    bar: int
    words: str
    evidence: str


def changes_between(
    phrases: Sequence[Phrase], bars: Sequence[Bar], hits: Sequence[Hit], fills: Sequence[Fill] = ()
) -> tuple[Change, ...]:
    """What each phrase but the first does otherwise than the one before it."""
    found = []
    for one, other in pairwise(phrases):
        before = _shares(one, bars, hits, fills)
        after = _shares(other, bars, hits, fills)
        meter = next(bar.meter for bar in bars if bar.number == other.first_bar)
        words, strongest = _difference(before, after, meter)
        if not words:
            words = ["the pattern changes"]
        evidence = ""
        if strongest:
            (position, instrument, _), was, now = strongest
            evidence = (
                f"{SPOKEN_NAMES[instrument]} on {place_words(position, meter)}: in {was:.0%} "
                f"of the bars before, in {now:.0%} from there on"
            )
        found.append(
            Change(other.first_bar, f"From bar {other.first_bar} {', '.join(words)}", evidence)
        )
    return tuple(found)


Key = tuple[Fraction, Instrument, bool]


def _shares(
    phrase: Phrase, bars: Sequence[Bar], hits: Sequence[Hit], fills: Sequence[Fill]
) -> dict[Key, float]:
    inside = range(phrase.first_bar, phrase.first_bar + phrase.bars)
    table = bar_table([bar for bar in bars if bar.number in inside], hits, fills)
    shares: dict[Key, float] = defaultdict(float)
    for column, cell in enumerate(table.cells):
        asked = table.asked[:, column].sum()
        if asked:
            key = (cell.position, cell.instrument, cell.ghost)
            shares[key] += float(table.played[:, column].sum() / asked)
    return shares


def _difference(
    before: dict[Key, float], after: dict[Key, float], meter: Meter
) -> tuple[list[str], tuple[Key, float, float] | None]:
    gone: dict[tuple[Instrument, bool], list[Fraction]] = defaultdict(list)
    new: dict[tuple[Instrument, bool], list[Fraction]] = defaultdict(list)
    strongest = None
    for cell in sorted(set(before) | set(after)):
        was, now = before.get(cell, 0.0), after.get(cell, 0.0)
        if abs(now - was) < CLEAR:
            continue
        (new if now > was else gone)[cell[1:]].append(cell[0])
        if strongest is None or abs(now - was) > abs(strongest[2] - strongest[1]):
            strongest = (cell, was, now)
    words = []
    for taker in [key for key in new if key[0] in TIMEKEEPERS | CYMBALS]:
        left = next((k for k in gone if k[0] in TIMEKEEPERS | CYMBALS and k != taker), None)
        if left and len(set(new[taker]) & set(gone[left])) >= 2:
            words.append(f"the {_name(taker)} takes over from the {_name(left)}")
            del new[taker], gone[left]
    for key in list(dict.fromkeys([*gone, *new])):
        parts = []
        if gone.get(key):
            parts.append(f"leaves {_places(gone[key], meter)}")
        if new.get(key):
            parts.append(f"plays {_places(new[key], meter)}")
        if parts:
            words.append(f"the {_name(key)} {' and '.join(parts)}")
    return words, strongest


def _name(key: tuple[Instrument, bool]) -> str:
    instrument, ghost = key
    return f"{SPOKEN_NAMES[instrument]} as a ghost" if ghost else SPOKEN_NAMES[instrument]


def _places(positions: Iterable[Fraction], meter: Meter) -> str:
    places = sorted(positions)
    if len(places) > FEW:
        return f"{len(places)} places"
    said = [place_words(position, meter) for position in places]
    return said[0] if len(said) == 1 else f"{', '.join(said[:-1])} and {said[-1]}"

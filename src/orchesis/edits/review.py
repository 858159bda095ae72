"""Where to listen before the gig: the places most likely wrong, by what they would change.

A bar that plays the same as others but for a note is where a mistake of hearing shows: the note is
there in this bar only, or missing in this bar only. Such places are found among the notes that
nobody doubts, and are listed with the doubts in the order of what a wrong one would cost the chart.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from fractions import Fraction

import numpy as np
import numpy.typing as npt

from orchesis.edits.doubts import cost_of, expected_cost
from orchesis.groove.alike import Pattern, patterns
from orchesis.groove.count import place_words
from orchesis.music.instruments import CYMBALS, SPOKEN_NAMES, Instrument, Status
from orchesis.music.values import Bar, Hit, Transcription, written
from orchesis.rhythm.due import written_time

ALIKE = 0.6
"""Bars share so much of their notes (Jaccard) to be compared."""

FEWEST_ALIKE = 4
SELDOM, MOSTLY = 0.25, 0.75
"""A note that at most so many of the like bars have is one too many; one that so many have is
missing."""

EXTRA_PRIOR, MISSING_PRIOR = 0.5, 0.35
"""How likely a note is wrong that no like bar has, though heard for sure; and one that all have
is there, though not heard."""

MOST_PLACES = 12

Place = tuple[Fraction, Instrument]


class Why(StrEnum):
    """Why a place is listed."""

    UNCERTAIN = "uncertain"
    EXTRA = "extra"
    MISSING = "missing"


@dataclass(frozen=True, slots=True)
class ReviewPlace:
    """A note at one place of the bar, in one bar or in several, and one question about it.

    hits : the notes as they stand; those of MISSING are proposed, and not written yet.
    like_bars : how many bars play the same otherwise, these included. cost : expected, of the
    answer that stands; unitless, for the order only.
    """

    why: Why
    instrument: Instrument
    hits: tuple[Hit, ...]
    like_bars: int
    cost: float
    words: str

    @property
    def bars(self) -> tuple[int, ...]:
        """The bars in question."""
        return tuple(sorted({hit.bar for hit in self.hits}))


def review_places(song: Transcription, most: int = MOST_PLACES) -> tuple[ReviewPlace, ...]:
    """The places that are worth a listen, the costliest first."""
    found = [*_misfits(song), *_uncertain(song)]
    return tuple(sorted(found, key=lambda place: -place.cost)[:most])


def _misfits(song: Transcription) -> list[ReviewPlace]:
    played = patterns(song.hits)
    bars = [bar for bar in song.bars if played.get(bar.number)]
    places = sorted({place for bar in bars for place in played[bar.number]})
    if not places:
        return []
    has, votes, alike = _votes(bars, played, places)
    enough = (alike >= FEWEST_ALIKE)[:, None]
    in_fill = _fill_spans(song)
    by_place = {hit.place: hit for hit in song.hits}
    examples = {hit.place[1:]: hit for hit in reversed(song.hits)}
    extra: dict[Place, list[tuple[Hit, float, int]]] = defaultdict(list)
    missing: dict[Place, list[tuple[Hit, float, int]]] = defaultdict(list)
    for row, column in np.argwhere(enough & has & (votes <= SELDOM)):
        hit = by_place[(bars[row].number, *places[column])]
        if not (hit.settled or _is_accent(hit) or _inside(in_fill, hit)):
            item = (hit, float(votes[row, column]), int(alike[row]) + 1)
            extra[places[column]].append(item)
    for row, column in np.argwhere(enough & ~has & (votes >= MOSTLY)):
        place = places[column]
        if (bars[row].number, *place) in by_place:
            continue
        proposed = _proposed(song, bars[row], examples[place])
        if not _inside(in_fill, proposed):
            missing[place].append((proposed, float(votes[row, column]), int(alike[row]) + 1))
    return [
        *(_place(song, Why.EXTRA, place, items) for place, items in extra.items()),
        *(_place(song, Why.MISSING, place, items) for place, items in missing.items()),
    ]


def _votes(
    bars: Sequence[Bar], played: Mapping[int, Pattern], places: Sequence[Place]
) -> tuple[npt.NDArray[np.bool_], npt.NDArray[np.float64], npt.NDArray[np.int64]]:
    """What like bars say of each place of each bar.

    Returns
    -------
    Which bars have which places, shape (bars, places); the share of the bars like each that have
    them, same shape; how many bars are like each, itself not counted, shape (bars,).
    """
    column = {place: index for index, place in enumerate(places)}
    has = np.zeros((len(bars), len(places)), bool)
    for row, bar in enumerate(bars):
        has[row, [column[place] for place in played[bar.number]]] = True
    counts = has.astype(np.float64)
    both = counts @ counts.T
    size = counts.sum(axis=1)
    meters = np.array([f"{bar.meter}" for bar in bars])
    alike = both >= ALIKE * (size[:, None] + size[None, :] - both)
    alike &= meters[:, None] == meters[None, :]
    np.fill_diagonal(alike, False)
    total = alike.sum(axis=1)
    votes = (alike.astype(np.float64) @ counts) / np.maximum(total, 1)[:, None]
    return has, votes, total


def _is_accent(hit: Hit) -> bool:
    """A cymbal on a one is how sections begin, and no misfit."""
    return hit.instrument in CYMBALS and hit.position == 0


def _fill_spans(song: Transcription) -> list[tuple[float, float]]:
    return [(fill.start - 0.02, fill.end) for fill in song.fills]


def _inside(spans: Sequence[tuple[float, float]], hit: Hit) -> bool:
    return any(start <= hit.time < end for start, end in spans)


def _proposed(song: Transcription, bar: Bar, example: Hit) -> Hit:
    """The note as another bar has it."""
    return replace(
        example,
        bar=bar.number,
        time=written_time(song, bar.number, example.position),
        status=Status.INFERRED,
        settled=False,
        confidence=1.0,
        ornament=None,
        source="",
        reason="the bars like this one have it",
    )


def _place(
    song: Transcription, why: Why, place: Place, items: Sequence[tuple[Hit, float, int]]
) -> ReviewPlace:
    hits = tuple(hit for hit, _, _ in items)
    cost = 0.0
    for hit, share, _ in items:
        if why is Why.EXTRA:
            wrong = 1 - hit.confidence * (1 - EXTRA_PRIOR * (1 - share / SELDOM))
        else:
            wrong = MISSING_PRIOR * (share - MOSTLY) / (1 - MOSTLY)
        cost += max(0.0, wrong) * cost_of(hit)
    count = max(count for _, _, count in items)
    meter = song.bar(hits[0].bar).meter
    where = place_words(place[0], meter)
    name = SPOKEN_NAMES[place[1]]
    bars = _named([hit.bar for hit in hits])
    if why is Why.EXTRA:
        words = f"{name} on {where}, only in {bars} of {count} alike"
    else:
        words = f"no {name} on {where} in {bars}, where bars like it have one"
    return ReviewPlace(why, place[1], hits, count, cost, words[0].upper() + words[1:])


def _uncertain(song: Transcription) -> list[ReviewPlace]:
    """Uncertain notes, those of one drum at one place of the bar together."""
    groups: dict[Place, list[Hit]] = defaultdict(list)
    for hit in written(song.hits):
        if hit.is_uncertain:
            groups[hit.position, hit.instrument].append(hit)
    found = []
    for (position, instrument), hits in groups.items():
        cost = sum(expected_cost(hit) for hit in hits)
        where = place_words(position, song.bar(hits[0].bar).meter)
        words = f"{SPOKEN_NAMES[instrument]} on {where} in {_named([h.bar for h in hits])}"
        words = f"{words[0].upper()}{words[1:]}: heard faintly"
        found.append(
            ReviewPlace(Why.UNCERTAIN, instrument, tuple(hits), len(song.bars), cost, words)
        )
    return found


MOST_NAMED = 3


def _named(bars: Sequence[int]) -> str:
    numbers = sorted(set(bars))
    if len(numbers) == 1:
        return f"bar {numbers[0]}"
    if len(numbers) <= MOST_NAMED:
        return f"bars {', '.join(map(str, numbers[:-1]))} and {numbers[-1]}"
    return f"{len(numbers)} bars"

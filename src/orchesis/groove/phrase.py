"""The typical phrase: how long the pattern of a stretch is, and how firmly each note belongs to it.

The length (1, 2 or 4 bars) and a change in mid-section are decided by the marginal likelihood of
the bars under independent cells with Jeffreys' prior (Kass and Raftery, "Bayes factors", JASA
1995): a longer phrase or a second one must explain enough to pay for its cells. How firmly a note
belongs follows from the posterior of its share, so that two bars out of two prove less than eight
out of eight.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction
from itertools import pairwise

import numpy as np
import numpy.typing as npt
from scipy.special import betainc, betaln

from orchesis.groove.cells import BarTable, bar_table, belief
from orchesis.music.instruments import Instrument, Limb, Ornament
from orchesis.music.values import Bar, Fill, Hit, written

LENGTHS = (1, 2, 4)
PRIOR = 0.5
CERTAIN = 0.7
"""How sure the share of a note must be before the note is called core or usual."""

CORE_SHARE, USUAL_SHARE = 0.75, 0.4
LEAST_COUNT = 1.5
"""What was played less often than twice, doubts counted in part, is no part of the phrase."""

RARELY = 0.1
"""How likely it is beforehand that a cell goes its own way: over a longer period, or changed."""

LONGER_PAYS = 3.0
"""Log odds by which a longer phrase must be likelier: twenty to one."""

CHANGE_PAYS = 3.0
"""Log odds of a change, beyond the number of places where it could be."""

SHORTEST = 3
"""Bars on either side of a change."""

Counts = npt.NDArray[np.float64]


class Standing(StrEnum):
    """How firmly a note belongs to the groove."""

    CORE = "core"
    USUAL = "usual"
    OCCASIONAL = "occasional"


@dataclass(frozen=True, slots=True)
class PhraseNote:
    """A note of the phrase: in its `bar` from 0, and how many of how many bars have it."""

    bar: int
    position: Fraction
    instrument: Instrument
    standing: Standing
    share: float
    count: int
    asked: int
    velocity: int
    ghost: bool
    accent: bool
    limb: Limb | None
    ornament: Ornament | None = None
    opening: float | None = None

    def in_bar(self, bar: Bar) -> Hit:
        """The same as a stroke of a bar of the song."""
        return Hit(
            time=bar.stroke_at(self.position),
            instrument=self.instrument,
            velocity=self.velocity,
            bar=bar.number,
            position=self.position,
            ghost=self.ghost,
            accent=self.accent,
            limb=self.limb,
            ornament=self.ornament,
            opening=self.opening,
        )


@dataclass(frozen=True, slots=True)
class Phrase:
    """What a stretch of bars plays. `odds`: log odds of its length against the next likely one."""

    first_bar: int
    bars: int
    length: int
    notes: tuple[PhraseNote, ...]
    odds: float

    @property
    def words(self) -> str:
        """How long it is and how often it comes: "2 bars, 4 times"."""
        times = self.bars / self.length
        often = "once" if times <= 1 else "twice" if times == 2 else f"{times:g} times"
        return f"{self.length} {'bar' if self.length == 1 else 'bars'}, {often}"


def find_phrases(
    bars: Sequence[Bar], hits: Sequence[Hit], fills: Sequence[Fill] = ()
) -> tuple[Phrase, ...]:
    """The phrases of a section's bars, in order: one, or more where the groove changes."""
    if not bars:
        return ()
    table = bar_table(bars, hits, fills)
    edges = [0, *_changes(table, 0, len(bars)), len(bars)]
    return tuple(_phrase(table, hits, a, b) for a, b in pairwise(edges))


def _log_likelihood(played: Counts, asked: Counts) -> Counts:
    """Of cells played so often out of so many times; any shape."""
    value: Counts = betaln(played + PRIOR, asked - played + PRIOR) - betaln(PRIOR, PRIOR)
    return value


def _by_length(played: Counts, asked: Counts) -> Counts:
    """Log likelihood of each cell in a phrase of each length; shape (..., 3, cells).

    Most cells of a longer phrase are the same in each of its bars: each cell has a period of its
    own that divides the phrase, the shorter the likelier. The arguments hold counts by place in
    fours, shape (..., 4, cells).
    """
    periods = []
    for length in LENGTHS:
        likelihood: Counts = np.zeros((*played.shape[:-2], played.shape[-1]))
        for phase in range(length):
            mine = np.s_[..., phase::length, :]
            likelihood = likelihood + _log_likelihood(
                played[mine].sum(axis=-2), asked[mine].sum(axis=-2)
            )
        periods.append(likelihood)
    result, sofar = [], periods[0]
    for price, likelihood in enumerate(periods):
        if price:
            sofar = np.logaddexp(np.log1p(-RARELY) + sofar, np.log(RARELY) + likelihood)
        result.append(sofar)
    return np.stack(result, axis=-2)


def _in_fours(values: Counts, first: int, last: int) -> Counts:
    """Running sums over the rows first..last, counted apart by their place in fours from `first`.

    Shape (last - first + 1, 4, columns); entry i holds the rows before first + i.
    """
    rows = values[first:last]
    apart = np.zeros((len(rows), 4, values.shape[1]))
    apart[np.arange(len(rows)), np.arange(len(rows)) % 4] = rows
    return np.concatenate([np.zeros((1, 4, values.shape[1])), np.cumsum(apart, axis=0)])


def _changes(table: BarTable, first: int, last: int) -> list[int]:
    """Rows at which the groove changes between two rows, by splitting while it pays."""
    count = last - first
    if count < 2 * SHORTEST or not table.cells:
        return []
    played, asked = _in_fours(table.played, first, last), _in_fours(table.asked, first, last)
    # Under the longest phrase, of which the shorter ones are special cases; shape (cells,).
    whole = _by_length(played[-1], asked[-1])[-1]
    places = np.arange(SHORTEST, count - SHORTEST + 1)
    before = _by_length(played[places], asked[places])[:, -1]
    # The phrase after the change begins with it: its bars are counted in fours from there.
    rest_played = np.stack([_turned(played[-1] - played[p], int(p)) for p in places])
    rest_asked = np.stack([_turned(asked[-1] - asked[p], int(p)) for p in places])
    after = _by_length(rest_played, rest_asked)[:, -1]
    apart = np.logaddexp(np.log1p(-RARELY) + whole, np.log(RARELY) + before + after)
    gain = (apart - whole).sum(axis=-1)
    best = int(np.argmax(gain))
    if gain[best] < CHANGE_PAYS + np.log(len(places)):
        return []
    middle = first + int(places[best])
    return [*_changes(table, first, middle), middle, *_changes(table, middle, last)]


def _turned(counts: Counts, place: int) -> Counts:
    turned: Counts = np.roll(counts, -(place % 4), axis=0)
    return turned


def _phrase(table: BarTable, hits: Sequence[Hit], first: int, last: int) -> Phrase:
    played, asked = _in_fours(table.played, first, last), _in_fours(table.asked, first, last)
    prices = LONGER_PAYS * np.arange(len(LENGTHS))
    likely = _by_length(played[-1], asked[-1]).sum(axis=-1) - prices
    possible = [i for i, length in enumerate(LENGTHS) if length == 1 or 2 * length <= last - first]
    order = sorted(possible, key=lambda i: -likely[i])
    length = LENGTHS[order[0]]
    odds = float(likely[order[0]] - likely[order[1]]) if len(order) > 1 else 0.0
    bars = table.bars[first:last]
    notes = typical_notes(bars, hits, length, table, first)
    return Phrase(bars[0].number, len(bars), length, notes, odds)


def typical_notes(
    bars: Sequence[Bar], hits: Sequence[Hit], length: int, table: BarTable, first: int = 0
) -> tuple[PhraseNote, ...]:
    """The notes of a phrase of that many bars, which begins with the first of these bars."""
    row_of = {bar.number: row for row, bar in enumerate(bars)}
    at: dict[tuple[int, Fraction, Instrument], list[Hit]] = defaultdict(list)
    for hit in written(hits):
        row = row_of.get(hit.bar)
        if row is not None:
            at[row % length, hit.position, hit.instrument].append(hit)
    asked_of = _asked_by_place(table, first, len(bars), length)
    notes = []
    for (phase, position, instrument), members in at.items():
        rows = asked_of[phase, position]
        inside = [hit for hit in members if row_of[hit.bar] in rows]
        count = sum(belief(hit) for hit in inside)
        standing = standing_of(count, len(rows))
        if standing is None:
            continue
        ornaments = Counter(hit.ornament for hit in inside)
        openings = [hit.opening for hit in inside if hit.opening is not None]
        notes.append(
            PhraseNote(
                bar=phase,
                position=position,
                instrument=instrument,
                standing=standing,
                share=count / len(rows),
                count=len(inside),
                asked=len(rows),
                velocity=int(np.median([hit.velocity for hit in inside])),
                ghost=2 * sum(hit.ghost for hit in inside) > len(inside),
                accent=2 * sum(hit.accent for hit in inside) > len(inside),
                # As most bars play it: notes that exclude each other share a hand.
                limb=Counter(hit.limb for hit in inside).most_common(1)[0][0],
                ornament=ornaments.most_common(1)[0][0],
                opening=round(float(np.median(openings)), 2) if openings else None,
            )
        )
    return tuple(sorted(notes, key=lambda note: (note.bar, note.position, note.instrument.value)))


def _asked_by_place(
    table: BarTable, first: int, count: int, length: int
) -> dict[tuple[int, Fraction], set[int]]:
    """For each place of the phrase the rows, from 0, that say something about it."""
    found: dict[tuple[int, Fraction], set[int]] = defaultdict(set)
    for column, cell in enumerate(table.cells):
        for row in np.flatnonzero(table.asked[first : first + count, column]):
            found[int(row) % length, cell.position].add(int(row))
    return found


def standing_of(count: float, asked: int) -> Standing | None:
    """How firmly a note belongs that was played in `count` of `asked` bars; None: it does not.

    Nor does one of a place that no bar is asked about: it is played in fills alone.
    """
    if not asked or count < min(LEAST_COUNT, 0.6 * asked):
        return None
    for least, standing in ((CORE_SHARE, Standing.CORE), (USUAL_SHARE, Standing.USUAL)):
        above = 1.0 - betainc(count + PRIOR, asked - count + PRIOR, least)
        if above >= CERTAIN:
            return standing
    return Standing.OCCASIONAL

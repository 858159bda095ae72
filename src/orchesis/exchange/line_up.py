"""A part from elsewhere put on the bars of a song: compared with it, or taken over.

The shift by which the most bars say the same is found among all; bars correspond one to one from
there. (Bars of other lengths than the song's stay where they are counted.)
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray
from scipy.signal import fftconvolve

from orchesis.music.instruments import Instrument
from orchesis.music.values import Hit, Transcription, written

MOST_PAIRS = 20_000
"""Pairs of bars that are counted one by one."""

Pattern = frozenset[tuple[Fraction, Instrument]]

SAME_DRUMS = {
    Instrument.HIHAT_OPEN: Instrument.HIHAT_CLOSED,
    Instrument.RIDE_BELL: Instrument.RIDE,
    Instrument.TOM_LOW: Instrument.TOM_FLOOR,
    Instrument.CROSS_STICK: Instrument.SNARE,
}
"""Told apart on paper, but the same place of a bar: a shift is found by these."""


@dataclass(frozen=True, slots=True)
class LinedUp:
    """A part on the bars of a song.

    song : the song with the part's notes where both have bars. shift : what is added to the
    number of a bar of the part. same, differing : bars of the song, by number, that say the same
    and that do not. beyond : bars of the part that the song does not have. agreement : share of
    strokes, of either, that both have.
    """

    song: Transcription
    shift: int
    same: tuple[int, ...]
    differing: tuple[int, ...]
    beyond: int
    agreement: float


def line_up(song: Transcription, part: Transcription, *, source: str = "") -> LinedUp:
    """Put a part on a song's bars. The song must have bars.

    Parameters
    ----------
    source : what the notes say of where they are from.
    """
    shift = _best_shift(song, part)
    meters = {bar.number: bar.meter for bar in song.bars}
    theirs: dict[int, list[Hit]] = defaultdict(list)
    part_meters = {bar.number: bar.meter for bar in part.bars}
    for hit in written(part.hits):
        theirs[hit.bar + shift].append(hit)
    covered = {
        bar.number + shift
        for bar in part.bars
        if meters.get(bar.number + shift) == part_meters[bar.number]
    }
    hits: list[Hit] = []
    for bar in song.bars:
        if bar.number not in covered:
            hits += song.hits_of(bar.number)
            continue
        hits += [
            replace(
                hit,
                bar=bar.number,
                time=bar.stroke_at(hit.position),
                source=source,
                reason=f"from {source}" if source else "",
            )
            for hit in theirs[bar.number]
        ]
    mine = _patterns(song, exact=True)
    other = {n + shift: pattern for n, pattern in _patterns(part, exact=True).items()}
    same = tuple(n for n in sorted(covered) if mine.get(n, EMPTY) == other.get(n, EMPTY))
    alike = set(same)
    differing = tuple(n for n in sorted(covered) if n not in alike)
    both = sum(len(mine.get(n, EMPTY) & other.get(n, EMPTY)) for n in covered)
    either = sum(len(mine.get(n, EMPTY) | other.get(n, EMPTY)) for n in covered)
    return LinedUp(
        song=song.with_hits(hits),
        shift=shift,
        same=same,
        differing=differing,
        beyond=len(part.bars) - len(covered),
        agreement=both / either if either else 1.0,
    )


EMPTY: Pattern = frozenset()


def _patterns(song: Transcription, *, exact: bool) -> dict[int, Pattern]:
    found: dict[int, set[tuple[Fraction, Instrument]]] = defaultdict(set)
    for hit in written(song.hits):
        drum = hit.instrument if exact else SAME_DRUMS.get(hit.instrument, hit.instrument)
        found[hit.bar].add((hit.position, drum))
    return {bar: frozenset(notes) for bar, notes in found.items()}


def _best_shift(song: Transcription, part: Transcription) -> int:
    """The shift with the most strokes in common; of two that are alike the smaller."""
    mine, theirs = _patterns(song, exact=False), _patterns(part, exact=False)
    first, last = song.bars[0].number, song.bars[-1].number
    lowest = first - part.bars[-1].number
    common = np.zeros(last - part.bars[0].number - lowest + 1)
    bars_of = {name: _bars_of(patterns) for name, patterns in (("mine", mine), ("theirs", theirs))}
    for stroke in bars_of["mine"].keys() & bars_of["theirs"].keys():
        ours, others = bars_of["mine"][stroke], bars_of["theirs"][stroke]
        if ours.size * others.size <= MOST_PAIRS:
            np.add.at(common, (ours[:, None] - others[None, :] - lowest).ravel(), 1)
        else:
            common += _correlated(ours, others, lowest, common.size)
    counts = np.rint(common).astype(int)
    best = np.flatnonzero(counts == counts.max()) + lowest
    return int(best[np.argmin(np.abs(best))])


def _bars_of(patterns: dict[int, Pattern]) -> dict[tuple[Fraction, Instrument], NDArray[np.int64]]:
    """The bars in which each stroke stands."""
    found: dict[tuple[Fraction, Instrument], list[int]] = defaultdict(list)
    for number, pattern in patterns.items():
        for stroke in pattern:
            found[stroke].append(number)
    return {stroke: np.asarray(bars) for stroke, bars in found.items()}


def _correlated(
    ours: NDArray[np.int64], others: NDArray[np.int64], lowest: int, size: int
) -> NDArray[np.float64]:
    """How many pairs of bars are each shift apart, by correlation: linear but for a logarithm."""
    here, there = np.zeros(np.ptp(ours) + 1), np.zeros(np.ptp(others) + 1)
    here[ours - ours.min()] = there[others - others.min()] = 1.0
    counts = fftconvolve(here, there[::-1])
    start = int(ours.min() - others.max() - lowest)
    found = np.zeros(size)
    found[start : start + counts.size] = counts
    return found

"""Quantising: where in the bar each stroke is written.

Each beat is written in two, three, four or six parts, whichever explains its strokes with the
least error and the least complication: a penalised least-squares choice in the spirit of
Cemgil, Desain and Kappen ("Rhythm quantization for transcription", CMJ 2000). The song's own
habit counts: a beat leaves it only for a good reason. Swing is taken out first, so that swung
sixteenths are written as sixteenths.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from typing import Any

import numpy as np
import numpy.typing as npt

from orchesis.listening.ear import Onset
from orchesis.music.instruments import Instrument
from orchesis.music.values import Bar, Feel
from orchesis.rhythm.grid import all_edges, place_in_beats, with_divisions
from orchesis.rhythm.swing import swing_from_phases, warp

TIMING_SPREAD = 0.018
"""Seconds: a stroke of a good player strays about this far from where it is written."""

COMPLICATION = {1: 0.0, 2: 0.6, 4: 1.6, 3: 4.0, 6: 8.0}
"""Cost of writing a beat in so many parts, in units of squared spread."""

CLASH = 6.0
"""Cost of two strokes of one drum falling on the same place."""

LEAVING_HABIT = 2.5
Numbers = npt.NDArray[Any]
FARTHEST = 16.0
"""No stroke costs more than one four spreads away: it is then a mistake of hearing."""


@dataclass(frozen=True, slots=True)
class Placed:
    """An onset with its bar number and its exact place in that bar."""

    onset: Onset
    bar: int
    position: Fraction


@dataclass(frozen=True, slots=True)
class Quantised:
    """Bars with their divisions, the strokes placed in them, and the feel that was found."""

    bars: tuple[Bar, ...]
    placed: tuple[Placed, ...]
    feel: Feel


def quantise(bars: Sequence[Bar], onsets: Sequence[Onset]) -> Quantised:
    """Place onsets on the grid. Of two strokes of one drum at one place the surer one is kept."""
    edges = all_edges(bars)
    if len(edges) < 2:
        return Quantised(tuple(bars), (), Feel())
    times = np.array([onset.time for onset in onsets])
    inside = [
        onset
        for onset, time in zip(onsets, times, strict=True)
        if edges[0] - 0.05 <= time < edges[-1] - 0.02
    ]
    beat_of, place = place_in_beats(edges, np.array([onset.time for onset in inside]))
    # A stroke just before a beat belongs to that beat.
    early = place > 1.0 - 0.5 / 6
    beat_of = np.where(early, beat_of + 1, beat_of).astype(int)
    place = np.where(early, place - 1.0, place)
    feel = swing_from_phases([float(value) for value in place])
    members: list[list[int]] = [[] for _ in range(len(edges))]
    for number, beat in enumerate(beat_of):
        members[int(beat)].append(number)
    slots = {parts: [warp(step / parts, feel) for step in range(parts)] for parts in (1, 2, 4)}
    # Triplets are even whatever the swing: they are what swing leans towards.
    slots |= {parts: [step / parts for step in range(parts)] for parts in (3, 6)}
    tried = {
        parts: _in_parts(inside, beat_of, place, np.diff(edges), np.array(slots[parts]), parts)
        for parts in COMPLICATION
    }
    costs = [
        {parts: float(cost[beat]) for parts, (cost, _) in tried.items()}
        for beat in range(len(edges) - 1)
    ]
    busy = [choice for beat, choice in enumerate(costs) if len(members[beat]) > 1]
    habit = min(
        COMPLICATION,
        key=lambda parts: sum(choice[parts] for choice in busy),
    )
    divisions: list[int] = []
    places: dict[tuple[int, Fraction, Instrument], Placed] = {}
    bar_of = [(bar, index) for bar in bars for index in range(bar.meter.pulses)]
    for beat, choice in enumerate(costs):
        parts = min(
            COMPLICATION,
            key=lambda p: choice[p] + (0.0 if _within(p, habit) else LEAVING_HABIT),
        )
        divisions.append(parts)
        bar, index = bar_of[beat]
        for number in members[beat]:
            onset, step = inside[number], int(tried[parts][1][number])
            position = _position(index * parts + step, parts * bar.meter.pulses)
            key = (bar.number, position, onset.instrument)
            if key not in places or places[key].onset.confidence < onset.confidence:
                places[key] = Placed(onset, bar.number, position)
    ordered = sorted(places.values(), key=lambda item: (item.bar, item.position))
    return Quantised(with_divisions(bars, divisions), tuple(ordered), feel)


def _in_parts(
    inside: Sequence[Onset],
    beat_of: Numbers,
    place: Numbers,
    lengths: Numbers,
    slots: Numbers,
    parts: int,
) -> tuple[Numbers, Numbers]:
    """What it costs to write each beat in so many parts, and the part on which each stroke falls.

    beat_of, place : of each stroke. lengths : seconds of each beat. slots : places of the parts.
    """
    errors = np.abs(place[:, None] - slots[None, :])
    steps = errors.argmin(axis=1)
    nearest = errors[np.arange(len(steps)), steps]
    # A stroke just before the last bar line belongs to a beat that is not there.
    cost = np.full(len(lengths) + 1, COMPLICATION[parts], dtype=float)
    spread = nearest * np.append(lengths, 0.0)[beat_of] / TIMING_SPREAD
    sure = np.array([onset.confidence for onset in inside])
    np.add.at(cost, beat_of, np.minimum(spread**2, FARTHEST) * sure)
    taken: set[tuple[int, int, Instrument]] = set()
    for onset, of_beat, step in zip(inside, beat_of.tolist(), steps.tolist(), strict=True):
        key = (of_beat, step, onset.instrument)
        if key in taken:
            cost[of_beat] += CLASH
        taken.add(key)
    return cost[:-1], steps


@lru_cache(maxsize=1024)
def _position(step: int, steps: int) -> Fraction:
    """Kept, since making a fraction is slow, and a song's strokes fall on few places."""
    return Fraction(step, steps)


def _within(parts: int, habit: int) -> bool:
    return habit % parts == 0

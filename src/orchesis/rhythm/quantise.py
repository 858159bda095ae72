"""Quantising: where in the bar each stroke is written.

Each beat is written in as many parts as explain its strokes with the least error and the least
complication (two, three, four, six or eight; in compound time three, six, two, four or twelve): a
penalised least-squares choice in the spirit of Cemgil, Desain and Kappen ("Rhythm quantization for
transcription", CMJ 2000). The song's own habit counts: a beat leaves it only for a good reason.
Swing is taken out first, so that swung sixteenths are written as sixteenths.
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
from orchesis.music.values import Bar, Feel, Meter
from orchesis.rhythm.grid import all_edges, place_in_beats, with_divisions
from orchesis.rhythm.swing import SWUNG_FROM, swing_from_phases, warp

TIMING_SPREAD = 0.018
"""Seconds: a stroke of a good player strays about this far from where it is written."""

COMPLICATION = {1: 0.0, 2: 0.6, 4: 1.6, 3: 4.0, 6: 8.0, 8: 18.0}
"""Cost of writing a beat in so many parts, in units of squared spread. Thirty-seconds must explain
two strokes that sixteenths do not: one may be a slip of the hand, or of the ear."""

SWUNG_COMPLICATION = {**COMPLICATION, 3: 1.6, 4: 6.0}
"""The same where eighths swing: triplets are nearer than even sixteenths."""

SWUNG_PARTS = (1, 2, 3, 6)

COMPOUND_COMPLICATION = {1: 0.0, 3: 0.6, 6: 1.6, 2: 9.0, 4: 14.0, 12: 18.0}
"""The same of a dotted beat, whose plain parts are three: two or four of them are a tuplet."""

SHORTEST_STEP = 0.06
"""Seconds between strokes of the fastest division: hands hardly play faster, and any stroke at all
falls near one of such places."""

FINE_PARTS = 8
"""From so many parts on SHORTEST_STEP is asked for."""

CLASH = 6.0
"""Cost of two strokes of one drum falling on the same place."""

LEAVING_HABIT = 2.5
Numbers = npt.NDArray[Any]
MOST_COMPLICATED = 40.0
"""Of a beat that the song's habit does not fit at all."""

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
    lengths = np.diff(edges)
    tried = {
        parts: _in_parts(inside, beat_of, place, lengths, beat_slots(parts, feel), parts)
        for parts in {parts for bar in bars for parts in _complication(bar.meter, feel)}
    }
    bar_of = [(bar, index) for bar in bars for index in range(bar.meter.pulses)]
    costs = [
        {
            parts: float(tried[parts][0][beat]) + complication
            for parts, complication in _complication(bar.meter, feel).items()
            if parts < FINE_PARTS or lengths[beat] >= SHORTEST_STEP * parts
        }
        for beat, (bar, _) in enumerate(bar_of)
    ]
    busy = [choice for beat, choice in enumerate(costs) if len(members[beat]) > 1]
    habit = min(
        sorted({parts for choice in costs for parts in choice if parts < FINE_PARTS}),
        key=lambda parts: sum(choice.get(parts, MOST_COMPLICATED) for choice in busy),
    )
    divisions: list[int] = []
    places: dict[tuple[int, Fraction, Instrument], Placed] = {}
    for beat, choice in enumerate(costs):
        parts = min(
            choice,
            key=lambda p: choice[p] + (0.0 if _within(p, habit, feel) else LEAVING_HABIT),
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
    """What each beat's strokes are off in so many parts, and the part on which each falls.

    beat_of, place : of each stroke. lengths : seconds of each beat. slots : places of the parts.
    """
    errors = np.abs(place[:, None] - slots[None, :])
    steps = errors.argmin(axis=1)
    nearest = errors[np.arange(len(steps)), steps]
    # A stroke just before the last bar line belongs to a beat that is not there.
    cost = np.zeros(len(lengths) + 1)
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


def _complication(meter: Meter, feel: Feel) -> dict[int, float]:
    if meter.is_compound:
        return COMPOUND_COMPLICATION
    return SWUNG_COMPLICATION if (feel.swing_8 or 1.0) >= SWUNG_FROM else COMPLICATION


def beat_slots(parts: int, feel: Feel) -> Numbers:
    """Where the parts of a beat sound, 0 to 1; shape (parts,).

    Threes and fives are even: triplets are what swing leans to.
    """
    swings = parts in (1, 2, 4, 8)
    return np.array([warp(k / parts, feel) if swings else k / parts for k in range(parts)])


@lru_cache(maxsize=1024)
def _position(step: int, steps: int) -> Fraction:
    """Kept, since making a fraction is slow, and a song's strokes fall on few places."""
    return Fraction(step, steps)


def _within(parts: int, habit: int, feel: Feel) -> bool:
    """Whether such beats are of the habit: of its parts, or swung eighths beside triplets."""
    if (feel.swing_8 or 1.0) >= SWUNG_FROM and parts in SWUNG_PARTS and habit in SWUNG_PARTS:
        return True
    return habit % parts == 0

"""Rhythm spelling: the notes and rests of one voice in one bar.

Drum style: a note lasts to the next stroke of its voice, or to the end of its beat, whichever
comes first, so that every beat can be seen; rests fill only what comes before the first stroke
of a beat. No ties are ever needed.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import lcm

from orchesis.music.values import Bar, Hit

PARTS = (1, 2, 3, 4, 6, 8, 12)
"""How a beat can be divided; anything finer is written at the nearest place of the last."""


@dataclass(frozen=True, slots=True)
class Value:
    """A written length: a fraction of a whole note as it looks, and its tuplet."""

    written: Fraction
    tuplet: tuple[int, int] | None

    @property
    def sounding(self) -> Fraction:
        """Its real length as a fraction of a whole note."""
        if self.tuplet is None:
            return self.written
        actual, normal = self.tuplet
        return self.written * normal / actual


@dataclass(frozen=True, slots=True)
class Event:
    """A chord of strokes, or a rest where there are none, with its place and written length.

    `tuplet_start` and `tuplet_stop` mark the ends of a tuplet's bracket; `beat` counts from 0.
    """

    beat: int
    hits: tuple[Hit, ...]
    value: Value
    tuplet_start: bool = False
    tuplet_stop: bool = False

    @property
    def is_rest(self) -> bool:
        """True where nothing is played."""
        return not self.hits


def spell_voice(bar: Bar, hits: Sequence[Hit]) -> tuple[Event, ...]:
    """Events that fill the bar exactly. One whole-bar rest where there are no hits."""
    if not hits:
        return (Event(0, (), Value(Fraction(bar.meter.beats, bar.meter.unit), None)),)
    by_beat: dict[int, list[Hit]] = defaultdict(list)
    for hit in hits:
        place = hit.position * bar.meter.pulses
        by_beat[place.numerator // place.denominator].append(hit)
    events: list[Event] = []
    for beat in range(bar.meter.pulses):
        events += _spell_beat(bar, beat, by_beat[beat])
    return tuple(events)


def _spell_beat(bar: Bar, beat: int, hits: Sequence[Hit]) -> list[Event]:
    whole_beat = bar.meter.pulse
    if not hits:
        return [Event(beat, (), Value(whole_beat, None))]
    within = {hit: hit.position * bar.meter.pulses - beat for hit in hits}
    parts = beat_parts(list(within.values()))
    steps: dict[int, list[Hit]] = defaultdict(list)
    for hit, place in within.items():
        steps[min(parts - 1, round(place * parts))].append(hit)
    starts = sorted(steps)
    tuplet = tuplet_of(parts, compound=bar.meter.is_compound)
    binary = parts if tuplet is None else tuplet[1]
    if tuplet is not None and starts == [0]:
        return [Event(beat, tuple(steps[0]), Value(whole_beat, None))]
    events: list[Event] = []
    for length in _split(starts[0]):
        events.append(Event(beat, (), Value(whole_beat * Fraction(length, binary), tuplet)))
    for start, end in zip(starts, [*starts[1:], parts], strict=True):
        note, *rests = _split(end - start)
        strokes = tuple(sorted(steps[start], key=lambda hit: hit.instrument.value))
        events.append(Event(beat, strokes, Value(whole_beat * Fraction(note, binary), tuplet)))
        for length in rests:
            events.append(Event(beat, (), Value(whole_beat * Fraction(length, binary), tuplet)))
    if tuplet is None:
        return events
    first, last = events[0], events[-1]
    if first is last:
        return [Event(beat, first.hits, first.value, True, True)]
    events[0] = Event(beat, first.hits, first.value, tuplet_start=True)
    events[-1] = Event(beat, last.hits, last.value, tuplet_stop=True)
    return events


def tuplet_of(parts: int, *, compound: bool) -> tuple[int, int] | None:
    """How many notes in the time of how many, for a beat in so many parts; None: no tuplet.

    Triplets are tuplets where beats halve; duplets and quadruplets are where they fall in three.
    """
    if compound:
        return (parts, 3 * parts // 2) if parts in (2, 4, 8) else None
    return None if parts in (1, 2, 4, 8) else (parts, 2 * parts // 3)


def beat_parts(places: Sequence[Fraction]) -> int:
    """The coarsest division of PARTS in which all these places within the beat can be written."""
    needed = lcm(*(place.denominator for place in places)) if places else 1
    fitting = [parts for parts in PARTS if parts % needed == 0]
    return fitting[0] if fitting else PARTS[-1]


def _split(length: int) -> list[int]:
    """A length in steps as the fewest that single notes can have: 1, 2, 3, 4, 6 or 8."""
    if length == 0:
        return []
    size = max(size for size in (1, 2, 3, 4, 6, 8) if size <= length)
    return [size, *_split(length - size)]

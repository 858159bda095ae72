"""Rhythm spelling: the notes and rests of one voice in one bar.

Drum style: only onsets matter, so a note lasts to the next stroke of its voice, or to the end of
its beat, whichever comes first; rests fill only what comes before the first stroke of a beat.
A stroke on the beat lasts on past an eighth rest, and rests that fill half a bar become one; the
middle of a bar of four is always seen. No ties are ever needed. (Gould, "Behind Bars", 2011, on
beaming and rests by the half bar.)
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from math import lcm

from orchesis.music.values import Hit, Meter

PARTS = (1, 2, 3, 4, 6, 8, 12, 5, 10)
"""How a beat can be divided; the first of these that fits is taken."""

FINEST = 12
"""In which places are written that none of these holds."""


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


PlaceOf = Callable[[Fraction], Fraction]
"""Where a place of the bar is written: see `swinging.in_triplets`."""


def spell_voice(
    meter: Meter, hits: Sequence[Hit], place_of: PlaceOf | None = None
) -> tuple[Event, ...]:
    """Events that fill a bar exactly. One whole-bar rest where there are no hits."""
    if not hits:
        return (Event(0, (), Value(Fraction(meter.beats, meter.unit), None)),)
    by_beat: dict[int, dict[Hit, Fraction]] = defaultdict(dict)
    for hit in hits:
        place = (place_of(hit.position) if place_of else hit.position) * meter.pulses
        beat = place.numerator // place.denominator
        by_beat[beat][hit] = place - beat
    beats = [_spell_beat(meter, beat, by_beat[beat]) for beat in range(meter.pulses)]
    for first, last in _halves(meter):
        _merge_within(meter, beats, first, last)
    return tuple(event for beat in beats for event in beat)


def _halves(meter: Meter) -> list[tuple[int, int]]:
    """The stretches of beats within which a note may last and rests are one."""
    if meter.pulses == 4:
        return [(0, 2), (2, 4)]
    return [(0, meter.pulses)] if meter.pulses in (2, 3) else []


HALF = Fraction(1, 2)
"""Notes stay shorter than a half note: hollow heads mean something else to drummers."""


def _merge_within(meter: Meter, beats: list[list[Event]], first: int, last: int) -> None:
    """Make one of the rests of a half bar, and let a stroke on the beat last past a first rest.

    Beats that have become part of what is before them are left without events.
    """
    opening = beats[first]
    if len(opening) != 1 or opening[0].value.tuplet is not None:
        return
    event = opening[0]
    held = first + 1
    while held < last and all(after.is_rest for after in beats[held]):
        held += 1
    length = meter.pulse * (held - first)
    if held == last and length.numerator in (1, 3) and (event.is_rest or length < HALF):
        beats[first] = [replace(event, value=Value(length, None))]
        for beat in range(first + 1, held):
            beats[beat] = []
    elif held == first + 1 < last and not event.is_rest and not meter.is_compound:
        after_it = beats[held]
        half = Value(meter.pulse / 2, None)
        longer = meter.pulse * 3 / 2
        rest_first = len(after_it) > 1 and after_it[0].is_rest and after_it[0].value == half
        if rest_first and longer < HALF:
            beats[first] = [replace(event, value=Value(longer, None))]
            beats[held] = after_it[1:]


def _spell_beat(meter: Meter, beat: int, within: dict[Hit, Fraction]) -> list[Event]:
    """The events of one beat. within : its strokes, and where in the beat each is."""
    whole_beat = meter.pulse
    if not within:
        return [Event(beat, (), Value(whole_beat, None))]
    parts = beat_parts(list(within.values()))
    steps: dict[int, list[Hit]] = defaultdict(list)
    for hit, place in within.items():
        steps[min(parts - 1, round(place * parts))].append(hit)
    starts = sorted(steps)
    tuplet = tuplet_of(parts, compound=meter.is_compound)
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


def flags(event: Event) -> int:
    """How many flags or beams the written value has: an eighth one, a sixteenth two."""
    length = event.value.written
    plain = length * Fraction(2, 3) if length.numerator == 3 else length
    return max(0, plain.denominator.bit_length() - 3)


def beam_groups(events: Sequence[Event]) -> list[list[int]]:
    """The notes that are beamed together, as indices among the events: those of one beat."""
    groups: dict[int, list[int]] = defaultdict(list)
    for index, event in enumerate(events):
        if not event.is_rest and flags(event) > 0:
            groups[event.beat].append(index)
    return [group for group in groups.values() if len(group) > 1]


def tuplet_of(parts: int, *, compound: bool) -> tuple[int, int] | None:
    """How many notes in the time of how many, for a beat in so many parts; None: no tuplet.

    Triplets are tuplets where beats halve; duplets and quadruplets are where they fall in three.
    """
    if compound and parts % 5:
        return (parts, 3 * parts // 2) if parts in (2, 4, 8) else None
    if parts % 5 == 0:
        return (parts, (6 if compound else 4) * parts // 5)
    return None if parts in (1, 2, 4, 8) else (parts, 2 * parts // 3)


def beat_parts(places: Sequence[Fraction]) -> int:
    """The coarsest division of PARTS in which all these places within the beat can be written."""
    needed = lcm(*(place.denominator for place in places)) if places else 1
    fitting = [parts for parts in PARTS if parts % needed == 0]
    return fitting[0] if fitting else FINEST


def _split(length: int) -> list[int]:
    """A length in steps as the fewest that single notes can have: 1, 2, 3, 4, 6 or 8."""
    if length == 0:
        return []
    size = max(size for size in (1, 2, 3, 4, 6, 8) if size <= length)
    return [size, *_split(length - size)]

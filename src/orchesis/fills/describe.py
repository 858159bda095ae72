"""What a fill is made of: subdivision and its changes, groupings, the way round the kit, the count.

All of it is read off the written notes, so that it changes with every edit.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import groupby, pairwise
from math import lcm

from orchesis.groove.count import DEFAULT_SCHOOL, SCHOOLS, CountWords, place_words, spoken
from orchesis.music.instruments import FEET, SPOKEN_NAMES, TIMEKEEPERS, Instrument
from orchesis.music.values import Bar, Fill, Hit, written

SUBDIVISIONS: dict[int, str] = {
    1: "quarters",
    2: "eighths",
    3: "triplets",
    4: "sixteenths",
    5: "quintuplets",
    6: "sextuplets",
    7: "septuplets",
    8: "thirty-seconds",
    12: "thirty-second triplets",
}

LEAST_RUN = 5
"""Strokes at one distance: fewer have no grouping."""

LARGEST_GROUP = 8


@dataclass(frozen=True, slots=True)
class Place:
    """All that is struck at one place of a fill.

    offset : beats from the beginning of the fill. drums : sorted by name, so that equal ones are.
    """

    bar: int
    position: Fraction
    offset: Fraction
    drums: tuple[Instrument, ...]
    accent: bool
    ghost: bool

    @property
    def is_hand(self) -> bool:
        """Whether a hand is among what plays."""
        return any(drum not in FEET for drum in self.drums)

    @property
    def is_foot(self) -> bool:
        """Whether a foot is among what plays."""
        return any(drum in FEET for drum in self.drums)


@dataclass(frozen=True, slots=True)
class Described:
    """A fill in a drummer's words; empty where there is nothing to say.

    subdivisions : name and first beat (in words) of each stretch. facts : sentences.
    """

    fill: Fill
    places: tuple[Place, ...]
    beats: Fraction
    where: str
    subdivisions: tuple[tuple[str, str], ...]
    grouping: str
    path: str
    hands_and_feet: str
    accents: str
    lead_in: str
    landing: str
    count: str
    is_linear: bool
    words: str


def places_of(fill: Fill, bars: Sequence[Bar], hits: Sequence[Hit]) -> tuple[Place, ...]:
    """What is struck in a fill, place by place.

    bars, hits : of the song, or at least of the bars of the fill.
    """
    inside = [bar for bar in bars if fill.begins_in <= bar.number <= fill.bar]
    start = {}
    beats = Fraction(0)
    for bar in inside:
        start[bar.number] = beats
        beats += len(bar.beats)
    counts = {bar.number: len(bar.beats) for bar in inside}
    at: dict[tuple[int, Fraction], list[Hit]] = {}
    for hit in written(hits):
        if is_inside(hit, fill):
            at.setdefault((hit.bar, hit.position), []).append(hit)
    first = fill.at * counts.get(fill.begins_in, 0)
    return tuple(
        Place(
            bar=number,
            position=position,
            offset=start[number] + position * counts[number] - first,
            drums=tuple(sorted({hit.instrument for hit in mine}, key=lambda i: i.value)),
            accent=any(hit.accent for hit in mine),
            ghost=all(hit.ghost for hit in mine),
        )
        for (number, position), mine in sorted(at.items())
    )


def is_inside(hit: Hit, fill: Fill) -> bool:
    """Whether a note belongs to a fill."""
    after = hit.bar > fill.begins_in or (hit.bar == fill.begins_in and hit.position >= fill.at)
    before = hit.bar < fill.bar or (hit.bar == fill.bar and hit.position < fill.until)
    return after and before


def length_in_beats(fill: Fill, bars: Sequence[Bar]) -> Fraction:
    """How many beats a fill lasts."""
    total = Fraction(0)
    for bar in bars:
        if fill.begins_in <= bar.number <= fill.bar:
            first = fill.at if bar.number == fill.begins_in else Fraction(0)
            last = fill.until if bar.number == fill.bar else Fraction(1)
            total += (last - first) * len(bar.beats)
    return total


def describe_fill(
    fill: Fill,
    bars: Sequence[Bar],
    hits: Sequence[Hit],
    words: CountWords = SCHOOLS[DEFAULT_SCHOOL],
) -> Described:
    """All that there is to say of a fill.

    bars, hits : of the song, or at least of the bars about the fill.
    """
    places = places_of(fill, bars, hits)
    by_number = {bar.number: bar for bar in bars}
    first = by_number[fill.begins_in]
    beats = length_in_beats(fill, bars)
    divided = _subdivisions(places, by_number, words)
    grouping = _grouping(places)
    path = _path(places)
    landing = _landing(fill, by_number, hits)
    where = f"{_beats_words(beats)} from {place_words(fill.at, first.meter, words)}"
    told = [where[0].upper() + where[1:], _subdivision_words(divided)]
    sentence = ": ".join(part for part in told if part)
    more = [part for part in (path, grouping, landing) if part]
    return Described(
        fill=fill,
        places=places,
        beats=beats,
        where=where,
        subdivisions=divided,
        grouping=grouping,
        path=path,
        hands_and_feet=_hands_and_feet(places),
        accents=_accents(places, by_number, words),
        lead_in=_lead_in(fill, first, hits),
        landing=landing,
        count=fill_count(fill, places, by_number, words),
        is_linear=len(places) > 1 and all(len(place.drums) == 1 for place in places),
        words="; ".join([sentence, *more]) + ".",
    )


def _beats_words(beats: Fraction) -> str:
    whole, rest = divmod(beats, 1)
    half = {
        Fraction(1, 2): "a half",
        Fraction(1, 4): "a quarter",
        Fraction(3, 4): "three quarters",
    }.get(rest)
    if not rest:
        return "one beat" if whole == 1 else f"{whole} beats"
    if half is None:
        return f"{float(beats):.1f} beats"
    return (
        f"{whole} beats and {half}"
        if whole > 1
        else f"a beat and {half}"
        if whole
        else (f"{half} of a beat")
    )


def _subdivisions(
    places: Sequence[Place], bars: dict[int, Bar], words: CountWords
) -> tuple[tuple[str, str], ...]:
    """Into what each stretch is divided: beats with one stroke go with their neighbours."""
    found: list[tuple[int, int, Fraction]] = []
    for (number, beat), group in groupby(places, key=lambda p: (p.bar, _beat(p, bars[p.bar]))):
        count = len(bars[number].beats)
        within = [place.position * count - beat for place in group]
        parts = lcm(*(place.denominator for place in within))
        found.append((parts, number, Fraction(beat, count)))
    told = [item for item in found if item[0] > 1] or found[:1]
    result: list[tuple[str, str]] = []
    for parts, number, position in told:
        name = SUBDIVISIONS.get(parts, f"{parts} to the beat")
        if not result or result[-1][0] != name:
            result.append((name, place_words(position, bars[number].meter, words)))
    return tuple(result)


def _beat(place: Place, bar: Bar) -> int:
    return int(place.position * len(bar.beats))


def _subdivision_words(divided: Sequence[tuple[str, str]]) -> str:
    if not divided:
        return ""
    first, *rest = divided
    return ", ".join([first[0], *(f"from {beat} {name}" for name, beat in rest)])


def _runs(places: Sequence[Place]) -> list[tuple[Fraction, list[Place]]]:
    """Stretches of strokes at one distance: the distance in beats, and the strokes."""
    runs: list[tuple[Fraction, list[Place]]] = []
    for one, other in pairwise(places):
        step = other.offset - one.offset
        if runs and runs[-1][0] == step:
            runs[-1][1].append(other)
        else:
            runs.append((step, [one, other]))
    return runs


def _grouping(places: Sequence[Place]) -> str:
    """Groups that come round: by the drums, or by the accents where the drum is the same."""
    told: list[str] = []
    groups: list[tuple[int, Fraction, tuple[tuple[Instrument, ...], ...]]] = []
    for step, run in _runs(places):
        if len(run) < LEAST_RUN or step >= 1:
            continue
        size = _period([place.drums for place in run])
        by_accents = False
        if size is None or size == 1:
            size, by_accents = _accent_period(run), True
        if size is None or size < 2:
            continue
        to_the_beat = 1 / step
        groups.append((size, step, tuple(place.drums for place in run[:size])))
        across = to_the_beat.denominator == 1 and (
            to_the_beat.numerator % size and size % to_the_beat.numerator
        )
        name = SUBDIVISIONS.get(to_the_beat.numerator, "strokes")
        how = "accents in " if by_accents else ""
        told.append(f"{how}groups of {size} {'across' if across else 'in'} {name}")
    told = list(dict.fromkeys(told))
    for (size, step, pattern), (other_size, other_step, other) in pairwise(groups):
        if size == other_size and pattern == other and step != other_step:
            names = [SUBDIVISIONS.get((1 / s).numerator, "strokes") for s in (step, other_step)]
            return f"the same {size} in {names[0]} and then in {names[1]}"
    return ", then ".join(told)


def _period(sequence: Sequence[object]) -> int | None:
    """After how many strokes a sequence comes round, two times at least; None: it does not."""
    for size in range(1, min(LARGEST_GROUP, len(sequence) // 2) + 1):
        if all(a == b for a, b in zip(sequence, sequence[size:], strict=False)):
            return size
    return None


def _accent_period(run: Sequence[Place]) -> int | None:
    accented = [index for index, place in enumerate(run) if place.accent]
    steps = {b - a for a, b in pairwise(accented)}
    return steps.pop() if len(accented) > 2 and len(steps) == 1 else None


def _path(places: Sequence[Place]) -> str:
    """The way round the kit: "4 snare, 4 high tom, 2 floor tom"; what the feet add besides."""
    linear = all(len(place.drums) == 1 for place in places)
    if linear and any(place.is_foot for place in places):
        return _stops(places)
    hands = [
        replace(place, drums=tuple(drum for drum in place.drums if drum not in FEET))
        for place in places
        if place.is_hand
    ]
    feet = sum(place.is_foot for place in places)
    beside = {0: "", 1: "with one stroke of the foot"}.get(feet, f"with {feet} strokes of the feet")
    return " ".join(part for part in (_stops(hands), beside) if part)


def _stops(places: Sequence[Place]) -> str:
    stops = [
        (tuple(SPOKEN_NAMES[d] for d in drums), len(list(group)))
        for drums, group in groupby(places, key=lambda place: place.drums)
    ]
    if not stops:
        return ""
    if len(stops) > 6:
        size = _period([place.drums for place in places])
        if size:
            once = [" with ".join(SPOKEN_NAMES[d] for d in place.drums) for place in places[:size]]
            return f"{', '.join(once)}, over and over"
        drums = list(dict.fromkeys(name for names, _ in stops for name in names))
        return f"{', '.join(drums[:-1])} and {drums[-1]} in turn"
    counts = {count for _, count in stops}
    names = [" with ".join(names) for names, _ in stops]
    if len(stops) == 1:
        return names[0] if stops[0][1] == 1 else f"all on the {names[0]}"
    if counts == {1}:
        return ", ".join(names)
    return ", ".join(f"{count} {name}" for name, (_, count) in zip(names, stops, strict=True))


def _hands_and_feet(places: Sequence[Place]) -> str:
    """H and F in order, B for both: by the turn where it comes round. Empty without feet."""
    if not any(place.is_foot for place in places):
        return ""
    letters = ["B" if p.is_hand and p.is_foot else "H" if p.is_hand else "F" for p in places]
    size = _period(letters)
    if size and size > 1:
        names = {"H": "hand", "F": "foot", "B": "both"}
        return f"{', '.join(names[letter] for letter in letters[:size])}, over and over"
    return " ".join(letters)


def _accents(places: Sequence[Place], bars: dict[int, Bar], words: CountWords) -> str:
    loud = [place for place in places if place.accent]
    if not loud or len(loud) == len(places):
        return ""
    said = [place_words(place.position, bars[place.bar].meter, words) for place in loud]
    return ", ".join(said)


def _landing(fill: Fill, bars: dict[int, Bar], hits: Sequence[Hit]) -> str:
    after = bars.get(fill.bar + 1)
    if fill.until < 1:
        return f"time is kept again from {place_words(fill.until, bars[fill.bar].meter)}"
    if after is None:
        return "the song ends with it"
    on_one = {h.instrument for h in written(hits) if h.bar == after.number and h.position == 0}
    crash = on_one & {Instrument.CRASH, Instrument.CHINA, Instrument.SPLASH}
    if crash:
        name = SPOKEN_NAMES[min(crash, key=lambda i: i.value)]
        return f"lands on a {name} on the one"
    if not on_one:
        return "nothing falls on the one after it"
    return ""


def _lead_in(fill: Fill, bar: Bar, hits: Sequence[Hit]) -> str:
    """What leads to it: an open hat or a crash as the last stroke in time, a flam, a rest."""
    before = [h for h in written(hits) if h.bar == bar.number and h.position < fill.at]
    beat = Fraction(1, len(bar.beats))
    if before and fill.at - max(hit.position for hit in before) > beat:
        return "led in by more than a beat of rest"
    ornamented = [h for h in before if h.ornament is not None and fill.at - h.position <= beat]
    if ornamented:
        last = max(ornamented, key=lambda hit: hit.position)
        place = place_words(last.position, bar.meter)
        return f"led in by a {last.ornament.value} on {place}" if last.ornament else ""
    timed = [h for h in before if h.instrument in TIMEKEEPERS or h.instrument is Instrument.CRASH]
    if not timed:
        return ""
    last = max(timed, key=lambda hit: hit.position)
    if last.instrument in (Instrument.HIHAT_OPEN, Instrument.CRASH):
        place = place_words(last.position, bar.meter)
        return f"led in by the {SPOKEN_NAMES[last.instrument]} on {place}"
    return ""


def fill_count(fill: Fill, places: Sequence[Place], bars: dict[int, Bar], words: CountWords) -> str:
    """The count of what is played: numbers on which nothing falls in brackets."""
    said: list[str] = []
    for number in range(fill.begins_in, fill.bar + 1):
        bar = bars.get(number)
        if bar is None:
            continue
        count = len(bar.beats)
        mine = {place.position for place in places if place.bar == number}
        low = fill.at if number == fill.begins_in else Fraction(0)
        high = fill.until if number == fill.bar else Fraction(1)
        numbers = {Fraction(beat, count) for beat in range(count)}
        tokens = []
        for position in sorted(mine | {p for p in numbers if low <= p < high}):
            beat = int(position * count)
            sixths = any(
                (p * count - beat).denominator == 6 for p in mine if int(p * count) == beat
            )
            word = spoken(position, bar.meter, words, 6 if sixths else 0) or "·"
            tokens.append(word if position in mine else f"({word})")
        said.append(" ".join(tokens))
    return " | ".join(said)

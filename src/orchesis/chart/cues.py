"""What a reader is told beside the notes: stops, fills, what a person wrote over a bar."""

from __future__ import annotations

from collections import defaultdict
from fractions import Fraction

from orchesis.groove.count import CountWords, spoken
from orchesis.music.instruments import Instrument
from orchesis.music.values import Bar, Hit, Transcription, written

STOP_SHARE = Fraction(1, 2)
"""A bar that says nothing any more from here on is a stop, where it goes on in the next."""

LEAST_AROUND = 4
"""Strokes in that part of the bars before and after it, without which silence is no news."""


def bar_of(song: Transcription, time: float) -> int | None:
    """The number of the bar that a time belongs to: a cue a hair before the one is of that one."""
    if not song.bars:
        return None
    for bar in song.bars:
        early = 0.5 * (bar.end - bar.start) / bar.meter.pulses
        if bar.start - early <= time < bar.end - early:
            return bar.number
    return song.bars[-1].number


def cues_of(song: Transcription) -> dict[int, tuple[str, ...]]:
    """The words over each bar that has any: a person's first, then the stops."""
    found: dict[int, list[str]] = defaultdict(list)
    for cue in sorted(song.cues, key=lambda cue: cue.time):
        number = bar_of(song, cue.time)
        if number is not None:
            found[number].append(cue.words)
    for number, words in _stops(song).items():
        if not found[number]:
            found[number].append(words)
    return {number: tuple(words) for number, words in found.items() if words}


def _stops(song: Transcription) -> dict[int, str]:
    by_bar: dict[int, list[Hit]] = defaultdict(list)
    for hit in written(song.hits):
        by_bar[hit.bar].append(hit)
    return {
        bar.number: "stop"
        for before, bar, after in zip(song.bars, song.bars[1:], song.bars[2:], strict=False)
        if by_bar[bar.number]
        and not _late(bar, by_bar)
        and min(_late(before, by_bar), _late(after, by_bar)) >= LEAST_AROUND
    }


def _late(bar: Bar, by_bar: dict[int, list[Hit]]) -> int:
    return sum(hit.position > STOP_SHARE for hit in by_bar[bar.number])


def crash_words(bar: Bar, hits: list[Hit], words: CountWords) -> str:
    """The cymbals that a bar has beyond its groove, as a bandmate says it: "crash on 1"."""
    marks = (Instrument.CRASH, Instrument.SPLASH, Instrument.CHINA)
    return ", ".join(
        f"{hit.instrument.value} on {spoken(hit.position, bar.meter, words)}"
        for hit in hits
        if hit.instrument in marks
    )

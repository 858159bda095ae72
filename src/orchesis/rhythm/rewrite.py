"""Writing the same strokes on another grid: another reading, a dragged downbeat, tapped beats.

A stroke keeps its time, its loudness and all that was decided about it; only its bar and its place
are found anew. No stroke is lost: where two of one drum would fall on one place, the later one goes
to the next free place of a finer grid.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

import numpy as np

from orchesis.errors import InvalidTranscription
from orchesis.listening.ear import Onset
from orchesis.music.instruments import Instrument
from orchesis.music.values import (
    Bar,
    Feel,
    Hit,
    ReadingSummary,
    Section,
    Transcription,
    in_order,
)
from orchesis.rhythm.bars import BarLines
from orchesis.rhythm.beats import Times, tempo_of
from orchesis.rhythm.grid import lay_bars
from orchesis.rhythm.levels import TRACKED_IN, in_parts
from orchesis.rhythm.quantise import quantise

SLACK_AT_ENDS = 0.1
"""Seconds by which a stroke may come before the first bar and still belong to it."""

FINEST = 24
"""Parts of a beat on which displaced strokes find a place."""


def beats_at_level(tracked: Sequence[float], key: str) -> Times:
    """The beats of a reading, from the tracked ones and the reading's key."""
    beats = np.asarray(tracked, dtype=float)
    level = key.split("/")[0]
    kind, _, phase = level.partition("-")
    if kind == "double":
        return in_parts(beats, 2)
    if kind == "off":
        return in_parts(beats, 2)[1::2]
    step = TRACKED_IN.get(kind)
    if step is None:
        raise InvalidTranscription(f"there is no reading {key!r}")
    return beats[int(phase or 0) :: step]


def take_reading(song: Transcription, key: str) -> Transcription:
    """The same strokes, counted in another of the song's readings.

    Raises InvalidTranscription where the song has no reading of that key.
    """
    reading = next((one for one in song.readings if one.key == key), None)
    if reading is None:
        raise InvalidTranscription(f"this song has no reading {key!r}")
    beats = beats_at_level(song.tracked_beats, key)
    others = [one for one in song.readings if one is not reading]
    return on_beats(song, beats, reading, (reading, *others))


def on_beats(
    song: Transcription,
    beats: Times,
    reading: ReadingSummary,
    readings: tuple[ReadingSummary, ...],
) -> Transcription:
    """The song's strokes on the bars of these beats."""
    lines = BarLines(reading.meter.pulses, reading.downbeats, 0.0, 0.0)
    times = [hit.time for hit in song.hits]
    bars = lay_bars(
        beats,
        lines,
        reading.meter,
        earliest=min(times, default=float(beats[0])),
        latest=max(times, default=float(beats[-1])),
    )
    return replace(
        _laid(song, bars, half_time=reading.half_time),
        tempo_bpm=tempo_of(beats),
        meter=reading.meter,
        readings=readings,
    )


def onto_bars(heard: Transcription, home: Transcription) -> Transcription:
    """The strokes of one transcription on the very bars of another: none is added, none renumbered.

    What belongs to the grid (beats, metre, tempo, readings) is `home`'s; strokes before its first
    bar or after its last are left out, for there is no place to write them.
    """
    first, last = home.bars[0].start - SLACK_AT_ENDS, home.bars[-1].end
    inside = heard.with_hits(hit for hit in heard.hits if first <= hit.time < last)
    return replace(
        _laid(inside, home.bars, half_time=home.feel.half_time),
        tempo_bpm=home.tempo_bpm,
        meter=home.meter,
        beats=home.beats,
        readings=home.readings,
        tracked_beats=home.tracked_beats,
    )


def _laid(song: Transcription, bars: Sequence[Bar], *, half_time: bool) -> Transcription:
    """Everything of a song that has a place, written on these bars."""
    written_bars, hits, feel = rewritten(bars, song.hits)
    return replace(
        song,
        beats=tuple(beat for bar in written_bars for beat in bar.beats),
        bars=written_bars,
        hits=hits,
        sections=sections_on(written_bars, song.sections),
        fills=tuple(
            replace(fill, bar=_bar_at(written_bars, (fill.start + fill.end) / 2).number)
            for fill in song.fills
        ),
        feel=replace(feel, half_time=half_time),
    )


def rewritten(
    bars: Sequence[Bar], hits: Sequence[Hit]
) -> tuple[tuple[Bar, ...], tuple[Hit, ...], Feel]:
    """Bars with their divisions, every hit with its new place, and the feel."""
    onsets = [
        Onset(hit.time, hit.instrument, hit.velocity / 127, hit.confidence, str(index))
        for index, hit in enumerate(hits)
    ]
    onsets.sort(key=lambda onset: onset.time)
    written = quantise(bars, onsets)
    moved: dict[int, Hit] = {}
    taken: set[tuple[int, Fraction, Instrument]] = set()
    for placed in written.placed:
        index = int(placed.onset.reason)
        moved[index] = replace(hits[index], bar=placed.bar, position=placed.position)
        taken.add(moved[index].place)
    for index, hit in enumerate(hits):
        if index not in moved:
            moved[index] = _in_free_place(hit, written.bars, taken)
            taken.add(moved[index].place)
    return written.bars, tuple(sorted(moved.values(), key=in_order)), written.feel


def _in_free_place(
    hit: Hit, bars: Sequence[Bar], taken: set[tuple[int, Fraction, Instrument]]
) -> Hit:
    """The hit at the free place nearest to where it sounds."""
    bar = _bar_at(bars, hit.time)
    count = len(bar.beats) * FINEST
    share = (hit.time - bar.start) / (bar.end - bar.start)
    nearest = min(max(round(share * count), 0), count - 1)
    for step in sorted(range(count), key=lambda place: abs(place - nearest)):
        moved = replace(hit, bar=bar.number, position=Fraction(step, count))
        if moved.place not in taken:
            return moved
    raise InvalidTranscription(f"bar {bar.number} is full")


def _bar_at(bars: Sequence[Bar], time: float) -> Bar:
    index = int(np.searchsorted([bar.start for bar in bars], time + 1e-6, side="right")) - 1
    return bars[min(max(index, 0), len(bars) - 1)]


def sections_on(bars: Sequence[Bar], sections: Sequence[Section]) -> tuple[Section, ...]:
    """The same sections on other bars: each begins on the bar line nearest to where it began."""
    if not bars or not sections:
        return ()
    lines = np.array([bar.start for bar in bars])
    starts = [int(np.argmin(np.abs(lines - section.start))) for section in sections]
    starts[0] = 0
    result = []
    for index, section in enumerate(sections):
        first = starts[index]
        last = starts[index + 1] if index + 1 < len(starts) else len(bars)
        if last <= first:
            continue
        result.append(
            replace(
                section,
                start=bars[first].start,
                end=bars[last - 1].end,
                bars=last - first,
                first_bar=bars[first].number,
            )
        )
    return tuple(result)


def move_downbeat(
    song: Transcription, number: int, time: float, anchors: Sequence[float]
) -> Transcription:
    """Draw a bar line to a time; beats up to the anchors on either side follow.

    Parameters
    ----------
    number : the bar whose one is drawn. time : seconds where it belongs.
    anchors : seconds of bar lines that stay where they are; without any on a side, eight bars
        follow.

    Raises InvalidTranscription where the line would cross its neighbours' anchors.
    """
    bar = song.bar(number)
    if not 0.0 <= time <= song.length:
        raise InvalidTranscription(
            f"that is outside the recording, which lasts {song.length:.0f} s"
        )
    if not song.readings:
        raise InvalidTranscription("this song has no grid yet: tap along first")
    beats = np.asarray(song.tracked_beats, dtype=float)
    reach = 8 * (bar.end - bar.start)
    left = max([a for a in anchors if a < bar.start - 1e-3], default=bar.start - reach)
    right = min([a for a in anchors if a > bar.start + 1e-3], default=bar.start + reach)
    if not left + 0.2 < time < right - 0.2:
        raise InvalidTranscription("a bar line cannot be drawn across one that is fixed")
    moved = np.interp(
        beats, [left - 1e6, left, bar.start, right, right + 1e6],
        [left - 1e6, left, time, right, right + 1e6],
    )  # fmt: skip
    warped = replace(song, tracked_beats=tuple(float(beat) for beat in moved))
    return take_reading(warped, song.readings[0].key)

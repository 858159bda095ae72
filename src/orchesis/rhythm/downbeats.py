"""Moving the one, and evening out a stray bar: the same beats with other bar lines."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from orchesis.errors import InvalidTranscription
from orchesis.music.values import Bar, ReadingSummary, Transcription
from orchesis.rhythm.beats import Times
from orchesis.rhythm.rewrite import beats_at_level, on_beats

SAME_LENGTH = 0.15
"""A stray bar whose length is that of an ordinary one but for this share has miscounted beats."""

NEAR = 0.3
"""Share of a beat within which a bar line is on a beat."""

MOST_BARS_ON = 32
"""Bars after a stray one among which another that makes up for it is looked for."""


def shift_downbeats(song: Transcription, beats: int) -> Transcription:
    """Every bar begun so many felt beats later.

    Raises
    ------
    InvalidTranscription : the song has no grid, or that many beats are a whole bar.
    """
    reading = _reading(song)
    count = reading.meter.pulses
    if beats % count == 0:
        raise InvalidTranscription(f"bars of {count} beats begin anew after {count} of them")
    level = beats_at_level(song.tracked_beats, reading.key)
    later = [one + beats for one in reading.downbeats if 0 <= one + beats < len(level)]
    first = later[0] if later else beats % count
    later = [*range(first % count, first, count), *later]
    return _with_downbeats(song, later)


def stray_bars(song: Transcription) -> tuple[int, ...]:
    """The numbers of the bars that leave the song's metre, the first and the last aside."""
    pulses = song.meter.pulses
    return tuple(bar.number for bar in song.bars[1:-1] if len(bar.beats) != pulses)


def even_out_bar(song: Transcription, number: int) -> Transcription:
    """The song without that stray bar.

    A bar that lasts as long as the others has its beats spread evenly. Otherwise bars are counted
    on from it: up to another stray bar that makes up for it, or else to the end of the song; a
    confirmed section keeps its bars.

    Raises
    ------
    InvalidTranscription : the bar has as many beats as the others, or there is no such bar.
    """
    bar = song.bar(number)
    count = song.meter.pulses
    if len(bar.beats) == count:
        raise InvalidTranscription(f"bar {number} has {count} beats like the others")
    usual = float(np.median([one.end - one.start for one in song.bars]))
    if abs((bar.end - bar.start) / usual - 1) < SAME_LENGTH:
        return _with_even_beats(song, bar, count)
    end = _end_of_recount(song, bar, count)
    beats = np.array([beat for one in song.bars for beat in one.beats])
    recounted = beats[(beats >= bar.start - 1e-6) & (beats < end - 1e-6)][::count]
    level = beats_at_level(song.tracked_beats, _reading(song).key)
    starts = [one.start for one in song.bars]
    lines = [
        *(start for start in starts if start < bar.start - 1e-6),
        *recounted,
        *(start for start in starts if start >= end - 1e-6),
    ]
    return _with_downbeats(song, _on_beats_of(level, np.array(lines)))


def _end_of_recount(song: Transcription, stray: Bar, count: int) -> float:
    """When the bars are as they were again, in seconds."""
    following = [bar for bar in song.bars if bar.start >= stray.start - 1e-6]
    confirmed = [start for start, _ in song.confirmed_spans if start > stray.start + 1e-6]
    total = 0
    for bar in following[:MOST_BARS_ON]:
        total += len(bar.beats)
        if bar is not stray and len(bar.beats) != count and total % count == 0:
            return min([bar.end, *confirmed])
    return min([song.bars[-1].end, *confirmed])


def _with_even_beats(song: Transcription, bar: Bar, count: int) -> Transcription:
    """The bar's beats spread evenly; other readings counted other beats, and go."""
    reading = _reading(song)
    level = beats_at_level(song.tracked_beats, reading.key)
    starts = level[[one for one in reading.downbeats if one < len(level)]]
    own = np.linspace(bar.start, bar.end, count + 1)[:-1]
    outside = level[(level < bar.start - 1e-3) | (level >= bar.end - 1e-3)]
    beats = np.sort(np.concatenate([outside, own]))
    summary = replace(
        reading,
        key=f"tracked/{reading.meter.beats}-{reading.meter.unit}/0",
        downbeats=tuple(_on_beats_of(beats, starts)),
    )
    evened = replace(song, tracked_beats=tuple(float(beat) for beat in beats))
    return on_beats(evened, beats, summary, (summary,))


def _on_beats_of(beats: Times, times: Times) -> list[int]:
    """The indices of the beats on which these times are, in order."""
    apart = np.abs(beats[None, :] - times[:, None])
    near = apart.min(axis=1) < NEAR * float(np.median(np.diff(beats)))
    return sorted({int(index) for index in apart.argmin(axis=1)[near]})


def _with_downbeats(song: Transcription, downbeats: list[int]) -> Transcription:
    reading, *others = song.readings
    level = beats_at_level(song.tracked_beats, reading.key)
    changed = replace(reading, downbeats=tuple(downbeats))
    return on_beats(song, level, changed, (changed, *others))


def _reading(song: Transcription) -> ReadingSummary:
    if not song.readings or not song.bars:
        raise InvalidTranscription("this song has no grid yet: tap along first")
    return song.readings[0]

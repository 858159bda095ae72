"""How beats that fall in three are written: compound time, triplets, or swung eighths.

The three say the same of what is played. Which of them a drummer writes hangs on the style: a slow
blues in 12/8, a half-time shuffle in triplets, a medium swing in eighths with the sign.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from enum import StrEnum
from fractions import Fraction
from statistics import median

from orchesis.errors import InvalidTranscription
from orchesis.music.values import Bar, Hit, Meter, ReadingSummary, Transcription
from orchesis.rhythm.grid import meter_of
from orchesis.rhythm.swing import FEWEST_PAIRS, SWUNG_FROM


class BeatNotation(StrEnum):
    """One of the three."""

    COMPOUND = "compound"
    TRIPLETS = "triplets"
    SWUNG = "swung"


HALF, LAST_THIRD = Fraction(1, 2), Fraction(2, 3)
TRIPLET_RATIO = 2.0
LEAST_SHARE = 0.5
"""Of the divided beats, in threes, for a song to be written in triplets."""


def beat_notation(song: Transcription) -> BeatNotation | None:
    """Which of the three a song is written in; None where its beats do not fall in three."""
    if song.meter.is_compound:
        return BeatNotation.COMPOUND
    if (song.feel.swing_8 or 1.0) >= SWUNG_FROM:
        return BeatNotation.SWUNG
    divided = [parts for bar in song.bars for parts in bar.divisions if parts > 1]
    threes = sum(parts % 3 == 0 for parts in divided)
    return BeatNotation.TRIPLETS if divided and threes > LEAST_SHARE * len(divided) else None


def rewrite_beats(song: Transcription, notation: BeatNotation) -> Transcription:
    """The same strokes, written otherwise; no stroke's time moves.

    Raises
    ------
    InvalidTranscription : the song's beats do not fall in three.
    """
    now = beat_notation(song)
    if now is None:
        raise InvalidTranscription(
            "the beats of this song do not fall in three: divide them into triplets first"
        )
    if now is notation:
        return song
    if now is BeatNotation.SWUNG:
        song = _spell_out(song)
    if notation is BeatNotation.SWUNG:
        song = _abbreviate(song)
    compound = notation is BeatNotation.COMPOUND
    bars = tuple(replace(bar, meter=_meter(bar.meter, compound=compound)) for bar in song.bars)
    meter = _meter(song.meter, compound=compound)
    readings = tuple(
        _renamed(reading, meter) if index == 0 else reading
        for index, reading in enumerate(song.readings)
    )
    return replace(song, bars=bars, meter=meter, readings=readings)


def _meter(meter: Meter, *, compound: bool) -> Meter:
    return meter if meter.is_compound == compound else meter_of(meter.pulses, compound=compound)


def _renamed(reading: ReadingSummary, meter: Meter) -> ReadingSummary:
    words = reading.words.replace(str(reading.meter), str(meter), 1)
    return replace(reading, meter=meter, words=words)


def _spell_out(song: Transcription) -> Transcription:
    """Swung eighths as triplets: in beats of two the second half is the last third."""
    return _respelled(song, 2, 3, {HALF: LAST_THIRD}, None)


def _abbreviate(song: Transcription) -> Transcription:
    """Triplets as swung eighths, in the beats that leave the middle third out."""
    moved = _respelled(song, 3, 2, {LAST_THIRD: HALF}, TRIPLET_RATIO)
    offbeats = []
    for hit in moved.hits:
        bar = moved.bar(hit.bar)
        beat, within = _split(hit.position, len(bar.beats))
        if within == HALF and bar.divisions[beat] == 2:
            edges = (*bar.beats, bar.end)
            offbeats.append((hit.time - edges[beat]) / (edges[beat + 1] - edges[beat]))
    place = median(offbeats) if len(offbeats) >= FEWEST_PAIRS else LAST_THIRD
    ratio = max(SWUNG_FROM, float(place / (1 - place)))
    return replace(moved, feel=replace(moved.feel, swing_8=ratio))


def _respelled(
    song: Transcription,
    old: int,
    new: int,
    places: dict[Fraction, Fraction],
    swing_8: float | None,
) -> Transcription:
    """Beats of `old` parts whose strokes are all on the beat or on one of `places`, in `new`."""
    hits: list[Hit] = []
    bars: list[Bar] = []
    for bar in song.bars:
        count = len(bar.beats)
        here = [(hit, *_split(hit.position, count)) for hit in song.hits_of(bar.number)]
        fits = [
            bar.divisions[beat] == old
            and all(within == 0 or within in places for _, b, within in here if b == beat)
            for beat in range(count)
        ]
        hits += [
            replace(hit, position=(beat + places[within]) / count)
            if fits[beat] and within in places
            else hit
            for hit, beat, within in here
        ]
        bars.append(replace(bar, divisions=_divisions(bar.divisions, fits, new)))
    feel = replace(song.feel, swing_8=swing_8)
    return replace(song, bars=tuple(bars), feel=feel).with_hits(hits)


def _divisions(now: Sequence[int], fits: Sequence[bool], new: int) -> tuple[int, ...]:
    return tuple(new if fit else parts for parts, fit in zip(now, fits, strict=True))


def _split(position: Fraction, beats: int) -> tuple[int, Fraction]:
    """The beat, from 0, and the place within it."""
    place = position * beats
    beat = place.numerator // place.denominator
    return beat, place - beat

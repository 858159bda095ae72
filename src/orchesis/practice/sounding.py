"""When each note of a step sounds: on the song's own beats, with its swing and its pocket.

Swing is a share of the beat and slows down with it. Pocket is kept in the song's time too, which
at half the tempo doubles it; beyond what is still felt as pocket it stops growing
(`ladder.slowed_offset`), which the player of the screen does, since it knows the tempo.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis.feel.pocket import ON_THE_GRID_MS, VOICES, expected_place, pockets
from orchesis.music.instruments import Instrument
from orchesis.music.values import Bar, Feel, Hit, Transcription

EVEN_VELOCITY = 92
"""Of every note while dynamics are not asked for."""

GHOST_VELOCITY, ACCENT_VELOCITY = 34, 118


@dataclass(frozen=True, slots=True)
class Sounding:
    """A note as it is played to one: seconds in the song, how late its voice sits, how loud."""

    hit: Hit
    time: float
    late: float
    velocity: int


def pocket_of(song: Transcription) -> dict[Instrument, float]:
    """How late each drum sits in this song, in seconds, where that was found to be no accident."""
    by_name = {voice.name: voice for voice in VOICES}
    late: dict[Instrument, float] = {}
    for found in pockets(song.bars, song.hits, song.feel):
        voice = by_name[found.voice]
        if not voice.ghosts and found.low * found.high > 0 and abs(found.ms) > ON_THE_GRID_MS:
            late |= dict.fromkeys(voice.instruments, found.ms / 1000)
    return late


def time_of(bar: Bar, position: Fraction, feel: Feel) -> float:
    """The moment of a written place, leaning as the song swings."""
    place = position * bar.meter.pulses
    beat = int(place)
    return bar.time_at((beat + expected_place(place - beat, feel)) / bar.meter.pulses)


def sounding(
    bars: Sequence[Bar],
    hits: Sequence[Hit],
    feel: Feel,
    late: dict[Instrument, float],
    *,
    with_dynamics: bool,
) -> tuple[Sounding, ...]:
    """The notes of a step in order of time."""
    by_number = {bar.number: bar for bar in bars}
    found = [
        Sounding(
            hit,
            time_of(by_number[hit.bar], hit.position, feel),
            late.get(hit.instrument, 0.0),
            _velocity(hit) if with_dynamics else EVEN_VELOCITY,
        )
        for hit in hits
    ]
    return tuple(sorted(found, key=lambda item: item.time))


def _velocity(hit: Hit) -> int:
    if hit.ghost:
        return min(hit.velocity, GHOST_VELOCITY)
    if hit.accent:
        return max(hit.velocity, ACCENT_VELOCITY)
    return hit.velocity

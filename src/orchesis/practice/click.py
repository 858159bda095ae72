"""The click: where it falls along the recording's own beats, and the count-in before a loop."""

from __future__ import annotations

from dataclasses import dataclass

from orchesis.music.values import Transcription
from orchesis.rhythm.swing import warp

SUBDIVISIONS = {"quarters": 1, "eighths": 2, "sixteenths": 4, "triplets": 3}


@dataclass(frozen=True, slots=True)
class Click:
    """One click: seconds, and whether it is a downbeat (2), a beat (1) or between beats (0)."""

    time: float
    strength: int


def clicks(song: Transcription, subdivision: str) -> tuple[Click, ...]:
    """Clicks over the whole song.

    Eighths and sixteenths lean as the song swings; triplets are even.

    Raises
    ------
    KeyError
        When `subdivision` is none of SUBDIVISIONS.
    """
    parts = SUBDIVISIONS[subdivision]
    result = []
    for bar in song.bars:
        for beat in range(bar.meter.pulses):
            for step in range(parts):
                within = step / parts if parts == 3 else warp(step / parts, song.feel)
                time = bar.time_at((beat + within) / bar.meter.pulses)
                strength = 0 if step else (2 if beat == 0 else 1)
                if time >= 0:
                    result.append(Click(time, strength))
    return tuple(result)


def count_in(song: Transcription, number: int, bars: int = 1) -> tuple[Click, ...]:
    """Clicks that lead into a bar, in seconds relative to its start (negative).

    They keep the tempo of the bar that they lead into.
    """
    bar = song.bar(number)
    beat = (bar.end - bar.start) / bar.meter.pulses
    total = bars * bar.meter.pulses
    return tuple(
        Click(-beat * (total - index), 2 if index % bar.meter.pulses == 0 else 1)
        for index in range(total)
    )

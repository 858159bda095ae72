"""The click: where it falls along the recording's own beats, and the count-in before a loop."""

from __future__ import annotations

from dataclasses import dataclass

from orchesis.music.values import Bar, Feel, Transcription
from orchesis.rhythm.swing import warp

SUBDIVISIONS = {"quarters": 1, "eighths": 2, "sixteenths": 4, "triplets": 3, "swung": 2}
"""How many clicks a beat; `swung` are eighths that lean as the song does, or else as triplets."""

TRIPLET_FEEL = Feel(swing_8=2.0)
SWINGS = 1.15
"""Ratio from which a song's own eighths are said to swing."""


@dataclass(frozen=True, slots=True)
class Click:
    """One click: seconds, and whether it is a downbeat (2), a beat (1) or between beats (0)."""

    time: float
    strength: int


def mixture(name: str) -> tuple[str, ...]:
    """The subdivisions of a mix, as "quarters+triplets" names them.

    Raises KeyError where one of them is none of SUBDIVISIONS.
    """
    names = tuple(dict.fromkeys(name.split("+")))
    for one in names:
        if one not in SUBDIVISIONS:
            raise KeyError(one)
    return names


def clicks(song: Transcription, subdivision: str) -> tuple[Click, ...]:
    """Clicks over the whole song, of one subdivision or of several mixed.

    Eighths and sixteenths lean as the song swings; triplets are even. Where two of a mix fall
    together there is one click, the stronger.

    Raises
    ------
    KeyError
        When `subdivision` is no mix of SUBDIVISIONS.
    """
    found: dict[float, Click] = {}
    names = mixture(subdivision)
    for bar in song.bars:
        for beat in range(bar.meter.pulses):
            for name in names:
                for click in _of_beat(song, bar, beat, name):
                    key = round(click.time, SAME_DIGITS)
                    if click.time >= 0 and (
                        key not in found or found[key].strength < click.strength
                    ):
                        found[key] = click
    return tuple(sorted(found.values(), key=lambda click: click.time))


SAME_DIGITS = 4


def _of_beat(song: Transcription, bar: Bar, beat: int, name: str) -> list[Click]:
    parts = SUBDIVISIONS[name]
    feel = song.feel
    if name == "swung" and (feel.swing_8 or 1.0) < SWINGS:
        feel = TRIPLET_FEEL
    return [
        Click(
            bar.time_at(
                (beat + (step / parts if parts == 3 else warp(step / parts, feel)))
                / bar.meter.pulses
            ),
            0 if step else (2 if beat == 0 else 1),
        )
        for step in range(parts)
    ]


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

"""When written notes are due: from a place in a bar to seconds, with the song's swing."""

from __future__ import annotations

from fractions import Fraction

from orchesis.music.values import Feel, Transcription
from orchesis.rhythm.swing import warp


def written_time(song: Transcription, bar: int, position: Fraction) -> float:
    """When a written note is due, in seconds: on the grid, with the song's swing."""
    home = song.bar(bar)
    return home.stroke_at(swung_place(position, home.meter.pulses, song.feel))


def swung_place(position: Fraction, pulses: int, feel: Feel) -> float:
    """Where in its bar (0 to 1) a written place sounds under this feel."""
    place = position * pulses
    beat = place.numerator // place.denominator
    within = place - beat
    straight = within.denominator % 3 == 0 or within.denominator % 5 == 0
    lean = float(within) if straight else warp(float(within), feel)
    return (beat + lean) / pulses

"""When written notes are due: from a place in a bar to seconds, with the song's swing."""

from __future__ import annotations

from fractions import Fraction

from orchesis.music.values import Transcription
from orchesis.rhythm.swing import warp


def written_time(song: Transcription, bar: int, position: Fraction) -> float:
    """When a written note is due, in seconds: on the grid, with the song's swing."""
    home = song.bar(bar)
    place = position * home.meter.pulses
    beat = place.numerator // place.denominator
    within = place - beat
    straight = within.denominator in (3, 6)
    lean = float(within) if straight else warp(float(within), song.feel)
    return home.time_at((beat + lean) / home.meter.pulses)

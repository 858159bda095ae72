"""Swing spelled out: where a straight-looking note stands when it is written in triplets."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

from orchesis.music.values import Feel, Meter
from orchesis.rhythm.swing import SWUNG_FROM

EIGHTHS = {Fraction(1, 2): Fraction(2, 3)}
SIXTEENTHS = {Fraction(1, 4): Fraction(1, 3), Fraction(3, 4): Fraction(5, 6)}


def in_triplets(meter: Meter, feel: Feel) -> Callable[[Fraction], Fraction] | None:
    """What to write a place of the bar as; None where nothing swings, or the metre is in threes."""
    if meter.is_compound:
        return None
    moved: dict[Fraction, Fraction] = {}
    if feel.swing_8 is not None and feel.swing_8 >= SWUNG_FROM:
        moved |= EIGHTHS
    if feel.swing_16 is not None and feel.swing_16 >= SWUNG_FROM:
        moved |= SIXTEENTHS
    if not moved:
        return None

    def place(position: Fraction) -> Fraction:
        beats = position * meter.pulses
        beat = beats.numerator // beats.denominator
        return (beat + moved.get(beats - beat, beats - beat)) / meter.pulses

    return place

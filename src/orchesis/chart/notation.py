"""Where each instrument stands on the drum staff, with which head, and its General MIDI key.

Percussion clef, hands stems up, feet stems down, x heads for cymbals; the common convention
(Weinberg, "Guidelines for drumset notation", Percussive Notes 1994).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis.chart.options import ChartOptions, CrossStick, HatFoot
from orchesis.music.instruments import STRUCK_HATS, Instrument
from orchesis.music.values import Hit

LEFT_FEET = frozenset({Instrument.HIHAT_FOOT, Instrument.HIHAT_SPLASH})
HATS = STRUCK_HATS | LEFT_FEET


@dataclass(frozen=True, slots=True)
class StaffPlace:
    """Display step and octave as on a treble staff, MusicXML notehead, GM percussion key."""

    step: str
    octave: int
    head: str
    midi_key: int


STAFF: dict[Instrument, StaffPlace] = {
    Instrument.KICK: StaffPlace("F", 4, "normal", 36),
    Instrument.SNARE: StaffPlace("C", 5, "normal", 38),
    Instrument.CROSS_STICK: StaffPlace("C", 5, "x", 37),
    Instrument.HIHAT_CLOSED: StaffPlace("G", 5, "x", 42),
    Instrument.HIHAT_OPEN: StaffPlace("G", 5, "x", 46),
    Instrument.HIHAT_FOOT: StaffPlace("D", 4, "x", 44),
    Instrument.HIHAT_SPLASH: StaffPlace("D", 4, "circle-x", 44),
    Instrument.RIDE: StaffPlace("F", 5, "x", 51),
    Instrument.RIDE_BELL: StaffPlace("F", 5, "diamond", 53),
    Instrument.CRASH: StaffPlace("A", 5, "x", 49),
    Instrument.SPLASH: StaffPlace("B", 5, "x", 55),
    Instrument.CHINA: StaffPlace("B", 5, "circle-x", 52),
    Instrument.TOM_HIGH: StaffPlace("E", 5, "normal", 50),
    Instrument.TOM_MID: StaffPlace("D", 5, "normal", 47),
    Instrument.TOM_LOW: StaffPlace("B", 4, "normal", 45),
    Instrument.TOM_FLOOR: StaffPlace("A", 4, "normal", 43),
    Instrument.CLAP: StaffPlace("C", 6, "cross", 39),
    Instrument.SHAKER: StaffPlace("D", 6, "slash", 70),
    Instrument.COWBELL: StaffPlace("E", 5, "triangle", 56),
    Instrument.TAMBOURINE: StaffPlace("D", 6, "inverted triangle", 54),
}

HALF_OPEN = "half open"
"""Of a hat, in the key and in files."""

GLYPHS = {
    "triangle": "noteheadTriangleUpBlack",
    "inverted triangle": "noteheadTriangleDownBlack",
}
"""SMuFL names of the heads that need one: not every reader knows them by MusicXML's word."""

OVERDUB_HEADS = {
    Instrument.CLAP: "cross",
    Instrument.SHAKER: "slash",
    Instrument.TAMBOURINE: "inverted triangle",
}
"""Where several share the line above the staff, the head alone tells them apart."""

_STEPS = "CDEFGAB"
_LOWEST_LINE = 7 * 4 + _STEPS.index("E")
"""E4, the lowest line of the staff, in steps from C0."""


def head_of(instrument: Instrument, options: ChartOptions) -> str:
    """The head as MusicXML names it, as the reader's school has it."""
    if instrument is Instrument.CROSS_STICK and options.cross_stick is CrossStick.ROUND:
        return "circle-x"
    return STAFF[instrument].head


def place_of(instrument: Instrument, options: ChartOptions) -> tuple[str, int]:
    """Display step and octave, as the reader's school has it."""
    if instrument in LEFT_FEET and options.hat_foot is HatFoot.LINE:
        return ("E", 4)
    place = STAFF[instrument]
    return (place.step, place.octave)


def staff_line(instrument: Instrument, options: ChartOptions) -> int:
    """Steps above the lowest line of the staff."""
    step, octave = place_of(instrument, options)
    return 7 * octave + _STEPS.index(step) - _LOWEST_LINE


def closing_strokes(hits: Sequence[Hit]) -> frozenset[Fraction]:
    """The places of a bar where an open hat is closed again by the stick, to be marked with a +."""
    closing = set()
    is_open = False
    for hit in hits:
        if hit.instrument in HATS:
            if is_open and hit.instrument is Instrument.HIHAT_CLOSED:
                closing.add(hit.position)
            is_open = hit.instrument is Instrument.HIHAT_OPEN
    return frozenset(closing)

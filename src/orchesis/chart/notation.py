"""Where each instrument stands on the drum staff, with which head, and its General MIDI key.

Percussion clef, hands stems up, feet stems down, x heads for cymbals; the common convention
(Weinberg, "Guidelines for drumset notation", Percussive Notes 1994).
"""

from __future__ import annotations

from dataclasses import dataclass

from orchesis.music.instruments import Instrument


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
    Instrument.CLAP: StaffPlace("C", 6, "normal", 39),
    Instrument.SHAKER: StaffPlace("D", 6, "x", 70),
    Instrument.COWBELL: StaffPlace("E", 5, "triangle", 56),
    Instrument.TAMBOURINE: StaffPlace("D", 6, "triangle", 54),
}

GLYPHS = {"triangle": "noteheadTriangleUpBlack"}
"""SMuFL names of the heads that need one: not every reader knows them by MusicXML's word."""

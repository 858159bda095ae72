"""What a drummer hits, and with what.

The names are those of the open format `transcription.json`; they never change meaning.
"""

from __future__ import annotations

from enum import StrEnum


class Instrument(StrEnum):
    """One sounding thing of the kit, articulation included."""

    KICK = "kick"
    SNARE = "snare"
    CROSS_STICK = "cross_stick"
    HIHAT_CLOSED = "hihat_closed"
    HIHAT_OPEN = "hihat_open"
    HIHAT_FOOT = "hihat_foot"
    HIHAT_SPLASH = "hihat_splash"
    RIDE = "ride"
    RIDE_BELL = "ride_bell"
    CRASH = "crash"
    SPLASH = "splash"
    CHINA = "china"
    TOM_HIGH = "tom_high"
    TOM_MID = "tom_mid"
    TOM_LOW = "tom_low"
    TOM_FLOOR = "tom_floor"
    CLAP = "clap"
    SHAKER = "shaker"
    COWBELL = "cowbell"
    TAMBOURINE = "tambourine"


class Limb(StrEnum):
    """Right and left hand, right and left foot."""

    RIGHT_HAND = "RH"
    LEFT_HAND = "LH"
    RIGHT_FOOT = "RF"
    LEFT_FOOT = "LF"


class Status(StrEnum):
    """How a note came to be written."""

    HEARD = "heard"
    INFERRED = "inferred"
    DOUBTFUL = "doubtful"
    LEFT_OUT = "left_out"


class Ornament(StrEnum):
    """What comes with a stroke: one grace note, two of them, or a pressed roll."""

    FLAM = "flam"
    DRAG = "drag"
    BUZZ = "buzz"


FEET = frozenset({Instrument.KICK, Instrument.HIHAT_FOOT, Instrument.HIHAT_SPLASH})

TOMS = frozenset(
    {Instrument.TOM_HIGH, Instrument.TOM_MID, Instrument.TOM_LOW, Instrument.TOM_FLOOR}
)

CYMBALS = frozenset(
    {
        Instrument.RIDE,
        Instrument.RIDE_BELL,
        Instrument.CRASH,
        Instrument.SPLASH,
        Instrument.CHINA,
    }
)

STRUCK_HATS = frozenset({Instrument.HIHAT_CLOSED, Instrument.HIHAT_OPEN})

TIMEKEEPERS = STRUCK_HATS | {
    Instrument.RIDE,
    Instrument.RIDE_BELL,
    Instrument.SHAKER,
    Instrument.TAMBOURINE,
    Instrument.COWBELL,
}
"""Where the steady limb usually plays."""

CROSSED = (
    STRUCK_HATS
    | CYMBALS
    | {
        Instrument.HIHAT_FOOT,
        Instrument.HIHAT_SPLASH,
        Instrument.SHAKER,
        Instrument.TAMBOURINE,
    }
)
"""Drums whose heads are crosses, on the staff and on the lanes."""

SPOKEN_NAMES: dict[Instrument, str] = {
    Instrument.KICK: "kick",
    Instrument.SNARE: "snare",
    Instrument.CROSS_STICK: "cross-stick",
    Instrument.HIHAT_CLOSED: "closed hat",
    Instrument.HIHAT_OPEN: "open hat",
    Instrument.HIHAT_FOOT: "foot hat",
    Instrument.HIHAT_SPLASH: "foot splash",
    Instrument.RIDE: "ride",
    Instrument.RIDE_BELL: "ride bell",
    Instrument.CRASH: "crash",
    Instrument.SPLASH: "splash",
    Instrument.CHINA: "china",
    Instrument.TOM_HIGH: "high tom",
    Instrument.TOM_MID: "mid tom",
    Instrument.TOM_LOW: "low tom",
    Instrument.TOM_FLOOR: "floor tom",
    Instrument.CLAP: "clap",
    Instrument.SHAKER: "shaker",
    Instrument.COWBELL: "cowbell",
    Instrument.TAMBOURINE: "tambourine",
}
"""How a drummer says it."""

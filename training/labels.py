"""The classes that the network tells apart, and how the format's instruments map onto them."""

from __future__ import annotations

from orchesis.music.instruments import Instrument as I

CLASSES: tuple[I, ...] = (
    I.KICK,
    I.SNARE,
    I.CROSS_STICK,
    I.HIHAT_CLOSED,
    I.HIHAT_OPEN,
    I.HIHAT_FOOT,
    I.RIDE,
    I.RIDE_BELL,
    I.CRASH,
    I.TOM_HIGH,
    I.TOM_MID,
    I.TOM_FLOOR,
    I.CLAP,
    I.SHAKER,
    I.TAMBOURINE,
    I.COWBELL,
)
INDEX = {instrument: index for index, instrument in enumerate(CLASSES)}

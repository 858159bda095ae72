"""Kits as plain values, and the player that a song is for."""

from __future__ import annotations

import hashlib
from dataclasses import asdict, fields
from typing import Any

from orchesis.limbs.kit import STANDARD, Player
from orchesis.limbs.playable import PITCH_ORDER
from orchesis.music.instruments import Instrument
from studio.models import Kit, Song

TOMS_BY_NUMBER: dict[int, tuple[Instrument, ...]] = {
    1: (Instrument.TOM_FLOOR,),
    2: (Instrument.TOM_HIGH, Instrument.TOM_FLOOR),
    3: (Instrument.TOM_HIGH, Instrument.TOM_MID, Instrument.TOM_FLOOR),
    4: PITCH_ORDER,
}
"""Which toms a kit with so many has."""

STANDARD_VALUES: dict[str, Any] = {
    "left_handed": STANDARD.left_handed,
    "open_handed": STANDARD.open_handed,
    "toms": len(STANDARD.toms),
    "double_pedal": STANDARD.double_pedal,
    "pads": [],
    "brushes": STANDARD.brushes,
    "sixteenths": STANDARD.sixteenths,
    "comfortable_hz": STANDARD.comfortable_hz,
    "pedal_hz": STANDARD.pedal_hz,
}


def player_of(values: dict[str, Any], name: str = STANDARD.name) -> Player:
    """The player that these values mean. Raises InvalidTranscription for what cannot be meant."""
    known = {**STANDARD_VALUES, **values}
    return Player(
        name=name,
        toms=TOMS_BY_NUMBER[int(known["toms"])],
        pads=tuple(Instrument(pad) for pad in known["pads"]),
        **{
            field.name: known[field.name]
            for field in fields(Player)
            if field.name not in ("name", "toms", "pads")
        },
    )


def song_player(song: Song) -> Player:
    """The player that a song is for."""
    return player_of(song.kit.values, song.kit.name) if song.kit else STANDARD


def stamp_of(player: Player) -> str:
    """Another for every player that hands and feet are found for."""
    told = {name: value for name, value in asdict(player).items() if name != "name"}
    return hashlib.sha256(repr(sorted(told.items())).encode()).hexdigest()[:8]


def kit_values(kit: Kit) -> dict[str, Any]:
    """A kit as its owner sees it."""
    return {"id": kit.pk, "name": kit.name, **STANDARD_VALUES, **kit.values}

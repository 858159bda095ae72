"""A drum part of whatever kind of file it is."""

from __future__ import annotations

from pathlib import PurePath

from orchesis.exchange.imported import Imported, Refused
from orchesis.exchange.midi_in import read_midi
from orchesis.exchange.musicxml_in import read_musicxml

ENDINGS = (".musicxml", ".mxl", ".xml", ".mid", ".midi")
"""Of the files that can be read."""


def read_part(data: bytes, name: str) -> Imported:
    """The drum part of a file by its name. Raises Refused and says what can be read."""
    ending = PurePath(name.lower()).suffix
    title = PurePath(name).stem[:120]
    if data[:4] == b"MThd":
        return read_midi(data, title)
    if ending in (".mid", ".midi"):
        raise Refused("This is not a MIDI file, or it is damaged.")
    if ending in (".musicxml", ".xml", ".mxl") or data.lstrip()[:5] == b"<?xml":
        return read_musicxml(data, title)
    raise Refused("Only MusicXML (.musicxml, .mxl, .xml) and MIDI (.mid) parts can be read.")

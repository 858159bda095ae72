"""A drum part of whatever kind of file it is."""

from __future__ import annotations

from pathlib import PurePath

from orchesis.exchange.imported import Imported, Refused
from orchesis.exchange.midi_in import read_midi
from orchesis.exchange.musicxml_in import read_musicxml

ENDINGS = (".musicxml", ".mxl", ".xml", ".mid", ".midi")
"""Of the files that can be read."""


SNIFFED = 512
"""Bytes of a file by which `require_score_file` tells what it is plainly not."""


def require_score_file(start: bytes, name: str) -> None:
    """Raise Refused where a file plainly holds no score, by how it begins and what it is called."""
    ending = PurePath(name.lower()).suffix
    if start[:4] == b"MThd":
        return
    if ending in (".mid", ".midi"):
        raise Refused("This is not a MIDI file, or it is damaged.")
    plain = start.removeprefix(b"\xef\xbb\xbf").replace(b"\x00", b"").lstrip(b"\xff\xfe \t\r\n")
    if ending in ENDINGS and not plain.startswith((b"<", b"PK")):
        raise Refused("This is not MusicXML: it cannot be read as XML at all.")
    if ending not in ENDINGS and not plain.startswith(b"<?xml"):
        raise Refused("Only MusicXML (.musicxml, .mxl, .xml) and MIDI (.mid) parts can be read.")


def read_part(data: bytes, name: str) -> Imported:
    """The drum part of a file by its name. Raises Refused and says what can be read."""
    title = PurePath(name).stem[:120]
    require_score_file(data[:SNIFFED], name)
    return read_midi(data, title) if data[:4] == b"MThd" else read_musicxml(data, title)

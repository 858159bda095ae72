"""Files that were damaged on their way are read or refused with a sentence, never a fault."""

import io
import tempfile
import zipfile

import pytest

from benchmarks.faults import hostile
from orchesis.chart.midi import to_midi
from orchesis.chart.musicxml import to_musicxml
from orchesis.chart.options import ChartOptions
from orchesis.chart.score import Credits
from orchesis.exchange.bundle import read_bundle, write_bundle
from orchesis.exchange.imported import Refused
from orchesis.exchange.read import read_part
from tests.composing import ROCK, song

PIECE = song([ROCK] * 4)
COUNT = 400


def musicxml():
    return to_musicxml(PIECE, ChartOptions(), Credits()).encode()


def packed_musicxml():
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        path = '<container><rootfiles><rootfile full-path="a.xml"/></rootfiles></container>'
        archive.writestr("META-INF/container.xml", path)
        archive.writestr("a.xml", musicxml())
    return packed.getvalue()


def as_uploaded(data):
    """Read it from a file of the system's, as uploads are."""
    with tempfile.TemporaryFile() as file:
        file.write(data)
        file.seek(0)
        return read_bundle(file)


def bundle():
    packed = io.BytesIO()
    write_bundle(packed, PIECE, decisions={}, log=[], recording=None)
    return packed.getvalue()


@pytest.mark.parametrize(
    ("suffix", "good", "read"),
    [
        (".musicxml", musicxml, lambda data: read_part(data, "part.musicxml")),
        (".mxl", packed_musicxml, lambda data: read_part(data, "part.mxl")),
        (".mid", lambda: to_midi(PIECE), lambda data: read_part(data, "part.mid")),
        (".zip", bundle, lambda data: read_bundle(io.BytesIO(data))),
        (".zip", bundle, as_uploaded),
    ],
)
def test_damaged_files_are_read_or_refused_and_never_a_fault(suffix, good, read, monkeypatch):
    monkeypatch.setattr(hostile, "MUTATED", COUNT)
    sound = good()
    assert read(sound)
    refused = 0
    for _, content in hostile._damaged({suffix: sound}):
        try:
            read(content)
        except Refused as error:
            refused += 1
            assert str(error).endswith(".")
    assert refused > COUNT / 4, "so much damage is seen"


@pytest.mark.parametrize("error", [b"\x78\x9c", b"\xff\xff\xff\xff"])
def test_what_cannot_be_unpacked_is_told(error):
    content = bundle()
    at = content.index(b"transcription.json") + len(b"transcription.json") + 40
    broken = content[:at] + error * 20 + content[at + 40 :]
    with pytest.raises(Refused, match="damaged"):
        read_bundle(io.BytesIO(broken))

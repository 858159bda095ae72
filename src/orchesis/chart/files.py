"""All files of a transcription, by name: what `transcribe` writes and what the web offers."""

from __future__ import annotations

from collections.abc import Callable

from orchesis.chart.engrave import PageSize, engrave
from orchesis.chart.midi import to_midi
from orchesis.chart.musicxml import to_musicxml
from orchesis.chart.pdf import to_pdf
from orchesis.music.json import dumps
from orchesis.music.values import Transcription

WRITERS: dict[str, tuple[str, Callable[[Transcription], bytes]]] = {
    "transcription.json": ("application/json", lambda song: dumps(song).encode()),
    "drums.mid": ("audio/midi", to_midi),
    "drums-quantised.mid": ("audio/midi", lambda song: to_midi(song, quantised=True)),
    "chart.musicxml": (
        "application/vnd.recordare.musicxml+xml",
        lambda song: to_musicxml(song).encode(),
    ),
    "chart.pdf": ("application/pdf", lambda song: to_pdf(engrave(to_musicxml(song)))),
    "chart-letter.pdf": (
        "application/pdf",
        lambda song: to_pdf(engrave(to_musicxml(song), PageSize.LETTER), PageSize.LETTER),
    ),
}
"""File name: its media type, and how it is made."""

COMMAND_LINE_FILES = ("transcription.json", "drums.mid", "chart.musicxml", "chart.pdf")


def write_file(song: Transcription, name: str) -> bytes:
    """The bytes of one of WRITERS. Raises KeyError for another name, OrchesisError on failure."""
    return WRITERS[name][1](song)

"""All files of a transcription, by name: what `transcribe` writes and what the web offers."""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Callable
from dataclasses import replace

from orchesis.chart.midi import to_midi
from orchesis.chart.musicxml import to_musicxml
from orchesis.chart.options import ChartOptions, PageSize
from orchesis.chart.pages import Engraving
from orchesis.chart.pdf import to_pdf, to_png
from orchesis.chart.plain import to_text
from orchesis.chart.reading_pages import chart_pages
from orchesis.chart.score import Credits
from orchesis.groove.count import spoken
from orchesis.music.json import dumps
from orchesis.music.values import Transcription

Writer = Callable[[Transcription, ChartOptions, Credits], bytes]

CSV_COLUMNS = (
    "time", "bar", "position", "count", "instrument", "limb", "velocity", "ghost", "accent",
    "ornament", "status", "confidence", "opening",
)  # fmt: skip


def to_csv(song: Transcription, options: ChartOptions) -> str:
    """Every stroke in a row, those left out included and marked so; times in seconds."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(CSV_COLUMNS)
    meters = {bar.number: bar.meter for bar in song.bars}
    for hit in song.hits:
        meter = meters.get(hit.bar, song.meter)
        rows.writerow(
            [
                f"{hit.time:.4f}",
                hit.bar,
                hit.position,
                spoken(hit.position, meter, options.words),
                hit.instrument.value,
                hit.limb.value if hit.limb else "",
                hit.velocity,
                int(hit.ghost),
                int(hit.accent),
                hit.ornament.value if hit.ornament else "",
                hit.status.value,
                f"{hit.confidence:.3f}",
                "" if hit.opening is None else f"{hit.opening:.2f}",
            ]
        )
    return out.getvalue()


def _zipped(engraving: Engraving, make: Callable[[str], bytes], ending: str) -> bytes:
    """One file, or where there are several pages, all of them in a ZIP."""
    pages = [make(page.svg()) for page in engraving.pages]
    if len(pages) == 1:
        return pages[0]
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for number, page in enumerate(pages, 1):
            archive.writestr(f"page-{number:02}.{ending}", page)
    return buffer.getvalue()


def _pdf(size: PageSize) -> Writer:
    def write(song: Transcription, options: ChartOptions, signature: Credits) -> bytes:
        return to_pdf(chart_pages(song, replace(options, size=size), signature), size)

    return write


def _svg(song: Transcription, options: ChartOptions, signature: Credits) -> bytes:
    return _zipped(chart_pages(song, options, signature), lambda svg: svg.encode(), "svg")


def _png(song: Transcription, options: ChartOptions, signature: Credits) -> bytes:
    return _zipped(chart_pages(song, options, signature), to_png, "png")


WRITERS: dict[str, tuple[str, Writer]] = {
    "transcription.json": ("application/json", lambda song, *_: dumps(song).encode()),
    "drums.mid": ("audio/midi", lambda song, *_: to_midi(song)),
    "drums-quantised.mid": ("audio/midi", lambda song, *_: to_midi(song, quantised=True)),
    "drums.csv": ("text/csv", lambda song, options, _: to_csv(song, options).encode()),
    "chart.txt": (
        "text/plain; charset=utf-8",
        lambda song, options, _: to_text(song, options).encode(),
    ),
    "chart.musicxml": (
        "application/vnd.recordare.musicxml+xml",
        lambda song, options, signature: to_musicxml(song, options, signature).encode(),
    ),
    "chart.pdf": ("application/pdf", _pdf(PageSize.A4)),
    "chart-letter.pdf": ("application/pdf", _pdf(PageSize.LETTER)),
    "chart.svg": ("image/svg+xml", _svg),
    "chart.png": ("image/png", _png),
}
"""File name: its media type, and how it is made. Pictures of several pages come as a ZIP."""

COMMAND_LINE_FILES = ("transcription.json", "drums.mid", "chart.musicxml", "chart.pdf")


def write_file(
    song: Transcription,
    name: str,
    options: ChartOptions | None = None,
    signature: Credits | None = None,
) -> bytes:
    """The bytes of one of WRITERS. Raises KeyError for another name, OrchesisError on failure."""
    return WRITERS[name][1](song, options or ChartOptions(), signature or Credits())

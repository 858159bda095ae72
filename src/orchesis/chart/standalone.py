"""A chart that needs no server: a folder with its pages, the sounds of the kit and a small player.

It opens from a disk, where pages may fetch nothing: the sounds stand as text in a script.
"""

from __future__ import annotations

import base64
import html
import io
import json
import zipfile
from pathlib import Path

from orchesis.chart.options import ChartOptions
from orchesis.chart.pdf import FONTS
from orchesis.chart.reading_pages import chart_pages
from orchesis.chart.score import Credits
from orchesis.errors import Missing
from orchesis.music.values import Transcription, written

FILES = Path(__file__).parent / "standalone_files"
FOLDER = "chart"


def standalone(
    song: Transcription, options: ChartOptions, signature: Credits, title: str, sounds: Path
) -> bytes:
    """The folder as a ZIP file.

    Parameters
    ----------
    sounds : the folder of the kit: `kit.json` and its recordings.

    Raises
    ------
    Missing
        Where the song has no bars.
    """
    if not song.bars:
        raise Missing("this song has no bars yet: there is nothing to play")
    pages = [page.svg() for page in chart_pages(song, options, signature).pages]
    listing = json.loads((sounds / "kit.json").read_text())
    strokes = [
        [round(hit.time, 4), hit.instrument.value, hit.velocity] for hit in written(song.hits)
    ]
    drums = {str(stroke[1]) for stroke in strokes}
    data = {
        "bars": [
            {"number": bar.number, "start": round(bar.start, 4), "end": round(bar.end, 4)}
            for bar in song.bars
        ],
        "strokes": sorted(strokes),
        "layers": listing["velocities"],
        "variants": listing["variants"],
        "sounds": {
            path.stem: base64.b64encode(path.read_bytes()).decode()
            for path in sorted(sounds.glob("*.ogg"))
            if path.stem.split("-")[0] in drums
        },
    }
    # In the page itself: a picture of its own would not see the fonts that came along.
    shown = "\n".join(
        f'<section class="page" aria-label="Page {number}">{svg}</section>'
        for number, svg in enumerate(pages, 1)
    )
    foot = f"Transcribed by {signature.transcriber}, {signature.date}." if signature.date else ""
    page = (
        (FILES / "page.html")
        .read_text()
        .replace("@TITLE@", html.escape(title))
        .replace("@PAGES@", shown)
        .replace("@FOOT@", html.escape(foot))
    )
    target = io.BytesIO()
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as folder:
        folder.writestr(f"{FOLDER}/index.html", page)
        # What a script tag could end is written so that it cannot.
        text = json.dumps(data, separators=(",", ":")).replace("<", "\\u003c")
        folder.writestr(f"{FOLDER}/data.js", f"window.DATA = {text}\n")
        folder.writestr(f"{FOLDER}/player.js", (FILES / "player.js").read_text())
        for font in sorted(FONTS.glob("*.ttf")):
            folder.write(font, f"{FOLDER}/fonts/{font.name}")
        for number, svg in enumerate(pages, 1):
            folder.writestr(f"{FOLDER}/page-{number}.svg", svg)
    return target.getvalue()

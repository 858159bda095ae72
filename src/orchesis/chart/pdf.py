"""PDF and PNG: the engraved pages, drawn by the program rsvg-convert.

The fonts that the pages name ship beside this module, so that a machine without any gives the
same paper.
"""

from __future__ import annotations

import os
import subprocess
import tempfile
from collections.abc import Sequence
from pathlib import Path

from orchesis.chart.options import PageSize
from orchesis.chart.pages import SIZES, Engraving
from orchesis.errors import OrchesisError

FONTS = Path(__file__).parent / "fonts"
TIMEOUT_SECONDS = 120
DOTS_PER_INCH = 200


def to_pdf(engraving: Engraving, size: PageSize = PageSize.A4) -> bytes:
    """The bytes of a PDF with one sheet a page. Raises OrchesisError when it cannot be made."""
    return sheets_to_pdf([engraving], size)


def sheets_to_pdf(engravings: Sequence[Engraving], size: PageSize = PageSize.A4) -> bytes:
    """Several charts, one after the other, in one PDF. Raises OrchesisError as `to_pdf` does."""
    width, height = (f"{length / 100:g}mm" for length in SIZES[size])
    arguments = ["--format=pdf", f"--page-width={width}", f"--page-height={height}"]
    arguments += [f"--width={width}", f"--height={height}", "--keep-aspect-ratio"]
    pages = [page.svg() for engraving in engravings for page in engraving.pages]
    made = _converted(pages, arguments)
    if not made.startswith(b"%PDF"):
        raise OrchesisError("the PDF could not be made: its beginning is wrong")
    return made


def to_png(svg: str) -> bytes:
    """A page as a picture on white. Raises OrchesisError when it cannot be made."""
    dots = str(DOTS_PER_INCH)
    arguments = ["--format=png", "--background-color=white", f"--dpi-x={dots}", f"--dpi-y={dots}"]
    return _converted([svg], arguments)


def _converted(pages: list[str], arguments: list[str]) -> bytes:
    with tempfile.TemporaryDirectory(prefix="orchesis-print-") as name:
        folder = Path(name)
        (folder / "data").mkdir()
        (folder / "data" / "fonts").symlink_to(FONTS)
        paths = []
        for number, page in enumerate(pages, 1):
            path = folder / f"{number:04}.svg"
            path.write_text(page, encoding="utf-8")
            paths.append(str(path))
        environment = {
            **os.environ,
            "XDG_DATA_HOME": str(folder / "data"),
            "XDG_CACHE_HOME": str(folder / "cache"),
        }
        try:
            done = subprocess.run(
                ["rsvg-convert", *arguments, *paths],
                env=environment,
                capture_output=True,
                timeout=TIMEOUT_SECONDS,
                check=False,
            )
        except FileNotFoundError as error:
            raise OrchesisError(
                "the program rsvg-convert is missing: install the Debian package librsvg2-bin"
            ) from error
        except subprocess.TimeoutExpired as error:
            raise OrchesisError("drawing the chart took too long: chart fewer bars") from error
    if done.returncode != 0:
        raise OrchesisError(f"the chart was not drawn: {done.stderr.decode()[-200:].strip()}")
    return done.stdout

"""PDF: the engraved pages, put together by the program rsvg-convert.

The fonts that the pages name ship beside this module, so that a machine without any gives the
same paper.
"""

from __future__ import annotations

import os
import subprocess
import tempfile
from pathlib import Path

from orchesis.chart.engrave import Engraving, PageSize
from orchesis.errors import OrchesisError

FONTS = Path(__file__).parent / "fonts"
TIMEOUT_SECONDS = 120
_MILLIMETRES = {PageSize.A4: (210, 297), PageSize.LETTER: (215.9, 279.4)}


def to_pdf(engraving: Engraving, size: PageSize = PageSize.A4) -> bytes:
    """The bytes of a PDF with one sheet a page. Raises OrchesisError when it cannot be made."""
    width, height = _MILLIMETRES[size]
    with tempfile.TemporaryDirectory(prefix="orchesis-pdf-") as name:
        folder = Path(name)
        (folder / "data").mkdir()
        (folder / "data" / "fonts").symlink_to(FONTS)
        paths = []
        for number, page in enumerate(engraving.pages, 1):
            path = folder / f"{number:04}.svg"
            path.write_text(page, encoding="utf-8")
            paths.append(str(path))
        environment = {
            **os.environ,
            "XDG_DATA_HOME": str(folder / "data"),
            "XDG_CACHE_HOME": str(folder / "cache"),
        }
        command = ["rsvg-convert", "--format=pdf", "--keep-aspect-ratio"]
        command += [f"--page-width={width}mm", f"--page-height={height}mm"]
        command += [f"--width={width}mm", f"--height={height}mm", *paths]
        try:
            done = subprocess.run(
                command,
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
            raise OrchesisError("making the PDF took too long: chart fewer bars") from error
    if done.returncode != 0 or not done.stdout.startswith(b"%PDF"):
        raise OrchesisError(f"the PDF could not be made: {done.stderr.decode()[-200:].strip()}")
    return done.stdout

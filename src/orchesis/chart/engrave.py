"""Engraving: MusicXML to pages of SVG, by the verovio library.

What is on screen is what is printed: the PDF is made from these same pages.
"""

from __future__ import annotations

import re
import threading
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

import verovio

from orchesis.errors import InvalidTranscription


class PageSize(StrEnum):
    """Paper, or one long narrow sheet to read on a phone."""

    A4 = "a4"
    LETTER = "letter"
    PHONE = "phone"


_TENTHS_OF_MM = {
    PageSize.A4: (2100, 2970),
    PageSize.LETTER: (2159, 2794),
    PageSize.PHONE: (880, 60000),
}
SCALE_PERCENT = 100
MARGIN = 120
NARROW_MARGIN = 30
STAFF_UNIT = 7.5
"""Half a staff space in tenths of a millimetre: a staff of 6 mm, four bars of sixteenths a line."""

TEXT_FONT = "Spectral, Times, serif"
"""Spectral ships with the application; verovio would ask the system for Times."""

_OPEN = re.compile(r"<open\b")
_HEADS = {"noteheadTriangleUpBlack": "U+E0B9"}
"""Heads that verovio reads the name of and then draws round. Its fonts have no triangle: a square
says as well that this is no drum with a skin.
"""

_lock = threading.Lock()


@dataclass(frozen=True, slots=True)
class Engraving:
    """Pages as SVG text, in order."""

    pages: tuple[str, ...]


def engrave(musicxml: str, size: PageSize = PageSize.A4) -> Engraving:
    """Engrave a MusicXML text. Raises InvalidTranscription where verovio cannot read it.

    The same input always gives the same output, so that results can be cached by content. Only
    one engraving runs at a time: the library's settings are global to the process.
    """
    width, height = _TENTHS_OF_MM[size]
    narrow = size is PageSize.PHONE
    margin = NARROW_MARGIN if narrow else MARGIN
    return Engraving(
        _engraved(
            musicxml,
            {
                "pageWidth": width,
                "pageHeight": height,
                "pageMarginLeft": margin,
                "pageMarginRight": margin,
                "breaks": "auto" if narrow else "line",
                "adjustPageHeight": narrow,
                "header": "auto",
            },
        )
    )


STRIP_WIDTH = 1500
STRIP_MARGIN = 20


def engrave_strip(musicxml: str) -> str:
    """Engrave some bars as one system without a page about it, as SVG.

    Raises InvalidTranscription where verovio cannot read them.
    """
    options = {
        "pageWidth": STRIP_WIDTH,
        "pageMarginLeft": STRIP_MARGIN,
        "pageMarginRight": STRIP_MARGIN,
        "pageMarginTop": STRIP_MARGIN,
        "pageMarginBottom": STRIP_MARGIN,
        "breaks": "none",
        "adjustPageHeight": True,
        "adjustPageWidth": True,
        "header": "none",
        # Letters below stand apart from each other.
        "spacingLinear": 0.42,
        "spacingNonLinear": 0.5,
        "lyricSize": 4.0,
    }
    return _engraved(musicxml, options)[0]


def _engraved(musicxml: str, options: dict[str, object]) -> tuple[str, ...]:
    with _lock:
        # Needed in every thread but the main one, or loading fails without a word.
        verovio.setDefaultResourcePath(str(Path(verovio.__file__).parent / "data"))
        verovio.enableLog(verovio.LOG_OFF)
        toolkit = verovio.toolkit()
        toolkit.setOptions(
            {
                "scale": SCALE_PERCENT,
                "pageMarginTop": MARGIN,
                "pageMarginBottom": MARGIN,
                "xmlIdSeed": 1,
                "font": "Leland",
                "smuflTextFont": "none",
                "svgViewBox": True,
                "unit": STAFF_UNIT,
                "footer": "none",
                "mnumInterval": 1,
                "spacingSystem": 6,
                "justifyVertically": False,
                "spacingLinear": 0.2,
                "spacingNonLinear": 0.6,
                **options,
            }
        )
        # What MusicXML calls open is, of all technical signs, the one that verovio leaves out.
        if not toolkit.loadData(_OPEN.sub("<open-string", musicxml)):
            raise InvalidTranscription("the chart could not be engraved")
        if any(name in musicxml for name in _HEADS):
            toolkit.loadData(_with_all_heads(toolkit.getMEI()))
        pages = [toolkit.renderToSVG(page) for page in range(1, toolkit.getPageCount() + 1)]
    return tuple(_with_our_fonts(page) for page in pages)


def _with_all_heads(mei: str) -> str:
    for name, shape in _HEADS.items():
        mei = mei.replace(f'glyph.name="{name}"', f'head.shape="{shape}"')
    return mei


def _with_our_fonts(svg: str) -> str:
    return svg.replace("Times, serif", TEXT_FONT).replace("Times,serif", TEXT_FONT)

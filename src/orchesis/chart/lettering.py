"""Text on the chart: how wide it is in the fonts that ship, and how it is drawn."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from pathlib import Path
from xml.sax.saxutils import escape, quoteattr

from fontTools.ttLib import TTFont

from orchesis.chart.ink import Box

FONTS = Path(__file__).parent / "fonts"
FAMILY = "Spectral, serif"
FILES = {
    "regular": "Spectral-Regular.ttf",
    "bold": "Spectral-Bold.ttf",
    "italic": "Spectral-Italic.ttf",
}
_STYLE = {
    "regular": "",
    "bold": ' font-weight="bold"',
    "italic": ' font-style="italic"',
}
PREFIX = "t-"
"""Of the classes of texts: a page that shows the drawing has classes of its own."""

ASCENT = 0.72
DESCENT = 0.22
"""Of the size: how far letters reach above and below their line."""


@cache
def _advances(style: str) -> tuple[dict[str, int], int, int]:
    """The advance of each letter, of one that the font lacks, and its units to the em."""
    font = TTFont(FONTS / FILES[style], lazy=True)
    names, widths = font.getBestCmap(), font["hmtx"].metrics
    advances = {chr(code): widths[name][0] for code, name in names.items()}
    return advances, widths[".notdef"][0], font["head"].unitsPerEm


def width_of(text: str, size: float, style: str = "regular") -> float:
    """The width of a text, in the unit of its size."""
    advances, missing, em = _advances(style)
    return sum(advances.get(letter, missing) for letter in text) * size / em


def fitted(text: str, size: float, room: float, style: str = "regular") -> str:
    """The text, cut with an ellipsis where it is wider than its room."""
    if width_of(text, size, style) <= room:
        return text
    while text and width_of(text + "…", size, style) > room:
        text = text[:-1]
    return text.rstrip() + "…"


@dataclass(frozen=True, slots=True)
class Text:
    """A line of text at a place: `x` is its left end, middle or right end by `anchor`.

    ink : how strong it is, from 0 to 1; empty: as all else.
    """

    words: str
    x: float
    y: float
    size: float
    style: str = "regular"
    anchor: str = "start"
    ink: str = ""
    kind: str = "text"

    @property
    def box(self) -> Box:
        """What it covers."""
        width = width_of(self.words, self.size, self.style)
        left = self.x - {"start": 0.0, "middle": width / 2, "end": width}[self.anchor]
        return Box(
            left,
            self.y - ASCENT * self.size,
            left + width,
            self.y + DESCENT * self.size,
            self.kind,
        )

    def svg(self) -> str:
        """The element."""
        fill = f' fill-opacity="{self.ink}"' if self.ink else ""
        anchor = f' text-anchor="{self.anchor}"' if self.anchor != "start" else ""
        return (
            f'<text class={quoteattr(PREFIX + self.kind)} x="{self.x:.0f}" y="{self.y:.0f}"'
            f' font-size="{self.size:.0f}"{_STYLE[self.style]}{anchor}{fill}>'
            f"{escape(self.words)}</text>"
        )


def printable(text: str) -> str:
    """Without the control characters that XML forbids."""
    return "".join(sign for sign in text if sign.isprintable()).strip()

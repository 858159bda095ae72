"""Where the ink is: boxes of all that an engraved system shows, read from its SVG.

Text and signs of our own are put beside what is there already, never over it, so what is there
must be known. Lengths are hundredths of a millimetre on paper; y grows downwards.
"""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from functools import cache, lru_cache
from pathlib import Path

import verovio

SVG = "{http://www.w3.org/2000/svg}"
LINK = "{http://www.w3.org/1999/xlink}href"
EM = 1000
"""Font units of the glyph tables."""

FONTS = ("Leland", "Bravura")
"""The engraver's font, and the one in which it finds what that lacks."""

_USE = re.compile(r"translate\(([-\d.]+), ?([-\d.]+)\)(?: scale\(([-\d.]+))?")
_NUMBER = re.compile(r"-?\d+(?:\.\d+)?")


@dataclass(frozen=True, slots=True)
class Box:
    """A rectangle with ink in it; `what` names it for whoever looks for overlaps."""

    left: float
    top: float
    right: float
    bottom: float
    what: str = ""

    def moved(self, x: float, y: float) -> Box:
        """The same box elsewhere."""
        return Box(self.left + x, self.top + y, self.right + x, self.bottom + y, self.what)

    def overlaps(self, other: Box, tolerance: float = 0.0) -> bool:
        """Whether they share more than `tolerance` in both directions."""
        return (
            min(self.right, other.right) - max(self.left, other.left) > tolerance
            and min(self.bottom, other.bottom) - max(self.top, other.top) > tolerance
        )


def data_folder() -> Path:
    """Where the engraver's fonts and tables are."""
    return Path(verovio.__file__).parent / "data"


@cache
def _glyph_boxes() -> dict[str, tuple[float, float, float, float]]:
    """Left, top, right and bottom of each glyph in font units, y downwards."""
    boxes: dict[str, tuple[float, float, float, float]] = {}
    for font in reversed(FONTS):
        for glyph in ET.parse(data_folder() / f"{font}.xml").getroot().iter("g"):
            x, y, width, height = (float(glyph.get(name, 0)) for name in "xywh")
            boxes[glyph.get("c", "")] = (x, -y - height, x + width, -y)
    return boxes


@lru_cache(maxsize=64)
def glyph_path(code: str) -> str:
    """The outline of a glyph of the engraver's font, in font units with y upwards."""
    for font in FONTS:
        path = data_folder() / font / f"{code}.xml"
        if path.exists():
            found = ET.parse(path).getroot().find("path")
            if found is not None:
                return found.get("d", "")
    raise KeyError(code)


def glyph_box(code: str, x: float, y: float, *, scale: float, what: str = "") -> Box:
    """The box of a glyph drawn at a place."""
    left, top, right, bottom = _glyph_boxes()[code]
    return Box(x + left * scale, y + top * scale, x + right * scale, y + bottom * scale, what)


def boxes_of(element: ET.Element, *, what: str = "") -> Iterator[Box]:
    """The boxes of all ink in an element of the engraver's SVG, staff lines left out."""
    if element.get("visibility") == "hidden" or "placeholder" in element.get("class", ""):
        return
    name = element.get("class", what) or what
    tag = element.tag.removeprefix(SVG)
    if tag == "use":
        code = element.get(LINK, "#")[1:].split("-")[0]
        found = _USE.match(element.get("transform", ""))
        if found and code in _glyph_boxes():
            x, y, scale = (float(value or 1) for value in found.groups())
            yield glyph_box(code, x, y, scale=scale, what=name)
    elif tag in ("path", "polygon", "polyline"):
        outline = element.get("d") or element.get("points") or ""
        values = [float(value) for value in _NUMBER.findall(outline)]
        if values and name != "staff":
            half = float(element.get("stroke-width", 0)) / 2
            xs, ys = values[::2], values[1::2]
            yield Box(min(xs) - half, min(ys) - half, max(xs) + half, max(ys) + half, name)
    elif tag == "rect":
        x, y, width, height = (float(element.get(n, 0)) for n in ("x", "y", "width", "height"))
        yield Box(x, y, x + width, y + height, name)
    elif tag == "ellipse":
        x, y, rx, ry = (float(element.get(n, 0)) for n in ("cx", "cy", "rx", "ry"))
        yield Box(x - rx, y - ry, x + rx, y + ry, name)
    for child in element:
        yield from boxes_of(child, what=name)


def around(boxes: Iterable[Box], what: str = "") -> Box | None:
    """The smallest box around others; None where there are none."""
    found = list(boxes)
    if not found:
        return None
    return Box(
        min(box.left for box in found),
        min(box.top for box in found),
        max(box.right for box in found),
        max(box.bottom for box in found),
        what,
    )


@dataclass
class Skyline:
    """How far up, and how far down, what is there reaches: new things are put beyond it."""

    boxes: list[Box] = field(default_factory=list)

    def add(self, box: Box) -> None:
        """From now on nothing is put over this."""
        self.boxes.append(box)

    def top(self, left: float, right: float, *, default: float) -> float:
        """The highest ink between two places."""
        near = [box.top for box in self.boxes if box.right > left and box.left < right]
        return min([*near, default])

    def bottom(self, left: float, right: float, *, default: float) -> float:
        """The lowest ink between two places."""
        near = [box.bottom for box in self.boxes if box.right > left and box.left < right]
        return max([*near, default])

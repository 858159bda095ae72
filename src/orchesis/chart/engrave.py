"""Engraving one system of measures by the verovio library: lines of music without any words.

Each system is engraved for itself, so that an edit engraves again only the line that it touches;
letters, numbers and names are put beside the ink afterwards (`dress`), and systems are put on
pages (`pages`). Lengths are hundredths of a millimetre.
"""

from __future__ import annotations

import hashlib
import json
import re
import threading
import xml.etree.ElementTree as ET
import zlib
from collections import OrderedDict
from collections.abc import Hashable, Sequence
from dataclasses import astuple, dataclass
from typing import Protocol

import verovio

from orchesis.chart.ink import LINK, SVG, Box, around, boxes_of, data_folder
from orchesis.chart.mei import measure_id, note_id, system_mei
from orchesis.chart.notation import head_of
from orchesis.chart.options import ChartOptions
from orchesis.chart.score import Measure
from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import Instrument, Status
from orchesis.music.values import Feel, Meter

STAFF_UNIT = 7.5
"""Half a staff space in tenths of a millimetre: a staff of 6 mm."""

SPACE = 20 * STAFF_UNIT
"""A staff space in hundredths of a millimetre."""

OWN_HEADS = {
    "triangle": "M0 -140 L165 140 L330 -140 Z",
    "inverted triangle": "M0 140 L330 140 L165 -140 Z",
}
"""Heads that the engraver's fonts lack, in font units with y upwards."""

_OUT_OF_UNIT = 10
"""The engraver's drawing unit is a tenth of its own unit of a tenth of a millimetre."""


@dataclass(frozen=True, slots=True)
class Head:
    """A note on the drawing: its identity, its place in the bar, and where it is."""

    name: str
    at: float
    box: Box


@dataclass(frozen=True, slots=True)
class Span:
    """A measure on the drawing: its identity and its ends."""

    name: str
    left: float
    right: float


@dataclass(frozen=True, slots=True)
class Drawing:
    """A line of music: its ink as SVG, its glyphs, its boxes, where its measures and heads are.

    svg : elements with their left end at 0 and the top of the highest staff near 0. staff_top,
    staff_bottom : the outer lines of the kit's staff. glyphs : outlines by name.
    """

    svg: str
    width: float
    boxes: tuple[Box, ...]
    spans: tuple[Span, ...]
    heads: tuple[Head, ...]
    staff_top: float
    staff_bottom: float
    glyphs: dict[str, str]


FORMAT = 1
"""Raised whenever a drawing is made otherwise, so that none of before is taken for one of now."""


class SharedDrawings(Protocol):
    """Where processes keep drawings for each other; what cannot be kept is made again."""

    def get(self, name: str) -> bytes | None:
        """A drawing by its name, if it is kept."""

    def put(self, name: str, drawing: bytes) -> None:
        """Keep a drawing."""


_shared: SharedDrawings | None = None


def share_drawings(shared: SharedDrawings | None) -> None:
    """Keep drawings where other processes find them; None: in this one only."""
    global _shared
    _shared = shared


def drawing_to_bytes(drawing: Drawing) -> bytes:
    """A drawing as it is kept."""
    values = [
        drawing.svg,
        drawing.width,
        [list(astuple(box)) for box in drawing.boxes],
        [list(astuple(span)) for span in drawing.spans],
        [[head.name, head.at, list(astuple(head.box))] for head in drawing.heads],
        drawing.staff_top,
        drawing.staff_bottom,
        drawing.glyphs,
    ]
    return zlib.compress(json.dumps(values).encode(), 1)


def drawing_from_bytes(data: bytes) -> Drawing:
    """The drawing that was kept."""
    svg, width, boxes, spans, heads, top, bottom, glyphs = json.loads(zlib.decompress(data))
    return Drawing(
        svg=svg,
        width=width,
        boxes=tuple(Box(*box) for box in boxes),
        spans=tuple(Span(*span) for span in spans),
        heads=tuple(Head(name, at, Box(*box)) for name, at, box in heads),
        staff_top=top,
        staff_bottom=bottom,
        glyphs=glyphs,
    )


_lock = threading.Lock()
_KEPT = 1024
_kept: OrderedDict[Hashable, tuple[Drawing, tuple[Measure, ...]]] = OrderedDict()
"""Systems by what is in them, with their measures: while these are held no other stroke can have
the identity of one of theirs.
"""

_known: OrderedDict[Hashable, Drawing] = OrderedDict()
"""The same by what the strokes are, for those that were read anew."""


def _look(measure: Measure) -> Hashable:
    """What a measure looks like, its strokes by their identity: to compare them takes too long."""
    return (
        measure.number,
        measure.kind,
        measure.span,
        measure.meter,
        measure.opens_repeat,
        measure.times,
        measure.ending,
        measure.ending_opens,
        measure.ending_closes,
        len(measure.plays),
        tuple(map(id, measure.hits)),
    )


def engrave_system(
    measures: Sequence[Measure],
    feel: Feel,
    options: ChartOptions,
    *,
    width: float,
    before: Meter | None,
) -> Drawing:
    """Engrave measures as one system of that width.

    Parameters
    ----------
    width : hundredths of a millimetre, from the left end of the staff to the right.
    before : the metre of the bar before it; None: it is the first.

    Raises
    ------
    InvalidTranscription : the engraver cannot read them.
    """
    how = (feel, options, round(width), before)
    key = (tuple(map(_look, measures)), *how)
    with _lock:
        if key in _kept:
            _kept.move_to_end(key)
            return _kept[key][0]
        drawing = _known.get((tuple(measures), *how))
    if drawing is None:
        drawing = _made(measures, feel, options, width=width, before=before)
    with _lock:
        _kept[key] = (drawing, tuple(measures))
        _known[(tuple(measures), *how)] = drawing
        for kept in (_kept, _known):
            while len(kept) > _KEPT:
                kept.popitem(last=False)
    return drawing


def _made(
    measures: Sequence[Measure],
    feel: Feel,
    options: ChartOptions,
    *,
    width: float,
    before: Meter | None,
) -> Drawing:
    """The drawing of a system that this process has not engraved: another may have."""
    mei = system_mei(measures, feel, options, before=before)
    name = hashlib.sha256(
        f"{FORMAT} {round(width)} {options.cross_stick} {mei}".encode()
    ).hexdigest()
    kept = _shared.get(name) if _shared is not None else None
    if kept is not None:
        return drawing_from_bytes(kept)
    with _lock:
        svg = _rendered(mei, width)
    drawing = _drawing(svg, measures, options, width)
    if _shared is not None:
        _shared.put(name, drawing_to_bytes(drawing))
    return drawing


def _rendered(mei: str, width: float) -> str:
    # Needed in every thread but the main one, or loading fails without a word.
    verovio.setDefaultResourcePath(str(data_folder()))
    verovio.enableLog(verovio.LOG_OFF)
    toolkit = verovio.toolkit()
    toolkit.setOptions(
        {
            "scale": 100,
            "pageWidth": round(width / _OUT_OF_UNIT),
            "pageHeight": 6000,
            "pageMarginLeft": 0,
            "pageMarginRight": 0,
            "pageMarginTop": 0,
            "pageMarginBottom": 0,
            "breaks": "encoded",
            "adjustPageHeight": True,
            "header": "none",
            "footer": "none",
            "mnumInterval": 0,
            "unit": STAFF_UNIT,
            "font": "Leland",
            "smuflTextFont": "none",
            "svgViewBox": True,
            "xmlIdSeed": 1,
            # A line is always as wide as it was planned to be.
            "minLastJustification": 0.0,
            "spacingLinear": 0.25,
            "spacingNonLinear": 0.6,
            "graceFactor": 0.7,
            # Beams lie flat: stems go up to one height, and marks have room over them.
            "beamMaxSlope": 0,
        }
    )
    if not toolkit.loadData(mei) or toolkit.getPageCount() != 1:
        raise InvalidTranscription("the chart could not be engraved")
    return str(toolkit.renderToSVG(1))


def _drawing(svg: str, measures: Sequence[Measure], options: ChartOptions, width: float) -> Drawing:
    root = ET.fromstring(svg)
    glyphs = {
        (symbol.get("id") or "").split("-")[0]: path.get("d", "")
        for symbol in root.iterfind(f"{SVG}defs/{SVG}g")
        if (path := symbol.find(f"{SVG}path")) is not None
    }
    system = next(g for g in root.iter(f"{SVG}g") if g.get("class") == "system")
    notes = {note_id(hit): hit for measure in measures for hit in measure.hits}
    names = {measure_id(measure) for measure in measures}
    spans, heads, lines = [], [], []
    brackets: list[str] = []
    for measure in system.iter(f"{SVG}g"):
        if measure.get("class") == "measure":
            staves = [g for g in measure if g.get("class") == "staff"]
            ends = [line for staff in staves for line in _staff_lines(staff)]
            left, right = min(e.left for e in ends), max(e.right for e in ends)
            spans.append(Span(measure.get("id", ""), left, right))
            kit = max(staves, key=lambda staff: len(_staff_lines(staff)))
            lines += _staff_lines(kit)
            for staff in staves:
                _clear_of_beams(staff)
    for note in system.iter(f"{SVG}g"):
        hit = notes.get(note.get("id", ""))
        if hit is None:
            continue
        head = next(g for g in note if g.get("class") == "notehead")
        shape = head_of(hit.instrument, options)
        if shape in OWN_HEADS:
            glyphs["H" + shape[0]] = OWN_HEADS[shape]
            _substitute(head, "H" + shape[0])
        box = around(boxes_of(_plain(head)), "notehead")
        if box is None:
            continue
        heads.append(Head(note.get("id", ""), float(hit.position), box))
        note.set("data-at", f"{float(hit.position):.4f}")
        note.set("class", _classes(hit.instrument, hit.status))
        if hit.status is Status.DOUBTFUL:
            brackets.append(_square_brackets(box))
    boxes = tuple(boxes_of(system))
    _clean(system, {*notes, *names})
    return Drawing(
        svg=_inner(system) + "".join(brackets),
        width=width,
        boxes=boxes,
        spans=tuple(spans),
        heads=tuple(heads),
        staff_top=min(line.top for line in lines),
        staff_bottom=max(line.bottom for line in lines),
        glyphs=glyphs,
    )


def _staff_lines(staff: ET.Element) -> list[Box]:
    """The lines of a staff as boxes without height."""
    found = []
    for path in staff.findall(f"{SVG}path"):
        ends = _PATH.match(path.get("d", ""))
        if ends is not None:
            left, top, right, bottom = map(float, ends.groups())
            if top == bottom:
                found.append(Box(left, top, right, bottom, "line"))
    return found


MOVED = ("tupletNum", "artic")
"""What is moved, in this order: marks go beyond the numbers of tuplets."""

CLEAR = 35.0


def _clear_of_beams(staff: ET.Element) -> None:
    """Move marks and numbers off the beams on which the engraver leaves them beside grace notes."""
    lines = _staff_lines(staff)
    if not lines:
        return
    middle = sum(line.top for line in lines) / len(lines)
    obstacles = [box for box in boxes_of(staff) if box.what.startswith(("beam", "tupletBracket"))]
    for kind in MOVED:
        for sign in staff.iter(f"{SVG}g"):
            if sign.get("class") != kind:
                continue
            box = around(boxes_of(sign), kind)
            if box is None:
                continue
            up = (box.top + box.bottom) / 2 < middle
            shift = 0.0
            in_the_way = [other for other in obstacles if other.overlaps(box)]
            while in_the_way:
                here = box.moved(0, shift)
                if up:
                    shift += min(other.top for other in in_the_way) - CLEAR - here.bottom
                else:
                    shift += max(other.bottom for other in in_the_way) + CLEAR - here.top
                here = box.moved(0, shift)
                in_the_way = [other for other in obstacles if other.overlaps(here)]
            if shift:
                _shift(sign, shift)
            obstacles.append(box.moved(0, shift))


_PLACE = re.compile(r"translate\(([-\d.]+), ?([-\d.]+)\)")


def _shift(sign: ET.Element, by: float) -> None:
    for use in sign.iter(f"{SVG}use"):
        use.set(
            "transform",
            _PLACE.sub(
                lambda found: f"translate({found.group(1)}, {float(found.group(2)) + by:.0f})",
                use.get("transform", ""),
            ),
        )


_PATH = re.compile(r"M([-\d.]+) ([-\d.]+) L([-\d.]+) ([-\d.]+)")


def _substitute(head: ET.Element, name: str) -> None:
    use = head.find(f"{SVG}use")
    if use is not None:
        use.set(LINK, f"#{name}-")


def _plain(head: ET.Element) -> ET.Element:
    """A head whose substitute is measured as the round head that it stands for."""
    copy = ET.fromstring(ET.tostring(head))
    for use in copy.iter(f"{SVG}use"):
        if use.get(LINK, "").startswith("#H"):
            use.set(LINK, "#E0A4-")
    return copy


def _classes(instrument: Instrument, status: Status) -> str:
    doubtful = " doubtful" if status is Status.DOUBTFUL else ""
    return f"note {instrument.value}{doubtful}"


def _square_brackets(box: Box) -> str:
    """Square brackets about a head that nobody is sure of."""
    gap, lip = SPACE * 0.28, SPACE * 0.22
    top, bottom = box.top - lip / 2, box.bottom + lip / 2
    left, right = box.left - gap, box.right + gap
    return (
        f'<path class="bracket" fill="none" stroke-width="14" d="M{left + lip:.0f} {top:.0f}'
        f"H{left:.0f}V{bottom:.0f}H{left + lip:.0f}M{right - lip:.0f} {top:.0f}"
        f'H{right:.0f}V{bottom:.0f}H{right - lip:.0f}"/>'
    )


_SUFFIX = re.compile(r"^(#[^-]+)-.*")


def _clean(element: ET.Element, keep: set[str]) -> None:
    """Without the engraver's own identities, which differ from system to system by nothing."""
    if element.get("id") not in keep:
        element.attrib.pop("id", None)
    link = element.get(LINK)
    if link:
        element.set(LINK, _SUFFIX.sub(r"\1", link))
    for child in list(element):
        name = child.get("class", "")
        marker = "placeholder" in name or "Milestone" in name
        unseen = marker or child.get("visibility") == "hidden"
        if unseen and not any(g.get("id") in keep for g in child.iter()):
            element.remove(child)
            continue
        _clean(child, keep)
        if child.tag == f"{SVG}g" and not len(child) and child.get("id") not in keep:
            element.remove(child)


def _inner(element: ET.Element) -> str:
    text = "".join(ET.tostring(child, encoding="unicode") for child in element)
    text = re.sub(r' xmlns(:\w+)?="[^"]*"', "", text)
    text = re.sub(r">\s+<", "><", text)
    return text.replace("ns0:", "").replace("ns1:href", "xlink:href").strip()

"""The limb chart: a line a limb on a count ruler, for those who do not read the staff.

Hands above the ruler, feet below it; right limbs solid, left limbs hollow; size says how loud. A
place in the bar is a place on the line, so that a beat is as wide as the next. Where a limb goes to
another drum, that drum is named over the stroke. Lengths are hundredths of a millimetre.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from fractions import Fraction

from orchesis.chart.engrave import Drawing, Head, Span
from orchesis.chart.ink import Box, glyph_box, glyph_path
from orchesis.chart.layout import limb_room
from orchesis.chart.lettering import Text, width_of
from orchesis.chart.levels import is_overdub
from orchesis.chart.mei import measure_id, note_id
from orchesis.chart.score import Kind, Measure, Score
from orchesis.groove.count import ruler
from orchesis.music.instruments import CROSSED, FEET, Instrument, Limb, Ornament, Status
from orchesis.music.values import Hit

LINE_GAP = 690.0
RULER_ROOM = 470.0
NAME_ROOM = 900.0
"""Left of the lines, for the limbs' letters."""

RADIUS = 105.0
GHOST_SHARE = 0.68
ACCENT_SHARE = 1.2
NAME_SIZE = 175.0
NAMES_UP = 225.0
"""Of the names of drums over their line: above the cap of an accent."""

LIMB_SIZE = 280.0
COUNT_SIZE = 230.0
BESIDE = "beside"
ORDER = (BESIDE, Limb.RIGHT_HAND, Limb.LEFT_HAND, "ruler", Limb.RIGHT_FOOT, Limb.LEFT_FOOT)
NAMES = {BESIDE: "+", Limb.RIGHT_HAND: "RH", Limb.LEFT_HAND: "LH",
         Limb.RIGHT_FOOT: "RF", Limb.LEFT_FOOT: "LF"}  # fmt: skip
HOLLOW = frozenset({Limb.LEFT_HAND, Limb.LEFT_FOOT})

SHORT_NAMES = {
    Instrument.KICK: "kick",
    Instrument.SNARE: "snare",
    Instrument.CROSS_STICK: "rim",
    Instrument.HIHAT_CLOSED: "hat",
    Instrument.HIHAT_OPEN: "hat",
    Instrument.HIHAT_FOOT: "hat",
    Instrument.HIHAT_SPLASH: "splash",
    Instrument.RIDE: "ride",
    Instrument.RIDE_BELL: "bell",
    Instrument.CRASH: "crash",
    Instrument.SPLASH: "splash",
    Instrument.CHINA: "china",
    Instrument.TOM_HIGH: "high",
    Instrument.TOM_MID: "mid",
    Instrument.TOM_LOW: "low",
    Instrument.TOM_FLOOR: "floor",
    Instrument.CLAP: "clap",
    Instrument.SHAKER: "shaker",
    Instrument.COWBELL: "bell",
    Instrument.TAMBOURINE: "tamb",
}
"""What fits over a stroke."""


def line_of(hit: Hit) -> str:
    """The line of a stroke: its limb's, or that of what is played beside the kit."""
    if is_overdub(hit):
        return BESIDE
    if hit.limb is not None:
        return hit.limb
    if hit.instrument is Instrument.KICK:
        return Limb.RIGHT_FOOT
    return Limb.LEFT_FOOT if hit.instrument in FEET else Limb.RIGHT_HAND


@dataclass
class _Ink:
    parts: list[str] = field(default_factory=list)
    boxes: list[Box] = field(default_factory=list)
    heads: list[Head] = field(default_factory=list)

    def add(self, svg: str, box: Box | None = None) -> None:
        self.parts.append(svg)
        if box is not None:
            self.boxes.append(box)


def limb_system(
    measures: Sequence[Measure], score: Score, *, width: float, is_key: bool = False
) -> Drawing:
    """Measures as limb lines of that width. `is_key`: without a ruler."""
    used = {line_of(hit) for measure in score.measures for hit in measure.hits}
    used |= {Limb.RIGHT_HAND, Limb.LEFT_HAND, Limb.RIGHT_FOOT}
    lines: dict[str, float] = {}
    y = 0.0
    for name in ORDER:
        if name == "ruler":
            y += RULER_ROOM - LINE_GAP
            lines[name] = y
            # The names of what the feet play stand between the count and their line.
            y += RULER_ROOM + NAME_SIZE
        elif name in used:
            lines[name] = y
            y += LINE_GAP
    top, bottom = min(lines.values()), max(lines.values())
    ink = _Ink()
    for name, height in lines.items():
        if name == "ruler":
            continue
        ink.add(f'<path stroke-width="9" stroke-opacity="0.55" '
                f'd="M{NAME_ROOM:.0f} {height:.0f}H{width:.0f}"/>')  # fmt: skip
        text = Text(NAMES[name], 0, height + 90, LIMB_SIZE, "bold", kind="limb")
        ink.add(text.svg(), text.box)
    rooms = _even([limb_room(measure) for measure in measures], measures, width - NAME_ROOM)
    share = (width - NAME_ROOM) / sum(rooms)
    left = NAME_ROOM
    spans = []
    last: dict[str, Instrument] = {}
    _bar_line(ink, left, top, bottom)
    for measure, room in zip(measures, rooms, strict=True):
        right = left + room * share
        name = measure_id(measure)
        ink.parts.append(f'<g id="{name}" class="measure">')
        _measure(ink, measure, lines, left, right, last, is_key=is_key)
        ink.parts.append("</g>")
        _bar_line(ink, right, top, bottom, closes=bool(measure.times))
        if measure.opens_repeat:
            _bar_line(ink, left, top, bottom, opens=True)
        spans.append(Span(name, left, right))
        left = right
    glyphs: dict[str, str] = {}
    return Drawing(
        svg="".join(ink.parts),
        width=width,
        boxes=tuple(ink.boxes),
        spans=tuple(spans),
        heads=tuple(ink.heads),
        staff_top=top,
        staff_bottom=bottom,
        glyphs=glyphs,
    )


def _even(rooms: list[float], measures: Sequence[Measure], width: float) -> list[float]:
    """Written bars of one metre all as wide as the widest of them, where the line has the room."""
    written = [
        room for room, measure in zip(rooms, measures, strict=True) if measure.kind is Kind.WRITTEN
    ]
    if not written or len({measure.meter for measure in measures}) > 1:
        return rooms
    even = [
        max(written) if measure.kind is Kind.WRITTEN else room
        for room, measure in zip(rooms, measures, strict=True)
    ]
    return even if sum(even) <= width else rooms


def _bar_line(
    ink: _Ink, x: float, top: float, bottom: float, *, opens: bool = False, closes: bool = False
) -> None:
    ink.add(
        f'<path stroke-width="14" d="M{x:.0f} {top:.0f}V{bottom:.0f}"/>',
        Box(x - 7, top, x + 7, bottom, "barLine"),
    )
    if not (opens or closes):
        return
    side = 1 if opens else -1
    middle = (top + bottom) / 2
    ink.add(
        f'<path stroke-width="48" d="M{x + side * 24:.0f} {top:.0f}V{bottom:.0f}"/>'
        f'<circle cx="{x + side * 130:.0f}" cy="{middle - 130:.0f}" r="38"/>'
        f'<circle cx="{x + side * 130:.0f}" cy="{middle + 130:.0f}" r="38"/>',
        Box(min(x, x + side * 168), top, max(x, x + side * 168), bottom, "barLine"),
    )


def _measure(
    ink: _Ink,
    measure: Measure,
    lines: dict[str, float],
    left: float,
    right: float,
    last: dict[str, Instrument],
    *,
    is_key: bool,
) -> None:
    top, bottom = min(lines.values()), max(lines.values())
    if measure.kind is not Kind.WRITTEN:
        _sign(ink, measure, (left + right) / 2, (top + bottom) / 2)
        last.clear()
        return
    pad = 260.0 + (180.0 if measure.opens_repeat else 0.0)
    inside = right - left - pad - 60.0 - (180.0 if measure.times else 0.0)

    def x_of(position: Fraction) -> float:
        return left + pad + float(position) * inside

    if not is_key:
        _ruler(ink, measure, lines["ruler"], x_of, top, bottom)
    edges: dict[float, float] = {}
    for hit in measure.hits:
        name = line_of(hit)
        _stroke(ink, hit, x_of(hit.position), lines[name], hollow=name in HOLLOW)
        if last.get(name) not in _same(hit.instrument) and not is_key:
            text = _drum_name(hit, x_of(hit.position), lines[name], edges)
            ink.add(text.svg(), text.box)
        last[name] = hit.instrument


def _drum_name(hit: Hit, x: float, line: float, edges: dict[float, float]) -> Text:
    """The name over a stroke; a row higher where it would touch the name before it on its line.

    edges : how far right the names of each row reach.
    """
    rows = [line - NAMES_UP, line - NAMES_UP - 0.95 * NAME_SIZE]
    texts = [
        Text(SHORT_NAMES[hit.instrument], x, y, NAME_SIZE, "regular", "middle", kind="drum")
        for y in rows
    ]
    text = next((t for t in texts if t.box.left > edges.get(t.y, -1e9)), texts[-1])
    edges[text.y] = text.box.right + 20
    return text


def _same(instrument: Instrument) -> frozenset[Instrument]:
    """Open and closed hats are one drum, told apart by their heads."""
    hats = frozenset({Instrument.HIHAT_CLOSED, Instrument.HIHAT_OPEN})
    return hats if instrument in hats else frozenset({instrument})


def _ruler(
    ink: _Ink,
    measure: Measure,
    y: float,
    x_of: Callable[[Fraction], float],
    top: float,
    bottom: float,
) -> None:
    """The count of every place at which something can stand, the beats bold and with a line."""
    divisions = measure.divisions or (2,) * measure.meter.pulses
    played = {hit.position for hit in measure.hits}
    needed = [_parts(measure, beat, played, parts) for beat, parts in enumerate(divisions)]
    edge = -1e9
    places = [
        (x_of(position), word, (position * measure.meter.pulses).denominator == 1)
        for position, word in ruler(tuple(needed), measure.meter)
    ]
    for order, (x, word, on_beat) in enumerate(places):
        if on_beat:
            ink.add(
                f'<path stroke-width="7" stroke-opacity="0.3" d="M{x:.0f} {top:.0f}V{bottom:.0f}"/>'
            )
        half = width_of(word, COUNT_SIZE) / 2 + 20
        beside = [other for other in places[order + 1 : order + 2] if other[2]]
        # Where words would touch, the beats are said and what is between them is not.
        meets_beat = any(x + half > other[0] - 90 for other in beside)
        if not on_beat and (x - half < edge or meets_beat):
            continue
        style = "bold" if on_beat else "regular"
        text = Text(word, x, y + 0.3 * COUNT_SIZE, COUNT_SIZE, style, "middle", kind="count")
        ink.add(text.svg(), text.box)
        edge = x + half


def _parts(measure: Measure, beat: int, played: Iterable[Fraction], parts: int) -> int:
    """Into how many parts a beat is counted: no finer than what is played in it."""
    pulses = measure.meter.pulses
    places = [p * pulses - beat for p in played if beat <= p * pulses < beat + 1]
    for fewer in (1, 2, 3, 4, 6, 8, 12):
        if all((place * fewer).denominator == 1 for place in places):
            return fewer
    return parts


def _sign(ink: _Ink, measure: Measure, x: float, y: float) -> None:
    if measure.kind is Kind.REST:
        words = f"{measure.span} bars rest" if measure.span > 1 else "rest"
        text = Text(words, x, y, LIMB_SIZE, "italic", "middle", kind="silence")
        ink.add(text.svg(), text.box)
        return
    code = "E500" if measure.span == 1 else "E501"
    scale = 0.9
    box = glyph_box(code, 0, 0, scale=scale)
    shift = x - (box.left + box.right) / 2
    ink.add(
        f'<path transform="translate({shift:.0f},{y:.0f}) scale({scale},-{scale})"'
        f' d="{glyph_path(code)}"/>',
        box.moved(shift, y),
    )
    if measure.span > 1:
        text = Text(str(measure.span), x, box.top + y - 120, LIMB_SIZE, "bold", "middle")
        ink.add(text.svg(), text.box)


def _stroke(ink: _Ink, hit: Hit, x: float, y: float, *, hollow: bool) -> None:
    """A stroke: its head, what marks it, its identity."""
    radius = RADIUS * (GHOST_SHARE if hit.ghost else ACCENT_SHARE if hit.accent else 1.0)
    shape = _head(hit.instrument, x, y, radius, hollow=hollow, half=hit.is_half_open)
    marks = ""
    if hit.ghost:
        marks += _curves(x, y, radius)
    if hit.accent:
        up = y - radius - 70
        marks += (
            f'<path fill="none" stroke-width="26" d="M{x - 80:.0f} {up + 50:.0f}'
            f'L{x:.0f} {up:.0f}L{x + 80:.0f} {up + 50:.0f}"/>'
        )
    if hit.ornament in (Ornament.FLAM, Ornament.DRAG):
        for number in range(1 if hit.ornament is Ornament.FLAM else 2):
            away = x - radius - 70 - 90 * number
            marks += f'<circle cx="{away:.0f}" cy="{y:.0f}" r="38"/>'
    elif hit.ornament is Ornament.BUZZ:
        marks += Text("z", x + radius + 60, y + 60, 200, "bold", "middle").svg()
    if hit.status is Status.DOUBTFUL:
        marks += Text("[", x - radius - 70, y + 80, 300, "regular", "middle").svg()
        marks += Text("]", x + radius + 70, y + 80, 300, "regular", "middle").svg()
    doubtful = " doubtful" if hit.status is Status.DOUBTFUL else ""
    box = Box(x - radius, y - radius, x + radius, y + radius, "notehead")
    ink.add(
        f'<g id="{note_id(hit)}" class="note {hit.instrument.value}{doubtful}"'
        f' data-at="{float(hit.position):.4f}">{shape}{marks}</g>',
        box,
    )
    ink.heads.append(Head(note_id(hit), float(hit.position), box))


def _curves(x: float, y: float, radius: float) -> str:
    tall = radius * 1.25
    left, right = x - radius - 30, x + radius + 30
    return (
        f'<path fill="none" stroke-width="18" d="M{left:.0f} {y - tall:.0f}'
        f"Q{left - 55:.0f} {y:.0f} {left:.0f} {y + tall:.0f}M{right:.0f} {y - tall:.0f}"
        f'Q{right + 55:.0f} {y:.0f} {right:.0f} {y + tall:.0f}"/>'
    )


def _head(
    instrument: Instrument, x: float, y: float, r: float, *, hollow: bool, half: bool = False
) -> str:
    fill = 'class="hollow" fill="#fff"' if hollow else 'fill="currentColor"'
    edge = 22
    if instrument in CROSSED:
        arm, waist = r, r * 0.34
        points = [(0, -waist), (arm - waist, -arm), (arm, -arm + waist), (waist, 0),
                  (arm, arm - waist), (arm - waist, arm), (0, waist), (waist - arm, arm),
                  (-arm, arm - waist), (-waist, 0), (-arm, waist - arm),
                  (waist - arm, -arm)]  # fmt: skip
        text = " ".join(f"{x + dx:.0f},{y + dy:.0f}" for dx, dy in points)
        cross = f'<polygon {fill} stroke-width="{edge}" points="{text}"/>'
        if instrument in (Instrument.HIHAT_OPEN, Instrument.HIHAT_SPLASH):
            ring = r * 1.55
            if half:
                return cross + (
                    f'<path fill="none" stroke-width="{edge}" d="M{x - ring:.0f} {y:.0f}'
                    f'a{ring:.0f} {ring:.0f} 0 0 1 {2 * ring:.0f} 0"/>'
                )
            cross += (
                f'<circle fill="none" stroke-width="{edge}" cx="{x:.0f}" cy="{y:.0f}"'
                f' r="{ring:.0f}"/>'
            )
        return cross
    round_head = f'<circle {fill} stroke-width="{edge}" cx="{x:.0f}" cy="{y:.0f}" r="{r:.0f}"/>'
    if instrument is Instrument.CROSS_STICK:
        far = r * 1.35
        round_head = (
            f'<circle class="hollow" fill="#fff" stroke-width="{edge}"'
            f' cx="{x:.0f}" cy="{y:.0f}" r="{r:.0f}"/>'
            f'<path stroke-width="34" d="M{x - far:.0f} {y + far:.0f}'
            f'L{x + far:.0f} {y - far:.0f}"/>'
        )
    return round_head

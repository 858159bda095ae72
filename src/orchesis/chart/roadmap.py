"""The road map: a song on one page, a row a section, for whoever plays it tonight.

Each row has the section's name, its time and its bars, one bar of its groove, what to look out for,
and its fills as small staves. A section that is like one before it says so and shows only what is
new. Where all of it does not fit a page it is made smaller, and then the fills are said in words.
Lengths are hundredths of a millimetre.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from orchesis.chart.cues import cues_of
from orchesis.chart.dress import LABEL_SIZE, PAD, QUIET, WORDS_SIZE, Dressed, clock
from orchesis.chart.engrave import Drawing, Span, engrave_system
from orchesis.chart.ink import Box, around
from orchesis.chart.layout import room_of
from orchesis.chart.lettering import Text, fitted, printable, width_of
from orchesis.chart.limb_lines import limb_system
from orchesis.chart.mei import measure_id
from orchesis.chart.options import ChartOptions, Notation
from orchesis.chart.readings import essence_of, feel_words, hints, score_of, sections_of
from orchesis.chart.score import Content, Credits, Kind, Measure, Score, content_of
from orchesis.groove.phrase import find_phrases
from orchesis.music.values import Bar, Hit, Section, Transcription

NAME_SHARE = 0.2
GROOVE_SHARE = 0.34
SMALL = 0.62
"""Size of the fills' staves."""

MOST_FILLS = 3
MOST_WORDS = 4


@dataclass(frozen=True, slots=True)
class Row:
    """A section on the map.

    like : the label of the section that it is like; "": of none. groove : one bar; None: as that
    one's. fills : the bars of each fill that is new. words : what to look out for.
    """

    section: Section | None
    bars: tuple[Bar, ...]
    like: str
    groove: Measure | None
    fills: tuple[tuple[Measure, ...], ...]
    words: tuple[str, ...]

    @property
    def label(self) -> str:
        """Its name."""
        return self.section.label if self.section else "–"


def make_rows(song: Transcription, options: ChartOptions) -> tuple[Row, ...]:
    """The rows of a song's map, in order."""
    cues = cues_of(song)
    known: dict[Content, str] = {}
    seen_fills: dict[tuple[Content, ...], int] = {}
    rows: list[Row] = []
    for section, bars in sections_of(song):
        numbers = {bar.number for bar in bars}
        hits = [hit for hit in song.hits if hit.bar in numbers]
        phrases = find_phrases(bars, hits, song.fills)
        played, told = essence_of(song, bars, phrases, options)
        in_fill = {
            number
            for fill in song.fills
            for number in range(fill.begins_in, fill.bar + 1)
            if number in numbers
        }
        groove = _groove(bars, played, in_fill)
        like = ""
        words: list[str] = []
        if groove is not None:
            look = content_of(groove.meter, groove.hits)
            like = known.get(look, "")
            known.setdefault(look, section.label if section else f"bar {groove.number}")
            if not groove.hits:
                like, words = "", ["no drums"]
        fills, fill_words = _fills(song, bars, played, seen_fills)
        words += fill_words
        for bar in bars:
            said = [*cues.get(bar.number, ()), *([told[bar.number]] if bar.number in told else [])]
            place = bar.number - bars[0].number + 1
            words += [f"bar {place}: {cue}" if place > 1 else cue for cue in said]
        if not like:
            words += hints(phrases, bars[0].meter, options)
        shown = groove if groove is not None and not like and groove.hits else None
        rows.append(Row(section, bars, like, shown, fills, tuple(words)))
    return tuple(rows)


def _groove(
    bars: Sequence[Bar], played: dict[int, tuple[Hit, ...]], in_fill: set[int]
) -> Measure | None:
    """The bar that the section plays most often."""
    plain = [bar for bar in bars if bar.number not in in_fill] or list(bars)
    if not plain:
        return None
    looks = {bar.number: content_of(bar.meter, played[bar.number]) for bar in plain}
    often = Counter(looks.values())
    best = max(plain, key=lambda bar: (often[looks[bar.number]], -bar.number))
    return Measure(
        best.number,
        best.meter,
        played[best.number],
        plays=(best.number,),
        divisions=best.divisions,
    )


def _fills(
    song: Transcription,
    bars: Sequence[Bar],
    played: dict[int, tuple[Hit, ...]],
    seen: dict[tuple[Content, ...], int],
) -> tuple[tuple[tuple[Measure, ...], ...], list[str]]:
    """The fills that were not there before, and in words where each of the others is."""
    new: list[tuple[Measure, ...]] = []
    words: list[str] = []
    by_number = {bar.number: bar for bar in bars}
    for fill in song.fills:
        inside = [n for n in range(fill.begins_in, fill.bar + 1) if n in by_number]
        if not inside:
            continue
        measures = tuple(
            Measure(
                number,
                by_number[number].meter,
                played[number],
                plays=(number,),
                divisions=by_number[number].divisions,
            )
            for number in inside
        )
        place = inside[-1] - bars[0].number + 1
        look = tuple(measure.content for measure in measures)
        if look in seen:
            words.append(f"bar {place}: the fill of bar {seen[look]}")
        elif any(measure.hits for measure in measures):
            seen[look] = inside[-1]
            new.append(measures)
    return tuple(new), words


@dataclass(frozen=True, slots=True)
class _Piece:
    svg: str
    boxes: tuple[Box, ...]
    glyphs: dict[str, str]

    @property
    def box(self) -> Box:
        found = around(self.boxes)
        assert found is not None
        return found


def draw_rows(
    song: Transcription,
    rows: Sequence[Row],
    options: ChartOptions,
    *,
    width: float,
    with_fills: bool,
) -> list[tuple[Dressed, Measure]]:
    """Each row as a drawing, and the measure that stands for all of its bars."""
    score = score_of(song, _measures_of(rows), options)
    found = []
    for row in rows:
        pieces = [_name_piece(row, options, NAME_SHARE * width)]
        left = NAME_SHARE * width
        if row.groove is not None:
            pieces.append(_staff_piece((row.groove,), score, left, GROOVE_SHARE * width, 1.0))
        elif row.like:
            words = fitted(f"as {row.like}", WORDS_SIZE, GROOVE_SHARE * width, "italic")
            pieces.append(_text_piece([words], left, LABEL_SIZE))
        left += (GROOVE_SHARE + 0.03) * width
        room = width - left
        fills = row.fills[:MOST_FILLS] if with_fills else ()
        x = left
        beside: list[_Piece] = []
        for measures in fills:
            wide = min(room, sum(room_of(m, options) for m in measures) * SMALL + 700)
            if x + wide > width + 1 and beside:
                break
            beside.append(_fill_piece(measures, score, x, wide, row))
            x += wide + 250
        pieces += beside
        told = list(row.words)
        told += [
            f"bar {m[-1].number - row.bars[0].number + 1}: fill" for m in row.fills[len(beside) :]
        ]
        if told:
            below = max((piece.box.bottom for piece in beside), default=-LABEL_SIZE * 0.3)
            shown = told[:MOST_WORDS]
            if len(told) > MOST_WORDS:
                shown[-1] = f"{shown[-1]} … and {len(told) - MOST_WORDS} more"
            lines = [fitted(printable(w), WORDS_SIZE, room, "italic") for w in shown]
            pieces.append(_text_piece(lines, left, below + WORDS_SIZE * 1.1))
        found.append(_joined(row, pieces, width))
    return found


def _measures_of(rows: Sequence[Row]) -> list[Measure]:
    """All that a map shows as notes."""
    measures = [row.groove for row in rows if row.groove]
    measures += [measure for row in rows for fill in row.fills for measure in fill]
    return measures


def _name_piece(row: Row, options: ChartOptions, width: float) -> _Piece:
    label = fitted(printable(row.label), LABEL_SIZE, width - 2 * PAD - 300, "bold")
    text = Text(label, PAD, 0, LABEL_SIZE, "bold", kind="label")
    wide = width_of(label, LABEL_SIZE, "bold") + 2 * PAD
    box = Box(0, -0.72 * LABEL_SIZE - PAD, wide, 0.2 * LABEL_SIZE + PAD, "label")
    bars = "1 bar" if len(row.bars) == 1 else f"{len(row.bars)} bars"
    words = [clock(row.bars[0].start)] if options.times else []
    below = Text("  ".join([*words, bars]), 0, LABEL_SIZE * 1.35, WORDS_SIZE, ink=QUIET)
    svg = (
        f'<rect class="t-box" x="0" y="{box.top:.0f}" width="{wide:.0f}"'
        f' height="{box.bottom - box.top:.0f}" rx="40" fill="none" stroke-width="20"/>'
        f"{text.svg()}{below.svg()}"
    )
    return _Piece(svg, (box, below.box), {})


def _text_piece(lines: Sequence[str], x: float, y: float) -> _Piece:
    texts = [
        Text(line, x, y + order * WORDS_SIZE * 1.25, WORDS_SIZE, "italic", kind="hint")
        for order, line in enumerate(lines)
    ]
    return _Piece("".join(t.svg() for t in texts), tuple(t.box for t in texts), {})


def _staff_piece(
    measures: Sequence[Measure], score: Score, x: float, width: float, scale: float
) -> _Piece:
    """Measures as a small line of music whose top is level with the name."""
    options = score.options
    if options.notation is Notation.LIMBS:
        drawing = limb_system(measures, score, width=width / scale)
    else:
        drawing = engrave_system(
            measures, score.feel, options, width=width / scale, before=score.meter
        )
    top = min(box.top for box in drawing.boxes)
    shift = -LABEL_SIZE - top * scale
    boxes = tuple(_scaled(box, x, shift, scale) for box in drawing.boxes)
    staff = _scaled(
        Box(0, drawing.staff_top, drawing.width, drawing.staff_bottom, "staff"), x, shift, scale
    )
    svg = f'<g transform="translate({x:.0f},{shift:.0f}) scale({scale})">{drawing.svg}</g>'
    return _Piece(svg, (*boxes, staff), drawing.glyphs)


def _fill_piece(
    measures: Sequence[Measure], score: Score, x: float, width: float, row: Row
) -> _Piece:
    """A fill as a small staff, and over it where in the section it is."""
    staff = _staff_piece(measures, score, x, width, SMALL)
    place = measures[-1].number - row.bars[0].number + 1
    words = f"fill, bar {place}"
    text = Text(words, x, -LABEL_SIZE * 0.3, WORDS_SIZE * 0.85, "italic", kind="cue")
    shift = text.box.bottom - staff.box.top + 60
    svg = f'{text.svg()}<g transform="translate(0,{shift:.0f})">{staff.svg}</g>'
    return _Piece(svg, (text.box, *(box.moved(0, shift) for box in staff.boxes)), staff.glyphs)


def _scaled(box: Box, x: float, y: float, scale: float) -> Box:
    return Box(
        x + box.left * scale,
        y + box.top * scale,
        x + box.right * scale,
        y + box.bottom * scale,
        box.what,
    )


def _joined(row: Row, pieces: Sequence[_Piece], width: float) -> tuple[Dressed, Measure]:
    boxes = tuple(box for piece in pieces for box in piece.boxes)
    top, bottom = min(b.top for b in boxes), max(b.bottom for b in boxes)
    first = row.bars[0].number
    measure = Measure(
        first, row.bars[0].meter, kind=Kind.REPEAT, span=len(row.bars), plays=(first,)
    )
    name = measure_id(measure)
    glyphs: dict[str, str] = {}
    for piece in pieces:
        glyphs |= piece.glyphs
    drawing = Drawing("", width, boxes, (Span(name, 0.0, width),), (), top, bottom, glyphs)
    svg = f'<g id="{name}" class="measure row">{"".join(piece.svg for piece in pieces)}</g>'
    return Dressed(svg, drawing, boxes, top, bottom), measure


def road_map_score(song: Transcription, options: ChartOptions, signature: Credits) -> Score:
    """What stands at the head and foot of a map, and the measures that its key explains."""
    return score_of(song, _measures_of(make_rows(song, options)), options, signature)


def road_map_text(song: Transcription, options: ChartOptions) -> str:
    """The map as plain text: a line a section, and what to look out for."""
    lines = [song.title or "Untitled"]
    about = [str(song.meter), f"{round(song.tempo_bpm)} beats a minute"]
    if words := feel_words(song):
        about.append(words)
    lines += [", ".join(about), ""]
    for row in make_rows(song, options):
        bars = "1 bar" if len(row.bars) == 1 else f"{len(row.bars)} bars"
        like = f", as {row.like}" if row.like else ""
        lines.append(f"{clock(row.bars[0].start):>5}  {row.label}, {bars}{like}")
        lines += [f"       {words}" for words in row.words]
        lines += [
            f"       bar {fill[-1].number - row.bars[0].number + 1}: fill" for fill in row.fills
        ]
    return "\n".join(lines) + "\n"

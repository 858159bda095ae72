"""Pages: systems stacked on sheets of paper, with a head, a key to the signs, and a foot.

What is on screen is what is printed: PDF and images are made from these same pages. Lengths are
hundredths of a millimetre.
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from orchesis.chart.dress import QUIET, Dressed, dress
from orchesis.chart.engrave import Drawing, engrave_system
from orchesis.chart.ink import Box
from orchesis.chart.kept import KeptByIdentity
from orchesis.chart.key import key_block
from orchesis.chart.layout import Line, plan_lines, plan_pages
from orchesis.chart.lettering import FAMILY, Text, fitted, printable
from orchesis.chart.limb_lines import limb_system, line_of
from orchesis.chart.mei import measure_id
from orchesis.chart.options import Notation, PageSize
from orchesis.chart.score import Kind, Measure, Score
from orchesis.music.values import Meter

SIZES = {
    PageSize.A4: (21000.0, 29700.0),
    PageSize.LETTER: (21590.0, 27940.0),
    PageSize.PHONE: (8800.0, 600000.0),
}
MARGIN = {PageSize.A4: 1300.0, PageSize.LETTER: 1300.0, PageSize.PHONE: 350.0}
SYSTEM_GAP = 560.0
TITLE_SIZE = 640.0
SUBTITLE_SIZE = 300.0
FOOT_SIZE = 240.0
FOOT = 500.0
"""Height of the foot of a page, above the margin."""


@dataclass(frozen=True)
class Block:
    """Something that stands on a page in one piece: a system, or the key.

    name : the same for blocks that look the same, so that a page fetches only what it lacks.
    """

    dressed: Dressed
    measures: tuple[Measure, ...]

    @cached_property
    def name(self) -> str:
        """A hash of what it shows."""
        return hashlib.sha256(self.dressed.svg.encode()).hexdigest()[:12]


@dataclass(frozen=True, slots=True)
class Placed:
    """A block on its page: what is added to its coordinates."""

    block: Block
    x: float
    y: float
    scale: float = 1.0

    def moved(self, box: Box) -> Box:
        """A box of the block, on the page."""
        left, top = box.left * self.scale, box.top * self.scale
        right, bottom = box.right * self.scale, box.bottom * self.scale
        return Box(left, top, right, bottom, box.what).moved(self.x, self.y)

    @property
    def transform(self) -> str:
        """How its drawing is put there, as SVG says it."""
        size = "" if self.scale == 1.0 else f" scale({self.scale:.3f})"
        return f"translate({self.x:.0f},{self.y:.0f}){size}"


@dataclass(frozen=True, slots=True)
class Page:
    """A sheet: its size, its words at head and foot, and its blocks."""

    width: float
    height: float
    texts: tuple[Text, ...]
    placed: tuple[Placed, ...]

    @property
    def boxes(self) -> list[Box]:
        """All ink of the page."""
        found = [text.box for text in self.texts]
        for placed in self.placed:
            found += [placed.moved(box) for box in placed.block.dressed.boxes]
        return found

    @property
    def glyphs(self) -> dict[str, str]:
        """The outlines that its blocks use, by name."""
        found: dict[str, str] = {}
        for placed in self.placed:
            found |= placed.block.dressed.drawing.glyphs
        return found

    def svg(self) -> str:
        """The page as a file of its own."""
        head = "".join(text.svg() for text in self.texts)
        blocks = "".join(
            f'<g transform="{placed.transform}">{placed.block.dressed.svg}</g>'
            for placed in self.placed
        )
        return (
            '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
            f' viewBox="0 0 {self.width:.0f} {self.height:.0f}"'
            f' width="{self.width / 100:.2f}mm" height="{self.height / 100:.2f}mm"'
            f' font-family="{FAMILY}">{glyph_definitions(self.glyphs)}'
            f'<g color="#000" fill="currentColor" stroke="currentColor" stroke-width="0">'
            f"{head}{blocks}</g></svg>"
        )


@dataclass(frozen=True, slots=True)
class Engraving:
    """A chart on its pages."""

    pages: tuple[Page, ...]
    score: Score


def glyph_definitions(glyphs: Mapping[str, str]) -> str:
    """Outlines that `use` elements refer to."""
    inside = "".join(
        f'<g id="{name}"><path transform="scale(1,-1)" d="{path}"/></g>'
        for name, path in sorted(glyphs.items())
    )
    return f"<defs>{inside}</defs>"


def engrave(score: Score, starts: Mapping[int, float]) -> Engraving:
    """The chart on pages. `starts`: when each bar of the song begins, in seconds.

    Systems that were engraved before are not engraved again. Raises InvalidTranscription where
    the engraver cannot read what is written.
    """
    options = score.options
    width, height = SIZES[options.size]
    margin = MARGIN[options.size]
    inner = width - 2 * margin
    blocks = [
        kept_blocks.get(
            (line,),
            (
                score.feel,
                score.options,
                starts.get(line.measures[0].number),
                (score.tempo_bpm, score.meter, score.feel_words) if not order else None,
                _lines_used(score),
            ),
            lambda line=line, order=order: _system(  # type: ignore[misc]
                line, score, starts, is_first=not order, room=inner
            ),
        )
        for order, line in enumerate(plan_lines(score.measures, options, width=inner))
    ]
    turns = [_turn(a, b) for a, b in zip(blocks, [*blocks[1:], None], strict=False)]
    if options.key and (key := key_block(score, inner)):
        blocks.append(Block(key, ()))
        turns.append("section")
    title = title_texts(score, width, margin)
    head = max((text.box.bottom for text in title), default=margin) + 350
    below = margin + FOOT
    pages = plan_pages(
        [block.dressed.height for block in blocks],
        turns,
        first_room=height - head - below,
        room=height - margin - below,
        gap=SYSTEM_GAP,
    )
    made = []
    for number, (start, end) in enumerate(pages, 1):
        y = head if number == 1 else margin
        placed = []
        for block in blocks[start:end]:
            placed.append(Placed(block, margin, y - block.dressed.top))
            y += block.dressed.height + SYSTEM_GAP
        tall = height
        if options.size is PageSize.PHONE:
            tall = y + FOOT + margin
        texts = [
            *(title if number == 1 else ()),
            *foot_texts(score, number, len(pages), width, tall),
        ]
        made.append(Page(width, tall, tuple(texts), tuple(placed)))
    if not made:
        made.append(Page(width, height, tuple(title), ()))
    return Engraving(tuple(made), score)


kept_blocks: KeptByIdentity[Block] = KeptByIdentity(512)


def _lines_used(score: Score) -> frozenset[str]:
    """Which limb lines the whole song needs: each of its systems has them all."""
    if score.options.notation is not Notation.LIMBS:
        return frozenset()
    return frozenset(line_of(hit) for measure in score.measures for hit in measure.hits)


def _system(
    line: Line, score: Score, starts: Mapping[int, float], *, is_first: bool, room: float
) -> Block:
    drawing = draw_measures(line.measures, score, width=line.width, before=line.before)
    dressed = dress(drawing, line.measures, score, starts, is_first=is_first, room=room)
    return Block(dressed, line.measures)


def draw_measures(
    measures: Sequence[Measure], score: Score, *, width: float, before: Meter | None
) -> Drawing:
    """The ink of a line, as staff or as limb lines. `before`: the metre of the bar before it."""
    if score.options.notation is Notation.LIMBS:
        return limb_system(measures, score, width=width)
    return engrave_system(measures, score.feel, score.options, width=width, before=before)


def _turn(block: Block, following: Block | None) -> str:
    """How well the page is turned after a block."""
    if following is None or following.measures[0].heading:
        return "section"
    last = block.measures[-1]
    if last.kind is Kind.REST:
        return "rest"
    bars = sum(m.span if m.kind is not Kind.WRITTEN else 1 for m in block.measures)
    return "phrase" if bars % 4 == 0 else "else"


def title_texts(score: Score, width: float, margin: float) -> list[Text]:
    """The song's name, and who took it off."""
    narrow = score.options.size is PageSize.PHONE
    size = TITLE_SIZE * (0.7 if narrow else 1.0)
    room = width - 2 * margin
    title = fitted(printable(score.title) or "Untitled", size, room, "bold")
    found = [Text(title, width / 2, margin + size, size, "bold", "middle", kind="title")]
    y = margin + size + SUBTITLE_SIZE * 1.6
    if score.credits.transcriber:
        words = f"transcribed by {printable(score.credits.transcriber)}"
        text = fitted(words, SUBTITLE_SIZE, room)
        found.append(
            Text(text, width / 2, y, SUBTITLE_SIZE, "italic", "middle", QUIET, kind="credits")
        )
    return found


def foot_texts(score: Score, number: int, count: int, width: float, height: float) -> list[Text]:
    """What stands at the foot of a page: which version this is, of which day, and its number."""
    margin = MARGIN[score.options.size]
    y = height - margin
    left = [printable(score.title)] if number > 1 else []
    if score.credits.version:
        left.append(f"version {score.credits.version}")
    if score.credits.date:
        left.append(score.credits.date)
    found = []
    if left:
        words = fitted(" · ".join(left), FOOT_SIZE, width / 2)
        found.append(Text(words, margin, y, FOOT_SIZE, ink=QUIET, kind="foot"))
    if count > 1:
        words = f"{number} of {count}"
        found.append(Text(words, width - margin, y, FOOT_SIZE, "regular", "end", QUIET, "foot"))
    return found


def measure_boxes(page: Page) -> list[tuple[Measure, Box]]:
    """Where each measure of a page is: from barline to barline, over the staff."""
    found = []
    for placed in page.placed:
        drawing = placed.block.dressed.drawing
        spans = {span.name: span for span in drawing.spans}
        for measure in placed.block.measures:
            span = spans[measure_id(measure)]
            box = Box(span.left, drawing.staff_top, span.right, drawing.staff_bottom, "measure")
            found.append((measure, placed.moved(box)))
    return found


def numbers_of(measures: Sequence[Measure]) -> set[int]:
    """The bars of the song that these measures stand for."""
    return {
        first + step
        for measure in measures
        for first in measure.plays
        for step in range(measure.span)
    }

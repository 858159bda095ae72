"""Numbers, names, cues, hands and counts, put beside the ink of an engraved system, never over it.

What belongs to one row stands at one height; what stands alone goes as near to its bar as the ink
below it lets it. Lengths are hundredths of a millimetre.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from orchesis.chart.engrave import Drawing, Head, Span
from orchesis.chart.ink import Box, Skyline, glyph_box, glyph_path
from orchesis.chart.lettering import Text, fitted, printable, width_of
from orchesis.chart.mei import measure_id, note_id
from orchesis.chart.options import Beside, ChartOptions, Notation
from orchesis.chart.score import Heading, Kind, Measure, Score
from orchesis.groove.count import spoken
from orchesis.music.instruments import FEET, Limb
from orchesis.music.values import Hit, Meter

NUMBER_SIZE = 230.0
CUE_SIZE = 290.0
LABEL_SIZE = 330.0
WORDS_SIZE = 270.0
LETTER_SIZE = 250.0
COUNT_SIZE = 270.0
SMALLEST_COUNT = 190.0
GAP = 70.0
PAD = 85.0
"""Inside the box of a name."""

QUIET = "0.75"
"""Ink of what is said beside the music: on paper a dark grey, on a stand's screen a light one."""
HANDS = {Limb.RIGHT_HAND: "R", Limb.LEFT_HAND: "L"}


@dataclass(frozen=True, slots=True)
class Dressed:
    """A system with all its words: its drawing, and how far it reaches up and down."""

    svg: str
    drawing: Drawing
    boxes: tuple[Box, ...]
    top: float
    bottom: float

    @property
    def height(self) -> float:
        """From the highest ink to the lowest."""
        return self.bottom - self.top


def clock(seconds: float) -> str:
    """A time in the recording: 1:05."""
    whole = int(max(0.0, seconds))
    return f"{whole // 60}:{whole % 60:02}"


def dress(
    drawing: Drawing,
    measures: Sequence[Measure],
    score: Score,
    starts: Mapping[int, float],
    *,
    is_first: bool,
    room: float = 0.0,
) -> Dressed:
    """Put words beside a system.

    Parameters
    ----------
    starts : when each bar begins, in seconds.
    is_first : of the chart: it has the tempo over it.
    room : how far right words may reach beyond a short system.
    """
    return _Dresser(drawing, measures, score, starts, room).dressed(is_first)


class _Dresser:
    def __init__(
        self,
        drawing: Drawing,
        measures: Sequence[Measure],
        score: Score,
        starts: Mapping[int, float],
        room: float,
    ) -> None:
        self.drawing = drawing
        self.room = max(room, drawing.width)
        self.measures = measures
        self.score = score
        self.options: ChartOptions = score.options
        self.starts = starts
        spans = {span.name: span for span in drawing.spans}
        self.spans: list[Span] = [spans[measure_id(measure)] for measure in measures]
        self.heads = {head.name: head for head in drawing.heads}
        self.sky = Skyline(list(drawing.boxes))
        self.sky.add(Box(0, drawing.staff_top, drawing.width, drawing.staff_bottom, "staff"))
        self.parts: list[str] = []
        self.boxes: list[Box] = []

    def dressed(self, is_first: bool) -> Dressed:
        on_staff = self.options.notation is Notation.STAFF
        if on_staff and self.options.sticking is not Beside.NONE:
            self._hands()
        if on_staff and self.options.count:
            self._count()
        self._numbers()
        self._times_to_play()
        self._endings()
        self._cues()
        for measure, span in zip(self.measures, self.spans, strict=True):
            if measure.heading:
                self._heading(measure.heading, span)
        if is_first:
            self._tempo()
        every = self.sky.boxes
        return Dressed(
            svg=self.drawing.svg + "".join(self.parts),
            drawing=self.drawing,
            boxes=(*self.drawing.boxes, *self.boxes),
            top=min(box.top for box in every),
            bottom=max(box.bottom for box in every),
        )

    def _put(self, text: Text) -> None:
        self.parts.append(text.svg())
        self.sky.add(text.box)
        self.boxes.append(text.box)

    def _above(self, left: float, right: float, size: float, gap: float = GAP) -> float:
        """The line on which text of that size stands above all that is there."""
        top = self.sky.top(left - GAP, right + GAP, default=self.drawing.staff_top)
        return top - gap - 0.22 * size

    def _columns(self) -> list[tuple[Measure, Fraction, list[tuple[Hit, Head]]]]:
        """The places of the system at which something is played, from left to right."""
        found = []
        for measure in self.measures:
            at: dict[Fraction, list[tuple[Hit, Head]]] = {}
            for hit in measure.hits:
                head = self.heads.get(note_id(hit))
                if head is not None:
                    at.setdefault(hit.position, []).append((hit, head))
            found += [(measure, place, at[place]) for place in sorted(at)]
        return found

    def _hands(self) -> None:
        """R and L: at one height, in two rows where both hands strike at once."""
        columns = [
            (middle, sorted({HANDS[hit.limb] for hit, _ in notes if hit.limb in HANDS}))
            for _, _, notes in self._columns()
            if (middle := _middle(head for hit, head in notes if hit.instrument not in FEET))
        ]
        columns = [(x, letters) for x, letters in columns if letters]
        if not columns:
            return
        rows = max(len(letters) for _, letters in columns)
        left, right = columns[0][0] - LETTER_SIZE, columns[-1][0] + LETTER_SIZE
        step = LETTER_SIZE * 0.95
        if self.options.sticking is Beside.ABOVE:
            first = self._above(left, right, LETTER_SIZE) - (rows - 1) * step
        else:
            low = self.sky.bottom(left, right, default=self.drawing.staff_bottom)
            first = low + GAP + 0.75 * LETTER_SIZE
        for x, letters in columns:
            for letter in letters:
                row = 0 if letter == "R" or rows == 1 else 1
                y = first + row * step
                self._put(Text(letter, x, y, LETTER_SIZE, "bold", "middle", kind="hand"))

    def _count(self) -> None:
        """The count below, at one height, as large as the narrowest place lets it be."""
        words = [
            (x, spoken(place, measure.meter, self.options.words), _on_beat(place, measure.meter))
            for measure, place, notes in self._columns()
            if (x := _middle(head for _, head in notes))
        ]
        words = [item for item in words if item[1]]
        if not words:
            return
        size = COUNT_SIZE
        for (x, one, _), (other_x, other, _) in pairwise(words):
            room = other_x - x
            need = (width_of(one, 1.0) + width_of(other, 1.0)) / 2 + 0.12
            size = min(size, max(SMALLEST_COUNT, room / need))
        low = self.sky.bottom(0, self.drawing.width, default=self.drawing.staff_bottom)
        y = low + GAP + 0.8 * size
        edge = -1e9
        # Where even the smallest letters would touch, the beats are said and what is between not.
        for x, word, on_beat in sorted(words, key=lambda item: item[0]):
            half = width_of(word, size) / 2
            if x - half < edge + 0.05 * size and not on_beat:
                continue
            style = "bold" if on_beat else "regular"
            self._put(Text(word, x, y, size, style, "middle", kind="count"))
            edge = x + half

    def _times_to_play(self) -> None:
        for measure, span in zip(self.measures, self.spans, strict=True):
            if measure.times > 2 and not measure.ending:
                words = f"play {measure.times} times"
                width = width_of(words, CUE_SIZE, "italic")
                y = self._above(span.right - width, span.right, CUE_SIZE)
                self._put(Text(words, span.right, y, CUE_SIZE, "italic", "end", kind="times"))

    def _endings(self) -> None:
        """Brackets over endings, all of a system at one height."""
        runs: list[tuple[Measure, float, float, bool]] = []
        for measure, span in zip(self.measures, self.spans, strict=True):
            if measure.ending and (measure.ending_opens or not runs):
                runs.append((measure, span.left, span.right, measure.ending_closes))
            elif measure.ending:
                first, left, _, _ = runs[-1]
                runs[-1] = (first, left, span.right, measure.ending_closes)
        if not runs:
            return
        size = NUMBER_SIZE + 30
        top = min(self._above(left, right, size) for _, left, right, _ in runs) - size
        for measure, left, right, closes in runs:
            x, end = left + 40, right - 40
            tail = f"V{top + size:.0f}" if closes else ""
            start = f"M{x:.0f} {top + size:.0f}V{top:.0f}" if measure.ending_opens else (
                f"M{x:.0f} {top:.0f}"
            )  # fmt: skip
            self.parts.append(
                '<path class="t-bracket" fill="none" stroke-width="18"'
                f' d="{start}H{end:.0f}{tail}"/>'
            )
            box = Box(x, top - 9, end, top + 9, "ending")
            self.sky.add(Box(x, top - 9, end, top + size, "ending"))
            self.boxes.append(box)
            words = _passes(measure.ending)
            text = Text(words, x + 90, top + 0.95 * size, size, "regular", kind="ending")
            self.parts.append(text.svg())
            self.boxes.append(text.box)

    def _numbers(self) -> None:
        edge = -1e9
        for order, (measure, span) in enumerate(zip(self.measures, self.spans, strict=True)):
            words = str(measure.number)
            if measure.kind is not Kind.WRITTEN and measure.span > 1:
                words += f"–{measure.number + measure.span - 1}"
            time = self.starts.get(measure.number)
            if order == 0 and self.options.times and not measure.heading and time is not None:
                words += f" · {clock(time)}"
            left = span.left + (0 if order else 20)
            right = left + width_of(words, NUMBER_SIZE)
            if left < edge + GAP or right > max(span.right, left + 900):
                continue
            y = self._above(left, right, NUMBER_SIZE)
            self._put(Text(words, left, y, NUMBER_SIZE, ink=QUIET, kind="number"))
            edge = right

    def _cues(self) -> None:
        for measure, span in zip(self.measures, self.spans, strict=True):
            left = span.left + 60
            for cue in measure.cues:
                words = fitted(printable(cue), CUE_SIZE, max(900.0, self.room - left), "italic")
                right = left + width_of(words, CUE_SIZE, "italic")
                y = self._above(left, right, CUE_SIZE)
                self._put(Text(words, left, y, CUE_SIZE, "italic", kind="cue"))

    def _heading(self, heading: Heading, span: Span) -> None:
        label = fitted(printable(heading.label) or "–", LABEL_SIZE, 6000.0, "bold")
        wide = width_of(label, LABEL_SIZE, "bold") + 2 * PAD
        bars = "1 bar" if heading.bars == 1 else f"{heading.bars} bars"
        beside = [clock(heading.start)] if self.options.times else []
        beside.append(bars)
        words = "  ".join(beside)
        left = max(0.0, span.left)
        room = self.room - left
        hints = [fitted(printable(hint), WORDS_SIZE, room, "italic") for hint in heading.words]
        after = left + wide + 2 * GAP + width_of(words, WORDS_SIZE) + 4 * GAP
        told = "; ".join(hints)
        fits = after + width_of(told, WORDS_SIZE, "italic") < self.room
        if hints and not fits:
            for hint in reversed(hints):
                width = width_of(hint, WORDS_SIZE, "italic")
                y = self._above(left, left + width, WORDS_SIZE)
                self._put(Text(hint, left, y, WORDS_SIZE, "italic", kind="hint"))
        right = after + (width_of(told, WORDS_SIZE, "italic") if fits else 0.0)
        y = self._above(left, right, LABEL_SIZE, GAP + PAD)
        box = Box(left, y - 0.72 * LABEL_SIZE - PAD, left + wide, y + 0.2 * LABEL_SIZE + PAD,
                  "label")  # fmt: skip
        self.parts.append(
            f'<rect class="t-box" x="{box.left:.0f}" y="{box.top:.0f}" width="{wide:.0f}"'
            f' height="{box.bottom - box.top:.0f}" rx="40" fill="none" stroke-width="20"/>'
        )
        self.sky.add(box)
        self.boxes.append(box)
        self.parts.append(Text(label, left + PAD, y, LABEL_SIZE, "bold", kind="label").svg())
        self._put(Text(words, left + wide + 2 * GAP, y, WORDS_SIZE, ink=QUIET, kind="time"))
        if hints and fits:
            self._put(Text(told, after, y, WORDS_SIZE, "italic", kind="hint"))

    def _tempo(self) -> None:
        """The beat's note, the tempo, the feel: over all else."""
        if self.score.tempo_bpm <= 0:
            return
        dotted = self.score.meter.is_compound
        words = f"= {round(self.score.tempo_bpm)}"
        if self.score.feel_words:
            words += f"   {self.score.feel_words}"
        size = LABEL_SIZE
        y = self._above(0, 1200 + width_of(words, size), size)
        scale = 0.42
        code = _beat_glyph(self.score.meter)
        box = glyph_box(code, 20, y, scale=scale, what="tempo")
        self.parts.append(
            f'<path class="t-tempo" transform="translate(20,{y:.0f}) scale({scale},-{scale})"'
            f' d="{glyph_path(code)}"/>'
        )
        left = box.right + 0.5 * GAP
        if dotted:
            self.parts.append(
                f'<circle class="t-tempo" cx="{left + 30:.0f}" cy="{y - 30:.0f}" r="26"/>'
            )
            left += 90
        self.sky.add(box)
        self.boxes.append(box)
        self._put(Text(words, left + GAP, y, size, "bold", kind="tempo"))


def _beat_glyph(meter: Meter) -> str:
    """The metronome note of a felt beat, by its SMuFL code: half, quarter or eighth."""
    unit = 4 if meter.is_compound else meter.unit
    return {1: "E1D2", 2: "E1D3", 4: "E1D5", 8: "E1D7", 16: "E1D9"}[unit]


def _middle(heads: Iterable[Head]) -> float | None:
    """The middle of the heads at one place."""
    boxes = [head.box for head in heads]
    if not boxes:
        return None
    return (min(box.left for box in boxes) + min(box.right for box in boxes)) / 2


def _on_beat(place: Fraction, meter: Meter) -> bool:
    return (place * meter.pulses).denominator == 1


def _passes(numbers: Sequence[int]) -> str:
    """1. or 1.–3. or 1. 3."""
    if len(numbers) > 2 and numbers[-1] - numbers[0] == len(numbers) - 1:
        return f"{numbers[0]}.–{numbers[-1]}."
    return " ".join(f"{number}." for number in numbers)

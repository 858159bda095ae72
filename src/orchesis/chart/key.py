"""The key: just the signs that a chart uses, each with its word under it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from fractions import Fraction
from functools import lru_cache

from orchesis.chart.dress import QUIET, Dressed
from orchesis.chart.engrave import Drawing, engrave_system
from orchesis.chart.ink import Box, Skyline
from orchesis.chart.lettering import Text, width_of
from orchesis.chart.limb_lines import limb_system
from orchesis.chart.mei import note_id
from orchesis.chart.notation import HALF_OPEN, closing_strokes
from orchesis.chart.options import ChartOptions, Notation, Voices
from orchesis.chart.score import Measure, Score
from orchesis.music.instruments import SPOKEN_NAMES, Instrument, Limb, Ornament, Status
from orchesis.music.values import Feel, Hit, Meter

WORD_SIZE = 235.0
CELL = 1450.0
"""Room for a sign and its word."""

CLOSED_AGAIN = "closed again"

Sign = tuple[Hit, str]


def signs_of(score: Score) -> tuple[Sign, ...]:
    """The signs that occur, in the order of the kit, each as a stroke that shows it."""
    hits = [hit for measure in score.measures for hit in measure.hits]
    signs: list[tuple[Hit, str]] = []
    for instrument in Instrument:
        mine = [hit for hit in hits if hit.instrument is instrument]
        if mine:
            limb = mine[0].limb
            plain = Hit(0.0, instrument, 80, 1, Fraction(0), limb=limb)
            signs.append((plain, SPOKEN_NAMES[instrument]))
    signs += _marked(hits)
    return tuple(signs)


def _marked(hits: Iterable[Hit]) -> list[Sign]:
    found: dict[str, Hit] = {}
    for hit in hits:
        if hit.ghost:
            found.setdefault("ghost note", hit)
        if hit.accent:
            found.setdefault("accent", hit)
        if hit.status is Status.DOUBTFUL:
            found.setdefault("doubtful", hit)
        if hit.ornament is not None:
            found.setdefault(hit.ornament.value, hit)
        if hit.is_half_open:
            found.setdefault(HALF_OPEN, hit)
    order = (
        HALF_OPEN,
        "accent",
        "ghost note",
        "doubtful",
        *(ornament.value for ornament in Ornament),
    )
    return [(_bare(found[name], name), name) for name in order if name in found]


def _bare(hit: Hit, name: str) -> Hit:
    return Hit(
        0.0,
        hit.instrument,
        hit.velocity,
        1,
        Fraction(0),
        ghost=name == "ghost note",
        accent=name == "accent",
        status=Status.DOUBTFUL if name == "doubtful" else Status.HEARD,
        limb=hit.limb,
        ornament=hit.ornament if name in set(Ornament) else None,
        opening=hit.opening if name == HALF_OPEN else None,
    )


def key_block(score: Score, width: float) -> Dressed | None:
    """The key as a line of its own, or of several where it is long; None where nothing is used."""
    signs = list(signs_of(score))
    if not signs:
        return None
    if (
        any(closing_strokes(measure.hits) for measure in score.measures)
        and score.options.closing_sign
        and score.options.notation is Notation.STAFF
    ):
        signs.append((_closed(), CLOSED_AGAIN))
    a_line = max(2, int(width // CELL))
    parts: list[str] = []
    boxes: list[Box] = []
    glyphs: dict[str, str] = {}
    first: Drawing | None = None
    low = 0.0
    for start in range(0, len(signs), a_line):
        row = _row(score, signs[start : start + a_line])
        svg, mine, drawing = row
        top = min(box.top for box in mine)
        shift = low - top + (250 if start else 0)
        parts.append(f'<g transform="translate(0,{shift:.0f})">{svg}</g>')
        boxes += [box.moved(0, shift) for box in mine]
        low = max(box.bottom for box in boxes)
        glyphs |= drawing.glyphs
        first = first or drawing
    assert first is not None
    whole = Drawing("", width, (), (), (), 0.0, low, glyphs)
    return Dressed(
        svg=f'<g class="key">{"".join(parts)}</g>',
        drawing=whole,
        boxes=tuple(boxes),
        top=min(box.top for box in boxes),
        bottom=low,
    )


def _closed() -> Hit:
    return Hit(0.0, Instrument.HIHAT_CLOSED, 80, 1, Fraction(0), limb=Limb.RIGHT_HAND)


def _row(score: Score, signs: list[Sign]) -> tuple[str, list[Box], Drawing]:
    """Signs side by side on one staff, and the words below."""
    # What is closed again is open half a sign before: as the first of a row it needs that place.
    leading = 1 if signs[0][1] == CLOSED_AGAIN else 0
    count = leading + len(signs)
    meter = Meter(min(32, max(1, count)), 4)
    hits = []
    for order, (sign, word) in enumerate(signs, leading):
        at = Fraction(order, meter.beats)
        if word == CLOSED_AGAIN:
            before = at - Fraction(1, 2 * meter.beats)
            hits.append(_at(Hit(0.0, Instrument.HIHAT_OPEN, 80, 1, at, limb=sign.limb), before))
        hits.append(_at(sign, at))
    measure = Measure(1, meter, tuple(hits), plays=(1,))
    # On one stem, so that the other voice has no rests between the signs.
    options = replace(score.options, voices=Voices.ONE)
    width = CELL * count
    if options.notation is Notation.LIMBS:
        drawing = limb_system([measure], score, width=width, is_key=True)
    else:
        drawing = _on_staff(measure, score.feel, options, width)
    sky = Skyline(list(drawing.boxes))
    low = sky.bottom(0, width, default=drawing.staff_bottom)
    parts, boxes = [drawing.svg], list(drawing.boxes)
    heads = {head.name: head for head in drawing.heads}
    edge = 0.0
    for (_, word), hit in zip(signs, [h for h in hits if _is_named(h, meter)], strict=True):
        head = heads.get(note_id(hit))
        if head is None:
            continue
        half = width_of(word, WORD_SIZE) / 2
        x = max((head.box.left + head.box.right) / 2, edge + half + 60)
        text = Text(word, x, low + 90 + WORD_SIZE * 0.8, WORD_SIZE, "regular", "middle", QUIET,
                    "keyword")  # fmt: skip
        edge = x + half
        parts.append(text.svg())
        boxes.append(text.box)
    return "".join(parts), boxes, drawing


@lru_cache(maxsize=64)
def _on_staff(measure: Measure, feel: Feel, options: ChartOptions, width: float) -> Drawing:
    """The signs of a row: the same for all songs that use them."""
    return engrave_system([measure], feel, options, width=width, before=measure.meter)


def _is_named(hit: Hit, meter: Meter) -> bool:
    return (hit.position * meter.beats).denominator == 1


def _at(hit: Hit, position: Fraction) -> Hit:
    return replace(hit, position=position)

"""What lies on what on engraved pages: for the tests, and for the benchmark's full matrix."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Any

from orchesis.chart.ink import Box
from orchesis.chart.options import Beside, Notation, PageSize, Reading, Swing, Voices
from orchesis.chart.pages import Engraving


def boxes_apart(engraving: Engraving) -> list[tuple[int, Box, Any]]:
    """Pairs of words and signs of a page that lie on each other, by what they are."""
    # Heads, stems, beams and flags belong together; words may touch none of them, marks no beam.
    words = ("label", "time", "hint", "cue", "number", "times", "ending", "tempo", "count", "hand",
             "title", "credits", "foot", "keyword", "text", "drum", "limb", "silence")  # fmt: skip
    found: list[tuple[int, Box, Any]] = []
    for number, sheet in enumerate(engraving.pages, 1):
        for one, other in overlapping(sheet.boxes, 12):
            kinds = {one.what, other.what}
            is_word = one.what in words or other.what in words
            is_mark = kinds & {"artic", "tupletNum"} and kinds & {"beam", "artic", "tupletBracket"}
            if (is_word and kinds != {"label"}) or (is_mark and len(kinds) > 1):
                found.append((number, one, other))
        inside = [
            b for b in sheet.boxes if b.left < 0 or b.right > sheet.width or b.bottom > sheet.height
        ]
        found += [(number, box, "outside the page") for box in inside]
    return found


def overlapping(boxes: Iterable[Box], tolerance: float) -> Iterator[tuple[Box, Box]]:
    """Pairs of boxes that lie on each other; from left to right, so that few are compared."""
    in_order = sorted(boxes, key=lambda box: box.left)
    for index, one in enumerate(in_order):
        for other in in_order[index + 1 :]:
            if other.left >= one.right:
                break
            if one.overlaps(other, tolerance):
                yield one, other


def heads_apart(engraving: Engraving) -> list[tuple[Box, Box]]:
    """Heads of one line that lie on each other and are not of one chord."""
    found: list[tuple[Box, Box]] = []
    for sheet in engraving.pages:
        for placed in sheet.placed:
            heads = placed.block.dressed.drawing.heads
            chord = {head.box: head.name.split("-")[:2] for head in heads}
            found += [
                (one, other)
                for one, other in overlapping([head.box for head in heads], 25)
                if chord[one] != chord[other]
            ]
    return found


LOOKS: Sequence[dict[str, Any]] = [
    {},
    {"sticking": Beside.BELOW, "count": True},
    {"sticking": Beside.ABOVE, "reading": Reading.ESSENCE},
    {"reading": Reading.ROAD_MAP},
    {"reading": Reading.PARTS, "count": True},
    {"notation": Notation.LIMBS},
    {"size": PageSize.PHONE, "count": True},
    {"voices": Voices.FOOT_APART, "swing": Swing.TRIPLETS, "size": PageSize.LETTER},
]

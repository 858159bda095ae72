"""A few bars as one line of music without a page about it, such as a fill with its hands below."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from fractions import Fraction

from orchesis.chart.dress import dress
from orchesis.chart.layout import CLEF, METER, room_of
from orchesis.chart.lettering import FAMILY
from orchesis.chart.levels import at_level
from orchesis.chart.options import ChartOptions
from orchesis.chart.pages import draw_measures, glyph_definitions
from orchesis.chart.readings import make_score
from orchesis.chart.score import Measure
from orchesis.music.instruments import FEET, Limb
from orchesis.music.values import Transcription

EDGE = 150.0
"""White around it, in hundredths of a millimetre."""

LETTER_LIMBS = {"R": Limb.RIGHT_HAND, "L": Limb.LEFT_HAND}


def excerpt_svg(
    song: Transcription,
    options: ChartOptions,
    hands: Mapping[tuple[int, Fraction], str] | None = None,
) -> str:
    """The bars `options.first_bar` to `options.last_bar`, every one written out, as SVG.

    hands : by bar and place R or L, where others than the song's own are to be written.

    Raises InvalidTranscription where the engraver cannot read them.
    """
    if hands is not None:
        song = song.with_hits(
            replace(hit, limb=LETTER_LIMBS.get(hands.get((hit.bar, hit.position), "")))
            if hit.instrument not in FEET
            else hit
            for hit in song.hits
        )
    measures = [
        Measure(
            bar.number,
            bar.meter,
            at_level(song.hits_of(bar.number), bar.meter, options),
            plays=(bar.number,),
            divisions=bar.divisions,
        )
        for bar in song.bars
        if options.first_bar <= bar.number <= options.last_bar
    ]
    score = replace(make_score(song, options), measures=tuple(measures))
    width = CLEF + METER + 1.25 * sum(room_of(measure, options) for measure in measures)
    drawing = draw_measures(measures, score, width=width, before=None)
    dressed = dress(drawing, measures, score, {}, is_first=False)
    wide, high = width + 2 * EDGE, dressed.height + 2 * EDGE
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
        f' viewBox="{-EDGE:.0f} {dressed.top - EDGE:.0f} {wide:.0f} {high:.0f}"'
        f' width="{wide / 100:.1f}mm" height="{high / 100:.1f}mm" font-family="{FAMILY}">'
        f"{glyph_definitions(drawing.glyphs)}"
        '<g fill="currentColor" stroke="currentColor" stroke-width="0">'
        f"{dressed.svg}</g></svg>"
    )

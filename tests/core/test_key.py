"""The key below a chart's title: each sign that is used, once, however many there are in a row."""

import html
import re
from collections import Counter

import pytest

from orchesis.chart.key import CELL, CLOSED_AGAIN, key_block, signs_of
from orchesis.chart.options import ChartOptions, Notation
from orchesis.chart.reading_pages import chart_pages
from orchesis.chart.readings import make_score
from orchesis.music.instruments import Instrument
from tests.composing import song

I = Instrument  # noqa: E741
BUSY = {
    I.HIHAT_CLOSED: "..x...x.",
    I.HIHAT_OPEN: "x...x...",
    I.SNARE: "..X..g..",
    I.KICK: "x...x...",
    I.TOM_HIGH: ".x......",
    I.TOM_MID: "...x....",
    I.TOM_FLOOR: ".....x..",
    I.CRASH: "X.......",
}


def words_of(svg):
    found = re.findall(r'<text[^>]*class="[^"]*keyword[^"]*"[^>]*>([^<]*)</text>', svg)
    return Counter(html.unescape(text) for text in found)


@pytest.mark.parametrize("notation", Notation)
@pytest.mark.parametrize("a_line", range(2, 13))
def test_each_sign_has_its_word_wherever_the_rows_end(a_line, notation):
    """Also where a hat that is closed again, shown with the open one before it, begins a row."""
    score = make_score(song([BUSY] * 4), ChartOptions(notation=notation))
    block = key_block(score, a_line * CELL)
    wanted = {word for _, word in signs_of(score)}
    if notation is Notation.STAFF:
        wanted.add(CLOSED_AGAIN)
    assert words_of(block.svg) == Counter(wanted)


@pytest.mark.parametrize("more", range(5))
def test_a_chart_is_engraved_however_many_signs_it_uses(more):
    others = [I.RIDE, I.RIDE_BELL, I.COWBELL, I.SPLASH]
    rows = {**BUSY, **dict.fromkeys(others[:more], ".......x")}
    first = chart_pages(song([rows] * 4), ChartOptions()).pages[0]
    keys = [words_of(placed.block.dressed.svg) for placed in first.placed]
    assert sum(keys, Counter())[CLOSED_AGAIN] == 1

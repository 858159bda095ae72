"""Limb lines: who plays what, where in the bar, how loud, for those who do not read the staff."""

import html
import re
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

import pytest

from orchesis.chart.limb_lines import limb_system, line_of
from orchesis.chart.mei import note_id
from orchesis.chart.options import ChartOptions, Notation
from orchesis.chart.readings import make_score
from orchesis.limbs.assign import assign_limbs
from orchesis.music.instruments import Instrument, Limb, Ornament, Status
from orchesis.music.values import Hit
from tests.composing import ROCK, song

I = Instrument  # noqa: E741
LIMBS = {
    I.KICK: Limb.RIGHT_FOOT,
    I.SNARE: Limb.LEFT_HAND,
    I.HIHAT_CLOSED: Limb.RIGHT_HAND,
    I.HIHAT_OPEN: Limb.RIGHT_HAND,
    I.RIDE: Limb.RIGHT_HAND,
    I.HIHAT_FOOT: Limb.LEFT_FOOT,
}
OPTIONS = ChartOptions(notation=Notation.LIMBS)
WIDTH = 18_000.0


def drawn(piece, limbs=None, **options):
    """The song as one line of limb lines, and its hits by what they are called there."""
    known = LIMBS | (limbs or {})
    piece = piece.with_hits(replace(hit, limb=known.get(hit.instrument)) for hit in piece.hits)
    score = make_score(piece, replace(OPTIONS, **options))
    return limb_system(score.measures, score, width=WIDTH), score


def middle(box):
    return ((box.left + box.right) / 2, (box.top + box.bottom) / 2)


def heights(drawing, score):
    """The height of each voice's strokes on the page."""
    heads = {head.name: middle(head.box)[1] for head in drawing.heads}
    found = {}
    for measure in score.measures:
        for hit in measure.hits:
            found.setdefault(hit.instrument, set()).add(round(heads[note_id(hit)]))
    return found


def words(drawing, kind):
    """Words of a kind on the drawing, from the left."""
    return [box for box in drawing.boxes if box.what == kind]


def texts(drawing):
    return [html.unescape(text) for text in re.findall(r"<text[^>]*>([^<]*)</text>", drawing.svg)]


def test_hands_are_above_the_count_and_feet_below_it_right_over_left():
    drawing, score = drawn(song([{**ROCK, I.HIHAT_FOOT: "....x.......x..."}]))
    at = heights(drawing, score)
    order = [at[drum] for drum in (I.HIHAT_CLOSED, I.SNARE, I.KICK, I.HIHAT_FOOT)]
    assert [len(lines) for lines in order] == [1, 1, 1, 1]
    assert order == sorted(order, key=min)
    count = middle(words(drawing, "count")[0])[1]
    assert min(at[I.SNARE]) < count < min(at[I.KICK])


def test_a_line_that_nobody_plays_is_left_out():
    with_foot, _ = drawn(song([{**ROCK, I.HIHAT_FOOT: "....x.......x..."}]))
    without, _ = drawn(song([ROCK]))
    assert len(words(with_foot, "limb")) == len(words(without, "limb")) + 1


def test_a_place_in_the_bar_is_a_place_on_the_line():
    drawing, _ = drawn(song([ROCK]))
    at = sorted({(head.at, round(middle(head.box)[0])) for head in drawing.heads})
    steps = [(b[1] - a[1]) / (b[0] - a[0]) for a, b in pairwise(at)]
    assert max(steps) == pytest.approx(min(steps), rel=0.01)


def test_bars_of_one_metre_are_equally_wide():
    busy = {I.HIHAT_CLOSED: "x" * 16, I.SNARE: "....X.......X...", I.KICK: "x.x.x.x.x.x.x.x."}
    drawing, _ = drawn(song([ROCK, busy, ROCK]))
    wide = [span.right - span.left for span in drawing.spans]
    assert max(wide) == pytest.approx(min(wide), rel=0.001)


def test_size_says_how_loud():
    drawing, _ = drawn(song([{I.SNARE: "g...X...x......."}]))
    size = {head.at: head.box.right - head.box.left for head in drawing.heads}
    assert size[0.0] < size[0.5] < size[0.25]


def test_a_drum_is_named_where_a_limb_goes_to_it_and_not_again():
    other = {**ROCK, I.KICK: "x.....x.x......."}
    ridden = {I.RIDE: "x.x.x.x.x.x.x.x.", I.SNARE: "....X.......X...", I.KICK: "x.......x......."}
    drawing, _ = drawn(song([ROCK, other, ridden]))
    named = [text for text in texts(drawing) if text in ("hat", "ride", "snare", "kick")]
    assert sorted(named) == ["hat", "kick", "ride", "snare"]


def test_an_open_hat_is_no_other_drum_but_wears_a_ring():
    opened = {I.HIHAT_CLOSED: "x.x.x.x.x.x.x...", I.HIHAT_OPEN: "..............x."}
    drawing, _ = drawn(song([opened]))
    assert texts(drawing).count("hat") == 1
    closed, _ = drawn(song([{I.HIHAT_CLOSED: "x.x.x.x.x.x.x.x."}]))
    assert drawing.svg.count("<circle") == closed.svg.count("<circle") + 1


def test_the_count_is_no_finer_than_what_is_played_in_each_beat():
    eighths, _ = drawn(song([ROCK]))
    assert [t for t in texts(eighths) if t in "1234&ea"] == list("1&2&3&4&")
    sixteenth, _ = drawn(song([{**ROCK, I.KICK: "x.....xx........"}]))
    assert [t for t in texts(sixteenth) if t in "1234&ea"] == list("1&2e&a3&4&")


def test_words_and_strokes_do_not_lie_on_each_other():
    busy = {
        I.HIHAT_CLOSED: "x.xxx.xxx.x.x...", I.RIDE: "............x.xx",
        I.SNARE: "g.g.X..g.g..X..g", I.KICK: "x..x..x.x.x....x",
    }  # fmt: skip
    drawing, _ = drawn(song([busy, ROCK]))
    for kind in ("count", "drum"):
        boxes = sorted(words(drawing, kind), key=lambda box: (box.top, box.left))
        for one, other in pairwise(boxes):
            assert one.top != other.top or one.right <= other.left + 1
    heads = [head.box for head in drawing.heads]
    for box in words(drawing, "drum"):
        assert not any(box.overlaps(head) for head in heads)


def test_left_limbs_are_hollow():
    drawing, _ = drawn(song([ROCK]))
    notes = re.findall(r'<g id="[^"]*" class="note ([a-z_]+)[^"]*"[^>]*>(.*?)</g>', drawing.svg)
    hollow = {name for name, shape in notes if 'class="hollow"' in shape}
    assert hollow == {"snare"}


@pytest.mark.parametrize(
    ("ornament", "circles"), [(Ornament.FLAM, 1), (Ornament.DRAG, 2), (None, 0)]
)
def test_grace_notes_are_small_circles_before_the_stroke(ornament, circles):
    piece = song([{I.SNARE: "....x..........."}])
    piece = piece.with_hits(replace(hit, ornament=ornament) for hit in piece.hits)
    plain, _ = drawn(song([{I.SNARE: "....x..........."}]))
    drawing, _ = drawn(piece)
    assert drawing.svg.count("<circle") == plain.svg.count("<circle") + circles


def test_what_is_in_doubt_stands_in_brackets():
    piece = song([{I.SNARE: "....x..........."}])
    doubtful = piece.with_hits(replace(hit, status=Status.DOUBTFUL) for hit in piece.hits)
    drawing, _ = drawn(doubtful)
    assert {"[", "]"} <= set(texts(drawing))
    assert "doubtful" in drawing.svg


def test_a_tambourine_is_nobodys_hand():
    beside = Hit(0.5, I.TAMBOURINE, 80, 1, Fraction(0))
    assert line_of(beside) == "beside"
    drawing, score = drawn(song([{**ROCK, I.TAMBOURINE: "....x.......x..."}]))
    at = heights(drawing, score)
    assert min(at[I.TAMBOURINE]) < min(at[I.HIHAT_CLOSED])
    assert "+" in texts(drawing)


@pytest.mark.parametrize(
    ("drum", "line"),
    [
        (I.KICK, Limb.RIGHT_FOOT),
        (I.HIHAT_FOOT, Limb.LEFT_FOOT),
        (I.CRASH, Limb.RIGHT_HAND),
    ],
)
def test_a_stroke_without_a_limb_stands_where_it_is_usually_played(drum, line):
    assert line_of(Hit(0.5, drum, 80, 1, Fraction(0))) == line


def test_every_stroke_is_drawn_once_whatever_is_played():
    down_the_toms = {
        I.SNARE: "x.x.x.x.........",
        I.TOM_HIGH: ".x.x....x.x.....",
        I.TOM_FLOOR: "............xxxx",
        I.KICK: "x...x...x...x...",
        I.HIHAT_FOOT: "x...x...x...x...",
    }
    piece = song([down_the_toms, ROCK])
    limbed = assign_limbs(list(piece.hits), 4)
    score = make_score(piece.with_hits(limbed), OPTIONS)
    drawing = limb_system(score.measures, score, width=WIDTH)
    names = [head.name for head in drawing.heads]
    assert len(names) == len(set(names)) == len(piece.hits)

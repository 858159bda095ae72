"""Lines and pages: the cheapest breaks, sections that begin a line, pages that can be turned."""

from dataclasses import replace
from fractions import Fraction
from itertools import combinations, pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.chart.layout import (
    LIMB_COLUMN,
    LIMB_EDGES,
    LOOSE,
    MOST_MEASURES,
    MOST_WRITTEN,
    NARROWEST,
    REPEAT_BAR,
    limb_room,
    plan_lines,
    plan_pages,
    room_of,
    shortest_breaks,
)
from orchesis.chart.options import ChartOptions, Notation
from orchesis.chart.score import Heading, Kind, Measure
from orchesis.music.instruments import Instrument, Limb, Ornament
from orchesis.music.values import Hit, Meter

FOUR = Meter(4, 4)
PLAIN = ChartOptions()
WIDTH = 18_000.0


def stroke(place, **values):
    return Hit(
        time=0.0,
        instrument=Instrument.SNARE,
        velocity=90,
        bar=1,
        position=Fraction(place),
        limb=Limb.LEFT_HAND,
        **values,
    )


def measure(number, strokes=4, **values):
    hits = tuple(stroke(Fraction(k, strokes)) for k in range(strokes))
    return Measure(number, values.pop("meter", FOUR), hits, **values)


def every_way(count):
    """All ways to cut so many things into stretches."""
    for cuts in range(count):
        for inside in combinations(range(1, count), cuts):
            yield list(pairwise((0, *inside, count)))


@given(st.integers(1, 7), st.randoms(use_true_random=False))
def test_no_other_way_of_cutting_is_cheaper(count, random):
    prices = {
        (start, end): None if end - start > 1 and random.random() < 0.2 else random.random()
        for start in range(count)
        for end in range(start + 1, count + 1)
    }

    def price(way):
        costs = [prices[cut] for cut in way]
        return None if None in costs else sum(costs)

    found = shortest_breaks(count, lambda start, end: prices[start, end])
    best = min(cost for way in every_way(count) if (cost := price(way)) is not None)
    assert price(found) == pytest.approx(best)


def test_nothing_is_cut_into_nothing():
    assert shortest_breaks(0, lambda start, end: 1.0) == []
    assert plan_lines([], PLAIN, width=WIDTH) == ()


@pytest.mark.parametrize("count", [1, 4, 7, 16, 33])
def test_every_bar_stands_on_one_line_in_order(count):
    lines = plan_lines([measure(k + 1) for k in range(count)], PLAIN, width=WIDTH)
    assert [m.number for line in lines for m in line.measures] == list(range(1, count + 1))
    for line in lines:
        assert 1 <= len(line.measures) <= MOST_WRITTEN
        assert line.width <= WIDTH


def test_sixteen_bars_stand_in_fours():
    lines = plan_lines([measure(k + 1) for k in range(16)], PLAIN, width=WIDTH)
    assert [len(line.measures) for line in lines] == [4, 4, 4, 4]


def test_dense_bars_get_room():
    light, dense = (
        plan_lines([measure(k + 1, strokes) for k in range(8)], PLAIN, width=WIDTH)
        for strokes in (2, 16)
    )
    assert len(dense) > len(light)
    for line in dense:
        assert sum(room_of(m, PLAIN) for m in line.measures) <= WIDTH


def test_a_bar_that_is_wider_than_the_page_stands_alone():
    lines = plan_lines([measure(1, 4), measure(2, 96), measure(3, 4)], PLAIN, width=9000.0)
    (alone,) = [line for line in lines if any(m.number == 2 for m in line.measures)]
    assert [m.number for m in alone.measures] == [2]


def test_a_section_begins_a_line():
    verse = Heading("Verse", 0.0, 6)
    chorus = Heading("Chorus", 12.0, 4)
    bars = [
        measure(k + 1, heading={0: verse, 6: chorus}.get(k))  # six bars, then four
        for k in range(10)
    ]
    lines = plan_lines(bars, PLAIN, width=WIDTH)
    assert [line.measures[0].number for line in lines if line.measures[0].heading] == [1, 7]
    assert all(m.heading is None for line in lines for m in line.measures[1:])


def test_a_last_line_with_little_on_it_is_not_stretched():
    five = plan_lines([measure(k + 1, 2) for k in range(5)], PLAIN, width=WIDTH)
    assert five[0].width == WIDTH
    assert five[-1].width < LOOSE * WIDTH * 1.12


def test_a_line_knows_the_metre_before_it():
    three = Meter(3, 4)
    bars = [measure(k + 1, meter=FOUR if k < 4 else three) for k in range(8)]
    lines = plan_lines(bars, PLAIN, width=WIDTH)
    assert lines[0].before is None
    assert lines[1].before == lines[0].measures[-1].meter


def test_signs_that_stand_for_bars_fill_a_line_of_eight_at_most():
    bars = [measure(1), *(Measure(k + 2, FOUR, kind=Kind.REPEAT) for k in range(15))]
    lines = plan_lines(bars, PLAIN, width=WIDTH)
    assert max(len(line.measures) for line in lines) <= MOST_MEASURES


def test_what_wants_room():
    plain = room_of(measure(1, 16), PLAIN)
    assert room_of(measure(1, 16), ChartOptions(count=True)) > plain, "a count below"
    assert room_of(measure(1, 16, opens_repeat=True), PLAIN) == plain + REPEAT_BAR
    assert room_of(measure(1, 1), PLAIN) == NARROWEST
    soft = Measure(1, FOUR, tuple(stroke(Fraction(k, 16), ghost=True) for k in range(16)))
    assert room_of(soft, PLAIN) > plain, "brackets about ghosts"
    graced = tuple(stroke(Fraction(k, 16), ornament=Ornament.FLAM) for k in range(16))
    assert room_of(Measure(1, FOUR, graced), PLAIN) > plain, "grace notes"
    assert room_of(Measure(1, FOUR, kind=Kind.REST, span=8), PLAIN) < plain


def test_a_bar_of_limb_lines_is_as_wide_as_the_nearest_strokes_of_one_limb_ask():
    eighths, sixteenths = measure(1, 8), measure(1, 16)
    assert limb_room(eighths) == LIMB_EDGES + 8 * LIMB_COLUMN
    assert limb_room(sixteenths) == LIMB_EDGES + 16 * LIMB_COLUMN
    # Two limbs in turn, an eighth apart each, are on two lines: no nearer than eighths.
    turns = tuple(
        replace(hit, limb=Limb.LEFT_HAND if k % 2 else Limb.RIGHT_HAND)
        for k, hit in enumerate(sixteenths.hits)
    )
    assert limb_room(Measure(1, FOUR, turns)) == limb_room(eighths)
    limbs = ChartOptions(notation=Notation.LIMBS)
    assert room_of(sixteenths, limbs) == limb_room(sixteenths)


def test_a_page_is_turned_where_one_can():
    """Ten blocks, of which six go on a page; after the fifth a section ends."""
    turns = ["else"] * 10
    turns[4] = "section"
    pages = plan_pages([100.0] * 10, turns, first_room=650.0, room=650.0, gap=10.0)
    assert pages == [(0, 5), (5, 10)]


def test_the_first_page_has_less_room():
    pages = plan_pages([100.0] * 6, ["else"] * 6, first_room=220.0, room=440.0, gap=10.0)
    assert pages == [(0, 2), (2, 6)]


def test_what_is_higher_than_a_page_has_one_to_itself():
    pages = plan_pages([100.0, 900.0, 100.0], ["else"] * 3, first_room=400.0, room=400.0, gap=0.0)
    assert pages == [(0, 1), (1, 2), (2, 3)]


@given(st.lists(st.floats(20, 380), min_size=1, max_size=14), st.floats(0, 30))
def test_no_page_holds_more_than_it_can_and_no_block_is_lost(heights, gap):
    pages = plan_pages(heights, ["else"] * len(heights), first_room=400.0, room=500.0, gap=gap)
    assert [k for start, end in pages for k in range(start, end)] == list(range(len(heights)))
    for number, (start, end) in enumerate(pages):
        high = sum(heights[start:end]) + gap * (end - start - 1)
        assert high <= (500.0 if number else 400.0) + 1e-6 or end - start == 1

"""The form: sections, sameness, names, phrases, fills, and what sections have apart."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.fills.find import find_fills
from orchesis.form.compare import compare_sections, form_notes, phrase_lengths
from orchesis.form.describe import describe_bars
from orchesis.form.label import in_alphabetical_order, letters
from orchesis.form.sections import find_sections
from orchesis.form.segment import divide, events
from orchesis.music.instruments import Instrument
from orchesis.music.values import Fill, Section
from tests.composing import ROCK, grid, hits

VERSE = ROCK
CHORUS = {
    Instrument.RIDE: "x.x.x.x.x.x.x.x.",
    Instrument.SNARE: "....X.......X...",
    Instrument.KICK: "x..x..x.x..x..x.",
}
BRIDGE = {Instrument.TOM_FLOOR: "x.xxx.xxx.xxx.xx", Instrument.KICK: "x.......x......."}
FILL = {
    Instrument.HIHAT_CLOSED: "x.x.x.x.........",
    Instrument.SNARE: "....X...xxxx....",
    Instrument.TOM_FLOOR: "............xxxx",
}
CRASHED = {**CHORUS, Instrument.CRASH: "X...............", Instrument.RIDE: "..x.x.x.x.x.x.x."}
NOTHING: dict = {}


def played(rows):
    bars = grid(len(rows))
    return bars, [hit for bar, row in zip(bars, rows, strict=True) for hit in hits(bar, row)]


def form_of(rows):
    sections, _ = find_sections(*played(rows))
    return [(section.label, section.bars) for section in sections], sections


SONG = [
    *[NOTHING] * 4,
    *[VERSE] * 7, FILL,
    CRASHED, *[CHORUS] * 7,
    *[VERSE] * 7, FILL,
    CRASHED, *[CHORUS] * 7,
    *[BRIDGE] * 9,
    CRASHED, *[CHORUS] * 7,
]  # fmt: skip


def test_a_song_falls_into_its_sections():
    form, sections = form_of(SONG)
    assert [bars for _, bars in form] == [4, 8, 8, 8, 8, 9, 8]
    marks = [section.mark for section in sections]
    assert marks[1] == marks[3] != marks[2]
    assert marks[2] == marks[4] == marks[6]
    assert marks.count(marks[5]) == 1
    assert [label for label, _ in form] == [
        "Intro", "Verse 1", "Chorus 1", "Verse 2", "Chorus 2", "Bridge", "Chorus 3",
    ]  # fmt: skip


def test_one_groove_from_end_to_end_is_one_section():
    form, _ = form_of([VERSE] * 16)
    assert [bars for _, bars in form] == [16]


def test_a_fill_or_a_stop_of_a_bar_does_not_break_a_section():
    assert len(form_of([*[VERSE] * 5, FILL, *[VERSE] * 10])[0]) == 1
    assert len(form_of([*[VERSE] * 6, NOTHING, *[VERSE] * 9])[0]) == 1


@settings(max_examples=25, deadline=None)
@given(st.lists(st.sampled_from([VERSE, CHORUS, BRIDGE, FILL, NOTHING]), min_size=1, max_size=40))
def test_every_bar_is_in_exactly_one_section(rows):
    bars, strokes = played(rows)
    sections, _ = find_sections(bars, strokes)
    covered = [n for s in sections for n in range(s.first_bar, s.first_bar + s.bars)]
    assert covered == [bar.number for bar in bars]
    assert all(section.label for section in sections)


def test_no_bars_have_no_sections():
    assert find_sections((), ()) == ((), ())


def test_fills_are_found_where_they_begin_and_grooves_are_none():
    bars, strokes = played([*[VERSE] * 7, FILL, *[VERSE] * 7, FILL])
    fills = find_fills(bars, strokes)
    assert [fill.bar for fill in fills] == [8, 16]
    assert fills[0].start == pytest.approx(bars[7].beats[2])
    assert fills[0].end == bars[7].end


def test_toms_that_are_the_groove_are_no_fill():
    bars, strokes = played([BRIDGE] * 8)
    assert find_fills(bars, strokes) == ()


def test_a_bar_more_fuller_than_the_rest_is_no_fill():
    fuller = {**VERSE, Instrument.KICK: "x..x..x.x..x..x."}
    bars, strokes = played([*[VERSE] * 7, fuller])
    assert find_fills(bars, strokes) == ()


def test_letters_go_by_sameness_not_by_length():
    likeness = np.eye(12) * 0 + 0.3
    for group in (range(4), range(4, 8)):
        for other in (range(4), range(4, 8)):
            if group == other:
                likeness[np.ix_(group, other)] = 1.0
    likeness[np.ix_(range(8, 12), range(4))] = likeness[np.ix_(range(4), range(8, 12))] = 0.95
    likeness[np.ix_(range(8, 12), range(8, 12))] = 1.0
    assert letters(likeness, [range(4), range(4, 8), range(8, 12)]) == ["A", "B", "A"]


def test_the_fill_that_ends_a_bridge_of_five_bars_is_no_section_of_its_own():
    form, _ = form_of(
        [*[VERSE] * 7, FILL, CRASHED, *[CHORUS] * 7, *[BRIDGE] * 4, FILL, CRASHED, *[CHORUS] * 7]
    )
    assert [bars for _, bars in form] == [8, 8, 5, 8]


def test_the_backbeat_that_joins_is_a_sign_that_a_section_begins():
    without = {drum: row for drum, row in VERSE.items() if drum is not Instrument.SNARE}
    rows = [*[without] * 4, *[VERSE] * 8]
    signs = events(describe_bars(*played(rows), None), np.zeros(len(rows)))
    assert int(np.argmax(signs)) == 4
    # A backbeat left out in one bar and back in the next begins nothing.
    again = [*[VERSE] * 6, without, *[VERSE] * 6]
    same = events(describe_bars(*played(again), None), np.zeros(len(again)))
    assert same.max() < signs[4]
    assert [bars for _, bars in form_of(again)[0]] == [13]


def section(label, first, bars, mark):
    return Section(label, 0.0, 1.0, bars, first, mark)


def test_what_two_verses_have_apart_is_said():
    varied = {**VERSE, Instrument.KICK: "x.......x.x....."}
    rows = [*[VERSE] * 8, *[VERSE] * 5, varied, VERSE, FILL]
    bars, strokes = played(rows)
    sections = [section("Verse 1", 1, 8, "A"), section("Verse 2", 9, 8, "A")]
    (found,) = compare_sections(sections, strokes, find_fills(bars, strokes))
    assert found.differing == (6, 8)
    assert found.words == "Verse 2 = Verse 1, except bar 8 (fill) and the kick in bar 6."


def test_the_same_note_for_note_is_said_so():
    _, strokes = played([VERSE] * 8)
    sections = [section("Verse 1", 1, 4, "A"), section("Verse 2", 5, 4, "A")]
    assert compare_sections(sections, strokes, ())[0].words.endswith("note for note.")


def test_odd_lengths_stops_and_entries_are_pointed_at():
    rows = [NOTHING, NOTHING, *[VERSE] * 6, NOTHING, *[BRIDGE] * 9]
    bars, strokes = played(rows)
    sections = [section("Verse", 1, 9, "A"), section("Bridge", 10, 9, "B")]
    notes = {(note.bar, note.kind): note.words for note in form_notes(bars, sections, strokes)}
    assert notes[3, "drums"] == "The drums enter in bar 3."
    assert notes[9, "drums"] == "The drums stop before bar 9."
    assert notes[10, "drums"] == "The drums come back in bar 10."
    assert notes[10, "odd length"] == "Bridge has 9 bars, one more than 8."


@pytest.mark.parametrize(
    ("bars", "words"),
    [
        (7, "one fewer than 8"),
        (6, "2 fewer than 8"),
        (10, "2 more than 8"),
        (13, "one more than 12"),
    ],
)
def test_how_odd_a_length_is_is_said_against_the_nearest_that_is_not(bars, words):
    laid, strokes = played([VERSE] * (bars + 4))
    sections = [section("Verse", 1, bars, "A"), section("Chorus", bars + 1, 4, "B")]
    note = form_notes(laid, sections, strokes)[0]
    assert note.words == f"Verse has {bars} bars, {words}."


@given(bars=st.integers(1, 40), fills=st.lists(st.integers(1, 40), max_size=6))
def test_phrases_add_up_to_their_section(bars, fills):
    made = [Fill(0.0, 1.0, bar) for bar in fills]
    lengths = phrase_lengths(section("Verse", 1, bars, "A"), made)
    assert sum(lengths) == bars
    assert all(length >= 1 for length in lengths)


def test_nine_bars_are_told_by_where_the_fill_falls():
    assert phrase_lengths(section("Bridge", 1, 9, "A"), [Fill(0, 1, 4), Fill(0, 1, 9)]) == (4, 5)
    assert phrase_lengths(section("Verse", 1, 8, "A"), []) == (4, 4)


def test_a_division_is_the_best_of_all():
    """Against trying every division of a short song."""
    from itertools import combinations

    from orchesis.form.describe import describe_bars
    from orchesis.form.segment import (
        BOUNDARY_COST,
        EVENT_WORTH,
        _length_cost,
        events,
        likenesses,
    )  # fmt: skip

    rows = [*[VERSE] * 4, CRASHED, *[CHORUS] * 3, *[VERSE] * 2]
    described = describe_bars(*played(rows), None)
    alike, happening = likenesses(described), events(described, np.zeros(10))

    def cost(starts):
        ends = [*starts[1:], 10]
        total = 0.0
        for a, b in zip(starts, ends, strict=True):
            piece = alike[a:b]
            total += ((piece - piece.mean(axis=0)) ** 2).sum() + _length_cost(b - a, a, b, 10)
            total += BOUNDARY_COST - 2 * EVENT_WORTH * happening[a] if a else 0.0
        return total

    every = [(0, *chosen) for n in range(4) for chosen in combinations(range(1, 10), n)]
    best = min(every, key=cost)
    assert divide(described, np.zeros(10)).starts == best
    assert Fraction(best[1], 4) == 1


@pytest.mark.parametrize(
    ("labels", "marks", "expected"),
    [
        (["Intro", "B 1", "B 2"], "ABB", (["Intro", "A 1", "A 2"], ["B", "A", "A"])),
        (["A", "B", "Outro"], "ABC", (["A", "B", "Outro"], ["A", "B", "C"])),
        (["Intro", "Verse 1", "Chorus"], "ABC", (["Intro", "Verse 1", "Chorus"], ["A", "B", "C"])),
        (
            ["Intro", "C", "Break", "D"],
            "ACBD",
            (["Intro", "A", "Break", "B"], ["C", "A", "D", "B"]),
        ),
    ],
)
def test_letters_that_are_names_begin_with_a(labels, marks, expected):
    assert in_alphabetical_order(labels, list(marks)) == expected

"""Readings of a song: the essence, the road map, the parts; levels, cues and doubts."""

from dataclasses import replace

import pytest

from orchesis.chart.cues import cues_of
from orchesis.chart.options import ChartOptions, Doubts, Level, Reading
from orchesis.chart.parts import chosen_parts, proposed_parts
from orchesis.chart.plain import to_text
from orchesis.chart.reading_pages import chart_pages
from orchesis.chart.readings import make_score
from orchesis.chart.roadmap import make_rows
from orchesis.fills.find import find_fills
from orchesis.music.instruments import Instrument, Limb, Status
from orchesis.music.values import Cue, PartDecision, Section
from tests.composing import ROCK, song

I = Instrument  # noqa: E741
FILL = {
    I.HIHAT_CLOSED: "x.x.x.x.........",
    I.SNARE: "....X...xxxx....",
    I.TOM_FLOOR: "............xxxx",
    I.KICK: "x...............",
}
BUSY = {**ROCK, I.KICK: "x.x...x.x.x...x."}


def with_sections(piece, *spans):
    sections = tuple(
        Section(label, piece.bar(first).start, piece.bar(last).end, last - first + 1, first, mark)
        for label, mark, first, last in spans
    )
    piece = replace(piece, sections=sections)
    ranges = [range(first - 1, last) for _, _, first, last in spans]
    return replace(piece, fills=tuple(find_fills(piece.bars, piece.hits, ranges)))


@pytest.fixture
def pop():
    """Verse, chorus, verse: eight bars each, a fill at the end of each."""
    verse, chorus = (
        [ROCK] * 7 + [FILL],
        [{**BUSY, I.CRASH: "x..............."}] + [BUSY] * 6 + [FILL],
    )
    piece = song(verse + chorus + verse)
    return with_sections(
        piece, ("Verse 1", "A", 1, 8), ("Chorus", "B", 9, 16), ("Verse 2", "A", 17, 24)
    )


def test_the_essence_writes_the_phrase_once_and_the_fill_out(pop):
    measures = make_score(pop, ChartOptions(reading=Reading.ESSENCE)).measures
    verse = measures[: next(i for i, m in enumerate(measures) if m.number == 9)]
    assert [(m.number, m.times) for m in verse] == [(1, 7), (8, 0)]
    floor = [hit for hit in verse[1].hits if hit.instrument is I.TOM_FLOOR]
    assert len(floor) == 4


def test_a_crash_that_is_no_part_of_the_groove_is_said_in_words(pop):
    measures = make_score(pop, ChartOptions(reading=Reading.ESSENCE)).measures
    chorus = next(m for m in measures if m.number == 9)
    assert chorus.cues == ("crash on 1",)
    assert I.CRASH not in {hit.instrument for hit in chorus.hits}


def test_what_is_played_now_and_then_is_a_hint_and_no_note():
    extra = {**ROCK, I.KICK: "x.......x.x....."}
    bars = [ROCK, ROCK, extra, ROCK, ROCK, extra, ROCK, ROCK]
    heading = make_score(song(bars), ChartOptions(reading=Reading.ESSENCE)).measures[0].heading
    assert heading.words == ("kick may also play the & of 3",)


def test_a_bar_that_is_no_bar_of_the_phrase_is_written_as_it_was_played():
    broken = {I.CRASH: "x...............", I.KICK: "x..............."}
    bars = [ROCK] * 3 + [broken] + [ROCK] * 4
    measures = make_score(song(bars), ChartOptions(reading=Reading.ESSENCE)).measures
    alone = next(m for m in measures if m.plays == (4,))
    assert {hit.instrument for hit in alone.hits} == {I.CRASH, I.KICK}


def test_the_road_map_has_a_row_a_section_and_says_which_are_the_same(pop):
    rows = make_rows(pop, ChartOptions(reading=Reading.ROAD_MAP))
    assert [(row.label, row.like) for row in rows] == [
        ("Verse 1", ""),
        ("Chorus", ""),
        ("Verse 2", "Verse 1"),
    ]
    assert rows[2].groove is None
    assert [len(row.fills) for row in rows] == [1, 1, 0] or "fill of bar" in rows[2].words[0]


def test_a_long_form_still_fits_one_page():
    piece = song([ROCK, BUSY] * 48)
    spans = [(f"Part {index}", f"{index}", 4 * index + 1, 4 * index + 4) for index in range(24)]
    engraving = chart_pages(with_sections(piece, *spans), ChartOptions(reading=Reading.ROAD_MAP))
    assert len(engraving.pages) == 1
    page = engraving.pages[0]
    assert max(box.bottom for box in page.boxes) < page.height
    assert len(page.placed) >= 24


def test_the_essence_of_a_four_minute_song_fits_two_pages():
    verse = [ROCK, BUSY] * 7 + [ROCK, FILL]
    piece = song(verse * 8)
    spans = [
        (f"Verse {index + 1}", f"{index}", 16 * index + 1, 16 * index + 16) for index in range(8)
    ]
    engraving = chart_pages(with_sections(piece, *spans), ChartOptions(reading=Reading.ESSENCE))
    assert len(engraving.pages) <= 2


def test_parts_cover_nine_tenths_and_none_of_them_is_needless():
    fills = [{**FILL, I.KICK: kick} for kick in ("x...", "x.x.", "xx..")]
    piece = song(([ROCK] * 7 + [BUSY]) * 6 + [ROCK, fills[0], ROCK, fills[1]])
    parts = proposed_parts(piece)
    covered = {p + step for part in parts for p in part.places for step in range(part.bars)}
    assert len(covered) >= 0.9 * len(piece.bars)
    assert len(parts) == 2


def test_a_person_adds_a_part_and_drops_another():
    piece = song([ROCK] * 8 + [BUSY] * 8 + [FILL])
    first = proposed_parts(piece)[0]
    bar, fill = piece.bar(first.first_bar), piece.bar(17)
    said = (
        PartDecision(bar.start + 0.01, bar.end - 0.01, False),
        PartDecision(fill.start + 0.01, fill.end - 0.01, True),
    )
    parts = chosen_parts(replace(piece, part_decisions=said))
    assert first.first_bar not in [part.first_bar for part in parts]
    added = next(part for part in parts if part.first_bar == 17)
    assert added.wanted
    measures = make_score(
        replace(piece, part_decisions=said), ChartOptions(reading=Reading.PARTS)
    ).measures
    assert [m.number for m in measures] == [part.first_bar for part in parts]


EVERYTHING = {**ROCK, I.SNARE: "....X.g.....X..g", I.HIHAT_FOOT: "....x.......x..."}


@pytest.mark.parametrize(
    ("options", "drums"),
    [
        (ChartOptions(), {I.HIHAT_CLOSED, I.SNARE, I.KICK, I.HIHAT_FOOT}),
        (ChartOptions(level=Level.HANDS), {I.HIHAT_CLOSED, I.SNARE}),
        (ChartOptions(level=Level.BACKBEAT), {I.SNARE, I.KICK}),
        (ChartOptions(limbs=frozenset({Limb.RIGHT_FOOT})), {I.KICK}),
    ],
)
def test_levels_leave_out_what_they_say(options, drums):
    limbs = {I.KICK: Limb.RIGHT_FOOT, I.HIHAT_FOOT: Limb.LEFT_FOOT, I.SNARE: Limb.LEFT_HAND}
    piece = song([EVERYTHING])
    piece = piece.with_hits(
        replace(hit, limb=limbs.get(hit.instrument, Limb.RIGHT_HAND)) for hit in piece.hits
    )
    measure = make_score(piece, options).measures[0]
    assert {hit.instrument for hit in measure.hits} == drums


def test_without_ghosts_only_ghosts_are_gone():
    full = make_score(song([EVERYTHING]), ChartOptions()).measures[0]
    bare = make_score(song([EVERYTHING]), ChartOptions(level=Level.NO_GHOSTS)).measures[0]
    assert [hit for hit in full.hits if not hit.ghost] == list(bare.hits)
    assert len(bare.hits) == len(full.hits) - 2


def test_doubts_are_hidden_if_wanted_and_what_is_left_out_never_shows():
    piece = song([ROCK])
    kicks = [hit for hit in piece.hits if hit.instrument is I.KICK]
    marked = piece.with_hits(
        replace(hit, status=Status.DOUBTFUL if hit is kicks[0] else Status.LEFT_OUT)
        if hit.instrument is I.KICK
        else hit
        for hit in piece.hits
    )
    shown = make_score(marked, ChartOptions()).measures[0].hits
    hidden = make_score(marked, ChartOptions(doubts=Doubts.HIDDEN)).measures[0].hits
    assert [hit.status for hit in shown if hit.instrument is I.KICK] == [Status.DOUBTFUL]
    assert not [hit for hit in hidden if hit.instrument is I.KICK]


def test_a_bar_that_breaks_off_is_a_stop_and_a_groove_of_one_stroke_is_none():
    stop = {I.CRASH: "x...............", I.KICK: "x..............."}
    assert cues_of(song([ROCK, ROCK, stop, ROCK])) == {3: ("stop",)}
    sparse = {I.KICK: "x..............."}
    assert cues_of(song([sparse] * 4)) == {}


def test_words_stay_over_their_bar_and_keep_it_from_being_folded_away():
    piece = song([ROCK] * 8)
    cued = replace(piece, cues=(Cue(piece.bar(5).start - 0.01, "vocals in"),))
    measures = make_score(cued, ChartOptions()).measures
    five = next(m for m in measures if m.number == 5)
    assert five.cues == ("vocals in",)
    assert five.plays == (5,)


def test_the_limb_chart_as_text_has_a_row_a_limb_on_the_count():
    limbs = {I.KICK: Limb.RIGHT_FOOT, I.SNARE: Limb.LEFT_HAND, I.HIHAT_CLOSED: Limb.RIGHT_HAND}
    piece = song([ROCK])
    piece = piece.with_hits(replace(hit, limb=limbs[hit.instrument]) for hit in piece.hits)
    lines = to_text(piece, ChartOptions()).splitlines()
    at = next(i for i, line in enumerate(lines) if line.startswith("bar 1"))
    assert lines[at + 1].split() == ["1", "&", "2", "&", "3", "&", "4", "&"]
    assert lines[at + 2] == "RH  |x x x x x x x x | hat"
    assert lines[at + 3] == "LH  |- - O - - - O - | snare"
    assert lines[at + 4] == "RF  |o - - - o - - - | kick"


def test_the_essence_says_what_falls_where_if_wanted():
    late = {
        I.HIHAT_CLOSED: "x.x.x.x.x.x.x.x.",
        I.SNARE: "......X.....X...",
        I.KICK: "x...............",
    }
    plain = make_score(song([late] * 8), ChartOptions(reading=Reading.ESSENCE)).measures[0]
    told = make_score(song([late] * 8), ChartOptions(reading=Reading.ESSENCE, facts=True)).measures[
        0
    ]
    assert len(told.heading.words) > len(plain.heading.words)

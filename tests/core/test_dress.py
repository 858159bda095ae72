"""Words beside the music: what is said of a system, where, and when it gives way."""

import html
import re
from dataclasses import replace

import pytest

from orchesis.chart.dress import clock
from orchesis.chart.options import Beside, ChartOptions, Reading
from orchesis.chart.reading_pages import chart_pages
from orchesis.music.instruments import Instrument, Limb
from orchesis.music.values import Cue, Section
from tests.composing import ROCK, song

KICK, SNARE = Instrument.KICK, Instrument.SNARE
BUSY = {**ROCK, Instrument.HIHAT_CLOSED: "xxxxxxxxxxxxxxxx"}


def words(piece, kind, **options):
    """All texts of a kind on the chart, as (words, x, y)."""
    svg = "".join(page.svg() for page in chart_pages(piece, ChartOptions(**options)).pages)
    found = re.findall(rf'<text class="t-{kind}" x="(-?\d+)" y="(-?\d+)"[^>]*>([^<]*)</text>', svg)
    return [(html.unescape(text), int(x), int(y)) for x, y, text in found]


def said(piece, kind, **options):
    return [text for text, _, _ in words(piece, kind, **options)]


@pytest.mark.parametrize(
    ("seconds", "shown"),
    [(0, "0:00"), (9.9, "0:09"), (65, "1:05"), (600, "10:00"), (-3, "0:00")],
)
def test_times_are_minutes_and_seconds(seconds, shown):
    assert clock(seconds) == shown


def test_the_tempo_stands_over_the_first_system_only():
    piece = song([BUSY, {**BUSY, KICK: "x.x............."}] * 8)
    assert said(piece, "tempo")[0].startswith("= 120")
    assert len(said(piece, "tempo")) == 1


def test_no_tempo_is_said_of_a_song_that_has_none():
    assert said(replace(song([ROCK] * 2), tempo_bpm=0.0), "tempo") == []


def test_a_section_is_named_with_its_length_and_when_it_begins():
    piece = song([ROCK] * 6)
    bars = piece.bars
    parts = (
        Section("Verse", bars[0].start, bars[4].end, 5, 1),
        Section("Tag", bars[5].start, bars[5].end, 1, 6),
    )
    piece = replace(piece, sections=parts)
    assert said(piece, "label") == ["Verse", "Tag"]
    assert [text.split() for text in said(piece, "time")] == [
        ["0:00", "5", "bars"],
        ["0:10", "1", "bar"],
    ]
    assert [text.split() for text in said(piece, "time", times=False)] == [
        ["5", "bars"],
        ["1", "bar"],
    ]


def test_a_name_that_is_longer_than_the_page_is_cut_with_an_ellipsis():
    piece = song([ROCK] * 2)
    (section,) = piece.sections
    piece = replace(piece, sections=(replace(section, label="Verse " * 60),))
    (label,) = said(piece, "label")
    assert label.startswith("Verse Verse")
    assert label.endswith("…")


def test_a_label_without_a_letter_that_can_be_printed_is_a_dash():
    piece = song([ROCK] * 2)
    (section,) = piece.sections
    piece = replace(piece, sections=(replace(section, label="\x07"),))
    assert said(piece, "label") == ["–"]


def test_a_cue_stands_over_the_bar_in_which_it_is_heard():
    piece = song([ROCK, BUSY])
    piece = replace(piece, cues=(Cue(piece.bars[1].start + 0.5, "singer breathes in"),))
    ((cue, x, y),) = words(piece, "cue")
    assert cue == "singer breathes in"
    numbers = {text: (left, top) for text, left, top in words(piece, "number")}
    assert 0 <= x - numbers["2"][0] < 100
    assert y < numbers["2"][1]


def test_the_count_says_beats_and_what_is_between_them():
    piece = song([{SNARE: "x.x.x.x.x.xxx.x."}])
    assert said(piece, "count", count=True) == ["1", "&", "2", "&", "3", "&", "a", "4", "&"]
    assert said(piece, "count") == []


def test_one_height_for_all_of_the_count():
    rows = [BUSY, {SNARE: "x.......x......."}]
    heights = {y for _, _, y in words(song(rows), "count", count=True)}
    assert len(heights) == 1


def played(rows):
    """One bar with hands: right and left in turn, the foot for the kick."""
    piece = song([rows])
    hands = [Limb.RIGHT_HAND, Limb.LEFT_HAND]
    return piece.with_hits(
        [
            replace(hit, limb=Limb.RIGHT_FOOT if hit.instrument is KICK else hands[order % 2])
            for order, hit in enumerate(piece.hits)
        ]
    )


def test_hands_stand_above_or_below_and_feet_have_none():
    piece = played({SNARE: "x.x.x.x.x.x.x.x.", KICK: "x.......x......."})
    above, below = (words(piece, "hand", sticking=side) for side in (Beside.ABOVE, Beside.BELOW))
    assert len(above) == len(below) == 8
    assert {text for text, _, _ in above} <= {"R", "L"}
    assert max(y for _, _, y in above) < min(y for _, _, y in below)


def test_both_hands_at_once_stand_over_each_other():
    piece = played({Instrument.CRASH: "x...............", SNARE: "x..............."})
    hands = words(piece, "hand", sticking=Beside.ABOVE)
    assert sorted(text for text, _, _ in hands) == ["L", "R"]
    assert len({y for _, _, y in hands}) == 2
    assert len({x for _, x, _ in hands}) == 1


def test_bars_that_stand_for_several_have_two_numbers():
    """Note for note, sixteen bars alike are folded; a rest of four is one measure."""
    piece = song([{}] * 4 + [ROCK] * 4)
    numbers = said(piece, "number", reading=Reading.NOTE_FOR_NOTE)
    assert any("–" in number for number in numbers)

"""Fills told as drummers tell them: what they are made of, which are the same, what to practise."""

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.edits.merge import Decided, merged
from orchesis.errors import InvalidTranscription
from orchesis.fills.decide import FillAsked, decided, decision_words
from orchesis.fills.describe import describe_fill
from orchesis.fills.families import Kinship, families, family_words, notes_of
from orchesis.fills.find import find_fills
from orchesis.fills.variations import exercises
from orchesis.groove.phrase import find_phrases
from orchesis.music.instruments import Instrument, Ornament
from orchesis.music.json import dumps, loads
from orchesis.music.values import Fill, Section
from tests.composing import ROCK, song

HAT, SNARE, KICK = Instrument.HIHAT_CLOSED, Instrument.SNARE, Instrument.KICK
HIGH, MID, FLOOR, CRASH = (
    Instrument.TOM_HIGH,
    Instrument.TOM_MID,
    Instrument.TOM_FLOOR,
    Instrument.CRASH,
)
ROUND = {
    SNARE: "xxxx............",
    HIGH: "....xxxx........",
    MID: "........xxxx....",
    FLOOR: "............xxxx",
}


def with_fills(*fills, groove=ROCK, landing=None):
    """Four bars each, the last of which is the fill; then what it lands on."""
    rows = [row for fill in fills for row in ([groove] * 3 + [fill])]
    piece = song([*rows, landing or groove])
    spans = [range(len(rows) + 1)]
    return replace(piece, fills=find_fills(piece.bars, piece.hits, spans))


def told(fill, **options):
    piece = with_fills(ROCK, fill, **options)
    (found,) = piece.fills
    return describe_fill(found, piece.bars, piece.hits)


def test_a_fill_round_the_kit():
    one = told(ROUND, landing={**ROCK, CRASH: "x..............."})
    assert one.where == "4 beats from 1"
    assert one.subdivisions == (("sixteenths", "1"),)
    assert one.path == "4 snare, 4 high tom, 4 mid tom, 4 floor tom"
    assert one.landing == "lands on a crash on the one"
    assert one.count == "1 e & a 2 e & a 3 e & a 4 e & a"
    assert one.is_linear


def test_a_subdivision_that_changes_inside_is_said_with_its_beat():
    one = told(
        {
            HAT: "x.x.x.x.........",
            SNARE: "....X...xxxx....",
            KICK: "x.......",
            HIGH: "." * 18 + "xxx...",
            FLOOR: "." * 18 + "...xxx",
        }
    )
    assert one.subdivisions == (("sixteenths", "3"), ("sextuplets", "4"))
    assert "sixteenths, from 4 sextuplets" in one.words


@pytest.mark.parametrize(
    ("rows", "grouping"),
    [
        (
            {SNARE: "x..x..x..x..x..x", HIGH: ".x..x..x..x..x..", FLOOR: "..x..x..x..x..x."},
            "groups of 3 across sixteenths",
        ),
        (
            {SNARE: "xx....xx....xx..", KICK: "..xx....xx....xx", FLOOR: "....xx....xx...."},
            "groups of 6 across sixteenths",
        ),
        (
            {SNARE: "xx..xx..xx..", KICK: "..xx..xx..xx"},
            "groups of 4 across triplets",
        ),
        (
            {SNARE: "x.x.x.x.x.x.x.x.x.x.x.x.", FLOOR: ".x.x.x.x.x.x.x.x.x.x.x.x"},
            "groups of 2 in sextuplets",
        ),
        ({SNARE: "XxxXxxXxxXxxXxxX"}, "accents in groups of 3 across sixteenths"),
    ],
    ids=["threes", "sixes", "4+4+4 over triplets", "twos in sextuplets", "by accents"],
)
def test_groups_that_run_across_the_beat(rows, grouping):
    assert told(rows).grouping == grouping


def test_the_same_six_in_sixteenths_and_then_in_triplets():
    six = [SNARE, SNARE, KICK, HIGH, HIGH, KICK]
    rows = {drum: ["."] * 96 for drum in (SNARE, HIGH, KICK)}
    for index in range(12):
        rows[six[index % 6]][index * 3] = "x"
        rows[six[index % 6]][48 + index * 4] = "x"
    two_bars = {drum: "".join(signs) for drum, signs in rows.items()}
    first = {drum: text[:48] for drum, text in two_bars.items()}
    second = {drum: text[48:] for drum, text in two_bars.items()}
    piece = song([ROCK] * 6 + [first, second, ROCK])
    (found,) = find_fills(piece.bars, piece.hits, [range(9)])
    assert (found.begins_in, found.bar) == (7, 8)
    one = describe_fill(found, piece.bars, piece.hits)
    assert one.grouping == "the same 6 in sixteenths and then in triplets"


def test_hands_and_feet_that_come_round_are_told_as_one_turn():
    one = told({SNARE: "xx.xx.xx.xx.", KICK: "..x..x..x..x"})
    assert one.hands_and_feet == "hand, hand, foot, over and over"


def test_a_fill_that_was_led_into_and_ends_before_its_bar():
    opened = {
        HAT: "x.x...........x.",
        Instrument.HIHAT_OPEN: "....x...........",
        SNARE: "......xxxx......",
        FLOOR: "..........xx....",
        KICK: "x...............",
    }
    piece = with_fills(ROCK, {**opened, HAT: "x.x.........x.x."})
    (found,) = piece.fills
    assert (found.at, found.until) == (Fraction(3, 8), Fraction(3, 4))
    one = describe_fill(found, piece.bars, piece.hits)
    assert one.lead_in == "led in by the open hat on 2"
    assert one.landing == "time is kept again from 4"


def kinds(*fills):
    piece = with_fills(*fills)
    told_fills = [describe_fill(fill, piece.bars, piece.hits) for fill in piece.fills]
    assert len(told_fills) == len(fills)
    found = families([notes_of(one.places, one.beats) for one in told_fills])
    return {m.index: (f.name, m.kinship) for f in found for m in f.members}


SHORT = {
    HAT: "x.x.x.x.........",
    SNARE: "....X...xxxx....",
    HIGH: "............xxxx",
    KICK: "x.......",
}
OTHER_DRUMS = {
    HAT: "x.x.x.x.........",
    FLOOR: "........xxxx....",
    SNARE: "....X.......xxxx",
    KICK: "x.......",
}
OTHER_ENDING = {
    HAT: "x.x.x.x.........",
    SNARE: "....X...xxxx..x.",
    HIGH: "............x...",
    KICK: "x.......",
}


def test_fills_are_put_together_by_what_they_share():
    found = kinds(SHORT, {FLOOR: "xxxxxxxxxxxx"}, SHORT, OTHER_DRUMS, OTHER_ENDING)
    assert found == {
        0: ("A", Kinship.FIRST),
        1: ("B", Kinship.FIRST),
        2: ("A", Kinship.SAME),
        3: ("A", Kinship.RHYTHM),
        4: ("A", Kinship.BEGINNING),
    }


def test_a_note_that_was_heard_once_too_often_is_nearly_the_same():
    assert kinds(ROUND, {**ROUND, KICK: "x..............."})[1] == ("A", Kinship.NEARLY)


def test_recurrences_are_told_with_their_places():
    piece = with_fills(SHORT, SHORT)
    sections = (Section("Verse", 0, 1, 4, 1), Section("Chorus", 1, 2, 5, 5))
    made = [describe_fill(fill, piece.bars, piece.hits) for fill in piece.fills]
    (family,) = families([notes_of(one.places, one.beats) for one in made])
    words = family_words(family, piece.fills, sections)
    assert words == "Bar 4, the last of Verse; the same again in bar 8, bar 4 of Chorus."


def test_exercises_keep_the_rhythm_and_end_in_loops_with_the_groove():
    piece = with_fills(ROCK, ROUND)
    (phrase, *_) = find_phrases(piece.bars, piece.hits, piece.fills)
    made = {one.key: one for one in exercises(piece.fills[0], piece.bars, piece.hits, phrase)}
    assert set(made) == {"alone", "feet", "mirrored", "tail", "loop-2", "loop-4", "loop-8"}
    places = {hit.position for hit in made["alone"].bars[0]}
    for key in ("feet", "mirrored"):
        assert {hit.position for hit in made[key].bars[0]} == places
    kicks = [hit.position for hit in made["feet"].bars[0] if hit.instrument is KICK]
    assert kicks == [Fraction(beat, 4) for beat in range(4)]
    assert made["mirrored"].bars[0][0].instrument is FLOOR
    assert [len(made[f"loop-{n}"].bars) for n in (2, 4, 8)] == [2, 4, 8]
    groove = {(hit.position, hit.instrument) for hit in made["loop-4"].bars[0]}
    assert groove == {(h.position, h.instrument) for h in piece.hits_of(1)}
    tail = {hit.instrument for hit in made["tail"].bars[0] if hit.position >= Fraction(1, 2)}
    assert tail == {MID, FLOOR}


def test_a_person_says_where_a_fill_begins_and_that_another_is_none():
    piece = with_fills(ROCK, SHORT)
    later = decided(piece, FillAsked(8, Fraction(3, 4), 8, Fraction(1), is_fill=True))
    (mine,) = later.fills
    assert (mine.at, mine.settled) == (Fraction(3, 4), True)
    gone = decided(later, FillAsked(8, Fraction(3, 4), 8, Fraction(1), is_fill=False))
    assert gone.fills == ()
    assert len(gone.fill_decisions) == 1, "the later word counts"
    asked = FillAsked(8, Fraction(5, 8), 8, Fraction(1), is_fill=True)
    assert decision_words(piece, asked) == "Fill from the & of 3 of bar 8"


@pytest.mark.parametrize(
    "asked",
    [
        FillAsked(99, Fraction(0), 99, Fraction(1), is_fill=True),
        FillAsked(3, Fraction(1, 2), 3, Fraction(1, 4), is_fill=True),
        FillAsked(3, Fraction(1, 2), 2, Fraction(1), is_fill=True),
        FillAsked(1, Fraction(0), 8, Fraction(1), is_fill=True),
        FillAsked(3, Fraction(1), 3, Fraction(1), is_fill=True),
    ],
)
def test_what_can_be_no_fill_is_refused(asked):
    with pytest.raises(InvalidTranscription):
        decided(with_fills(ROCK, SHORT), asked)


def test_what_was_said_outlives_a_new_listening_and_the_file():
    piece = decided(with_fills(ROCK, SHORT), FillAsked(3, Fraction(1, 2), 3, Fraction(1), True))
    assert loads(dumps(piece)).fill_decisions == piece.fill_decisions
    heard_anew = replace(with_fills(ROCK, SHORT), fill_decisions=())
    again = merged(piece, heard_anew, Decided())
    assert [fill.bar for fill in again.fills] == [3, 8]
    assert [fill.settled for fill in again.fills] == [True, False]


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 15), st.integers(1, 16), st.sampled_from([SNARE, HIGH, FLOOR]))
def test_any_stretch_that_is_drawn_is_where_it_was_drawn(start, length, drum):
    piece = with_fills(ROCK, {**ROCK, drum: "x" * 16})
    end = min(16, start + length)
    made = decided(piece, FillAsked(5, Fraction(start, 16), 5, Fraction(end, 16), is_fill=True))
    mine = next(fill for fill in made.fills if fill.settled)
    assert (mine.at, mine.until) == (Fraction(start, 16), Fraction(end, 16))
    one = describe_fill(mine, made.bars, made.hits)
    assert one.words.endswith(".")
    assert isinstance(mine, Fill)


@pytest.mark.parametrize(
    ("before", "says"),
    [
        ({HAT: "x.x.x...", SNARE: "....x...", KICK: "x......."}, ""),
        ({HAT: "x.......", KICK: "x......."}, "led in by more than a beat of rest"),
    ],
    ids=["in time", "after a rest"],
)
def test_a_rest_before_a_fill_leads_in_too(before, says):
    piece = song(
        [{drum: row + "........" for drum, row in before.items()} | {HIGH: "........xxxx...."}]
    )
    fill = Fill(
        start=piece.bars[0].time_at(Fraction(1, 2)),
        end=piece.bars[0].end,
        bar=1,
        first_bar=1,
        at=Fraction(1, 2),
        until=Fraction(1),
    )
    assert describe_fill(fill, piece.bars, piece.hits).lead_in == says


def test_a_flam_before_a_fill_leads_in():
    piece = song([{HAT: "x.x.x.x.........", SNARE: "....x.x.........", HIGH: "........xxxx...."}])
    hits = tuple(
        replace(hit, ornament=Ornament.FLAM)
        if hit.instrument is SNARE and hit.position == Fraction(3, 8)
        else hit
        for hit in piece.hits
    )
    fill = Fill(
        start=piece.bars[0].time_at(Fraction(1, 2)),
        end=piece.bars[0].end,
        bar=1,
        first_bar=1,
        at=Fraction(1, 2),
        until=Fraction(1),
    )
    assert describe_fill(fill, piece.bars, hits).lead_in == "led in by a flam on the & of 2"

"""Rhythm spelling: what is written fills its bar, and reads as drummers expect."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.chart.spelling import beam_groups, spell_voice
from orchesis.chart.swinging import in_triplets
from orchesis.music.instruments import Instrument
from orchesis.music.values import Feel, Hit, Meter
from tests.composing import grid, hits

SNARE = Instrument.SNARE
METERS = [
    Meter(4, 4),
    Meter(3, 4),
    Meter(2, 4),
    Meter(5, 4),
    Meter(7, 8),
    Meter(6, 8),
    Meter(12, 8),
]


def spelled(row, beats=4):
    bar = grid(1, beats=beats)[0]
    return spell_voice(bar.meter, hits(bar, {SNARE: row}))


def values(events):
    return " ".join(("r" if e.is_rest else "") + str(e.value.written) for e in events)


@given(st.sampled_from(METERS), st.data())
def test_every_bar_is_filled_exactly_and_every_stroke_is_where_it_was_played(meter, data):
    strokes = []
    for beat in range(meter.pulses):
        parts = data.draw(st.sampled_from([1, 2, 3, 4, 6, 8, 12]))
        chosen = data.draw(st.sets(st.integers(0, parts - 1)))
        strokes += [
            Hit(1.0, SNARE, 80, 1, (Fraction(beat) + Fraction(step, parts)) / meter.pulses)
            for step in chosen
        ]
    events = spell_voice(meter, strokes)
    whole = Fraction(meter.beats, meter.unit)
    place, found = Fraction(0), set()
    for event in events:
        if event.hits:
            found.add(place / whole)
        place += event.value.sounding
    assert place == whole
    assert found == {hit.position for hit in strokes}


@given(st.text(alphabet="x.", min_size=16, max_size=16))
def test_no_note_is_written_longer_than_a_dotted_quarter(row):
    assert all(event.is_rest or event.value.written <= Fraction(3, 8) for event in spelled(row))


@pytest.mark.parametrize(
    ("row", "written"),
    [
        ("x.x.x.x.x.x.x.x.", "1/8 1/8 1/8 1/8 1/8 1/8 1/8 1/8"),
        ("x...x...x...x...", "1/4 1/4 1/4 1/4"),
        ("x..xx..xx..xx..x", "3/16 1/16 3/16 1/16 3/16 1/16 3/16 1/16"),
        (".x..x...........", "r1/16 3/16 1/4 r1/2"),
        ("...xx...........", "r3/16 1/16 1/4 r1/2"),
        ("................", "r1"),
        # A kick on the one and before the three: the stroke lasts past the rest that nobody needs.
        ("x.....x.x.......", "3/8 1/8 1/4 r1/4"),
        ("x.......x.......", "1/4 r1/4 1/4 r1/4"),
        # The middle of the bar is seen: no rest runs over it.
        ("x.............x.", "1/4 r1/4 r1/4 r1/8 1/8"),
        ("........x.......", "r1/2 1/4 r1/4"),
    ],
)
def test_rhythms_are_spelled_by_beats_and_rests_by_halves(row, written):
    assert values(spelled(row)) == written


def test_three_four_has_no_half_to_rest_in():
    assert values(spelled("x...........", beats=3)) == "1/4 r1/4 r1/4"


def test_a_triplet_beat_has_one_bracket_around_three():
    events = [event for event in spelled("xxxxxxxxxxxx") if event.beat == 0]
    assert [event.value.tuplet for event in events] == [(3, 2)] * 3
    assert [(event.tuplet_start, event.tuplet_stop) for event in events] == [
        (True, False),
        (False, False),
        (False, True),
    ]


def test_beams_join_the_notes_of_a_beat_and_no_more():
    events = spelled("xxxxx.x.....x...")
    assert [len(group) for group in beam_groups(events)] == [4, 2]


def test_swung_eighths_are_spelled_out_as_the_first_and_last_of_a_triplet():
    place = in_triplets(Meter(4, 4), Feel(swing_8=1.9))
    assert place(Fraction(1, 8)) == Fraction(2, 12)
    assert place(Fraction(1, 4)) == Fraction(1, 4)
    bar = grid(1)[0]
    events = spell_voice(bar.meter, hits(bar, {SNARE: "x.x............."}), place)
    assert [e.value.tuplet for e in events if e.beat == 0] == [(3, 2), (3, 2)]
    assert [str(e.value.written) for e in events if e.beat == 0] == ["1/4", "1/8"]


def test_swung_sixteenths_become_sextuplets_and_straight_ones_stay():
    place = in_triplets(Meter(4, 4), Feel(swing_8=1.0, swing_16=1.7))
    assert [place(Fraction(step, 16)) * 4 for step in range(4)] == [
        0,
        Fraction(1, 3),
        Fraction(1, 2),
        Fraction(5, 6),
    ]
    assert in_triplets(Meter(4, 4), Feel(swing_8=1.05, swing_16=1.1)) is None
    assert in_triplets(Meter(12, 8), Feel(swing_8=2.0)) is None

"""The division of a beat: as it is found, as it is chosen, and how threes are written."""

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.chart.spelling import spell_voice
from orchesis.errors import InvalidTranscription
from orchesis.listening.ear import Onset
from orchesis.music.instruments import Instrument
from orchesis.music.values import Feel, Meter
from orchesis.rhythm.beat_notation import BeatNotation, beat_notation, rewrite_beats
from orchesis.rhythm.divide import divide_beats
from orchesis.rhythm.due import written_time
from orchesis.rhythm.quantise import quantise
from tests.composing import ROCK, grid, hits, song

KICK, SNARE, HAT = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED
SHUFFLE = {HAT: "x.xx.xx.xx.x", SNARE: "...X.....X..", KICK: "x.....x.x..."}
RUFF = {SNARE: "xxxxxxxx........................", KICK: "........x.......x.......x......."}
FIVE = {SNARE: "xxxxx...............", KICK: ".....x....x....x...."}


def onsets_of(bars, rows, late=0.0):
    return [
        Onset(hit.time + late, hit.instrument, hit.velocity / 127, 0.9)
        for bar in bars
        for hit in hits(bar, rows)
    ]


def test_thirty_seconds_are_written_where_a_hand_can_play_them():
    bars = grid(4, bpm=84)
    written = quantise(bars, onsets_of(bars, RUFF))
    assert {bar.divisions[0] for bar in written.bars} == {8}
    snares = [p.position for p in written.placed if p.onset.instrument is SNARE and p.bar == 1]
    assert snares == [Fraction(step, 32) for step in range(8)]


def test_one_stroke_off_the_sixteenths_makes_no_thirty_seconds():
    bars = grid(4, bpm=84)
    stray = Onset(bars[1].time_at(Fraction(3, 32)), SNARE, 0.5, 0.9)
    onsets = sorted([*onsets_of(bars, ROCK), stray], key=lambda onset: onset.time)
    assert 8 not in quantise(bars, onsets).bars[1].divisions


def test_nobody_plays_thirty_seconds_at_200():
    bars = grid(4, bpm=200)
    assert all(8 not in bar.divisions for bar in quantise(bars, onsets_of(bars, RUFF)).bars)


def test_a_dotted_beat_has_no_bracket_over_a_late_stroke():
    bars = [replace(bar, meter=Meter(12, 8), divisions=(3,) * 4) for bar in grid(8, bpm=60)]
    rows = {HAT: "x.xx.xx.xx.x", SNARE: "...X.....X.."}
    written = quantise(bars, onsets_of(bars, rows, late=0.03))
    assert all(parts in (1, 3, 6) for bar in written.bars for parts in bar.divisions)


def test_a_beat_is_divided_by_hand_and_its_strokes_go_where_they_sound():
    rushed = song([SHUFFLE])
    straight = divide_beats(rushed, [1], 4)
    assert straight.bars[0].divisions == (4, 4, 4, 4)
    assert {hit.position.denominator for hit in straight.hits} <= {1, 2, 4, 8, 16}
    back = divide_beats(straight, [1], 3)
    assert [hit.place for hit in back.hits] == [hit.place for hit in rushed.hits]
    assert [hit.time for hit in back.hits] == [hit.time for hit in rushed.hits]


def test_one_beat_alone_is_divided():
    part = divide_beats(song([ROCK, ROCK]), [2], 6, beat=1)
    assert part.bars[0].divisions == (4, 4, 4, 4)
    assert part.bars[1].divisions == (4, 6, 4, 4)


def test_more_strokes_than_parts_are_refused_with_what_to_do():
    roll = song([{SNARE: "xxxxxxxxxxxxxxxx"}])
    with pytest.raises(InvalidTranscription, match="divide the beat more finely"):
        divide_beats(roll, [1], 2)


@given(st.sampled_from([2, 3, 4, 5, 6, 8, 12]), st.integers(1, 3))
def test_dividing_loses_no_stroke(parts, bar):
    before = song([ROCK, SHUFFLE, {KICK: "x...", SNARE: "..x."}])
    after = divide_beats(before, [bar], parts)
    assert sorted((h.time, h.instrument) for h in after.hits) == sorted(
        (h.time, h.instrument) for h in before.hits
    )
    assert len({hit.place for hit in after.hits}) == len(after.hits)


def test_five_in_a_beat_are_a_quintuplet():
    bars = grid(1, bpm=80)
    played = replace(song([FIVE]), bars=bars, hits=tuple(hits(bars[0], FIVE)))
    five = divide_beats(played, [1], 5)
    events = spell_voice(Meter(4, 4), [h for h in five.hits if h.instrument is SNARE])
    assert [event.value.tuplet for event in events[:5]] == [(5, 4)] * 5
    assert sum(event.value.sounding for event in events) == 1


def swung():
    rows = {HAT: "x.x.x.x.x.x.x.x.", SNARE: "....X.......X...", KICK: "x.......x......."}
    written = replace(song([rows] * 4), feel=Feel(swing_8=2.0))
    bars = tuple(replace(bar, divisions=(2, 2, 2, 2)) for bar in written.bars)
    moved = [replace(h, time=written_time(written, h.bar, h.position)) for h in written.hits]
    return replace(written, bars=bars).with_hits(moved)


def test_a_shuffle_is_written_three_ways_that_sound_the_same():
    before = swung()
    assert beat_notation(before) is BeatNotation.SWUNG
    for notation in BeatNotation:
        after = rewrite_beats(before, notation)
        assert beat_notation(after) is notation
        assert [hit.time for hit in after.hits] == [hit.time for hit in before.hits]
        due = [written_time(after, hit.bar, hit.position) for hit in after.hits]
        assert due == pytest.approx([hit.time for hit in before.hits], abs=0.002)


def test_twelve_eight_and_back_is_the_same_song():
    before = swung()
    there = rewrite_beats(before, BeatNotation.COMPOUND)
    assert there.meter == Meter(12, 8)
    assert {bar.divisions for bar in there.bars} == {(3, 3, 3, 3)}
    back = rewrite_beats(there, BeatNotation.SWUNG)
    assert [hit.place for hit in back.hits] == [hit.place for hit in before.hits]
    assert back.feel.swing_8 == pytest.approx(2.0, abs=0.01)


def test_full_triplets_stay_triplets_beside_swung_eighths():
    rows = {HAT: "x.xx.xx.xx.x", SNARE: "...X.....xxx", KICK: "x.....x....."}
    written = replace(song([rows] * 4), feel=Feel())
    bars = tuple(replace(bar, divisions=(3, 3, 3, 3)) for bar in written.bars)
    after = rewrite_beats(replace(written, bars=bars), BeatNotation.SWUNG)
    assert {bar.divisions for bar in after.bars} == {(2, 2, 2, 3)}


def test_a_straight_song_has_no_such_choice():
    with pytest.raises(InvalidTranscription, match="do not fall in three"):
        rewrite_beats(song([ROCK]), BeatNotation.TRIPLETS)

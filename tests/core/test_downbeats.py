"""Bar lines moved over the same beats: the one a beat later, a stray bar mended."""

from dataclasses import replace

import numpy as np
import pytest

from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import Instrument
from orchesis.music.values import Meter, ReadingSummary, Section
from orchesis.rhythm.downbeats import even_out_bar, shift_downbeats, stray_bars
from orchesis.rhythm.rewrite import on_beats
from tests.composing import ROCK, song

SNARE = Instrument.SNARE


def counted(downbeats, *, beats=None):
    """Sixteen bars of rock at 120, counted from these beats."""
    made = song([ROCK] * 16)
    tracked = np.array(made.beats) if beats is None else np.asarray(beats)
    reading = ReadingSummary("tracked/4-4/0", "4/4 at 120", 120.0, Meter(4, 4), (), downbeats)
    laid = replace(made, tracked_beats=tuple(float(beat) for beat in tracked))
    return on_beats(laid, tracked, reading, (reading,))


def lengths(piece):
    return [len(bar.beats) for bar in piece.bars]


def test_the_one_moves_by_a_beat_and_by_four_it_cannot():
    before = counted(tuple(range(0, 64, 4)))
    later = shift_downbeats(before, 1)
    assert later.bars[1].start == pytest.approx(before.bars[0].start + 0.5)
    assert {h.time for h in later.hits} == {h.time for h in before.hits}
    assert shift_downbeats(later, -1).downbeats == before.downbeats
    with pytest.raises(InvalidTranscription, match="begin anew"):
        shift_downbeats(before, 4)


def test_a_typed_tempo_can_be_counted_from_another_beat():
    before = counted(tuple(range(0, 64, 4)))
    typed = replace(before, readings=(replace(before.readings[0], key="tracked/typed/0"),))
    assert shift_downbeats(typed, 2).bars[1].start == pytest.approx(before.bars[0].start + 1.0)


def test_two_stray_bars_that_make_up_for_each_other_go_together():
    slipped = counted((0, 4, 8, 10, 14, 18, 20, 24, *range(28, 64, 4)))
    assert stray_bars(slipped) == (3, 6)
    evened = even_out_bar(slipped, 3)
    assert stray_bars(evened) == ()
    assert evened.downbeats == pytest.approx(counted(tuple(range(0, 64, 4))).downbeats)
    assert len(evened.hits) == len(slipped.hits)


def test_a_lone_stray_bar_is_counted_through_to_the_end():
    slipped = counted((0, 4, 8, 10, *range(14, 62, 4)))
    evened = even_out_bar(slipped, 3)
    assert stray_bars(evened) == ()
    assert evened.bars[2].start == slipped.bars[2].start, "what is before it stays"


def test_a_confirmed_section_keeps_its_bars():
    slipped = counted((0, 4, 8, 10, *range(14, 62, 4)))
    line = slipped.bars[8]
    section = Section("Solo", line.start, slipped.bars[-1].end, 8, line.number, "B", confirmed=True)
    evened = even_out_bar(replace(slipped, sections=(*slipped.sections, section)), 3)
    assert line.start in evened.downbeats


def test_a_bar_of_five_beats_that_is_no_longer_than_the_others_has_four():
    beats = np.array(song([ROCK] * 16).beats)
    five = np.concatenate([beats[:8], np.linspace(beats[8], beats[12], 6)[:-1], beats[12:]])
    miscounted = counted((0, 4, 8, *range(13, 65, 4)), beats=five)
    assert lengths(miscounted)[2] == 5
    evened = even_out_bar(miscounted, 3)
    assert lengths(evened) == [4] * 16
    assert evened.bars[2].beats == pytest.approx(beats[8:12])


def test_an_even_bar_has_nothing_to_mend():
    with pytest.raises(InvalidTranscription, match="like the others"):
        even_out_bar(counted(tuple(range(0, 64, 4))), 3)

"""Beats in three: the half-time shuffle, the shuffle, 12/8, and what a tracker makes of them."""

import numpy as np
import pytest

from orchesis.music.instruments import Instrument
from orchesis.music.values import Meter
from orchesis.rhythm.feel import feel_report
from orchesis.rhythm.find import find_grid
from orchesis.rhythm.quantise import quantise
from orchesis.rhythm.readings import rank_readings
from orchesis.rhythm.ternary import dotted_beats, is_in_threes, is_shuffle, measure_thirds
from tests.composing import grid, heard, hits

KICK, SNARE, HAT = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED
HALF_TIME_SHUFFLE = {HAT: "x.xx.xx.xx.x", SNARE: ".g..g.Xg..g.", KICK: "x....x....x."}
SLOW_BLUES = {HAT: "xxxxxxxxxxxx", SNARE: "...X.....X..", KICK: "x....xx....."}
SHUFFLE = {HAT: "x.xx.xx.xx.x", SNARE: "...X.....X..", KICK: "x.....x.x..."}
WALTZ = {HAT: "x.x.x.x.x.x.", SNARE: "....X...X...", KICK: "x.......x..."}


def played(rows, bars):
    """What an ear would report of these rows in each bar."""
    strokes = [
        (hit.time, hit.instrument, hit.velocity / 127) for bar in bars for hit in hits(bar, rows)
    ]
    return heard(strokes, bars[-1].end + 1)


def beats_of(bars):
    return np.array([beat for bar in bars for beat in bar.beats] + [bars[-1].end])


@pytest.mark.parametrize(
    ("rows", "in_threes", "shuffle"),
    [
        (HALF_TIME_SHUFFLE, True, True),
        (SLOW_BLUES, True, False),
        (SHUFFLE, False, False),
    ],
)
def test_ghosts_between_a_shuffled_hat_are_no_compound_time(rows, in_threes, shuffle):
    bars = grid(16, bpm=100)
    found = played(rows, bars)
    beats = beats_of(bars)
    assert is_in_threes(*measure_thirds(found, beats)) is in_threes
    assert is_shuffle(found, beats) is shuffle


def test_a_half_time_shuffle_is_four_four_with_the_backbeat_on_three():
    bars = grid(24, bpm=132)
    reading = rank_readings(played(HALF_TIME_SHUFFLE, bars), beats_of(bars)[:-1])[0]
    assert reading.meter == Meter(4, 4)
    assert reading.tempo_bpm == pytest.approx(132, rel=0.02)
    assert reading.lines.half_time


def test_a_half_time_shuffle_tracked_at_half_its_pace_is_counted_twice_as_fast():
    bars = grid(24, bpm=150)
    reading = rank_readings(played(HALF_TIME_SHUFFLE, bars), beats_of(bars)[::2])[0]
    assert reading.tempo_bpm == pytest.approx(150, rel=0.02)


def test_every_other_triplet_tapped_is_no_waltz():
    """Three over two: the tapped beats are two triplets long, six of them a bar."""
    bars = grid(24, bpm=90)
    found = played(HALF_TIME_SHUFFLE, bars)
    tapped = np.arange(bars[0].start, bars[-1].end, 2 / 3 * 60 / 90)
    dotted = dotted_beats(found, tapped, tuple(range(0, len(tapped), 3)))
    assert dotted is not None
    assert np.diff(dotted) == pytest.approx(60 / 90, abs=0.01)
    nearest = np.abs(beats_of(bars)[None, :] - dotted[:, None]).min(axis=1)
    assert nearest.max() < 0.01, "and they are on the beats"


def test_a_waltz_stays_a_waltz():
    bars = grid(24, bpm=110, beats=3)
    found = played(WALTZ, bars)
    ones = tuple(range(0, 72, 3))
    assert dotted_beats(found, beats_of(bars), ones) is None
    grid_found = find_grid(found)
    assert grid_found is not None
    assert grid_found.readings[0].meter == Meter(3, 4)


def test_a_slow_blues_is_twelve_eight():
    bars = grid(16, bpm=60)
    reading = rank_readings(played(SLOW_BLUES, bars), beats_of(bars)[:-1])[0]
    assert reading.meter.is_compound


def test_the_feel_of_a_half_time_shuffle_is_called_so():
    bars = grid(8, bpm=132)
    written = quantise(bars, played(HALF_TIME_SHUFFLE, bars).onsets)
    assert {parts for bar in written.bars for parts in bar.divisions} == {3}
    strokes = [hit for bar in bars for hit in hits(bar, HALF_TIME_SHUFFLE)]
    said = feel_report(written.bars, strokes, half_time=True).words
    assert said == "Half-time, a shuffle in triplets."
    assert written.feel.swing_16 is None, "and no sixteenth swings where there is none"

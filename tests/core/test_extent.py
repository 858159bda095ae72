"""Where a song begins and ends: with its first sound and the bar of its last stroke, unless a band
plays before or after."""

from dataclasses import replace

import numpy as np
import pytest

from orchesis.listening.ear import Detail, Heard
from orchesis.listening.features import BANDS, LOW_BANDS
from orchesis.music.instruments import Instrument
from orchesis.music.values import Meter
from orchesis.rhythm.bars import BarLines
from orchesis.rhythm.find import bars_of, find_grid, fitted
from orchesis.rhythm.grid import lay_bars
from orchesis.rhythm.rewrite import beats_at_level
from tests.composing import ROCK, grid, heard, hits

KICK, CRASH = Instrument.KICK, Instrument.CRASH
BPM = 112
BEAT = 60 / BPM
LATE = (0.03, 0.05, 0.01, -0.04, 0.05, 0.06, 0.02)
"""Seconds by which the ear misses the beats in what rings."""


def ends(
    rock: int, *, rings: float, band: int = 0, silent: int = 0, alone: int = 0, masked: float = 0.4
) -> Heard:
    """So many bars of rock, then kick and crash on a one that rings for so many seconds.

    silent : bars of nothing before all of it. alone : bars that a band plays before the drums.
    band : bars that it plays on after them. masked : the share of drums in what sounds. The ear
    hears beats all through the recording, in the ring a little off.
    """
    before = silent + alone
    bars = grid(before + rock + band + 3, bpm=BPM)
    first, last = bars[silent].start, bars[before + rock].start
    played = bars[before : before + rock]
    strokes = [(hit.time, hit.instrument, 0.8) for bar in played for hit in hits(bar, ROCK)]
    strokes += [(last, KICK, 0.8), (last, CRASH, 0.8)]
    music = last + band * 4 * BEAT
    found = heard(strokes, bars[-1].end)
    frames = len(found.pulse)
    time = np.arange(frames) / 100
    loud = np.where(time < music, 0.9, np.clip(0.9 - 0.45 * (time - music) / rings, 0.0, 1.0))
    loud[time < first - 0.03] = 0.1
    features = np.repeat(loud[:, None], BANDS, axis=1).astype(np.float32)
    pulse = np.zeros(frames, np.float32)
    for beat in (beat for bar in bars for beat in bar.beats):
        after = round((beat - music) / BEAT)
        wrong = LATE[after - 1] if 0 < after <= len(LATE) else 0.0
        pulse[round((beat + wrong) * 100)] = 0.8 if first - 0.01 <= beat <= last + 0.01 else 0.4
    nothing = np.zeros((frames, 2), np.float32)
    low = np.repeat(loud[:, None], LOW_BANDS, axis=1).astype(np.float32)
    masks = np.full_like(features, masked)
    detail = Detail((KICK, CRASH), nothing, nothing, features, masks, low=low)
    return replace(found, pulse=pulse, detail=detail)


@pytest.mark.parametrize("rings", [0.5, 2.0, 3.5])
def test_the_last_bar_is_that_of_the_last_stroke_at_the_pace_before(rings):
    found = find_grid(ends(16, rings=rings))
    assert found is not None
    last = found.bars[-1]
    assert last.start == pytest.approx(16 * 4 * BEAT + grid(1, bpm=BPM)[0].start, abs=0.02)
    assert np.diff([*last.beats, last.end]) == pytest.approx([BEAT] * 4, abs=0.006)


def test_in_every_reading_nobody_counts_through_the_ring():
    what = ends(16, rings=3.5)
    found = find_grid(what)
    assert found is not None
    last_stroke = what.onsets[-1].time
    for reading in found.readings:
        bars = bars_of(reading, what.onsets[0].time, last_stroke)
        assert bars[-1].start < last_stroke + 0.06, reading.words
        # What is kept with the song gives the same bars when the reading is taken.
        assert beats_at_level(found.tracked, reading.key) == pytest.approx(reading.beats)
    assert found.tracked[-1] < last_stroke + 0.06


def test_where_the_band_plays_on_its_bars_stay():
    what = ends(16, rings=1.0, band=6)
    found = find_grid(what)
    assert found is not None
    assert sum(bar.start > what.onsets[-1].time - 0.06 for bar in found.bars) in (6, 7)


def test_one_late_stroke_at_the_end_does_not_slow_what_follows():
    beats = np.arange(32) * 0.5
    beats[-1] += 0.03
    bars = lay_bars(
        beats, BarLines(4, tuple(range(0, 32, 4)), 1.0, 1.0), Meter(4, 4), earliest=0.0, latest=20.1
    )
    assert bars[-1].end - bars[-1].start == pytest.approx(2.0, abs=0.001)


@pytest.mark.parametrize("silent", [1, 2, 5])
def test_silence_before_the_song_has_no_bars(silent):
    what = ends(16, rings=1.0, silent=silent)
    found = find_grid(what)
    assert found is not None
    assert found.bars[0].number == 1
    assert found.bars[0].start == pytest.approx(what.onsets[0].time, abs=0.03)
    assert len(found.bars) == 17


@pytest.mark.parametrize("silent", [2, 8])
def test_drums_alone_count_the_bars_in_which_they_wait_for_their_band(silent):
    found = find_grid(ends(16, rings=1.0, silent=silent, masked=0.99))
    assert found is not None
    assert len(found.bars) == silent + 17


def test_bars_that_the_band_plays_before_the_drums_stay():
    found = find_grid(ends(16, rings=1.0, silent=3, alone=8))
    assert found is not None
    assert len(found.bars) == 8 + 17


def test_strokes_that_are_given_up_at_the_end_take_their_bars_with_them():
    what = ends(16, rings=1.0)
    first = find_grid(what)
    assert first is not None
    kept = tuple(onset for onset in what.onsets if onset.time < what.onsets[-1].time - 1.0)
    found = fitted(first, replace(what, onsets=kept))
    assert found is not None
    assert len(first.bars) == 17
    assert len(found.bars) == 16
    assert found.bars[:15] == first.bars[:15]

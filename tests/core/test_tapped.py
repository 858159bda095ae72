"""Beats tapped along with a record: which ones are meant, and where all others are."""

import time
from dataclasses import replace

import numpy as np
import pytest

from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import Instrument
from orchesis.music.values import Bar, Meter
from orchesis.rhythm.tapped import on_taps
from tests.composing import ROCK, song
from tests.core.test_rewriting import by_time, readable

I = Instrument  # noqa: E741
GROOVE = {**ROCK, Instrument.KICK: "x.........x....."}


def played(pace, bars=40, silent=()):
    """A song whose moments are where `pace` puts those of a steady one; with its true bars."""
    made = song([{} if bar in silent else GROOVE for bar in range(bars)])
    laid = tuple(
        replace(
            bar,
            start=float(pace(bar.start)),
            end=float(pace(bar.end)),
            beats=tuple(float(pace(beat)) for beat in bar.beats),
        )
        for bar in made.bars
    )
    return replace(
        made.with_hits(replace(hit, time=float(pace(hit.time))) for hit in made.hits),
        bars=laid,
        duration=laid[-1].end + 1.0,
    )


def drifting(time):
    """A band that speeds up and slows down by a twentieth over twenty seconds."""
    return time + 0.5 * np.sin(time / 10)


def rubato(time):
    """Twice as slow in places as in others."""
    return time + 0.6 * np.sin(time / 2)


def beats_of(made):
    return np.array([beat for bar in made.bars for beat in bar.beats])


def tapped_by_hand(beats, early=0.035, seed=4):
    """As people tap: all a little early, none exactly so."""
    scatter = np.random.default_rng(seed).normal(0, 0.018, len(beats))
    return list(np.maximum(np.asarray(beats) - early + scatter, 0.0))


def off_by(made, beats):
    """By how much each true beat is missed, in seconds."""
    return np.abs(beats_of(made)[None] - np.asarray(beats)[:, None]).min(axis=1)


def without_grid(made):
    return replace(made, bars=(), beats=(), sections=(), readings=())


@pytest.mark.parametrize("early", [0.05, 0.0, -0.06])
def test_eight_taps_are_enough_for_a_song_that_drifts(early):
    """Two bars in its middle; what all of them are off by, hand or loudspeaker, is no matter."""
    true = played(drifting)
    taps = tapped_by_hand([*true.bar(18).beats, *true.bar(19).beats], early)
    laid = on_taps(without_grid(true), taps, 4)
    assert np.quantile(off_by(laid, beats_of(true)), 0.95) < 0.02
    starts = np.array([bar.start for bar in laid.bars])
    assert all(np.abs(starts - bar.start).min() < 0.03 for bar in true.bars)
    assert by_time(laid) == by_time(true)


def test_taps_on_one_and_three_stay_there_though_the_backbeat_is_louder():
    true = played(drifting)
    halves = beats_of(true)[::2]
    laid = on_taps(without_grid(true), tapped_by_hand(halves[20:28]), 2)
    assert np.quantile(off_by(laid, halves), 0.95) < 0.02
    assert len(beats_of(laid)) == pytest.approx(len(halves), abs=3)


def test_dotted_quarters_are_followed_through_their_eighths():
    bars = [{I.HIHAT_CLOSED: "xxxxxx", I.SNARE: "...X..", I.KICK: "x....."}] * 40
    made = song(bars, beats=2)
    slower = replace(
        made.with_hits(replace(hit, time=float(drifting(1.5 * hit.time))) for hit in made.hits),
        duration=1.5 * made.duration,
    )
    felt = drifting(1.5 * beats_of(made))
    laid = on_taps(without_grid(slower), tapped_by_hand(felt[30:38]), 2)
    assert np.quantile(off_by(laid, felt), 0.95) < 0.02


def test_among_the_taps_beats_are_finer_than_the_taps():
    true = played(drifting)
    wanted = beats_of(true)[40:72]
    taps = tapped_by_hand(wanted)
    laid = on_taps(without_grid(true), taps, 4)
    assert off_by(laid, wanted).mean() < 0.2 * np.abs(taps - wanted).mean()


def test_taps_may_slow_down_and_hurry_as_rubato_does_and_leave_a_beat_out():
    true = played(rubato, bars=12)
    wanted = beats_of(true)
    taps = tapped_by_hand(wanted, early=0.0)
    whole = on_taps(without_grid(true), taps, 4)
    assert off_by(whole, wanted).mean() < np.abs(np.asarray(taps) - wanted).mean()
    assert off_by(whole, wanted).max() < 0.06
    assert by_time(whole) == by_time(true)
    del taps[22]
    gap = on_taps(without_grid(true), taps, 4)
    assert off_by(gap, np.delete(wanted, 22)).max() < 0.06


def test_over_a_break_of_the_drums_the_pulse_goes_on():
    true = played(lambda time: 1.1 * time, silent=range(20, 24))
    laid = on_taps(without_grid(true), tapped_by_hand(beats_of(true)[16:28]), 4)
    assert off_by(laid, beats_of(true)).max() < 0.04


def test_a_pulse_is_told_without_any_stroke():
    nothing = without_grid(played(lambda time: time)).with_hits([])
    laid = on_taps(nothing, [4.0, 4.6, 5.2, 5.8, 6.4], 4)
    assert laid.tempo_bpm == pytest.approx(100, rel=0.001)
    assert off_by(laid, np.arange(1.0, 70.0, 0.6)).max() < 0.001
    assert "go on at that tempo" in laid.readings[0].evidence[0]


def with_grid(made, bars):
    """The same song, counted in these bars."""
    return replace(made, bars=tuple(bars), beats=tuple(b for bar in bars for b in bar.beats))


def bars_on(beats, lengths):
    """Bars of so many beats each, one after the other, on the beats of a song."""
    bars, first = [], 0
    for number, count in enumerate(lengths, 1):
        inside = tuple(float(beat) for beat in beats[first : first + count])
        first += count
        end = float(beats[first]) if first < len(beats) else 2 * inside[-1] - inside[-2]
        bars.append(Bar(number, inside[0], end, Meter(count, 4), inside, (4,) * count))
    return bars


def test_a_grid_that_goes_on_as_the_taps_do_stays_with_its_odd_bars():
    true = played(drifting)
    counted = with_grid(true, bars_on(beats_of(true), [4] * 9 + [2] + [4] * 25 + [2] + [4] * 5))
    laid = on_taps(counted, tapped_by_hand(beats_of(true)[58:70]), 4)
    assert [len(bar.beats) for bar in laid.bars] == [len(bar.beats) for bar in counted.bars]
    outside = np.r_[beats_of(true)[:58], beats_of(true)[70:]]
    assert off_by(laid, outside).max() < 1e-6
    assert "stay where they were" in laid.readings[0].evidence[0]


def test_a_grid_that_slips_is_put_right_from_the_taps_to_the_end():
    """From bar 21 on it counts the offbeats."""
    true = played(drifting)
    beats = beats_of(true)
    slipped = np.concatenate([beats[:80], (beats[80:-1] + beats[81:]) / 2])
    song_of_it = with_grid(true, bars_on(slipped, [4] * (len(slipped) // 4)))
    for first in (12, 92):
        laid = on_taps(song_of_it, tapped_by_hand(beats[first : first + 12]), 4)
        assert np.quantile(off_by(laid, beats), 0.95) < 0.02, f"tapped from beat {first} on"
        assert "follow the strokes from there" in laid.readings[0].evidence[0]


def test_a_song_counted_half_as_fast_is_counted_as_it_was_tapped():
    true = played(drifting)
    half = with_grid(true, bars_on(beats_of(true)[::2], [4] * 20))
    laid = on_taps(half, tapped_by_hand(beats_of(true)[8:16]), 4)
    assert len(laid.bars) == len(true.bars)
    assert {len(bar.beats) for bar in laid.bars} == {4}


def test_bars_end_where_the_song_did():
    """A grid that was found knows where it is silent; there are no bars then."""
    true = played(lambda time: 6.0 + time)
    longer = replace(true, duration=true.duration + 12.0)
    laid = on_taps(longer, tapped_by_hand(beats_of(true)[8:24]), 4)
    assert len(laid.bars) == len(true.bars)
    assert laid.bars[0].start == pytest.approx(true.bars[0].start, abs=0.01)


def test_what_is_confirmed_stays_where_nobody_tapped():
    true = played(drifting)
    beats = beats_of(true)
    # Confirmed as it is, a little late; all other bars count the offbeats.
    sure = slice(96, 112)
    slipped = np.concatenate(
        [(beats[:95] + beats[1:96]) / 2, beats[sure] + 0.02, (beats[112:-1] + beats[113:]) / 2]
    )
    other = with_grid(true, bars_on(slipped, [4] * 23 + [3] + [4] * 15))
    span = (float(beats[96]) + 0.02, float(beats[112]) + 0.02)
    laid = on_taps(other, tapped_by_hand(beats[8:24]), 4, [span])
    assert off_by(laid, beats[sure] + 0.02).max() < 1e-6
    starts = np.array([bar.start for bar in laid.bars])
    assert np.abs(starts - span[0]).min() < 1e-6
    assert np.quantile(off_by(laid, beats[:90]), 0.95) < 0.03


def test_tapping_lays_a_grid_over_the_whole_song_and_loses_nothing():
    first = readable()
    start = first.bar(4).start
    taps = start + np.arange(8) * 0.5 + np.array([0, 0.01, -0.01, 0, 0.01, 0, -0.01, 0])
    tapped = on_taps(first, list(taps), 4)
    assert tapped.tempo_bpm == pytest.approx(120, rel=0.02)
    assert min(abs(bar.start - start) for bar in tapped.bars) < 0.001
    assert by_time(tapped) == by_time(first)


def test_a_stray_tap_among_many_is_left_out():
    first = readable()
    start = first.bar(2).start
    taps = sorted([*(start + 0.5 * k for k in range(12)), start + 2.21])
    tapped = on_taps(first, taps, 4)
    assert tapped.tempo_bpm == pytest.approx(120, rel=0.01)
    assert by_time(tapped) == by_time(first)
    lines = [bar.start for bar in tapped.bars]
    assert all(min(abs(line - start - 2.0 * k) for line in lines) < 0.001 for k in range(3))


@pytest.mark.parametrize("taps", [[1.0, 1.5], [1.0, 1.5, 1.73, 3.1, 3.2], [1.0, 1.01, 1.02, 1.03]])
def test_taps_that_are_no_pulse_are_refused(taps):
    with pytest.raises(InvalidTranscription):
        on_taps(readable(), taps, 4)


IMPOSSIBLE_TAPS = {
    "outside the recording": [1e308, 1.0, 2.0, 3.0],
    "the recording, which lasts": [1e6, 1.0, 2.0, 3.0],
    "no numbers": [float("nan"), 1.0, 2.0, 3.0],
    "before it begins": [-1.0, 0.0, 1.0, 2.0],
    "same moment": [2.0] * 2000,
    "at most 2000": [0.001 * k for k in range(2001)],
    "at least 4": [1.0, 2.0],
}


@pytest.mark.parametrize("taps", IMPOSSIBLE_TAPS.values(), ids=IMPOSSIBLE_TAPS)
def test_taps_that_no_song_can_mean_are_refused_before_any_work(taps):
    began = time.process_time()
    with pytest.raises(InvalidTranscription):
        on_taps(readable(), taps, 4)
    assert time.process_time() - began < 0.2


def test_two_thousand_wild_taps_are_refused_within_a_second():
    long = replace(readable(), duration=1200.0)
    wild = np.sort(np.random.default_rng(3).uniform(0, 1200, 4000))
    apart = [float(wild[0])]
    for tap in wild:
        if tap - apart[-1] > 0.06:
            apart.append(float(tap))
    began = time.process_time()
    with pytest.raises(InvalidTranscription, match="no steady pulse"):
        on_taps(long, apart[:2000], 4)
    assert time.process_time() - began < 3

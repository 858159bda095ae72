"""One pulse all song long: what a tracker loses is put right, what a band does is left."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from benchmarks.scores import f_measure
from orchesis.music.instruments import Instrument
from orchesis.rhythm.beats import draw_to_strokes, track_beats
from orchesis.rhythm.find import find_grid
from orchesis.rhythm.steady import lengths_at_level, prevailing_length, steady_beats
from tests.composing import heard

KICK, SNARE, HAT = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED
RATE = 100.0
NEAR = 0.05


def pulse_of(strengths, seconds):
    """A curve of so much at each time, as wide as an ear's peaks are."""
    pulse = np.zeros(round(RATE * seconds), np.float32)
    for time, strength in strengths:
        frame = round(RATE * time)
        for offset, share in ((-1, 0.4), (0, 1.0), (1, 0.4)):
            if 0 <= frame + offset < len(pulse):
                pulse[frame + offset] = max(pulse[frame + offset], strength * share)
    return pulse


def both(pulse):
    """The beats as tracked, and as one pulse."""
    tracked = track_beats(pulse, RATE)
    return tracked, steady_beats(pulse, RATE, tracked, draw_to_strokes(tracked, []))


def f_of(beats, true):
    return f_measure(list(true), list(beats), NEAR)


def test_a_verse_in_half_time_keeps_the_beats_of_the_song():
    beat, over_six = 0.35, (0.42, 0.49, 0.56, 0.63)
    gaps = [beat] * 160 + [*over_six] + [2 * beat] * 100 + [*over_six[::-1]] + [beat] * 160
    played = 0.5 + np.cumsum(gaps)
    beats = np.arange(0.85, played[-1] + 0.01, beat)
    tracked, steady = both(pulse_of([(t, 0.7) for t in played], played[-1] + 1))
    assert f_of(tracked, beats) < 0.9  # it taps every other beat there
    assert f_of(steady, beats) > 0.98


def test_stabs_between_the_beats_are_no_beats():
    beats = np.arange(0.5, 90, 0.5)
    stabs = [(t + 0.25, 0.8) for t in beats if 40 < t < 60]
    pulse = pulse_of([*((t, 0.25 if 40 < t < 60 else 0.8) for t in beats), *stabs], 91)
    tracked, steady = both(pulse)
    assert f_of(tracked, beats) < 0.9  # it turns round and back
    assert f_of(steady, beats) > 0.99


def test_three_over_two_in_the_intro_is_no_other_tempo():
    beats = np.arange(0.5, 90, 0.4)
    intro = [(t, 0.7) for t in np.arange(0.5, 24, 0.6)]
    pulse = pulse_of([*intro, *((t, 0.7) for t in beats if t >= 24)], 91)
    tracked, steady = both(pulse)
    assert f_of(tracked, beats) < 0.93
    assert f_of(steady, beats) > 0.98


@pytest.mark.parametrize("change", [-0.2, 0.25])
def test_a_band_that_speeds_up_or_slows_down_all_song_long_is_followed(change):
    lengths = 0.5 / np.linspace(1, 1 + change, 160)
    beats = 0.5 + np.cumsum(lengths)
    _, steady = both(pulse_of([(t, 0.7) for t in beats], beats[-1] + 1))
    assert f_of(steady, beats) > 0.98


def test_a_song_that_stops_and_begins_anew_off_its_grid_is_found_again():
    first, second = np.arange(0.5, 30, 0.5), np.arange(32.2, 75, 0.5)
    beats = np.concatenate([first, second])
    _, steady = both(pulse_of([(t, 0.8) for t in beats], 76))
    assert f_of(steady[steady < 28], first[first < 28]) > 0.98
    assert f_of(steady[steady > 42], second[second > 42]) > 0.98


@settings(max_examples=8, deadline=None)
@given(bpm=st.floats(70, 170), wander=st.floats(0, 0.004), seed=st.integers(0, 1000))
def test_what_is_one_pulse_already_stays_where_it_is(bpm, wander, seed):
    rng = np.random.default_rng(seed)
    lengths = 60 / bpm * np.exp(np.cumsum(rng.normal(0, wander, 120)))
    beats = 0.5 + np.cumsum(lengths)
    tracked, steady = both(pulse_of([(t, 0.7) for t in beats], beats[-1] + 1))
    assert f_of(steady, beats) >= f_of(tracked, beats) - 0.02
    assert (np.diff(steady) > 0.2).all()


def test_lengths_are_read_as_parts_and_multiples_of_the_one_that_prevails():
    lengths = np.array([0.5] * 20 + [1.0] * 4 + [0.25] * 4 + [0.75] * 2 + [0.63] + [0.5] * 20)
    assert prevailing_length(lengths) == pytest.approx(0.5, rel=0.02)
    found = lengths_at_level(lengths, 0.5)
    assert np.isnan(found[30])
    assert np.delete(found, 30) == pytest.approx(0.5)


def test_the_bars_of_a_song_go_on_over_stabs_between_the_beats():
    beats = np.arange(0.5, 100, 0.5)
    place = np.arange(len(beats)) % 4
    strokes = [(t, HAT, 0.6) for t in beats] + [(t + 0.25, HAT, 0.5) for t in beats]
    strokes += [
        (t, KICK if where % 2 == 0 else SNARE, 0.8) for t, where in zip(beats, place, strict=True)
    ]
    turned = (beats > 40) & (beats < 60)
    said_of = [(t, 0.25 if late else 0.8) for t, late in zip(beats, turned, strict=True)]
    pulse = pulse_of([*said_of, *((t + 0.25, 0.8) for t in beats[turned])], 101)
    said = replace(heard(sorted(strokes), 101), pulse=pulse)
    assert np.ptp(np.diff(track_beats(pulse, RATE))) > 0.05
    grid = find_grid(said)
    assert grid is not None
    lengths = np.array([bar.end - bar.start for bar in grid.bars])
    assert np.ptp(lengths) < 0.02

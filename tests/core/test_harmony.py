"""Where the chord changes: composed chords whose changes are known."""

import numpy as np
import pytest

from benchmarks.scores import f_measure
from orchesis.audio.decode import SAMPLE_RATE as RATE
from orchesis.listening.features import BANDS, HOP, band_centres, ear_input
from orchesis.listening.harmony import harmonic_change, scaled_to_strong
from orchesis.listening.network_ear import normalised
from orchesis.listening.peaks import pick_peaks

BEAT = 0.5
C, F, G, A_MINOR = (48, 60, 64, 67), (41, 60, 65, 69), (43, 59, 62, 67), (45, 60, 64, 69)


def played(chords, beat=BEAT):
    """A chord a beat, struck anew each time; None holds nothing."""
    length = round(beat * RATE)
    time = np.arange(length) / RATE
    beats = []
    for chord in chords:
        tones = [
            np.sin(2 * np.pi * k * 440 * 2 ** ((pitch - 69) / 12) * time) / k**1.5
            for pitch in chord or ()
            for k in (1, 2, 3)
        ]
        beats.append(sum(tones, np.zeros(length)) * np.exp(-1.5 * time))
    return np.concatenate(beats)


def change_of(sound):
    bands = normalised(ear_input(sound.astype(np.float32), RATE, lambda share: None))[:, :BANDS]
    return harmonic_change(bands, band_centres(RATE), RATE / HOP)


def found_in(sound):
    curve = change_of(sound)
    peaks = pick_peaks(curve, half_width=30, above_mean=0.0, mean_width=5, floor=0.5)
    return list(peaks * HOP / RATE)


@pytest.mark.parametrize("beats_a_chord", [2, 4])
def test_a_chord_changes_where_it_was_composed_to_change(beats_a_chord):
    chords = [chord for chord in (C, F, G, A_MINOR, C, G) for _ in range(beats_a_chord)]
    changes = [k * beats_a_chord * BEAT for k in range(1, 6)]
    assert f_measure(changes, found_in(played(chords)), 0.1) > 0.9


def test_the_same_chord_struck_again_is_no_change():
    curve = change_of(played([C] * 8 + [F] * 8))
    at = round(8 * BEAT * RATE / HOP)
    struck = [curve[round(k * BEAT * RATE / HOP)] for k in (3, 4, 5, 11, 12, 13)]
    assert curve[at - 10 : at + 10].max() > 3 * max(struck)


def test_strokes_of_drums_do_not_change_the_chord():
    rng = np.random.default_rng(3)
    sound = played([C] * 8 + [G] * 8)
    for beat in range(16):
        first = round(beat * BEAT * RATE)
        noise = rng.normal(0, 1, 4000) * np.exp(-np.arange(4000) / 600)
        sound[first : first + 4000] += noise
    curve = change_of(sound)
    assert abs(int(curve.argmax()) * HOP / RATE - 8 * BEAT) < 0.1


@pytest.mark.parametrize("seconds", [0.0, 0.2, 0.4])
def test_what_is_too_short_for_two_halves_has_no_change(seconds):
    level = np.ones((round(seconds * 100), BANDS), np.float32)
    assert not harmonic_change(level, band_centres(RATE), 100.0).any()


def test_silence_has_no_change():
    assert not scaled_to_strong(np.zeros(500)).any()
    assert not scaled_to_strong(np.zeros(0)).size


def test_strong_values_come_out_near_one_however_loud_they_are():
    curve = np.abs(np.sin(np.arange(1000) / 7.0))
    for gain in (0.02, 1.0, 40.0):
        assert scaled_to_strong(gain * curve).max() == pytest.approx(1.0, abs=0.05)

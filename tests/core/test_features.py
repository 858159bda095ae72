"""The two spectrograms: what they can tell apart, and that their frames fall together."""

import numpy as np
import pytest

from orchesis.listening.features import (
    BANDS,
    BANDS_PER_OCTAVE,
    HOP,
    LOW_BANDS,
    LOW_LOWEST_HZ,
    band_centres,
    band_spectrogram,
    ear_input,
    low_spectrogram,
)

RATE = 44_100


def quiet(share: float) -> None:
    """Progress that nobody watches."""


def tone(hertz: float, seconds: float = 1.0) -> np.ndarray:
    times = np.arange(round(seconds * RATE)) / RATE
    return (0.5 * np.sin(2 * np.pi * hertz * times)).astype(np.float32)


def nearest_band(hertz: float) -> int:
    return round(float(np.log2(hertz / LOW_LOWEST_HZ) * BANDS_PER_OCTAVE))


@pytest.mark.parametrize("hertz", [55.0, 82.4, 110.0, 164.8, 247.0, 370.0])
def test_a_tone_stands_in_the_band_of_its_pitch(hertz):
    middle = low_spectrogram(tone(hertz), RATE)[50]
    assert abs(int(np.argmax(middle)) - nearest_band(hertz)) <= 1


@pytest.mark.parametrize(("low", "high"), [(80.0, 100.0), (110.0, 131.0), (147.0, 175.0)])
def test_two_toms_a_minor_third_apart_are_told_apart_by_the_long_window_only(low, high):
    """The same drum tuned otherwise: the band that is loudest for one is weak for the other."""

    def overlap(spectra: np.ndarray, others: np.ndarray) -> float:
        one, other = spectra[50], others[50]
        return float(one @ other / np.sqrt((one @ one) * (other @ other)))

    long = overlap(low_spectrogram(tone(low), RATE), low_spectrogram(tone(high), RATE))
    short = overlap(
        band_spectrogram(tone(low), RATE, quiet), band_spectrogram(tone(high), RATE, quiet)
    )
    assert long < 0.45 < short


def test_frames_of_both_fall_together():
    """A burst in the middle of two seconds is loudest in the same frame of either."""
    samples = np.zeros(2 * RATE, np.float32)
    burst = tone(150.0, 0.2) * np.hanning(round(0.2 * RATE)).astype(np.float32)
    samples[RATE - len(burst) // 2 :][: len(burst)] = burst
    both = ear_input(samples, RATE, quiet)
    assert both.shape == (2 * RATE // HOP + 1, BANDS + LOW_BANDS)
    for part in (both[:, :BANDS], both[:, BANDS:]):
        assert abs(int(np.argmax(part.sum(axis=1))) - 100) <= 1


def test_a_tone_has_the_same_level_in_both():
    both = ear_input(tone(220.0), RATE, quiet)[50]
    ratio = both[BANDS:].max() / both[:BANDS].max()
    assert 0.5 < ratio < 2.0


def test_there_are_as_many_bands_as_the_network_takes():
    assert len(band_centres(RATE)) == BANDS


@pytest.mark.parametrize("samples", [0, 1, HOP - 1, HOP, 5000])
def test_sounds_of_any_length_have_frames(samples):
    assert ear_input(np.zeros(samples, np.float32), RATE, quiet).shape[0] == samples // HOP + 1

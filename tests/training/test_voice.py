"""A voice of our own making: it sings in its pitch, hisses above it, breathes between phrases."""

from __future__ import annotations

import numpy as np
import pytest

from training.bank import RATE
from training.voice import Voice

BEATS = [0.5 * k for k in range(24)]


def spectrum(sound: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Frequencies in Hz and power."""
    return np.fft.rfftfreq(len(sound), 1 / RATE), np.abs(np.fft.rfft(sound)) ** 2


@pytest.mark.parametrize("hertz", [110.0, 196.0])
def test_a_vowel_has_its_pitch_and_no_hiss(hertz: float) -> None:
    voice = Voice(np.random.default_rng(1))
    voice.breath = 0.0
    at, power = spectrum(voice._vowel(0.5, hertz))
    partials = np.abs(at / hertz - np.round(at / hertz)) * hertz < 0.08 * hertz
    low = at < 4 * hertz
    assert power[partials & low].sum() > 0.8 * power[low].sum()
    assert power[at > 6000].sum() < 0.01 * power.sum()


def test_a_hiss_lies_in_its_band_and_swells() -> None:
    voice = Voice(np.random.default_rng(2))
    sound = voice._noise(0.2, (4500, 12000), 0.4)
    at, power = spectrum(sound)
    assert power[(at > 3500) & (at < 14500)].sum() > 0.9 * power.sum()
    first, second = np.abs(sound[: len(sound) // 10]).mean(), np.abs(sound).mean()
    assert first < 0.7 * second


def test_phrases_have_breaks_between_them() -> None:
    sung = Voice(np.random.default_rng(4)).sing(BEATS, 12 * RATE)
    assert sung.shape == (12 * RATE,)
    assert float(np.abs(sung).max()) == pytest.approx(1, abs=1e-5)
    loud = np.abs(sung).reshape(-1, RATE // 20).max(axis=1) > 0.02
    assert 0.2 < loud.mean() < 0.98


def test_one_seed_is_one_singer() -> None:
    one, again, other = (Voice(np.random.default_rng(s)).sing(BEATS, 4 * RATE) for s in (7, 7, 8))
    assert np.array_equal(one, again)
    assert not np.allclose(one, other)


def test_nothing_to_sing_to_is_sung_freely() -> None:
    sung = Voice(np.random.default_rng(3)).sing([], 6 * RATE)
    assert np.isfinite(sung).all()
    assert np.abs(sung).max() > 0.5

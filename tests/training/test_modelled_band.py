"""Instruments of our own making: in tune, in time, as loud as asked, and none like the other."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from orchesis.music.instruments import Instrument
from training.band import CHORDS, LEADS, Band
from training.composer import Composer, Stretch
from training.dataset import HELD_OUT_STYLES
from training.fluid import RATE
from training.modelled_band import (
    BASS,
    CHORD,
    LEAD,
    RANGES,
    ducked,
    ensemble,
    falling,
    held,
    instrument,
    modulated,
    plucked,
    struck,
    texture,
    treated,
)
from training.styles import STYLES


def pitch_by_ear(wave: np.ndarray, low: float, high: float) -> float:
    """The period that the sound repeats best at, in Hz, by autocorrelation."""
    wave = wave.astype(np.float64) - float(np.mean(wave))
    power = np.abs(np.fft.rfft(wave, 2 * len(wave))) ** 2
    alike = np.fft.irfft(power)[: len(wave)]
    lags = np.arange(round(RATE / high), round(RATE / low))
    return RATE / float(lags[int(np.argmax(alike[lags]))])


@pytest.mark.parametrize("kind", [plucked, held])
@pytest.mark.parametrize("pitch", [33, 45, 57])
def test_strings_and_held_tones_are_in_tune(kind, pitch: int) -> None:
    hertz = 440 * 2 ** ((pitch - 69) / 12)
    for seed in range(6):
        wave = kind(np.random.default_rng(seed))(pitch)[RATE // 5 : RATE // 2]
        heard = pitch_by_ear(wave, hertz * 0.9, hertz * 1.12)
        assert abs(12 * np.log2(heard / hertz)) < 0.35


@pytest.mark.parametrize("kind", [plucked, struck, modulated, falling])
def test_what_is_struck_fades(kind) -> None:
    for seed in range(5):
        wave = kind(np.random.default_rng(seed))(60) ** 2
        assert wave[: len(wave) // 3].sum() > wave[-(len(wave) // 3) :].sum()


def test_a_falling_sine_comes_down_to_its_note() -> None:
    wave = falling(np.random.default_rng(2))(33)
    early, late = wave[: RATE // 20], wave[RATE // 2 : RATE]

    def crossings(piece: np.ndarray) -> float:
        return np.count_nonzero(np.diff(np.signbit(piece))) / 2 / (len(piece) / RATE)

    assert crossings(late) == pytest.approx(55.0, rel=0.05)
    assert crossings(early) > 1.1 * crossings(late)


@pytest.mark.parametrize("role", [BASS, CHORD, LEAD])
def test_an_instrument_covers_its_range_at_full_level(role: str) -> None:
    made = instrument(np.random.default_rng(5), role)
    assert list(made) == list(RANGES[role])
    for wave in made.values():
        assert np.isfinite(wave).all()
        assert float(np.abs(wave).max()) == pytest.approx(1, abs=0.01)


def test_no_two_are_alike_and_one_seed_gives_one() -> None:
    one, again, other = (instrument(np.random.default_rng(s), CHORD) for s in (1, 1, 2))
    assert all(np.array_equal(one[pitch], again[pitch]) for pitch in one)
    spectra = [np.abs(np.fft.rfft(made[62].astype(float))) for made in (one, other)]
    assert float(np.corrcoef(*spectra)[0, 1]) < 0.95


def test_a_compressor_goes_down_at_the_kick_and_comes_back() -> None:
    sound = np.ones(2 * RATE, np.float32)
    made = ducked(np.random.default_rng(0), sound, [0.5, 1.0, 9.0])
    at = [round(t * RATE) for t in (0.49, 0.501, 0.7, 0.99, 1.001)]
    before, struck_at, later, back, again = (float(made[k]) for k in at)
    assert before == 1.0
    assert struck_at < 0.75
    assert struck_at < later < back
    assert again < back


def test_amplifiers_and_echoes_keep_time_and_level() -> None:
    """Labels say when a note is played: nothing may sound before it."""
    sound = np.zeros(2 * RATE, np.float32)
    note = instrument(np.random.default_rng(3), CHORD)[62].astype(np.float32)
    sound[RATE // 2 :] = note[: len(sound) - RATE // 2]
    changed = 0
    for seed in range(30):
        made = treated(np.random.default_rng(seed), sound, 0.5)
        assert float(np.abs(made).max()) == pytest.approx(float(np.abs(sound).max()), rel=1e-3)
        assert np.abs(made[: RATE // 2]).max() < 1e-6
        changed += not np.allclose(made, sound, atol=1e-3)
    assert 10 < changed < 30
    assert not treated(np.random.default_rng(0), np.zeros(RATE, np.float32), 0.5).any()


def test_what_lies_behind_fills_the_clip() -> None:
    for seed in range(12):
        made = texture(np.random.default_rng(seed), 3 * RATE)
        assert float(np.abs(made).max()) == pytest.approx(1, abs=1e-3)
        assert all(np.abs(third).max() > 1e-4 for third in np.split(made, 3))


@pytest.fixture(scope="module")
def stretch() -> Stretch:
    styles = tuple(style for style in STYLES if style not in HELD_OUT_STYLES)
    return Composer(np.random.default_rng(4), styles).compose(8.0)


def font() -> dict:
    """A font of one sine for every program: what plays it is not modelled."""
    t = np.arange(RATE // 2) / RATE
    note = {60: np.sin(2 * np.pi * 261.6 * t).astype(np.float16)}
    return {("font", program): note for program in (33, *CHORDS, *LEADS)}


def test_a_band_without_modelled_instruments_plays_as_before(stretch: Stretch) -> None:
    """Sets for figures are rendered again from their seeds: they must be what they were."""
    made = ensemble(np.random.default_rng(0), 1, 1, 1)
    plain, unused = (
        Band(font(), np.random.default_rng(9), players, 0.0).play(stretch, 8 * RATE)
        for players in (None, made)
    )
    assert np.array_equal(plain, unused)


def test_a_band_of_modelled_instruments_plays_on_the_beats(stretch: Stretch) -> None:
    made = ensemble(np.random.default_rng(0), 2, 2, 2)
    bands = [Band(font(), np.random.default_rng(s), made, 1.0) for s in range(6)]
    sounds = [band.play(stretch, 8 * RATE) for band in bands]
    assert all(float(np.abs(sound).max()) == pytest.approx(1, abs=1e-3) for sound in sounds)
    assert all(not np.allclose(one, other) for one, other in pairwise(sounds))
    assert all(s.instrument in Instrument for s in stretch.strokes)


def test_each_part_gets_an_instrument_of_its_kind() -> None:
    made = ensemble(np.random.default_rng(0), 1, 1, 1)
    band = Band(font(), np.random.default_rng(0), made, 1.0)
    for role, programs in ((BASS, (33,)), (CHORD, CHORDS), (LEAD, LEADS)):
        assert band._program(programs) is made[role][0]

"""Hats and crashes have a body below their wash, as recorded ones have."""

from __future__ import annotations

import numpy as np
import pytest

from orchesis.music.instruments import Instrument
from training.fluid import RATE
from training.plate_body import FIRST, Body, bodies, modes


def low_share(wave: np.ndarray) -> float:
    """Of the power of the first 30 ms, what lies below 1 kHz."""
    power = np.abs(np.fft.rfft(wave[:FIRST], 8192)) ** 2
    return float(power[np.fft.rfftfreq(8192, 1 / RATE) < 1000].sum() / power.sum())


def hiss(seconds: float = 0.5) -> np.ndarray:
    """What a plate sounds above 4 kHz, and nothing below."""
    rng = np.random.default_rng(1)
    spectrum = np.fft.rfft(rng.normal(size=round(seconds * RATE)))
    spectrum[np.fft.rfftfreq(round(seconds * RATE), 1 / RATE) < 4000] = 0
    wave = np.fft.irfft(spectrum)
    return wave * np.exp(-np.arange(len(wave)) / RATE / 0.1)


@pytest.mark.parametrize("share", [0.05, 0.3, 0.6])
def test_a_body_has_the_share_of_the_power_that_it_is_given(share: float) -> None:
    body = Body(np.array([310.0, 470.0]), np.array([1.0, 0.5]), 0.2, share)
    assert low_share(body.added(hiss(), 1.0)) == pytest.approx(share, abs=0.04)


def test_soft_strokes_have_more_body_than_hard_ones() -> None:
    body = Body(np.array([310.0]), np.array([1.0]), 0.2, 0.2)
    assert low_share(body.added(hiss(), 0.1)) > low_share(body.added(hiss(), 1.0))


def test_without_a_body_a_plate_is_what_it_was() -> None:
    body = Body(np.array([310.0]), np.array([1.0]), 0.2, 0.0)
    assert np.array_equal(body.added(hiss(), 1.0), hiss())


def test_modes_rise_from_the_lowest() -> None:
    hertz, gains = modes(np.random.default_rng(3), 250.0, 5)
    assert hertz[0] == 250.0
    assert (np.diff(hertz) > 0).all()
    assert gains.min() > 0


def test_a_pair_of_hats_has_one_gong_and_less_of_it_closed_and_kits_differ() -> None:
    drawn = [bodies(np.random.default_rng(seed)) for seed in range(60)]
    for kit in drawn:
        opened, closed = kit[Instrument.HIHAT_OPEN], kit[Instrument.HIHAT_CLOSED]
        assert np.array_equal(opened.hertz, closed.hertz)
        assert closed.share <= opened.share
        assert all(0 <= body.share < 0.95 for body in kit.values())
    shares = [kit[Instrument.HIHAT_OPEN].share for kit in drawn]
    assert min(shares) < 0.03
    assert 0.08 < float(np.median(shares)) < 0.4
    assert max(shares) > 0.55

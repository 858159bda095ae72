"""Kits by the acoustic model: what is struck sounds as such a drum must."""

from __future__ import annotations

import numpy as np
import pytest

from orchesis.music.instruments import Instrument
from training.band import Band
from training.bank import KEYS, RATE, Layer, synthesised
from training.labels import CLASSES
from training.modelled import Hand, ModelledKit, Room, touched
from training.plain import PlainRenderer
from training.render import TOMS_DOWN, Renderer, pitch_of
from training.ringing import BLOCK, ringing


@pytest.fixture(scope="module")
def kit() -> dict[Instrument, list[Layer]]:
    return ModelledKit(np.random.default_rng(3)).sounds()


def faded_after(layer: Layer, decibels: float) -> float:
    """Seconds after the attack until the sound lies so far below its peak for good."""
    energy = np.convolve(layer.samples[layer.attack :] ** 2, np.ones(441) / 441, "same")
    loud = np.nonzero(energy > energy.max() * 10 ** (-decibels / 10))[0]
    return float(loud[-1]) / RATE


def brightness(layer: Layer) -> float:
    """Centre of gravity of the spectrum of the first 50 ms, in Hz."""
    piece = layer.samples[layer.attack : layer.attack + RATE // 20]
    power = np.abs(np.fft.rfft(piece, 8192)) ** 2
    return float(np.sum(power * np.fft.rfftfreq(8192, 1 / RATE)) / np.sum(power))


def test_damped_sines_are_those_of_the_textbook() -> None:
    hertz, gains = np.array([110.0, 437.0, 3001.0]), np.array([1.0, 0.5, 0.2])
    seconds, length = np.array([0.3, 0.1, 0.02]), 5 * BLOCK + 17
    t = np.arange(length) / RATE
    sines = [
        g * np.exp(-t / s) * np.sin(2 * np.pi * f * t)
        for f, g, s in zip(hertz, gains, seconds, strict=True)
    ]
    assert np.allclose(ringing(hertz, gains, seconds, length), np.sum(sines, axis=0), atol=1e-5)


def test_a_long_touch_leaves_the_high_part_alone() -> None:
    low, high = touched(np.array([100.0, 6000.0]), 0.002)
    assert low > 0.9
    assert high < 0.05
    assert touched(np.array([6000.0]), 0.0001)[0] > 0.7


def test_a_stick_touches_once_and_a_brush_for_some_milliseconds() -> None:
    click = np.zeros(2000)
    click[0] = 1.0
    rng = np.random.default_rng(0)
    stick = Hand(0.001, 1, 0.0).struck(rng, click)
    brush = Hand(0.001, 40, 0.006).struck(rng, click)
    assert np.count_nonzero(np.abs(stick) > 1e-9) == 1
    spread = np.nonzero(np.abs(brush) > 1e-6)[0]
    assert 0.003 < (spread[-1] - spread[0]) / RATE <= 0.0061


def test_who_strikes_harder_touches_shorter() -> None:
    hand = Hand(0.001, 1, 0.0)
    assert hand.at(1.0) < hand.at(0.2)


def test_a_kit_has_every_drum_in_layers_from_soft_to_hard(
    kit: dict[Instrument, list[Layer]],
) -> None:
    assert set(kit) == set(CLASSES)
    for layers in kit.values():
        velocities = [layer.velocity for layer in layers]
        assert velocities == sorted(velocities)
        assert len(velocities) >= 3
        assert max(float(np.abs(layer.samples).max()) for layer in layers) == pytest.approx(1)
        assert all(np.isfinite(layer.samples).all() for layer in layers)


@pytest.mark.parametrize("seed", [5, 8])
def test_toms_go_down_hats_open_and_heads_are_darker_than_plates(seed: int) -> None:
    made = ModelledKit(np.random.default_rng(seed)).sounds()
    high, _, floor = (pitch_of(made[name][-1]) for name in TOMS_DOWN)
    assert high > floor
    hats = [
        faded_after(made[drum][-1], 20) for drum in (Instrument.HIHAT_CLOSED, Instrument.HIHAT_OPEN)
    ]
    assert hats[0] < hats[1]
    assert brightness(made[Instrument.KICK][-1]) < brightness(made[Instrument.HIHAT_CLOSED][-1])
    assert brightness(made[Instrument.TOM_FLOOR][-1]) < brightness(made[Instrument.CRASH][-1])


def test_no_two_kits_are_alike_and_one_seed_gives_one_kit(
    kit: dict[Instrument, list[Layer]],
) -> None:
    again = ModelledKit(np.random.default_rng(3)).sounds()
    other = ModelledKit(np.random.default_rng(4)).sounds()
    assert np.array_equal(again[Instrument.SNARE][-1].samples, kit[Instrument.SNARE][-1].samples)
    one, two = (k[Instrument.SNARE][-1].samples[:4000] for k in (kit, other))
    assert abs(float(np.corrcoef(one, two)[0, 1])) < 0.95


@pytest.mark.parametrize("gains", [(1.0, 0.3, 0.2), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)])
def test_a_drum_is_heard_at_once_through_any_microphone(gains: tuple[float, float, float]) -> None:
    """Labels say when a drum is heard, so the way to the microphone counts for nothing."""
    rng = np.random.default_rng(2)
    room = Room(
        np.array([6.0, 5.0, 2.8]), 0.6, np.array([3.0, 2.0, 0.8]), np.array([1.0, 4.0, 1.5]),
        gains, 6000.0,
    )  # fmt: skip
    heard = np.abs(room.path(rng, Instrument.SNARE))
    assert int(np.argmax(heard)) <= 1
    later = heard[round(0.004 * RATE) :]
    assert 0 < later.max() < heard.max()


def drawn(kind: type[Renderer], kit: dict[Instrument, list[Layer]], share: float) -> list[dict]:
    """Kits that a renderer draws which has these modelled drums and one recorded kit."""
    rng = np.random.default_rng(6)
    bank = {"synth": {drum: [synthesised(rng, drum)] for drum in KEYS}}
    renderer = kind(bank, ["synth"], Band({}, rng), rng, [], 4.0, [kit], share)
    return [renderer._drawn_kit() for _ in range(6)]


def test_plain_clips_have_modelled_kits_as_they_are(kit: dict[Instrument, list[Layer]]) -> None:
    """In two kits of five a third of the drums are recordings; the others are left alone."""
    own = [
        sum(made[drum] is kit[drum] for drum in kit if drum not in TOMS_DOWN)
        for made in drawn(PlainRenderer, kit, 1.0)
    ]
    assert max(own) == len(kit) - len(TOMS_DOWN)
    assert min(own) < max(own)


def test_hard_clips_bend_modelled_drums_too(kit: dict[Instrument, list[Layer]]) -> None:
    for made in drawn(Renderer, kit, 1.0):
        assert set(made) == set(kit)
        assert not any(made[drum] is kit[drum] for drum in kit)


def test_without_a_share_no_modelled_kit_is_drawn(kit: dict[Instrument, list[Layer]]) -> None:
    for made in drawn(PlainRenderer, kit, 0.0):
        assert not any(made[drum] is kit[drum] for drum in kit)

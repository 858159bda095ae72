"""What a struck plate sounds below its wash: a pair of hats' gong, a foot's clank, a crash's body.

In recordings of kits a good part of the power of the first 30 ms of hats and crashes lies below
1 kHz: none to two thirds in open hats, a tenth to two thirds in the foot's chick, a tenth to four
fifths in crashes (docs/notebook.md). It is a few low modes, which ring longer than the wash in
hats and mostly shorter in crashes. A microphone beside the plate hears them well, one overhead
hardly, so how strong they are is drawn for each kit.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from orchesis.music.instruments import Instrument as I
from training.chance import log_uniform
from training.fluid import RATE
from training.ringing import ringing

FIRST = round(0.03 * RATE)
"""Samples in which the share of a body's power is counted."""

TIGHTER = (0.05, 0.6)
"""A closed pair's body beside that of the same pair open."""


@dataclass(frozen=True)
class Body:
    """Low modes, shape (modes,): Hz, gains; seconds until 1/e; their share of the power, 0 to 1."""

    hertz: np.ndarray
    gains: np.ndarray
    seconds: float
    share: float

    def added(self, wave: np.ndarray, velocity: float) -> np.ndarray:
        """A wave, shape (samples,), with this body beneath it; soft strokes have more of it."""
        share = self.share ** (0.8 + 0.2 * velocity)
        fading = np.full(len(self.hertz), self.seconds)
        body = ringing(self.hertz, self.gains, fading, len(wave))
        # A plate takes a millisecond to begin: no click of its own.
        body = body * (1 - np.exp(-np.arange(len(wave)) / RATE / 0.001))
        power = float(np.mean(wave[:FIRST] ** 2)) / (float(np.mean(body[:FIRST] ** 2)) + 1e-12)
        return wave + body * np.sqrt(power * share / (1 - share))


def modes(rng: np.random.Generator, lowest: float, count: int) -> tuple[np.ndarray, np.ndarray]:
    """So many modes from `lowest` (Hz) upwards, and their gains."""
    steps = np.cumprod(rng.uniform(1.12, 1.9, count - 1))
    return lowest * np.append(1.0, steps), rng.uniform(0.2, 1, count)


def bodies(rng: np.random.Generator) -> dict[I, Body]:
    """Of one kit: its pair of hats open, closed and by foot, its crash, its ride."""
    gong, gains = modes(rng, float(rng.uniform(220, 620)), int(rng.integers(1, 4)))
    opened = Body(gong, gains, log_uniform(rng, 0.06, 0.5), float(rng.uniform(0, 0.85)) ** 1.7)
    closed = replace(
        opened,
        seconds=log_uniform(rng, 0.02, 0.2),
        share=opened.share * float(rng.uniform(*TIGHTER)),
    )
    clank = modes(rng, log_uniform(rng, 90, 420), int(rng.integers(1, 4)))
    foot = Body(*clank, log_uniform(rng, 0.008, 0.06), float(rng.uniform(0, 0.85)) ** 1.3)
    struck = modes(rng, float(rng.uniform(220, 800)), int(rng.integers(3, 9)))
    crash = Body(*struck, log_uniform(rng, 0.02, 0.25), float(rng.uniform(0, 0.9)))
    hum = modes(rng, float(rng.uniform(180, 500)), int(rng.integers(2, 6)))
    ride = Body(*hum, log_uniform(rng, 0.05, 0.6), float(rng.uniform(0, 0.55)) ** 2)
    return {
        I.HIHAT_OPEN: opened, I.HIHAT_CLOSED: closed, I.HIHAT_FOOT: foot, I.CRASH: crash,
        I.RIDE: ride,
    }  # fmt: skip

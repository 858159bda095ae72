"""A voice of our own making: sung or spoken syllables, with what a detector takes for drums.

A source-filter synthesis (Fant 1960; formants of vowels after Peterson and Barney 1952): pulses
through three resonators, fricatives as bands of noise, plosives as short bursts after a silence. It
says nothing; it only hisses, pops and breathes where voices do.
"""

from __future__ import annotations

import numpy as np
from scipy.signal import butter, lfilter, sosfilt

from training.bank import RATE
from training.chance import log_uniform

VOWELS = (
    (270, 2290, 3010),
    (390, 1990, 2550),
    (530, 1840, 2480),
    (660, 1720, 2410),
    (730, 1090, 2440),
    (570, 840, 2410),
    (440, 1020, 2240),
    (300, 870, 2240),
)
FRICATIVES = ((4500, 12000), (2200, 7000), (1500, 9000), (500, 5000))
"""Bands in Hz of s, sh, f and h."""
PLOSIVES = ((300, 1500), (2500, 7000), (1200, 3500))
"""Bands in Hz of the bursts of p, t and k."""


def _resonator(samples: np.ndarray, hertz: float, width: float) -> np.ndarray:
    radius = np.exp(-np.pi * width / RATE)
    poles = [1.0, -2 * radius * np.cos(2 * np.pi * hertz / RATE), radius**2]
    return lfilter([1.0 - radius], poles, samples)


class Voice:
    """One singer or speaker."""

    def __init__(self, rng: np.random.Generator) -> None:
        self.rng = rng
        self.pitch = log_uniform(rng, 90, 330)
        self.size = float(rng.uniform(0.9, 1.2))
        self.hiss = float(10 ** rng.uniform(-1.2, 0.0))
        self.breath = float(10 ** rng.uniform(-2.5, -1.2))

    def _vowel(self, seconds: float, hertz: float) -> np.ndarray:
        rng = self.rng
        count = round(seconds * RATE)
        time = np.arange(count) / RATE
        glide = np.linspace(rng.uniform(0.94, 1.0), rng.uniform(0.97, 1.05), count)
        vibrato = 1 + 0.012 * rng.random() * np.sin(2 * np.pi * rng.uniform(4.5, 6.5) * time)
        phase = np.cumsum(hertz * glide * vibrato) / RATE % 1.0
        pulses = np.where(phase < 0.6, np.sin(np.pi * phase / 0.6) ** 2, 0.0)
        source = np.diff(pulses, prepend=0.0) + self.breath * rng.normal(size=count) * pulses
        sound = source
        for formant, width in zip(VOWELS[int(rng.integers(8))], (80, 110, 160), strict=True):
            sound = sound + 6.0 * _resonator(sound, formant * self.size, width)
        rise = min(count // 2, round(rng.uniform(0.008, 0.05) * RATE))
        fall = min(count // 2, round(rng.uniform(0.02, 0.12) * RATE))
        shape = np.ones(count)
        shape[:rise] = np.linspace(0, 1, rise)
        shape[count - fall :] *= np.linspace(1, 0, fall)
        return shape * sound / (float(np.abs(sound).max()) + 1e-9)

    def _noise(self, seconds: float, edges: tuple[int, int], rise: float) -> np.ndarray:
        """A band of noise that swells in the share `rise` of its length, and goes."""
        count = max(64, round(seconds * RATE))
        low, high = (edge * self.rng.uniform(0.85, 1.15) for edge in edges)
        band = butter(2, [low, min(high, 20_000)], "bandpass", fs=RATE, output="sos")
        noise = sosfilt(band, self.rng.normal(size=count))
        place = np.linspace(0, 1, count)
        shape = np.minimum(1, place / max(rise, 1e-3)) * np.minimum(1, (1 - place) / 0.3)
        return shape * noise / (float(np.abs(noise).max()) + 1e-9)

    def _syllable(self, seconds: float, hertz: float) -> np.ndarray:
        rng = self.rng
        parts = []
        start = rng.random()
        if start < 0.35:
            edges = FRICATIVES[int(rng.integers(4))]
            parts.append(self.hiss * self._noise(rng.uniform(0.05, 0.18), edges, 0.4))
        elif start < 0.7:
            parts.append(np.zeros(round(rng.uniform(0.02, 0.07) * RATE)))
            edges = PLOSIVES[int(rng.integers(3))]
            burst = self._noise(rng.uniform(0.006, 0.035), edges, 0.05)
            parts.append(rng.uniform(0.5, 1.5) * self.hiss * burst)
        parts.append(self._vowel(max(0.05, seconds), hertz))
        if rng.random() < 0.25:
            edges = FRICATIVES[int(rng.integers(2))]
            parts.append(self.hiss * self._noise(rng.uniform(0.06, 0.2), edges, 0.3))
        return np.concatenate(parts)

    def sing(self, beats: list[float], samples: int) -> np.ndarray:
        """Syllables in phrases with breaths between, on the beats or freely; loudest near 1."""
        rng = self.rng
        mix = np.zeros(samples)
        beat = float(np.median(np.diff(beats))) if len(beats) > 2 else 0.5
        free = rng.random() < 0.35 or len(beats) < 3
        at, left = float(rng.uniform(0, 2)), int(rng.integers(4, 14))
        step = int(rng.integers(-3, 4))
        while at < samples / RATE - 0.5:
            step = int(np.clip(step + rng.integers(-2, 3), -7, 9))
            wander = rng.uniform(0.85, 1.2) if free else 2 ** (step / 12)
            length = rng.uniform(0.07, 0.25) if free else beat * float(rng.choice([0.5, 0.5, 1, 2]))
            sound = self._syllable(0.8 * length, self.pitch * wander) * rng.uniform(0.4, 1.0)
            first = round(at * RATE)
            sound = sound[: samples - first]
            mix[first : first + len(sound)] += sound
            at += max(length, len(sound) / RATE * 0.8) + float(rng.normal(0, 0.006)) ** 2
            left -= 1
            if left == 0:
                left, breath = int(rng.integers(4, 14)), rng.uniform(0.2, 0.5)
                sound = 0.3 * self.hiss * self._noise(breath, (800, 6000), 0.5)
                first = round((at + 0.1) * RATE)
                sound = sound[: max(0, samples - first)]
                mix[first : first + len(sound)] += sound
                at += 0.1 + breath + float(rng.uniform(0, 2.0))
        top = float(np.abs(mix).max())
        return (mix / top if top else mix).astype(np.float32)

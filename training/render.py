"""The renderer: from a composed stretch to features and labels.

A kit is drawn from the bank (one source, or several mixed; layers, pitch, decay, filters), strokes
are laid at the sample, the band joins at some level, and the whole goes through a room, a
tape and a converter. Labels are the attacks as laid; a stroke that is masked (far softer than
what sounds with it) is left out of the loss instead of being asked for.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.signal import butter, fftconvolve, sosfilt

from orchesis.listening.features import HOP, band_spectrogram
from orchesis.music.instruments import Instrument as I
from training.band import Band
from training.bank import RATE, Bank, Layer, Sound, synthesised
from training.composer import Stretch
from training.labels import CLASSES, INDEX

SECONDS = 20.0
FRAMES = int(SECONDS * RATE) // HOP + 1
CLASS_LEVEL = {
    I.KICK: 1.0,
    I.SNARE: 0.9,
    I.CROSS_STICK: 0.5,
    I.HIHAT_CLOSED: 0.3,
    I.HIHAT_OPEN: 0.38,
    I.HIHAT_FOOT: 0.22,
    I.RIDE: 0.32,
    I.RIDE_BELL: 0.35,
    I.CRASH: 0.6,
    I.TOM_HIGH: 0.75,
    I.TOM_MID: 0.8,
    I.TOM_FLOOR: 0.85,
    I.CLAP: 0.5,
    I.SHAKER: 0.16,
    I.TAMBOURINE: 0.25,
    I.COWBELL: 0.35,
}
CHOKERS = {I.HIHAT_CLOSED, I.HIHAT_FOOT, I.HIHAT_OPEN}


@dataclass(frozen=True)
class Clip:
    """Features (frames, bands); onset and loudness targets (frames, classes); beats (frames, 2)."""

    features: np.ndarray
    onsets: np.ndarray
    loudness: np.ndarray
    beats: np.ndarray


class Renderer:
    """Renders stretches with the given sources."""

    def __init__(
        self, bank: Bank, sources: list[str], band: Band, rng: np.random.Generator
    ) -> None:
        self.bank, self.sources, self.band, self.rng = bank, sources, band, rng

    def _kit(self) -> dict[I, Sound]:
        """A sound for each drum: mostly from one source, gaps filled from the others."""
        rng = self.rng
        weights = np.array(
            [{"fluid": 4, "timgm": 4, "gmrock": 3, "synth": 2}.get(s, 1.2) for s in self.sources]
        )
        weights = weights / weights.sum()
        main = str(rng.choice(self.sources, p=weights))
        mixed = rng.random() < 0.45
        kit = {}
        for instrument in CLASSES:
            having = [s for s in self.sources if self.bank[s].get(instrument)]
            if not having:
                continue
            source = main
            if main not in having or (mixed and rng.random() < 0.5):
                share = np.array([weights[self.sources.index(s)] for s in having])
                source = str(rng.choice(having, p=share / share.sum()))
            sounds = self.bank[source][instrument]
            sound = sounds[int(rng.integers(len(sounds)))]
            if source == "synth" and rng.random() < 0.3:
                sound = synthesised(rng, instrument)
            kit[instrument] = self._bent(sound)
        return kit

    def _bent(self, sound: Sound) -> Sound:
        """Another drum out of this one: pitch, decay, filter."""
        rng = self.rng
        ratio = 2 ** (rng.uniform(-3, 3) / 12)
        decay = (
            float(np.exp(rng.uniform(np.log(0.08), np.log(3.0)))) if rng.random() < 0.6 else None
        )
        tilt = butter(
            1,
            rng.uniform(300, 6000),
            "lowpass" if rng.random() < 0.5 else "highpass",
            fs=RATE,
            output="sos",
        )
        amount = rng.uniform(0, 0.6) if rng.random() < 0.5 else 0.0
        bent = []
        for layer in sound:
            places = np.arange(0, len(layer.samples) - 1, ratio)
            samples = np.interp(places, np.arange(len(layer.samples)), layer.samples)
            attack = round(layer.attack / ratio)
            if decay is not None:
                samples *= np.exp(-np.maximum(0, np.arange(len(samples)) - attack) / (decay * RATE))
            if amount:
                samples = (1 - amount) * samples + amount * sosfilt(tilt, samples)
            bent.append(Layer(samples.astype(np.float32), attack, layer.velocity))
        return bent

    def _drums(
        self, stretch: Stretch, length: int, levels: dict[I, float]
    ) -> tuple[np.ndarray, list[tuple[float, I, float]]]:
        rng = self.rng
        kit = self._kit()
        second = self._kit() if rng.random() < 0.25 else None
        mix = np.zeros(length, np.float32)
        power = float(rng.uniform(0.8, 2.2))
        laid: list[tuple[float, I, float]] = []
        hat_times = sorted(s.time for s in stretch.strokes if s.instrument in CHOKERS)
        for stroke in stretch.strokes:
            if stroke.time >= SECONDS - 0.05 or stroke.instrument not in kit:
                continue
            loud = stroke.velocity**power * levels[stroke.instrument]
            for number, drums in enumerate((kit, second)):
                if drums is None or (number and rng.random() < 0.3):
                    continue
                sound = drums[stroke.instrument]
                layer = min(sound, key=lambda item: abs(item.velocity - stroke.velocity))
                top = float(np.abs(layer.samples).max()) or 1.0
                piece = layer.samples / top * loud * (0.5 if number else 1.0)
                if stroke.instrument is I.HIHAT_OPEN:
                    index = int(np.searchsorted(hat_times, stroke.time + 0.01))
                    if index < len(hat_times):
                        stop = round((hat_times[index] - stroke.time) * RATE) + layer.attack
                        if stop < len(piece):
                            piece = piece.copy()
                            piece[stop:] *= np.exp(-np.arange(len(piece) - stop) / (0.012 * RATE))
                first = round(stroke.time * RATE) - layer.attack
                if first < 0:
                    piece, first = piece[-first:], 0
                piece = piece[: length - first]
                mix[first : first + len(piece)] += piece
            laid.append((stroke.time, stroke.instrument, loud))
        return mix, laid

    def _room(self, sound: np.ndarray) -> np.ndarray:
        rng = self.rng
        if rng.random() < 0.35:
            return sound
        seconds = float(np.exp(rng.uniform(np.log(0.08), np.log(1.8))))
        count = round(min(2.0, 2 * seconds) * RATE)
        response = rng.normal(size=count) * np.exp(-3 * np.arange(count) / (seconds * RATE))
        response = sosfilt(
            butter(1, rng.uniform(2000, 12000), "lowpass", fs=RATE, output="sos"), response
        )
        response[: round(rng.uniform(0.001, 0.02) * RATE)] = 0
        wet = fftconvolve(sound, response.astype(np.float32))[: len(sound)]
        scale = np.abs(sound).max() / (np.abs(wet).max() + 1e-9)
        return sound + float(rng.uniform(0.03, 0.35)) * scale * wet

    def _tape(self, mix: np.ndarray) -> np.ndarray:
        rng = self.rng
        if rng.random() < 0.6:
            for _ in range(int(rng.integers(1, 4))):
                centre = float(np.exp(rng.uniform(np.log(60), np.log(12000))))
                band = butter(
                    1, [centre / 1.6, min(centre * 1.6, 20000)], "bandpass", fs=RATE, output="sos"
                )
                mix = mix + float(rng.uniform(-0.6, 1.0)) * sosfilt(band, mix)
        if rng.random() < 0.15:
            mix = sosfilt(
                butter(4, rng.uniform(4000, 14000), "lowpass", fs=RATE, output="sos"), mix
            )
        if rng.random() < 0.1:
            mix = sosfilt(butter(2, rng.uniform(60, 250), "highpass", fs=RATE, output="sos"), mix)
        if rng.random() < 0.15:
            lag = round(rng.uniform(0.08, 0.4) * RATE)
            echo = np.zeros_like(mix)
            echo[lag:] = mix[:-lag]
            mix = mix + float(rng.uniform(0.05, 0.25)) * echo
        mix = mix / (np.abs(mix).max() + 1e-9)
        if rng.random() < 0.5:
            smooth = sosfilt(
                butter(1, rng.uniform(5, 30), "lowpass", fs=RATE, output="sos"), np.abs(mix)
            )
            mix = mix / (np.maximum(smooth, 0.02) ** rng.uniform(0.1, 0.6))
            mix = mix / (np.abs(mix).max() + 1e-9)
        if rng.random() < 0.5:
            drive = float(np.exp(rng.uniform(0, np.log(5))))
            mix = np.tanh(drive * mix) / np.tanh(drive)
        mix = mix + rng.normal(size=len(mix)) * 10 ** rng.uniform(-5, -2.4)
        return mix * 10 ** (rng.uniform(-18, 0) / 20)

    def render(self, stretch: Stretch, *, stem: bool) -> Clip:
        """One clip; a stem has drums only."""
        rng = self.rng
        length = int(SECONDS * RATE)
        levels = {i: CLASS_LEVEL[i] * 10 ** (rng.uniform(-5, 5) / 20) for i in CLASSES}
        drums, laid = self._drums(stretch, length, levels)
        drums = self._room(drums)
        mix = drums
        if not stem:
            band = (
                self._room(self.band.play(stretch, length))
                if rng.random() < 0.6
                else self.band.play(stretch, length)
            )
            level = 10 ** (rng.uniform(-10, 8) / 20)
            power = float(np.sqrt(np.mean(drums**2))) or 0.1
            mix = drums + band * level * power / (float(np.sqrt(np.mean(band**2))) + 1e-9)
        mix = self._tape(mix).astype(np.float32)
        features = band_spectrogram(mix, RATE, lambda share: None)[:FRAMES]
        onsets = np.zeros((FRAMES, len(CLASSES)), np.float16)
        loudness = np.zeros((FRAMES, len(CLASSES)), np.float16)
        for time, instrument, loud in laid:
            frame = round(time * RATE / HOP)
            if not 0 <= frame < FRAMES:
                continue
            column = INDEX[instrument]
            onsets[frame, column] = 1.0
            loudness[frame, column] = max(
                loudness[frame, column], min(1.0, loud / (levels[instrument] + 1e-9))
            )
        beats = np.zeros((FRAMES, 2), np.float16)
        for column, times in enumerate((stretch.beats, stretch.downbeats)):
            for time in times:
                frame = round(time * RATE / HOP)
                if 0 <= frame < FRAMES:
                    beats[frame, column] = 1.0
        return Clip(np.log10(1e-6 + features).astype(np.float16), onsets, loudness, beats)

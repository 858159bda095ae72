"""The renderer: from a composed stretch to features and labels.

A kit is drawn from the bank (one source, or several mixed; layers, pitch, decay, filters), strokes
are laid at the sample, the band joins at some level, and the whole goes through a room, a
tape and a converter. Labels are the attacks as laid; a stroke that is masked (far softer than
what sounds with it) is left out of the loss instead of being asked for.
"""

from __future__ import annotations

import subprocess
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy.signal import butter, fftconvolve, sosfilt

from orchesis.listening.features import BANDS, HOP, WINDOW, ear_input, filterbank
from orchesis.music.instruments import TOMS
from orchesis.music.instruments import Instrument as I
from training.band import Band
from training.bank import RATE, Bank, Layer, Sound, synthesised
from training.chance import log_uniform
from training.composer import Stretch
from training.labels import CLASSES, INDEX

SECONDS = 20.0
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
RARE = {I.CROSS_STICK, I.HIHAT_FOOT, I.RIDE_BELL, I.COWBELL, *TOMS}
RARE_SYNTHESISED = 0.25
"""Drums of which few recordings are here: so many of them are of our own making."""

TOMS_DOWN = (I.TOM_HIGH, I.TOM_MID, I.TOM_FLOOR)
TUNED = 0.8
"""So many kits have their toms tuned to each other; the others' are only put in order."""
TOM_INTERVALS = (1.12, 1.5)
"""From one tom to the next: a major second to a fifth."""
LEAST_INTERVAL = 1.06
"""Two drums nearer than a semitone are one and the same tom."""

CHOKERS = {I.HIHAT_CLOSED, I.HIHAT_FOOT, I.HIHAT_OPEN}


@dataclass(frozen=True)
class Clip:
    """What a clip is learnt from.

    features : (frames, bands), log10 of magnitude.
    onsets : (frames, classes): 1 a stroke, 2 a stroke that the rest covers.
    loudness : (frames, classes), 0 to 1 at onsets.
    beats : (frames, 2), 1 at beats and at downbeats; UNTOLD where nobody knows them.
    masks : (frames, bands), 0 to 1: how much of the power is the drums'.
    """

    features: np.ndarray
    onsets: np.ndarray
    loudness: np.ndarray
    beats: np.ndarray
    masks: np.ndarray


@dataclass(frozen=True)
class Laid:
    """A stroke as laid: seconds, drum, loudness at its level, and what it adds to each band."""

    time: float
    instrument: I
    loudness: float
    bands: np.ndarray


@dataclass(frozen=True)
class Sounding:
    """The audio of a clip, shape (samples,) each: all, the drums, the rest; what was laid."""

    mix: np.ndarray
    drums: np.ndarray
    rest: np.ndarray
    laid: list[Laid]
    levels: dict[I, float]


BLENDED = 0.35
"""Share of drums that are made of two recordings: few kits are here, and many in the world."""

MODELLED_MIXED = 0.4
"""Share of modelled kits of which a third of the drums are recordings."""

FEWEST_LAYERS, SOFTENED = 3, 0.7
"""Drums with fewer recordings get softer strokes of our own making, so many of them."""

MASKED_BELOW = 0.35
"""A stroke is covered when it makes up this share of what sounds 16 ms after it in fewer bands than
`SHOWN_BANDS`."""

SHOWN_BANDS = 3

FLOOR = 10**-2.6
"""What lies so far below the clip's loud frames drowns in the tape's noise: no band shows it."""

LATER = round(0.016 * RATE)

UNTOLD = 255
"""In place of beats of a song whose metre nobody wrote down: the loss does not ask for them."""


COMMONNESS = {"fluid": 4.0, "timgm": 4.0, "gmrock": 3.0, "synth": 2.0}
"""How often a source is taken; the others 1.2: they have few recordings or few drums."""


def chosen_source(rng: np.random.Generator, sources: list[str]) -> str:
    """One of the sources, those with many recordings of real drums more often."""
    weights = np.array([COMMONNESS.get(source, 1.2) for source in sources])
    return str(rng.choice(sources, p=weights / weights.sum()))


def resampled(samples: np.ndarray, ratio: float) -> np.ndarray:
    """The same sound higher by this ratio, and shorter."""
    places = np.arange(0, len(samples) - 1, ratio)
    return np.interp(places, np.arange(len(samples)), samples).astype(np.float32)


def softened(sound: Sound, rng: np.random.Generator) -> Sound:
    """A drum of one or two recordings with softer strokes made of them: duller, and shorter.

    A soft stroke excites the high partials less; recordings that a kit has once only are else
    as bright for a ghost as for an accent.
    """
    loudest = sound[-1]
    slope = float(rng.uniform(0.3, 1.2))
    shorter = float(rng.uniform(0.0, 0.6))
    bright = float(rng.uniform(7000, 16000))
    made = []
    for velocity in (0.15, 0.35, 0.55, 0.75):
        low = butter(1, max(400.0, bright * velocity**slope), "lowpass", fs=RATE, output="sos")
        samples = sosfilt(low, loudest.samples)
        late = np.maximum(0, np.arange(len(samples)) - loudest.attack) / RATE
        samples = samples * np.exp(-late * shorter * (1 - velocity) / 0.15)
        made.append(Layer(samples.astype(np.float32), loudest.attack, velocity))
    return [*made, Layer(loudest.samples, loudest.attack, 1.0)]


def blended(sound: Sound, other: Layer, share: float) -> Sound:
    """A drum made of two, their attacks together."""
    result = []
    for layer in sound:
        top = float(np.abs(layer.samples).max())
        added = other.samples[max(0, other.attack - layer.attack) :]
        added = np.concatenate([np.zeros(max(0, layer.attack - other.attack), np.float32), added])
        samples = np.zeros(max(len(added), len(layer.samples)), np.float32)
        samples[: len(layer.samples)] += (1 - share) * layer.samples
        samples[: len(added)] += share * top * added / (float(np.abs(added).max()) + 1e-9)
        result.append(Layer(samples, layer.attack, layer.velocity))
    return result


def pitch_of(layer: Layer) -> float:
    """The strongest frequency between 40 and 400 Hz, in Hz."""
    spectrum = np.abs(np.fft.rfft(layer.samples[: RATE // 4], 4 * 16384))
    hertz = np.arange(len(spectrum)) * RATE / (4 * 16384)
    inside = (hertz > 40) & (hertz < 400)
    return float(hertz[inside][int(np.argmax(spectrum[inside]))])


def put_in_order(kit: dict[I, Sound]) -> None:
    """Give the toms of a kit the names that their pitches ask for, in place: high above mid above
    floor. Drums of several recordings come in any order, and one kit names its own upside down.
    """
    names = [name for name in TOMS_DOWN if name in kit]
    sounds = sorted((kit[name] for name in names), key=lambda sound: -pitch_of(sound[-1]))
    kit.update(zip(names, sounds, strict=True))


def toms_apart(kit: dict[I, Sound]) -> bool:
    """Whether each tom of a kit is pitched above the next one by LEAST_INTERVAL or more."""
    pitches = [pitch_of(kit[name][-1]) for name in TOMS_DOWN if name in kit]
    return all(one >= LEAST_INTERVAL * other for one, other in pairwise(pitches))


def onset_bands(piece: np.ndarray) -> np.ndarray:
    """Band magnitudes of a stroke alone, as the features would show them 16 ms after its attack."""
    block = np.zeros(WINDOW, np.float32)
    # The window is centred LATER samples after the attack: the attack lies in its first half.
    begin = WINDOW // 2 - LATER
    part = piece[: WINDOW - begin]
    block[begin : begin + len(part)] = part
    window = np.hanning(WINDOW).astype(np.float32) * (2.0 / WINDOW)
    return np.abs(np.fft.rfft(block * window)).astype(np.float32) @ filterbank(RATE)


class Renderer:
    """Renders stretches with the given sources."""

    def __init__(
        self,
        bank: Bank,
        sources: list[str],
        band: Band,
        rng: np.random.Generator,
        others: list[Sound] | None = None,
        seconds: float = SECONDS,
        modelled: Sequence[dict[I, Sound]] = (),
        share: float = 0.0,
    ) -> None:
        self.bank, self.sources, self.band, self.rng = bank, sources, band, rng
        self.others = others or []
        self.modelled, self.share = modelled, share if modelled else 0.0
        self.length = int(seconds * RATE)

    def _drawn_kit(self) -> dict[I, Sound]:
        """A recorded kit, or, `share` of the time, one of the modelled ones."""
        if not self.share or self.rng.random() >= self.share:
            return self._kit()
        kit = dict(self.modelled[int(self.rng.integers(len(self.modelled)))])
        mixed = self.rng.random() < MODELLED_MIXED
        for instrument in kit:
            having = [s for s in self.sources if self.bank[s].get(instrument)]
            if mixed and having and self.rng.random() < 0.35:
                sounds = self.bank[chosen_source(self.rng, having)][instrument]
                kit[instrument] = sounds[int(self.rng.integers(len(sounds)))]
        self._changed(kit)
        put_in_order(kit)
        return kit

    def _changed(self, kit: dict[I, Sound]) -> None:
        """Bend and blend the drums of a kit, in place."""
        for instrument in kit:
            kit[instrument] = self._bent(kit[instrument])
            if self.rng.random() < BLENDED:
                having = [s for s in self.sources if self.bank[s].get(instrument)]
                other = self.bank[chosen_source(self.rng, having)][instrument]
                second = self._bent(other[int(self.rng.integers(len(other)))])[-1]
                share = float(self.rng.uniform(0.15, 0.7))
                kit[instrument] = blended(kit[instrument], second, share)

    def _kit(self) -> dict[I, Sound]:
        """A sound for each drum: mostly from one source, gaps filled from the others."""
        rng = self.rng
        main = chosen_source(rng, self.sources)
        mixed = rng.random() < 0.45
        kit = {}
        for instrument in CLASSES:
            having = [s for s in self.sources if self.bank[s].get(instrument)]
            if not having:
                continue
            source = main
            if main not in having or (mixed and rng.random() < 0.5):
                source = chosen_source(rng, having)
            sounds = self.bank[source][instrument]
            sound = sounds[int(rng.integers(len(sounds)))]
            afresh = RARE_SYNTHESISED if instrument in RARE else 0.0
            if rng.random() < (0.3 if source == "synth" else afresh):
                sound = synthesised(rng, instrument)
            kit[instrument] = self._bent(sound)
            if len(sound) < FEWEST_LAYERS and rng.random() < SOFTENED:
                kit[instrument] = softened(kit[instrument], rng)
            if rng.random() < BLENDED:
                other = self.bank[chosen_source(rng, having)][instrument]
                second = self._bent(other[int(rng.integers(len(other)))])[-1]
                kit[instrument] = blended(kit[instrument], second, float(rng.uniform(0.15, 0.7)))
        if rng.random() < TUNED:
            self._tune_toms(kit)
        put_in_order(kit)
        return kit

    def _tune_toms(self, kit: dict[I, Sound]) -> None:
        """Tune the toms to each other as drummers do: high above mid above floor."""
        rng = self.rng
        hertz = float(rng.uniform(58, 110))
        for instrument in reversed(TOMS_DOWN):
            if instrument not in kit:
                continue
            ratio = float(np.clip(hertz / pitch_of(kit[instrument][-1]), 0.5, 2.0))
            kit[instrument] = [
                Layer(resampled(layer.samples, ratio), round(layer.attack / ratio), layer.velocity)
                for layer in kit[instrument]
            ]
            hertz *= float(rng.uniform(*TOM_INTERVALS))

    def _bent(self, sound: Sound) -> Sound:
        """Another drum out of this one: pitch, decay, filter."""
        rng = self.rng
        ratio = 2 ** (rng.uniform(-4, 4) / 12)
        decay = log_uniform(rng, 0.08, 3.0) if rng.random() < 0.6 else None
        tilt = butter(
            1,
            rng.uniform(300, 6000),
            "lowpass" if rng.random() < 0.5 else "highpass",
            fs=RATE,
            output="sos",
        )
        amount = rng.uniform(0, 0.6) if rng.random() < 0.5 else 0.0
        colours = []
        for _ in range(int(rng.integers(0, 4))):
            # A microphone, a shell, a room that rings: a band raised or lowered.
            centre = log_uniform(rng, 60, 13000)
            edges = [centre / 1.4, min(centre * 1.4, 20000)]
            band = butter(1, edges, "bandpass", fs=RATE, output="sos")
            colours.append((band, float(rng.uniform(-0.8, 2.0))))
        bent = []
        for layer in sound:
            samples = resampled(layer.samples, ratio)
            attack = round(layer.attack / ratio)
            if decay is not None:
                samples *= np.exp(-np.maximum(0, np.arange(len(samples)) - attack) / (decay * RATE))
            if amount:
                samples = (1 - amount) * samples + amount * sosfilt(tilt, samples)
            for microphone, gain in colours:
                samples = samples + gain * sosfilt(microphone, samples)
            bent.append(Layer(samples.astype(np.float32), attack, layer.velocity))
        return bent

    def _drums(
        self, stretch: Stretch, length: int, levels: dict[I, float]
    ) -> tuple[np.ndarray, list[Laid]]:
        rng = self.rng
        kit = self._drawn_kit()
        second = self._drawn_kit() if rng.random() < 0.25 else None
        mix = np.zeros(length, np.float32)
        power = float(rng.uniform(0.8, 1.8))
        laid: list[Laid] = []
        hat_times = sorted(s.time for s in stretch.strokes if s.instrument in CHOKERS)
        for stroke in stretch.strokes:
            if stroke.time >= length / RATE - 0.05 or stroke.instrument not in kit:
                continue
            loud = stroke.velocity**power * levels[stroke.instrument]
            spectrum = np.zeros(0)
            for number, drums in enumerate((kit, second)):
                if drums is None or stroke.instrument not in drums:
                    continue
                if number and rng.random() < 0.3:
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
                if not number:
                    spectrum = onset_bands(piece[layer.attack :])
            laid.append(Laid(stroke.time, stroke.instrument, loud, spectrum))
        return mix, laid

    def _room(self, sound: np.ndarray) -> np.ndarray:
        rng = self.rng
        if rng.random() < 0.35:
            return sound
        seconds = log_uniform(rng, 0.08, 1.8)
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
                centre = log_uniform(rng, 60, 12000)
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
            drive = log_uniform(rng, 1, 5)
            mix = np.tanh(drive * mix) / np.tanh(drive)
        mix = mix + rng.normal(size=len(mix)) * 10 ** rng.uniform(-5, -2.4)
        return mix * 10 ** (rng.uniform(-18, 0) / 20)

    def _percussion(self, stretch: Stretch, length: int, peak: float) -> np.ndarray:
        """Percussion that has no class, in time or not, and breaths of noise."""
        rng = self.rng
        mix = np.zeros(length, np.float32)
        loud = peak * 10 ** (rng.uniform(-24, -4) / 20)
        beat = float(np.median(np.diff(stretch.beats))) if len(stretch.beats) > 2 else 0.5
        for _ in range(int(rng.integers(1, 3))):
            if self.others and rng.random() < 0.75:
                sound = self._bent(self.others[int(rng.integers(len(self.others)))])[0].samples
            else:
                t = np.arange(round(rng.uniform(0.05, 0.25) * RATE))
                sound = rng.normal(size=len(t)) * np.sin(np.pi * t / len(t)) ** 2
                centre = float(rng.uniform(2500, 8000))
                edges = [centre / 1.5, centre * 1.5]
                sound = 3 * sosfilt(butter(2, edges, "bandpass", fs=RATE, output="sos"), sound)
            pattern = rng.random(8) < rng.uniform(0.1, 0.6)
            for index, start in enumerate(stretch.beats):
                for place in range(4):
                    if pattern[(index % 2) * 4 + place]:
                        first = round((start + place * beat / 4 + rng.normal(0, 0.008)) * RATE)
                        if 0 <= first < length:
                            piece = sound[: length - first] * loud * rng.uniform(0.4, 1)
                            mix[first : first + len(piece)] += piece.astype(np.float32)
        return mix

    def _coded(self, mix: np.ndarray) -> np.ndarray:
        """Now and then through a lossy codec and back, kept aligned to the sample."""
        rng = self.rng
        if rng.random() >= 0.1:
            return mix
        rate = str(rng.choice(["48k", "64k", "96k", "128k"]))
        raw = ["-f", "f32le", "-ar", str(RATE), "-ac", "1"]
        quiet = ["ffmpeg", "-v", "error"]
        coded = [*quiet, *raw, "-i", "-", "-c:a", "libvorbis", "-b:a", rate, "-f", "ogg", "-"]
        data = subprocess.run(
            coded, input=mix.astype(np.float32).tobytes(), capture_output=True, check=True
        ).stdout
        back = subprocess.run(
            [*quiet, "-i", "-", *raw, "-"], input=data, capture_output=True, check=True
        ).stdout
        found = np.frombuffer(back, np.float32)[: len(mix)]
        return np.concatenate([found, np.zeros(len(mix) - len(found), np.float32)])

    def sound(self, stretch: Stretch, *, stem: bool) -> Sounding:
        """The audio of one clip; a stem has drums only."""
        rng = self.rng
        length = self.length
        levels = {i: CLASS_LEVEL[i] * 10 ** (rng.uniform(-5, 5) / 20) for i in CLASSES}
        drums, laid = self._drums(stretch, length, levels)
        drums = self._room(drums)
        rest = np.zeros(length, np.float32)
        if not stem:
            band = self.band.play(stretch, length)
            if rng.random() < 0.6:
                band = self._room(band)
            level = 10 ** (rng.uniform(-10, 8) / 20)
            power = float(np.sqrt(np.mean(drums**2))) or 0.1
            rest = band * level * power / (float(np.sqrt(np.mean(band**2))) + 1e-9)
        if rng.random() < 0.25:
            rest = rest + self._percussion(stretch, length, float(np.abs(drums).max()) or 0.3)
        mix = self._coded(self._tape(drums + rest)).astype(np.float32)
        return Sounding(mix, drums, rest, laid, levels)

    def render(self, stretch: Stretch, *, stem: bool) -> Clip:
        """One clip; a stem has drums only."""
        return clip_of(self.sound(stretch, stem=stem), stretch.beats, stretch.downbeats)


def bands_of(samples: np.ndarray) -> np.ndarray:
    """What the ear is given of samples, shape (len(samples) // HOP + 1, bands), not yet in log."""
    bands = ear_input(samples.astype(np.float32), RATE, lambda share: None)
    return bands[: len(samples) // HOP + 1]


def clip_of(made: Sounding, beat_times: Sequence[float], downbeat_times: Sequence[float]) -> Clip:
    """Features and labels of what was played; without beats (in seconds) they are untold."""
    mix, drums, rest, laid, levels = made.mix, made.drums, made.rest, made.laid, made.levels
    features, of_drums, of_rest = (bands_of(part) for part in (mix, drums, rest))
    frames = len(features)
    masks = of_drums**2 / (of_drums**2 + of_rest**2 + 1e-12)
    of_drums, of_rest = of_drums[:, :BANDS], of_rest[:, :BANDS]
    together = np.sqrt(of_drums**2 + of_rest**2)
    floor = FLOOR * float(np.percentile(together.max(axis=1), 99)) + 1e-7
    onsets = np.zeros((frames, len(CLASSES)), np.float16)
    loudness = np.zeros((frames, len(CLASSES)), np.float16)
    for stroke in laid:
        frame = round(stroke.time * RATE / HOP)
        if not 0 <= frame < frames:
            continue
        column = INDEX[stroke.instrument]
        there = together[min(frames - 1, round((stroke.time * RATE + LATER) / HOP))]
        shown = stroke.bands > MASKED_BELOW * np.maximum(there, floor)
        covered = int(shown.sum()) < SHOWN_BANDS
        if onsets[frame, column] != 1:
            onsets[frame, column] = 2.0 if covered else 1.0
        loudness[frame, column] = max(
            loudness[frame, column],
            min(1.0, stroke.loudness / (levels[stroke.instrument] + 1e-9)),
        )
    beats = np.zeros((frames, 2), np.float16)
    if not beat_times:
        beats[:] = UNTOLD
    for column, times in enumerate((beat_times, downbeat_times)):
        for time in times:
            frame = round(time * RATE / HOP)
            if 0 <= frame < frames:
                beats[frame, column] = 1.0
    return Clip(np.log10(1e-6 + features).astype(np.float16), onsets, loudness, beats, masks)

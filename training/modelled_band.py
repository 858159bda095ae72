"""Bands of our own making: tuned instruments of which no two are alike, and what is done to them.

Three soundfonts are a narrow world, as few kits were: records have basses, strings, keys and winds
that nobody rendered, through amplifiers, echoes and a compressor that ducks when the kick strikes.
An instrument is drawn as one of five kinds: strings plucked and bars or strings struck (sums of
damped partials, Fletcher and Rossing, "The Physics of Musical Instruments", 1998, chapters 2, 9
and 12), tones that are held (harmonics under an envelope and a moving low-pass, breath beside
them), frequency modulation (Chowning, "The synthesis of complex audio spectra by means of frequency
modulation", JAES 1973), and low sines that fall in pitch: a detector takes them for kicks and toms.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from scipy.signal import butter, sosfilt

from training.chance import log_uniform
from training.fluid import RATE
from training.modelled import band_noise
from training.ringing import ringing

SECONDS = 2.4
"""Of a note that nobody damps."""

Pitches = dict[int, np.ndarray]
"""Notes of an instrument, peak 1, by their MIDI pitch."""

BASS, CHORD, LEAD = "bass", "chord", "lead"
RANGES = {BASS: range(26, 58, 6), CHORD: range(44, 88, 6), LEAD: range(50, 92, 6)}

BAR = np.array([1.0, 2.756, 5.404, 8.933, 13.34])
"""Partials of a free bar; tuned ones have their second at 4 or 3."""


def _hertz(pitch: int) -> float:
    return 440.0 * 2 ** ((pitch - 69) / 12)


def _touch(rng: np.random.Generator, amount: float, bright: float) -> np.ndarray:
    """The noise of a pick, a hammer or a key, some milliseconds."""
    length = round(rng.uniform(0.004, 0.02) * RATE)
    return amount * band_noise(rng, length, bright / 3, bright) * np.linspace(1, 0, length) ** 2


def _decaying(
    rng: np.random.Generator, ratios: np.ndarray, gains: np.ndarray, seconds: np.ndarray
) -> Callable[[int], np.ndarray]:
    touch = float(rng.choice([0.0, log_uniform(rng, 0.01, 0.25)]))
    bright = log_uniform(rng, 1500, 12000)
    shorter = float(rng.uniform(0.2, 0.7))

    def note(pitch: int) -> np.ndarray:
        hertz = _hertz(pitch) * ratios
        heard = hertz < 0.45 * RATE
        fading = np.maximum(0.004, seconds * (110 / _hertz(pitch)) ** shorter)
        wave = ringing(hertz[heard], gains[heard], fading[heard], round(SECONDS * RATE))
        noise = _touch(rng, touch * float(np.abs(wave).max()), bright)
        wave[: len(noise)] += noise
        return wave

    return note


def plucked(rng: np.random.Generator) -> Callable[[int], np.ndarray]:
    """A string plucked at a place of its length, high partials fading first, stiff or slack."""
    k = np.arange(1, int(rng.integers(8, 40)) + 1)
    ratios = k * np.sqrt(1 + log_uniform(rng, 1e-6, 4e-4) * k**2)
    gains = np.abs(np.sin(np.pi * k * rng.uniform(0.04, 0.45))) / k ** rng.uniform(0.6, 1.8)
    seconds = log_uniform(rng, 0.12, 2.5) / (1 + log_uniform(rng, 0.01, 0.4) * (k - 1) ** 1.4)
    return _decaying(rng, ratios, gains, seconds)


def struck(rng: np.random.Generator) -> Callable[[int], np.ndarray]:
    """Strings under a hammer, bars, bells: partials stretched a little or out of all harmony."""
    if rng.random() < 0.5:
        k = np.arange(1, int(rng.integers(6, 25)) + 1)
        ratios = k * np.sqrt(1 + log_uniform(rng, 1e-4, 2e-3) * k**2)
    else:
        ratios = BAR.copy()
        ratios[1] = float(rng.choice([2.756, 3.0, 4.0]))
        ratios[2:] *= rng.uniform(0.8, 1.2, 3)
    gains = rng.uniform(0.4, 1.0, len(ratios)) * ratios ** -rng.uniform(0.5, 2.0)
    seconds = log_uniform(rng, 0.08, 3.0) / ratios ** rng.uniform(0.2, 1.2)
    return _decaying(rng, ratios, gains, seconds)


def held(rng: np.random.Generator) -> Callable[[int], np.ndarray]:
    """A tone as long as its key is down: reeds, pipes, bows, oscillators through a filter."""
    k = np.arange(1, 33)
    kind = rng.random()
    if kind < 0.35:
        gains = 1.0 / k ** rng.uniform(0.8, 1.3)
    elif kind < 0.6:
        gains = np.abs(np.sin(np.pi * k * rng.choice([0.5, rng.uniform(0.1, 0.4)]))) / k
    else:
        gains = rng.uniform(0, 1, len(k)) ** 2 * (k < rng.integers(3, 20))
        gains[0] = 1.0
    rise, fall = log_uniform(rng, 0.003, 0.3), log_uniform(rng, 0.1, 4.0)
    rest = float(rng.choice([1.0, rng.uniform(0.0, 0.8)]))
    open_at, closed_at = log_uniform(rng, 600, 16000), log_uniform(rng, 200, 8000)
    sweep = log_uniform(rng, 0.03, 1.0)
    steep = float(rng.uniform(1.0, 4.0))
    depth, speed = float(rng.choice([0.0, rng.uniform(0.002, 0.012)])), float(rng.uniform(4, 7))
    detune = float(rng.choice([0.0, rng.uniform(0.001, 0.012)]))
    breath = float(rng.choice([0.0, log_uniform(rng, 0.003, 0.12)]))
    time = np.arange(round(SECONDS * RATE)) / RATE
    envelope = np.minimum(1, time / rise) * (rest + (1 - rest) * np.exp(-time / fall))
    blocks = np.linspace(0, SECONDS, 200)
    cutoff = closed_at + (open_at - closed_at) * np.exp(-blocks / sweep)

    def note(pitch: int) -> np.ndarray:
        hertz = _hertz(pitch)
        count = max(1, min(len(k), int(0.45 * RATE / hertz)))
        phase = 2 * np.pi * (hertz * time - hertz * depth * np.cos(2 * np.pi * speed * time) / 35)
        wave = np.zeros_like(time)
        for harmonic in range(1, count + 1):
            through = 1 / (1 + (harmonic * hertz / cutoff) ** (2 * steep))
            if gains[harmonic - 1] * through.max() < 1e-3:
                continue
            level = gains[harmonic - 1] * np.interp(time, blocks, through)
            wave += level * np.sin(harmonic * phase)
            if detune and harmonic <= 12:
                wave += level * np.sin(harmonic * (1 + detune) * phase + 1.0)
        if breath:
            edge = min(8 * hertz, 0.4 * RATE)
            wave += breath * float(np.abs(wave).max()) * band_noise(rng, len(wave), hertz, edge)
        return wave * envelope

    return note


def modulated(rng: np.random.Generator) -> Callable[[int], np.ndarray]:
    """One sine bent by another: keys, bells, metallic basses."""
    ratio = float(rng.choice([0.5, 1, 1, 2, 3, 3.5, 7, 14, rng.uniform(0.5, 8)]))
    index, fading = log_uniform(rng, 0.3, 8.0), log_uniform(rng, 0.03, 1.5)
    ring, rise = log_uniform(rng, 0.15, 3.0), log_uniform(rng, 0.001, 0.03)
    time = np.arange(round(SECONDS * RATE)) / RATE

    def note(pitch: int) -> np.ndarray:
        hertz = _hertz(pitch)
        # Bent further than the sampling rate can hold it would fold back as noise.
        bent = min(index, max(0.2, 0.35 * RATE / (hertz * max(ratio, 1.0)) - 2))
        other = bent * np.exp(-time / fading) * np.sin(2 * np.pi * ratio * hertz * time)
        wave = np.sin(2 * np.pi * hertz * time + other)
        return wave * np.minimum(1, time / rise) * np.exp(-time / ring)

    return note


def falling(rng: np.random.Generator) -> Callable[[int], np.ndarray]:
    """A low sine that begins too high, driven into its second and third harmonic."""
    above, within = float(rng.uniform(0.2, 4.0)), log_uniform(rng, 0.008, 0.08)
    ring, drive = log_uniform(rng, 0.15, 2.5), log_uniform(rng, 0.3, 6.0)
    time = np.arange(round(SECONDS * RATE)) / RATE

    def note(pitch: int) -> np.ndarray:
        hertz = _hertz(pitch) * (1 + above * np.exp(-time / within))
        wave = np.sin(2 * np.pi * np.cumsum(hertz) / RATE) * np.exp(-time / ring)
        return np.tanh(drive * wave) * np.minimum(1, time / 0.002)

    return note


KINDS = {
    BASS: ((plucked, 0.4), (held, 0.25), (modulated, 0.15), (falling, 0.2)),
    CHORD: ((plucked, 0.3), (struck, 0.2), (held, 0.35), (modulated, 0.15)),
    LEAD: ((plucked, 0.2), (struck, 0.2), (held, 0.45), (modulated, 0.15)),
}


def instrument(rng: np.random.Generator, role: str) -> Pitches:
    """One instrument, its notes six semitones apart, each with its peak at 1."""
    kinds, shares = zip(*KINDS[role], strict=True)
    note = kinds[int(rng.choice(len(kinds), p=shares))](rng)
    made = {}
    for pitch in RANGES[role]:
        wave = note(pitch)
        made[pitch] = (wave / (float(np.abs(wave).max()) + 1e-9)).astype(np.float16)
    return made


def ensemble(
    rng: np.random.Generator, basses: int = 4, chords: int = 6, leads: int = 5
) -> dict[str, list[Pitches]]:
    """So many instruments of each part."""
    wanted = {BASS: basses, CHORD: chords, LEAD: leads}
    return {role: [instrument(rng, role) for _ in range(count)] for role, count in wanted.items()}


def treated(rng: np.random.Generator, sound: np.ndarray, beat: float) -> np.ndarray:
    """An instrument's track through an amplifier, a cabinet, an echo, a tremolo; each now and then.

    sound : shape (samples,). beat : seconds, which echoes keep to.
    """
    top = float(np.abs(sound).max())
    if not top:
        return sound
    sound = sound / top
    if rng.random() < 0.35:
        drive = log_uniform(rng, 1.5, 40.0)
        bias = float(rng.uniform(0, 0.3))
        sound = np.tanh(drive * sound + bias) - np.tanh(bias)
        edges = [log_uniform(rng, 50, 140), log_uniform(rng, 2500, 9000)]
        sound = sosfilt(butter(2, edges, "bandpass", fs=RATE, output="sos"), sound)
    if rng.random() < 0.3:
        kind, edge = rng.choice(["lowpass", "highpass"]), log_uniform(rng, 150, 8000)
        sound = sosfilt(butter(1, edge, str(kind), fs=RATE, output="sos"), sound)
    if rng.random() < 0.2:
        lag = round(float(rng.choice([0.25, 0.5, 0.75, rng.uniform(0.1, 0.6)])) * beat * RATE)
        again = float(rng.uniform(0.15, 0.5))
        for _ in range(3 if 0 < lag < len(sound) else 0):
            echo = np.zeros_like(sound)
            echo[lag:] = sound[:-lag]
            sound = sound + again * echo
            again, lag = again**2, 2 * lag
            if lag >= len(sound):
                break
    if rng.random() < 0.15:
        speed = float(rng.choice([2 / beat, 4 / beat, rng.uniform(3, 8)]))
        swing = np.sin(2 * np.pi * speed * np.arange(len(sound)) / RATE)
        sound = sound * (1 - float(rng.uniform(0.1, 0.5)) * (1 + swing) / 2)
    return (top * sound / (float(np.abs(sound).max()) + 1e-9)).astype(np.float32)


def ducked(rng: np.random.Generator, sound: np.ndarray, kicks: Sequence[float]) -> np.ndarray:
    """The band under a compressor that listens to the kick: down at once, back within a beat."""
    depth, back = float(rng.uniform(0.3, 0.9)), log_uniform(rng, 0.08, 0.4)
    gain = np.ones(len(sound), np.float32)
    for time in kicks:
        first = round(time * RATE)
        if not 0 <= first < len(sound):
            continue
        late = np.arange(min(len(sound) - first, round(4 * back * RATE))) / RATE
        part = gain[first : first + len(late)]
        np.minimum(part, 1 - depth * np.exp(-late / back), out=part)
    return sound * gain


def texture(rng: np.random.Generator, samples: int) -> np.ndarray:
    """What lies behind: a swell of noise, the crackle of a record, a hum; peak 1."""
    kind = rng.random()
    if kind < 0.4:
        low = log_uniform(rng, 200, 5000)
        sound = band_noise(rng, samples, low, low * rng.uniform(1.5, 4))
        turn = np.sort(rng.integers(0, samples, 6))
        sound *= np.interp(np.arange(samples), turn, rng.uniform(0, 1, 6) ** 2)
    elif kind < 0.75:
        sound = np.zeros(samples)
        count = int(rng.uniform(2, 30) * samples / RATE)
        sound[rng.integers(0, samples, count)] = rng.normal(size=count) ** 3
        edge = log_uniform(rng, 1500, 9000)
        sound = sosfilt(butter(1, edge, "lowpass", fs=RATE, output="sos"), sound)
    else:
        hertz = float(rng.choice([50.0, 60.0]))
        k = np.arange(1, 9)[:, None]
        gains = rng.uniform(0, 1, 8)[:, None] / k
        sound = (gains * np.sin(2 * np.pi * hertz * k * np.arange(samples) / RATE)).sum(axis=0)
    return (sound / (float(np.abs(sound).max()) + 1e-9)).astype(np.float32)

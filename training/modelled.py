"""Whole kits of our own making, by an acoustic model: no two alike, each of one room and one hand.

A drum is its modes: those of a circular membrane for kicks, snares and toms (Fletcher and Rossing,
"The Physics of Musical Instruments", 1998, chapters 3 and 18), those of a plate, evenly spread in
frequency, for cymbals (chapter 20), whose high part is too dense to be told from noise and which in
a crash gathers its energy only after some hundredths of a second. Sticks, rods, brushes and mallets
differ by how long and how often they touch. What one pair of hats does closed, open and by foot are
the same modes, otherwise damped. The kit stands in a room of image sources (Allen and Berkley,
"Image method for efficiently simulating small-room acoustics", JASA 1979) and is heard by close
microphones, by overheads, or by one that stands far off.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import product

import numpy as np
from scipy.signal import butter, fftconvolve, sosfilt

from orchesis.music.instruments import Instrument as I
from training.bank import LONG, LONGEST, Layer, Sound, cut, normalised
from training.chance import log_uniform
from training.fluid import RATE
from training.plate_body import bodies
from training.ringing import ringing

MEMBRANE = np.array([1.0, 1.594, 2.136, 2.296, 2.653, 2.918, 3.156, 3.501, 3.6, 3.652, 4.06, 4.154])
"""Frequencies of an ideal membrane's modes, relative to the lowest."""

VELOCITIES = (0.08, 0.2, 0.34, 0.48, 0.62, 0.76, 0.9, 1.0)
ROOM_SECONDS = 0.3
SOUND = 343.0
"""Metres a second."""


def touched(hertz: np.ndarray, contact: float) -> np.ndarray:
    """How strongly a touch of so many seconds (half a cosine, squared) excites each frequency."""
    x = hertz * contact
    return np.abs(np.sinc(x) / np.where(np.abs(1 - x**2) < 1e-3, 1e-3, 1 - x**2))


def band_noise(rng: np.random.Generator, length: int, low: float, high: float) -> np.ndarray:
    """Noise of unit power between two frequencies, in Hz."""
    sos = butter(1, [low, min(high, 0.47 * RATE)], "bandpass", fs=RATE, output="sos")
    noise = sosfilt(sos, rng.normal(size=length))
    return noise / (float(np.std(noise)) + 1e-9)


@dataclass(frozen=True)
class Hand:
    """What strikes: how long it touches, in seconds, how many wires it has, how far they spread."""

    contact: float
    wires: int
    spread: float

    @classmethod
    def drawn(cls, rng: np.random.Generator) -> Hand:
        """Mostly sticks; rods, brushes and mallets now and then."""
        kind = rng.random()
        if kind < 0.82:
            return cls(float(rng.uniform(0.0003, 0.0014)), 1, 0.0)
        if kind < 0.9:
            return cls(float(rng.uniform(0.0003, 0.0010)), int(rng.integers(5, 12)), 0.002)
        if kind < 0.97:
            spread = float(rng.uniform(0.003, 0.009))
            return cls(float(rng.uniform(0.0002, 0.0006)), int(rng.integers(20, 60)), spread)
        return cls(float(rng.uniform(0.002, 0.006)), 1, 0.0)

    def at(self, velocity: float) -> float:
        """Seconds of contact at a velocity: who strikes harder touches shorter."""
        return self.contact * (1.6 - 0.8 * velocity)

    def struck(self, rng: np.random.Generator, wave: np.ndarray) -> np.ndarray:
        """The wave of one touch as that of all its wires, one after the other."""
        if self.wires == 1:
            return wave
        pulses = np.zeros(round(self.spread * RATE) + 1)
        for _ in range(self.wires):
            pulses[int(rng.integers(len(pulses)))] += float(rng.uniform(0.3, 1))
        return fftconvolve(wave, pulses / np.sqrt(self.wires))[: len(wave)]


class ModelledKit:
    """One kit, drawn at random: `sounds` gives the layers of each of its drums."""

    def __init__(self, rng: np.random.Generator) -> None:
        self.rng = rng
        self.hand = Hand.drawn(rng)
        self.room = Room.drawn(rng)
        self.dead = log_uniform(rng, 0.3, 1.6)
        """How long heads ring: a kit under towels, or one without any damping."""
        self.bright = float(rng.uniform(-0.3, 0.8))
        self.floor = float(rng.uniform(55, 105))
        self.hats = Plate.drawn(rng, low=(280, 620), size=(0.5, 1.0), dense=(3000, 9500))

    def sounds(self) -> dict[I, Sound]:
        """All drums of the kit, each of several layers from soft to hard."""
        steps = self.rng.uniform(1.14, 1.5, 2)
        made = {
            I.KICK: self._kick,
            I.SNARE: self._snare,
            I.CROSS_STICK: self._cross_stick,
            I.HIHAT_CLOSED: lambda: self._hat(I.HIHAT_CLOSED),
            I.HIHAT_OPEN: lambda: self._hat(I.HIHAT_OPEN),
            I.HIHAT_FOOT: lambda: self._hat(I.HIHAT_FOOT),
            I.RIDE: lambda: self._cymbal(I.RIDE),
            I.RIDE_BELL: lambda: self._cymbal(I.RIDE_BELL),
            I.CRASH: lambda: self._cymbal(I.CRASH),
            I.CLAP: self._clap,
            I.SHAKER: self._shaker,
            I.TAMBOURINE: self._tambourine,
            I.COWBELL: self._cowbell,
            I.TOM_FLOOR: lambda: self._tom(self.floor),
            I.TOM_MID: lambda: self._tom(self.floor * steps[0]),
            I.TOM_HIGH: lambda: self._tom(self.floor * steps[0] * steps[1]),
        }
        ride = Plate.drawn(self.rng, low=(180, 420), size=(0.8, 1.6), dense=(2500, 8000))
        crash = Plate.drawn(self.rng, low=(220, 520), size=(0.7, 1.4), dense=(1300, 5000))
        self._plates = {I.RIDE: ride, I.RIDE_BELL: ride, I.CRASH: crash}
        self._cymbals = {i: CymbalTraits.drawn(self.rng, i) for i in self._plates}
        beneath = bodies(self.rng)
        kit = {}
        for instrument, make in made.items():
            path = self.room.path(self.rng, instrument)
            strokes = make()
            if instrument in beneath:
                strokes = [(v, beneath[instrument].added(wave, v)) for v, wave in strokes]
            layers = [self._layer(wave, v, instrument, path) for v, wave in strokes]
            kit[instrument] = normalised([layer for layer in layers if layer is not None])
        return kit

    def _layer(
        self, wave: np.ndarray, velocity: float, instrument: I, path: np.ndarray
    ) -> Layer | None:
        heard = fftconvolve(wave, path)[: LONGEST[instrument in LONG]]
        quiet = np.zeros(600, np.float32)
        sound = np.concatenate([quiet, heard / (np.abs(heard).max() + 1e-9)])
        return cut(sound.astype(np.float32), 0, instrument in LONG, velocity)

    def _head(
        self,
        hertz: float,
        ring: float,
        velocity: float,
        length: int,
        spots: np.ndarray,
        glide: float,
    ) -> np.ndarray:
        """A membrane struck once; higher modes fade sooner and need a short touch."""
        modes = hertz * spots[0]
        slope = 0.9 + 0.5 * (1 - velocity)
        gains = (
            spots[1]
            * touched(modes, self.hand.at(velocity) + 0.0008)
            / (modes / hertz) ** (slope - self.bright)
        )
        seconds = ring / (modes / hertz) ** spots[2, 0]
        wave = ringing(modes, gains, seconds, length)
        t = np.arange(length) / RATE
        # A struck head is tighter at first: all of its modes begin higher.
        bend = glide * velocity**1.5
        bent = t + bend * 0.03 * (1 - np.exp(-t / 0.03))
        return np.interp(bent, t, wave).astype(np.float32)

    def _spots(self, uneven: float = 0.03) -> np.ndarray:
        """Frequencies, gains and fading of a head's modes, shape (3, 12): none is tuned evenly."""
        rng = self.rng
        ratios = MEMBRANE * np.exp(rng.normal(0, uneven, len(MEMBRANE)))
        ratios[0] = 1
        gains = rng.uniform(0.15, 1, len(MEMBRANE))
        gains[0] = 1
        return np.stack([ratios, gains, np.full(len(MEMBRANE), rng.uniform(0.5, 1.6))])

    def _click(self, velocity: float, length: int, low: float, high: float) -> np.ndarray:
        """The touch itself: a burst of a few milliseconds."""
        burst = band_noise(self.rng, length, low, high)
        return (
            burst * np.exp(-np.arange(length) / RATE / self.rng.uniform(0.0008, 0.004)) * velocity
        )

    def _wires(self, length: int, low: float, seconds: float) -> np.ndarray:
        """Snare wires that rattle against their head, with how unevenly they lie."""
        rng = self.rng
        noise = band_noise(rng, length, low, rng.uniform(4500, 15000))
        t = np.arange(length) / RATE
        return noise * np.exp(-t / seconds) * (1 - np.exp(-t / rng.uniform(0.0005, 0.003)))

    def _kick(self) -> list[tuple[float, np.ndarray]]:
        rng, length = self.rng, LONGEST[False]
        hertz, ring = rng.uniform(38, 78), rng.uniform(0.05, 0.32) * self.dead
        spots, glide = self._spots(), rng.uniform(0.05, 1.2)
        beater, where = rng.uniform(0, 0.6) ** 2, log_uniform(rng, 700, 4000)
        other, share = hertz * rng.uniform(1.15, 2.2), rng.uniform(0, 0.5)
        rattle, seconds = rng.uniform(0, 0.05) * (rng.random() < 0.5), rng.uniform(0.05, 0.25)
        self.hand, hand = (
            replace(self.hand, contact=float(rng.uniform(0.001, 0.005)), wires=1),
            self.hand,
        )
        made = []
        for velocity in VELOCITIES:
            wave = self._head(hertz, ring, velocity, length, spots, glide)
            wave += share * self._head(other, ring * 0.6, velocity, length, spots, 0)
            wave = wave / (np.abs(wave).max() + 1e-9)
            wave = wave + beater * self._click(velocity, length, where / 2, where * 2)
            # The wires of the snare beside it rattle along.
            wave = wave + rattle * self._wires(length, 1500, seconds)
            made.append((velocity, wave))
        self.hand = hand
        return made

    def _snare(self) -> list[tuple[float, np.ndarray]]:
        rng, length = self.rng, LONGEST[False]
        hertz, ring = rng.uniform(140, 300), rng.uniform(0.03, 0.16) * self.dead
        spots, glide = self._spots(), rng.uniform(0, 0.3)
        wires, low = log_uniform(rng, 0.06, 0.7), rng.uniform(400, 2500)
        seconds = log_uniform(rng, 0.02, 0.14)
        shell = rng.uniform(300, 1100, 3) * np.array([1, 1.7, 2.6])
        rim = rng.uniform(0, 0.6) * (rng.random() < 0.5)
        crack = rng.uniform(0, 0.4)
        made = []
        for velocity in VELOCITIES:
            head = self._head(hertz, ring, velocity, length, spots, glide)
            head = head / (np.abs(head).max() + 1e-9)
            # A ghost moves the head little, the wires nearly as much.
            buzz = (
                wires
                * (1.3 - 0.3 * velocity)
                * self._wires(length, low, seconds * (0.4 + 0.6 * velocity))
            )
            rung = ringing(shell, rng.uniform(0.2, 1, 3), np.full(3, 0.06) * self.dead, length)
            wave = head + buzz + rim * max(0.0, velocity - 0.6) * rung
            wave = wave + crack * self._click(velocity, length, 2000, 9000)
            made.append((velocity, self.hand.struck(rng, wave)))
        return made

    def _cross_stick(self) -> list[tuple[float, np.ndarray]]:
        rng, length = self.rng, LONGEST[False]
        modes = rng.uniform(350, 1700) * np.array([1, *rng.uniform(1.3, 5.5, 5)])
        gains = rng.uniform(0.2, 1, 6)
        seconds = np.exp(rng.uniform(np.log(0.004), np.log(0.035), 6))
        body, ring = rng.uniform(0, 1.1) ** 2, rng.uniform(0.02, 0.09)
        rattle = rng.uniform(0, 0.25) * (rng.random() < 0.6)
        low = np.array([rng.uniform(140, 300)])
        made = []
        for velocity in VELOCITIES[2:]:
            wave = ringing(modes, gains * touched(modes, 0.0003), seconds, length)
            wave = wave / (np.abs(wave).max() + 1e-9)
            wave = wave + body * ringing(low, np.ones(1), np.full(1, ring), length)
            wave = wave + rattle * self._wires(length, 1500, 0.05)
            made.append((velocity, wave + 0.2 * self._click(velocity, length, 1500, 8000)))
        return made

    def _tom(self, hertz: float) -> list[tuple[float, np.ndarray]]:
        rng, length = self.rng, LONGEST[False]
        spots, glide = self._spots(), rng.uniform(0.02, 0.8)
        ring = rng.uniform(0.12, 0.5) * self.dead * (100 / hertz) ** 0.4
        beneath = hertz * rng.uniform(0.9, 1.3)
        share, crack = rng.uniform(0, 0.7), rng.uniform(0, 0.5)
        rattle = rng.uniform(0, 0.06) * (rng.random() < 0.5)
        made = []
        for velocity in VELOCITIES:
            wave = self._head(hertz, ring, velocity, length, spots, glide)
            wave += share * self._head(beneath, ring * 0.8, velocity, length, spots, glide)
            wave = wave / (np.abs(wave).max() + 1e-9)
            wave = wave + crack * self._click(velocity, length, 700, 6000)
            wave = wave + rattle * self._wires(length, 1500, 0.12)
            made.append((velocity, self.hand.struck(rng, wave)))
        return made

    def _hat(self, instrument: I) -> list[tuple[float, np.ndarray]]:
        rng, long = self.rng, instrument in LONG
        length = LONGEST[long]
        log = {
            # Seconds until the high part has fallen to 1/e: tight to loose, open, a foot's chick.
            I.HIHAT_CLOSED: (0.007, 0.11),
            I.HIHAT_OPEN: (0.07, 0.4),
            I.HIHAT_FOOT: (0.008, 0.035),
        }[instrument]
        ring = log_uniform(rng, *log)
        low, click = float(rng.uniform(0.0, 0.5)), float(rng.uniform(0.1, 1.0))
        t = np.arange(length) / RATE
        made = []
        for velocity in VELOCITIES[1:]:
            # An edge struck hard opens even a closed pair a little.
            seconds = ring * (0.8 + 0.5 * velocity)
            wave = self.hats.rung(rng, length, seconds, self.hand.at(velocity), low)
            if instrument is I.HIHAT_FOOT:
                soft = rng.uniform(0.001, 0.005)
                wave = wave * (1 - np.exp(-t / soft))
                wave = (
                    wave
                    + click
                    * band_noise(rng, length, 500, 5000)
                    * np.exp(-t / seconds)
                    * (1 - np.exp(-t / soft))
                    * float(np.abs(wave).max())
                    * 0.25
                )
                made.append((velocity, wave))
                continue
            wave = (
                wave
                + click
                * 0.4
                * float(np.abs(wave).max())
                * self._click(velocity, length, 3000, 14000)
                * 0.3
            )
            if instrument is I.HIHAT_OPEN:
                # Two plates that touch each other again and again: sizzle.
                slow = band_noise(rng, length, 20, 70)
                wave = wave * (1 + 0.4 * click * np.clip(slow, -1.5, 1.5))
            made.append((velocity, self.hand.struck(rng, wave)))
        return made

    def _cymbal(self, instrument: I) -> list[tuple[float, np.ndarray]]:
        rng, length = self.rng, LONGEST[True]
        plate, traits = self._plates[instrument], self._cymbals[instrument]
        t = np.arange(length) / RATE
        made = []
        for velocity in VELOCITIES[2:]:
            seconds = traits.seconds * (0.7 + 0.4 * velocity)
            wave = plate.rung(rng, length, seconds, self.hand.at(velocity), traits.low)
            wave = wave / (np.abs(wave).max() + 1e-9)
            # Energy wanders upwards: the harder it is struck, the more of it comes late.
            late = traits.late * velocity
            wave = wave * (1 - late * np.exp(-t / traits.rise))
            wave = wave + traits.ping * self._click(1.0, length, 2500, 13000) * 0.4
            if traits.bell is not None:
                tone = ringing(traits.bell, traits.bell_gains, traits.bell_seconds, length)
                wave = wave * traits.wash + tone / (np.abs(tone).max() + 1e-9)
            made.append((velocity, self.hand.struck(rng, wave)))
        return made

    def _clap(self) -> list[tuple[float, np.ndarray]]:
        rng, length = self.rng, LONGEST[False]
        centre, width = float(rng.uniform(800, 2000)), float(rng.uniform(1.3, 2.6))
        starts = np.sort(rng.uniform(0, 0.03, int(rng.integers(1, 6))))
        tail = rng.uniform(0.01, 0.06)
        t = np.arange(length) / RATE
        made = []
        for velocity in (0.5, 0.8, 1.0):
            since = t[:, None] - starts
            bursts = np.where(since >= 0, np.exp(-np.maximum(since, 0) / 0.005), 0).sum(axis=1)
            shape = bursts + np.where(t > starts[-1], np.exp(-(t - starts[-1]) / tail), 0)
            made.append((velocity, shape * band_noise(rng, length, centre / width, centre * width)))
        return made

    def _shaker(self) -> list[tuple[float, np.ndarray]]:
        rng, length = self.rng, LONGEST[False]
        low, high = float(rng.uniform(2500, 6500)), float(rng.uniform(8000, 16000))
        soft, fade = rng.uniform(0.003, 0.02), rng.uniform(0.01, 0.035)
        t = np.arange(length) / RATE
        return [
            (v, band_noise(rng, length, low, high) * (1 - np.exp(-t / soft)) * np.exp(-t / fade))
            for v in (0.4, 0.7, 1.0)
        ]

    def _tambourine(self) -> list[tuple[float, np.ndarray]]:
        rng, length = self.rng, LONGEST[False]
        jingles = rng.uniform(2800, rng.uniform(7500, 15000), int(rng.integers(10, 30)))
        fading = rng.uniform(0.015, 0.08, len(jingles))
        head = rng.uniform(0, 0.5) * (rng.random() < 0.4)
        made = []
        for velocity in (0.4, 0.7, 1.0):
            wave = ringing(jingles, rng.uniform(0.2, 1, len(jingles)), fading, length)
            # Each jingle lands some milliseconds after the others, several times.
            hits = np.zeros(round(0.04 * RATE))
            for at in rng.exponential(0.008, 12):
                hits[min(len(hits) - 1, int(at * RATE))] += rng.uniform(0.2, 1)
            wave = fftconvolve(wave, hits)[:length]
            wave = wave / (np.abs(wave).max() + 1e-9)
            skin = self._head(220.0, 0.04, velocity, length, self._spots(), 0)
            made.append((velocity, wave + head * skin / (np.abs(skin).max() + 1e-9)))
        return made

    def _cowbell(self) -> list[tuple[float, np.ndarray]]:
        rng, length = self.rng, LONGEST[False]
        lowest = rng.uniform(450, 950)
        modes = lowest * np.array([1, rng.uniform(1.4, 1.6), *rng.uniform(2, 7, 5)])
        gains = np.array([1, rng.uniform(0.5, 1.2), *rng.uniform(0.05, 0.4, 5)])
        seconds = rng.uniform(0.025, 0.12) * (modes / lowest) ** -0.5
        made = []
        for velocity in (0.4, 0.7, 1.0):
            wave = ringing(modes, gains * touched(modes, self.hand.at(velocity)), seconds, length)
            wave = wave / (np.abs(wave).max() + 1e-9)
            made.append((velocity, wave + 0.3 * self._click(velocity, length, 1500, 8000)))
        return made


@dataclass(frozen=True)
class CymbalTraits:
    """How a cymbal answers: fading, low part, stick's ping, late energy; a bell's own tones."""

    seconds: float
    low: float
    ping: float
    late: float
    rise: float
    wash: float = 1.0
    bell: np.ndarray | None = None
    bell_gains: np.ndarray | None = None
    bell_seconds: np.ndarray | None = None

    @classmethod
    def drawn(cls, rng: np.random.Generator, instrument: I) -> CymbalTraits:
        """Traits of a ride, its bell, or a crash; a splash or a china among crashes."""
        u = rng.uniform
        if instrument is I.CRASH:
            small = rng.random() < 0.2
            return cls(
                float(u(0.05, 0.15) if small else u(0.13, 0.6)),
                float(u(0.1, 0.8)),
                float(u(0, 0.3)),
                float(u(0.3, 0.9)),
                float(u(0.006, 0.035)),
            )
        ride = cls(
            float(np.exp(u(np.log(0.06), np.log(0.6)))),
            float(u(0.1, 1.0)),
            float(u(0.3, 2.5)),
            float(u(0, 0.3)),
            0.01,
        )
        if instrument is I.RIDE:
            return ride
        count = int(rng.integers(4, 10))
        modes = float(u(450, 1100)) * np.sort(np.append(u(1.2, 6.5, count - 1), 1.0))
        return replace(
            ride,
            wash=float(u(0.1, 0.7)),
            bell=modes,
            bell_gains=u(0.2, 1, count),
            bell_seconds=u(0.06, 0.4, count),
        )


@dataclass(frozen=True)
class Plate:
    """A cymbal's modes, shape (modes,): frequency, gain, fading relative to the high part's.

    Below `dense` each mode is a tone of its own, above noise in bands stands for them all.
    """

    hertz: np.ndarray
    gains: np.ndarray
    slope: float
    dense: float
    tilt: np.ndarray

    @classmethod
    def drawn(
        cls,
        rng: np.random.Generator,
        low: tuple[float, float],
        size: tuple[float, float],
        dense: tuple[float, float],
    ) -> Plate:
        """A plate whose lowest mode lies in `low` and whose modes melt together in `dense`, Hz;
        the larger, the more modes it has.
        """
        lowest = float(rng.uniform(*low))
        spacing = float(rng.uniform(18, 60)) / float(rng.uniform(*size))
        melting = float(rng.uniform(*dense))
        hertz = lowest + spacing * np.cumsum(
            rng.exponential(1.0, int((melting - lowest) / spacing))
        )
        hertz = hertz[hertz < melting * 1.2]
        gains = rng.exponential(1.0, len(hertz)) * (hertz / melting) ** float(rng.uniform(0.2, 1.8))
        tilt = float(rng.uniform(-14, 14)) * np.linspace(-0.5, 0.5, 5) + rng.uniform(-5, 5, 5)
        return cls(hertz, gains, float(rng.uniform(0.0, 0.7)), melting, tilt)

    def rung(
        self, rng: np.random.Generator, length: int, seconds: float, contact: float, low: float
    ) -> np.ndarray:
        """The plate struck once, float of shape (length,).

        seconds : until its high part has fallen to 1/e; what is low rings longer.
        contact : seconds of touch. low : how much of the tones is heard beside the noise, 0 to 1.
        """
        fading = seconds * (self.dense / self.hertz) ** self.slope
        tones = ringing(self.hertz, self.gains * touched(self.hertz, contact), fading, length)
        tones = tones / (float(np.abs(tones).max()) + 1e-9)
        t = np.arange(length) / RATE
        edges = np.geomspace(self.dense * 0.7, 19000, len(self.tilt) + 1)
        noise = np.zeros(length)
        for begin, end, decibels in zip(edges[:-1], edges[1:], self.tilt, strict=True):
            middle = float(np.sqrt(begin * end))
            gain = 10 ** (decibels / 20) * float(touched(np.array([middle]), contact / 3)[0]) ** 0.5
            fade = seconds * (self.dense / middle) ** (self.slope * 0.7)
            noise += gain * band_noise(rng, length, begin, end) * np.exp(-t / fade)
        noise /= float(np.abs(noise).max()) + 1e-9
        return low * tones + (1 - 0.6 * low) * noise


@dataclass(frozen=True)
class Room:
    """A room of six walls with a kit and microphones: metres, share reflected, gains."""

    size: np.ndarray
    reflected: float
    kit: np.ndarray
    far: np.ndarray
    gains: tuple[float, float, float]
    damped: float

    @classmethod
    def drawn(cls, rng: np.random.Generator) -> Room:
        """From a booth to a hall; close microphones, overheads, one far off, or a mixture."""
        size = np.array([rng.uniform(2.5, 14), rng.uniform(2.5, 12), rng.uniform(2.2, 6)])
        kit = np.array([size[0] * rng.uniform(0.3, 0.7), size[1] * rng.uniform(0.3, 0.7), 0.8])
        far = size * rng.uniform(0.1, 0.9, 3)
        gains = (1.0, float(rng.uniform(0.05, 0.7)), float(rng.uniform(0, 0.35)))
        kind = rng.random()
        if kind < 0.25:
            gains = (float(rng.uniform(0, 0.2)), 1.0, float(rng.uniform(0, 0.5)))
        elif kind < 0.35:
            gains = (0.0, float(rng.uniform(0, 0.2)), 1.0)
        reflected = float(rng.uniform(0.25, 0.85))
        return cls(size, reflected, kit, far, gains, float(rng.uniform(2500, 9000)))

    def path(self, rng: np.random.Generator, instrument: I) -> np.ndarray:
        """What the microphones hear of an impulse at a drum, shape (samples,).

        The first arrival is at its beginning: a label says when the drum is heard.
        """
        drum = self.kit + rng.uniform(-0.7, 0.7, 3) * np.array([1, 1, 0.3])
        above = self.kit + np.array([rng.uniform(-0.4, 0.4), rng.uniform(-0.4, 0.4), 1.1])
        above = np.minimum(above, self.size - 0.1)
        close = drum + np.array([0.0, 0.0, 0.06])
        found = np.zeros(round(ROOM_SECONDS * RATE))
        for place, gain in zip((close, above, self.far), self.gains, strict=True):
            if gain:
                found += gain * self._response(rng, drum, place)
        return found

    def _response(
        self, rng: np.random.Generator, drum: np.ndarray, place: np.ndarray
    ) -> np.ndarray:
        count = round(ROOM_SECONDS * RATE)
        direct, walls = np.zeros(count + 2), np.zeros(count + 2)
        straight = float(np.linalg.norm(place - drum))
        for order in product((-2, -1, 0, 1, 2), repeat=3):
            bounces = sum(abs(n) for n in order)
            if bounces > 3:
                continue
            cells = np.array(order)
            image = np.where(
                cells % 2 == 0, drum + cells * self.size, (cells + 1) * self.size - drum
            )
            away = float(np.linalg.norm(place - image))
            at = (away - straight) / SOUND * RATE
            first = int(at)
            if first >= count:
                continue
            gain = self.reflected**bounces * max(straight, 0.05) / max(away, 0.05)
            where = direct if bounces == 0 else walls
            where[first] += gain * (1 - at + first)
            where[first + 1] += gain * (at - first)
        sos = butter(1, self.damped, "lowpass", fs=RATE, output="sos")
        t = np.arange(count) / RATE
        volume, surface = (
            float(np.prod(self.size)),
            2
            * float(
                self.size[0] * self.size[1]
                + self.size[1] * self.size[2]
                + self.size[0] * self.size[2]
            ),
        )
        # Sabine's time, and a tail as loud as the last images.
        seconds = 0.161 * volume / ((1 - self.reflected**2) * surface + 1e-9)
        begin = float(np.mean(self.size)) * 2 / SOUND
        tail = rng.normal(size=count) * np.exp(-6.9 * t / max(seconds, 0.05)) * (t > begin)
        reach = max(straight, 0.05) / float(np.mean(self.size)) * self.reflected**2 * 0.12
        return direct[:count] + sosfilt(sos, walls[:count] + reach * tail)

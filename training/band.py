"""The band: pitched notes from the permitted soundfonts, in time with the drums.

Notes are rendered once for each program and every fourth semitone; other pitches are resampled from
the nearest. The band plays chords, bass lines, riffs and melodies on the song's own beats, so
that its attacks fall where drums fall: they are what fools a drum detector.
"""

from __future__ import annotations

import pickle
from collections.abc import Mapping, Sequence
from pathlib import Path

import mido
import numpy as np

from training.bank import SF2
from training.composer import Stretch
from training.fluid import RATE, render_dry
from training.modelled_band import BASS, CHORD, LEAD, Pitches, ducked, texture, treated
from training.voice import Voice

BASSES = (32, 33, 34, 35, 36, 38, 39)
CHORDS = (0, 1, 4, 5, 16, 18, 24, 25, 26, 27, 28, 29, 30, 48, 50, 61, 62, 81, 88, 89, 90)
LEADS = (11, 12, 13, 40, 52, 53, 54, 56, 57, 59, 60, 64, 65, 66, 71, 73, 80, 85, 104, 114)
FONTS = ("FluidR3_GM.sf2", "TimGM6mb.sf2", "OPL-3_FM_128M.sf2")
STEP = 4
NOTE_SECONDS = 1.6
SUNG = 0.3
"""Share of bands with a voice."""
TREATED, DUCKED, BACKED = 0.5, 0.15, 0.12
"""Where there are modelled instruments: shares of tracks with an amplifier or echo, of bands that
duck under the kick, and of those with noise, crackle or hum behind them."""

Notes = dict[tuple[str, int], dict[int, np.ndarray]]


def build(path: Path) -> Notes:
    """Render the notes once."""
    if path.exists():
        return pickle.loads(path.read_bytes())
    notes: Notes = {}
    for font in FONTS:
        for program in (*BASSES, *CHORDS, *LEADS):
            pitches = list(range(28, 56, STEP)) if program in BASSES else list(range(44, 88, STEP))
            midi = mido.MidiFile(type=0, ticks_per_beat=500)
            track = mido.MidiTrack()
            midi.tracks.append(track)
            track.append(mido.Message("program_change", channel=0, program=program))
            for pitch in pitches:
                track.append(mido.Message("note_on", note=pitch, velocity=100, time=100))
                track.append(mido.Message("note_off", note=pitch, time=1500))
                track.append(mido.Message("control_change", control=120, value=0, time=400))
            samples = render_dry(midi, SF2 / font)
            found = {}
            for index, pitch in enumerate(pitches):
                start = round((0.1 + 2.0 * index) * RATE)
                piece = samples[start : start + round(NOTE_SECONDS * RATE)].astype(np.float32)
                top = np.abs(piece).max() if len(piece) else 0
                if top > 1e-3:
                    found[pitch] = (piece / top).astype(np.float16)
            if found:
                notes[font, program] = found
    path.write_bytes(pickle.dumps(notes))
    return notes


class Band:
    """Plays along with a stretch.

    made, share : modelled instruments by part, and how many of the instruments are such. Without
        them nothing is treated either, and notes of a track are equally loud.
    """

    def __init__(
        self,
        notes: Notes,
        rng: np.random.Generator,
        made: Mapping[str, Sequence[Pitches]] | None = None,
        share: float = 0.0,
    ) -> None:
        self.notes, self.rng, self.made = notes, rng, made or {}
        self.share = share if made else 0.0
        self.uneven = 0.0

    def _program(self, among: tuple[int, ...]) -> dict[int, np.ndarray]:
        if self.share and self.rng.random() < self.share:
            part = BASS if among[0] in BASSES else LEAD if among[0] in LEADS else CHORD
            return self.made[part][int(self.rng.integers(len(self.made[part])))]
        keys = [key for key in self.notes if key[1] in among]
        return self.notes[keys[int(self.rng.integers(len(keys)))]]

    def _add(
        self,
        mix: np.ndarray,
        sounds: dict[int, np.ndarray],
        at: float,
        length: float,
        pitch: int,
        loud: float,
    ) -> None:
        if self.uneven:
            loud *= float(np.exp(self.rng.normal(0, self.uneven)))
        nearest = min(sounds, key=lambda have: abs(have - pitch))
        sound = sounds[nearest].astype(np.float32)
        if nearest != pitch:
            ratio = 2 ** ((pitch - nearest) / 12)
            sound = np.interp(
                np.arange(0, len(sound) - 1, ratio), np.arange(len(sound)), sound
            ).astype(np.float32)
        count = min(len(sound), max(600, round(length * RATE)))
        piece = sound[:count] * loud
        fade = min(count, 500)
        piece[-fade:] *= np.linspace(1, 0, fade, dtype=np.float32)
        first = round(at * RATE)
        if 0 <= first < len(mix):
            piece = piece[: len(mix) - first]
            mix[first : first + len(piece)] += piece

    def _joined(self, mix: np.ndarray, track: np.ndarray, beat: float) -> np.ndarray:
        """The mix with one more track in it, treated now and then, and an empty track."""
        treating = self.share and self.rng.random() < TREATED
        mix += treated(self.rng, track, beat) if treating else track
        # How evenly a track is played belongs to who plays it: the next one is another. The first,
        # mostly the bass, keeps even.
        self.uneven = float(self.rng.uniform(0, 0.5)) if self.share else 0.0
        return np.zeros_like(track)

    def _finished(self, mix: np.ndarray, stretch: Stretch) -> np.ndarray:
        """The band's sound, its loudest at 1; now and then ducked, or with something behind it."""
        if self.share and self.rng.random() < DUCKED:
            kicks = [s.time for s in stretch.strokes if s.instrument.value == "kick"]
            mix = ducked(self.rng, mix, kicks)
        if self.share and self.rng.random() < BACKED:
            level = 10 ** (self.rng.uniform(-35, -10) / 20) * (float(np.abs(mix).max()) or 1.0)
            mix = mix + level * texture(self.rng, len(mix))
        top = np.abs(mix).max()
        return mix / top if top > 0 else mix

    def play(self, stretch: Stretch, samples: int) -> np.ndarray:
        """The band's sound, shape (samples,), its loudest near 1."""
        rng = self.rng
        mix, track = (np.zeros(samples, np.float32) for _ in range(2))
        beats = stretch.beats
        if len(beats) < 3:
            return mix
        beat = float(np.median(np.diff(beats)))
        kicks = [s.time for s in stretch.strokes if s.instrument.value == "kick"]
        key = int(rng.integers(12))
        scale = [0, 2, 4, 5, 7, 9, 11] if rng.random() < 0.5 else [0, 2, 3, 5, 7, 8, 10]
        change = stretch.bar_beats * int(rng.choice([1, 1, 2]))
        degrees = [int(rng.integers(7)) for _ in range(4)]

        def root(index: int) -> int:
            return key + scale[degrees[(index // change) % 4]]

        if rng.random() < 0.85:
            bass, style = self._program(BASSES), rng.random()
            loud = float(rng.uniform(0.3, 1.0))
            for index, time in enumerate(beats):
                base = 28 + root(index) % 12 + (12 if rng.random() < 0.1 else 0)
                if style < 0.35:
                    for half in (0.0, 0.5):
                        self._add(track, bass, time + half * beat, beat * 0.45, base, loud)
                elif style < 0.6:
                    self._add(
                        track, bass, time, beat * 0.9, base + int(rng.choice([0, 0, 7, 5])), loud
                    )
                elif index % stretch.bar_beats == 0:
                    self._add(track, bass, time, beat * 1.8, base, loud)
            if style >= 0.6:
                for time in kicks:
                    index = int(np.searchsorted(beats, time))
                    self._add(
                        track,
                        bass,
                        time + rng.normal(0, 0.006),
                        beat * 0.4,
                        28 + root(max(0, index - 1)) % 12,
                        loud,
                    )
            track = self._joined(mix, track, beat)
        for _ in range(int(rng.choice([0, 1, 1, 2, 2]))):
            sounds, style = self._program(CHORDS), rng.random()
            loud = float(rng.uniform(0.08, 0.45))
            rhythm = [
                p for p in (0.0, 0.25, 0.5, 0.75) if rng.random() < (0.9 if p == 0 else 0.3)
            ] or [0.5]
            for index, time in enumerate(beats):
                if style < 0.4 and index % change:
                    continue
                places = [0.0] if style < 0.4 else rhythm
                length = beat * (change * 0.95 if style < 0.4 else rng.uniform(0.15, 0.6))
                for place in places:
                    for voice in (0, 2, 4):
                        degree = degrees[(index // change) % 4] + voice
                        pitch = 52 + key % 12 + scale[degree % 7] + 12 * (degree // 7)
                        self._add(
                            track,
                            sounds,
                            time + place * beat + rng.normal(0, 0.005),
                            length,
                            pitch,
                            loud,
                        )
            track = self._joined(mix, track, beat)
        for _ in range(int(rng.choice([0, 1, 1, 2]))):
            sounds, loud = self._program(LEADS), float(rng.uniform(0.1, 0.6))
            density = rng.uniform(0.1, 0.6)
            for time in beats:
                for place in (0.0, 0.25, 0.5, 0.75):
                    if rng.random() < density * (1.0 if place in (0.0, 0.5) else 0.4):
                        pitch = (
                            60
                            + key % 12
                            + scale[int(rng.integers(7))]
                            + 12 * int(rng.integers(0, 2))
                        )
                        self._add(
                            track,
                            sounds,
                            time + place * beat + rng.normal(0, 0.008),
                            beat * rng.uniform(0.2, 1.2),
                            pitch,
                            loud,
                        )
            track = self._joined(mix, track, beat)
        if rng.random() < SUNG:
            loud = float(rng.uniform(0.3, 1.2)) * (float(np.abs(mix).max()) or 1.0)
            mix += loud * Voice(rng).sing(beats, samples)
        return self._finished(mix, stretch)

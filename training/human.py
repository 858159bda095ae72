"""Songs that people composed, as stretches: what the composer of our own songs cannot teach.

Read as MIDI, drums and band alike: the songs in the WAD files of freedoom (Phase 1 and 2), those of
kobodeluxe, and grooves that the accompaniment generator mma plays over chords drawn here. Drums get
our kits, the band our notes (`SongBand`), and whatever a machine wrote gets a human's timing. A
fifth of the songs, chosen by name, is kept for figures (`is_kept`).
"""

from __future__ import annotations

import hashlib
import io
import os
import pickle
import struct
import subprocess
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

import mido
import numpy as np

from training.band import BASSES, CHORDS, LEADS, SUNG, Band
from training.bank import KEYS
from training.composer import Stretch, Stroke
from training.voice import Voice

WADS = tuple(Path("/usr/share/games/doom") / f"freedoom{number}.wad" for number in (1, 2))
KOBO = Path("/usr/share/kobo-deluxe/sfx")
MMA = Path("/usr/share/mma/lib")
DRUM_CHANNEL = 9
DRUM_OF = {key: instrument for instrument, keys in KEYS.items() for key in keys}
FEWEST_STROKES, FEWEST_DRUMS = 60, 2
MMA_BARS = 24
PROGRESSIONS = (
    "C Am F G7",
    "C C F G7",
    "Am F C G",
    "Dm7 G7 CM7 Am7",
    "C7 F7 C7 G7",
    "Em C G D",
    "F G Em Am",
    "Cm Ab Bb Cm",
)
MMA_SECONDS = 20.0


@dataclass(frozen=True)
class Note:
    """A note of the band: seconds, seconds long, MIDI program, pitch, loudness 0 to 1."""

    time: float
    length: float
    program: int
    pitch: int
    velocity: float


@dataclass(frozen=True)
class HumanSong:
    """A song: its strokes and its band in seconds.

    `beats` and `downbeats` are empty where the file does not tell them: nobody asks for them then.
    """

    name: str
    strokes: tuple[Stroke, ...]
    notes: tuple[Note, ...]
    beats: tuple[float, ...]
    downbeats: tuple[float, ...]
    duration: float


@dataclass
class SongStretch(Stretch):
    """A stretch of a composed song, with what its band plays."""

    notes: list[Note] = field(default_factory=list)


def is_kept(name: str) -> bool:
    """Whether a song is kept for figures: one in five, by the hash of its name."""
    return hashlib.sha256(name.encode()).digest()[0] % 5 == 0


def wad_songs(path: Path) -> dict[str, bytes]:
    """The MIDI files in a WAD by their names, each once."""
    data = path.read_bytes()
    count, offset = struct.unpack("<II", data[4:12])
    found: dict[bytes, str] = {}
    for index in range(count):
        first, size, raw = struct.unpack(
            "<II8s", data[offset + 16 * index : offset + 16 * index + 16]
        )
        body = data[first : first + size]
        if raw.startswith(b"D_") and body[:4] == b"MThd":
            found.setdefault(body, f"{path.stem}-{raw.rstrip(bytes(1)).decode('latin1')}")
    return {name: body for body, name in found.items()}


def mma_songs(rng: np.random.Generator) -> dict[str, bytes]:
    """Each style of mma over chords of its own, MMA_BARS bars at the style's tempo."""
    found = {}
    for file in sorted(MMA.rglob("*.mma")):
        progression = str(rng.choice(PROGRESSIONS)).split()
        lines = [f"Groove {groove}" for groove in _grooves(file)[:1]]
        if not lines:
            continue
        transposed = f"Transpose {int(rng.integers(-5, 6))}"
        bars = [f"{bar + 1} {progression[bar % 4]}" for bar in range(MMA_BARS)]
        text = "\n".join(
            [transposed, f"Use {file.relative_to(MMA).with_suffix('')}", *lines, *bars]
        )
        with tempfile.TemporaryDirectory() as name:
            song = Path(name) / "song.mma"
            song.write_text(text + "\n")
            done = subprocess.run(
                ["mma", song.name], cwd=name, capture_output=True, env={**os.environ, "HOME": name},
                check=False, timeout=MMA_SECONDS,
            )  # fmt: skip
            made = song.with_suffix(".mid")
            if done.returncode == 0 and made.exists():
                found[f"mma-{file.parent.name}-{file.stem}"] = made.read_bytes()
    return found


def _grooves(file: Path) -> list[str]:
    """The grooves that a style file defines, in order."""
    words = (line.split() for line in file.read_text(errors="replace").splitlines())
    return [parts[1] for parts in words if len(parts) > 1 and parts[0].lower() == "defgroove"]


def song_of(name: str, body: bytes) -> HumanSong | None:
    """A MIDI file as a song; None where it has hardly any drums."""
    midi = mido.MidiFile(file=io.BytesIO(body), clip=True)
    programs, strokes, notes = [0] * 16, [], []
    sounding: dict[tuple[int, int], tuple[float, float]] = {}
    time, metred = 0.0, False
    for message in midi:
        time += message.time
        if message.type == "program_change":
            programs[message.channel] = message.program
        elif message.type == "time_signature":
            metred = True
        elif message.type == "note_on" and message.velocity and message.channel == DRUM_CHANNEL:
            if message.note in DRUM_OF:
                strokes.append(Stroke(time, DRUM_OF[message.note], message.velocity / 127))
        elif message.type in ("note_on", "note_off") and message.channel != DRUM_CHANNEL:
            place = (message.channel, message.note)
            if place in sounding:
                began, loud = sounding.pop(place)
                program = programs[message.channel]
                notes.append(Note(began, time - began, program, message.note, loud))
            if message.type == "note_on" and message.velocity:
                sounding[place] = (time, message.velocity / 127)
    if len(strokes) < FEWEST_STROKES or len({s.instrument for s in strokes}) < FEWEST_DRUMS:
        return None
    beats, downbeats = _grid(midi)
    if not metred and not _on_grid(strokes, beats):
        beats, downbeats = (), ()
    notes.sort(key=lambda note: note.time)
    return HumanSong(name, tuple(strokes), tuple(notes), beats, downbeats, time)


ON_GRID = 0.9
"""So many strokes on the sixteenths of a file's tempo, where it names no metre: then whoever wrote
it counted so, in four, which is what such a file means. Those at which we looked have their snares
on two and four and their long notes on one."""


def _on_grid(strokes: Sequence[Stroke], beats: Sequence[float]) -> bool:
    """Whether strokes fall on the sixteenths of these beats."""
    if len(beats) < 8 or not strokes:
        return False
    edges = np.array(beats)
    times = np.array([stroke.time for stroke in strokes])
    index = np.clip(np.searchsorted(edges, times + 1e-4, side="right") - 1, 0, len(edges) - 2)
    place = 4 * (times - edges[index]) / np.diff(edges)[index]
    return bool(np.mean(np.abs(place - np.round(place)) < 0.15) >= ON_GRID)


def _grid(midi: mido.MidiFile) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Beats and downbeats in seconds, by the file's tempos and metres; 6/8 is felt in two."""
    events = sorted(
        (tick, message)
        for track in midi.tracks
        for tick, message in _timed(track)
        if message.type in ("set_tempo", "time_signature")
        for message in [_Keyed(message)]
    )
    last = max((tick for track in midi.tracks for tick, _ in _timed(track)), default=0)
    beats: list[float] = []
    downbeats: list[float] = []
    tempo, per_bar, unit = 500_000, 4, 4
    tick, seconds, index, in_bar = 0.0, 0.0, 0, 0
    while tick < last:
        while index < len(events) and events[index][0] <= tick + 1e-6:
            message = events[index][1].message
            if message.type == "set_tempo":
                tempo = message.tempo
            else:
                per_bar, unit, in_bar = message.numerator, message.denominator, 0
            index += 1
        compound = unit == 8 and per_bar % 3 == 0
        pulses = per_bar // 3 if compound else per_bar
        length = midi.ticks_per_beat * 4 / unit * (3 if compound else 1)
        beats.append(seconds)
        if in_bar == 0:
            downbeats.append(seconds)
        in_bar = (in_bar + 1) % pulses
        seconds += mido.tick2second(length, midi.ticks_per_beat, tempo)
        tick += length
    return tuple(beats), tuple(downbeats)


@dataclass(frozen=True, order=True)
class _Keyed:
    """A message that sorts, so that events of one tick have an order."""

    message: mido.MetaMessage = field(compare=False)


def _timed(track: mido.MidiTrack) -> list[tuple[int, mido.Message]]:
    tick, found = 0, []
    for message in track:
        tick += message.time
        found.append((tick, message))
    return found


def build(path: Path) -> list[HumanSong]:
    """All songs, read once and kept at `path`."""
    if path.exists():
        return pickle.loads(path.read_bytes())
    bodies: dict[str, bytes] = {}
    for wad in WADS:
        bodies |= wad_songs(wad)
    bodies |= {f"kobo-{file.stem}": file.read_bytes() for file in sorted(KOBO.glob("*.mid"))}
    bodies |= mma_songs(np.random.default_rng(5))
    songs = [song_of(name, body) for name, body in bodies.items()]
    found = [song for song in songs if song is not None]
    path.write_bytes(pickle.dumps(found))
    return found


class SongPicker:
    """Draws stretches of composed songs: takes the composer's place."""

    def __init__(self, rng: np.random.Generator, songs: Sequence[HumanSong]) -> None:
        self.rng, self.songs = rng, list(songs)

    def compose(self, seconds: float) -> SongStretch:
        """A stretch of a song, somewhat faster or slower, played by a human."""
        rng = self.rng
        song = self.songs[int(rng.integers(len(self.songs)))]
        pace = float(np.exp(rng.normal(0, 0.06)))
        first = float(rng.uniform(0, max(0.0, song.duration - seconds / pace)))
        machine = rng.random() < 0.2
        jitter = 0.0 if machine else float(rng.uniform(0.002, 0.009))
        pocket = {i: 0.0 if machine else float(rng.normal(0, 0.005)) for i in DRUM_OF.values()}
        touch = 0.0 if machine else float(rng.uniform(0.03, 0.15))
        lead_in = float(rng.uniform(0, 0.4))

        def placed(time: float) -> float:
            return lead_in + (time - first) / pace

        def inside(time: float) -> bool:
            return first <= time < first + seconds * pace

        stretch = SongStretch()
        for stroke in song.strokes:
            if inside(stroke.time):
                time = placed(stroke.time) + pocket[stroke.instrument] + rng.normal(0, jitter)
                loud = float(np.clip(stroke.velocity * (1 + rng.normal(0, touch)), 0.05, 1.0))
                stretch.strokes.append(Stroke(max(0.0, float(time)), stroke.instrument, loud))
        stretch.notes = [
            Note(
                placed(n.time) + float(rng.normal(0, jitter)),
                n.length / pace,
                n.program,
                n.pitch,
                n.velocity,
            )
            for n in song.notes
            if inside(n.time)
        ]
        stretch.beats = [placed(beat) for beat in song.beats if inside(beat)]
        stretch.downbeats = [placed(beat) for beat in song.downbeats if inside(beat)]
        stretch.duration = seconds
        stretch.strokes.sort(key=lambda stroke: stroke.time)
        return stretch


def family_of(program: int) -> tuple[int, ...]:
    """The programs of ours that stand in for one of General MIDI's."""
    if program in (*BASSES, *CHORDS, *LEADS):
        return (program,)
    if 32 <= program < 40:
        return BASSES
    near = [have for have in (*CHORDS, *LEADS) if have // 8 == program // 8]
    return tuple(near) or CHORDS


class SongBand(Band):
    """Plays what the song's band plays, and sings to it now and then."""

    def play(self, stretch: Stretch, samples: int) -> np.ndarray:
        """The band's sound, shape (samples,), its loudest near 1."""
        if not isinstance(stretch, SongStretch):
            return super().play(stretch, samples)
        rng = self.rng
        mix, track = (np.zeros(samples, np.float32) for _ in range(2))
        beats = stretch.beats
        beat = float(np.median(np.diff(beats))) if len(beats) > 2 else 0.5
        sounds = {
            p: self._program(family_of(p)) for p in sorted({n.program for n in stretch.notes})
        }
        levels = {p: float(np.exp(rng.normal(0, 0.4))) for p in sounds}
        for program in sounds:
            for note in (n for n in stretch.notes if n.program == program):
                loud = 0.3 * levels[program] * note.velocity
                self._add(track, sounds[program], note.time, note.length, note.pitch, loud)
            track = self._joined(mix, track, beat)
        if rng.random() < SUNG and len(stretch.beats) > 2:
            loud = float(rng.uniform(0.3, 1.2)) * (float(np.abs(mix).max()) or 1.0)
            mix += loud * Voice(rng).sing(stretch.beats, samples)
        return self._finished(mix, stretch)

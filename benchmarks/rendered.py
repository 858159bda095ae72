"""Drum rows and a bass as a recording: MIDI through FluidSynth and FluidR3 GM (Debian packages)."""

from __future__ import annotations

import random
import shutil
import subprocess
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path

import mido

SOUNDFONT = Path("/usr/share/sounds/sf2/FluidR3_GM.sf2")
VELOCITIES = {"x": 84, "X": 112, "g": 40, "m": 68}
DRUMS, BASS, KEYS = 9, 0, 1
HUMAN_SECONDS = 0.006
LEAD_IN = 0.6


@dataclass(frozen=True, slots=True)
class Note:
    """Seconds, MIDI channel, number, velocity, seconds that it lasts."""

    time: float
    channel: int
    number: int
    velocity: int
    length: float = 0.1


def require_synthesiser() -> None:
    """Raise SystemExit that says what to install."""
    if not SOUNDFONT.exists() or not shutil.which("fluidsynth"):
        raise SystemExit(
            "this needs Debian's fluidsynth and fluid-soundfont-gm: install them first"
        )


def song_notes(
    rows: Mapping[int, str],
    fill: Mapping[int, str],
    *,
    bpm: float,
    beats: int,
    bars: int,
    seed: int,
) -> list[Note]:
    """Rows of drums (MIDI numbers; a sign a cell of the bar), a bass and a chord a bar.

    Every eighth bar is the fill, and the one after it begins with a crash.
    """
    rng = random.Random(seed)
    beat = 60 / bpm
    notes = []
    for bar in range(bars):
        start = LEAD_IN + bar * beats * beat
        for number, row in (fill if bar % 8 == 7 else rows).items():
            for cell, sign in enumerate(row):
                if sign != ".":
                    time = start + cell * beats * beat / len(row) + rng.gauss(0, HUMAN_SECONDS)
                    notes.append(Note(time, DRUMS, number, VELOCITIES[sign] + rng.randint(-6, 6)))
        if bar % 8 == 0:
            notes.append(Note(start, DRUMS, 49, 104, 0.5))
        root = 33 + 5 * (bar % 2)
        for place in range(0, beats, 2):
            notes.append(Note(start + place * beat, BASS, root + 7 * (place > 0), 84, beat))
        notes += [Note(start, KEYS, root + 24 + step, 58, 0.9 * beats * beat) for step in (0, 4, 7)]
    return notes


def render(notes: Iterable[Note], path: Path, kit: int = 0) -> None:
    """Write a WAV file. kit : the program of the drum channel."""
    track = mido.MidiTrack()
    events = [
        (0.0, mido.Message("program_change", channel=BASS, program=33)),
        (0.0, mido.Message("program_change", channel=KEYS, program=4)),
        (0.0, mido.Message("program_change", channel=DRUMS, program=kit)),
    ]
    for note in notes:
        velocity = max(1, min(127, note.velocity))
        tone = {"channel": note.channel, "note": note.number}
        events.append((note.time, mido.Message("note_on", velocity=velocity, **tone)))
        events.append((note.time + note.length, mido.Message("note_off", **tone)))
    now = 0
    for time, message in sorted(events, key=lambda event: event[0]):
        tick = round(time * 1920)
        track.append(message.copy(time=tick - now))
        now = tick
    midi = path.with_suffix(".mid")
    mido.MidiFile(ticks_per_beat=960, tracks=[track]).save(midi)
    command = ["fluidsynth", "-ni", "-q", "-g", "0.5", "-F", str(path), str(SOUNDFONT), str(midi)]
    subprocess.run(command, check=True, capture_output=True)

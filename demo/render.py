"""Render the demo songs to audio and write their true scores: `python -m demo.render`.

Needs the programs fluidsynth and ffmpeg and the Debian package fluid-soundfont-gm (FluidR3,
MIT licence). The results in demo/songs/ are shipped; run this only after changing a song.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path

import mido
import numpy as np
from scipy.io import wavfile

from demo.score import DRUM_KEYS, Song, beat_times, sounding_time, true_score
from demo.songbook import all_songs
from orchesis.music.instruments import Instrument
from orchesis.music.json import dumps
from orchesis.music.values import Transcription

SOUNDFONT = Path("/usr/share/sounds/sf2/FluidR3_GM.sf2")
FOLDER = Path(__file__).parent / "songs"
TICKS_PER_SECOND = 10_000
ATTACK_SHARE = 0.08
"""A sound has begun when it first reaches this share of the peak of its first 80 ms."""


def write_midi(events: list[tuple[float, mido.Message]], path: Path) -> None:
    """Write events at absolute seconds as a one-track file in which a tick is 0.1 ms."""
    midi = mido.MidiFile(type=0, ticks_per_beat=TICKS_PER_SECOND // 2)
    track = mido.MidiTrack()
    midi.tracks.append(track)
    now = 0
    for seconds, message in sorted(events, key=lambda event: event[0]):
        tick = round(seconds * TICKS_PER_SECOND)
        track.append(message.copy(time=max(0, tick - now)))
        now = max(now, tick)
    midi.save(path)


def synthesise(midi: Path, wav: Path, gain: float) -> None:
    """Render a MIDI file with FluidSynth at 44.1 kHz."""
    subprocess.run(
        [
            "fluidsynth",
            "-ni",
            "-q",
            "-r",
            "44100",
            "-g",
            str(gain),
            "-F",
            str(wav),
            str(SOUNDFONT),
            str(midi),
        ],
        check=True,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )


def measure_attack_lags(folder: Path) -> dict[Instrument, float]:
    """Seconds from note-on to attack of each drum sound, measured on a rendering of each alone."""
    lags = {}
    for instrument, key in DRUM_KEYS.items():
        midi, wav = folder / "one.mid", folder / "one.wav"
        on = mido.Message("note_on", channel=9, note=key, velocity=100)
        write_midi([(0.5, on), (1.5, on.copy(velocity=0))], midi)
        synthesise(midi, wav, 0.8)
        rate, samples = wavfile.read(wav)
        level = np.abs(samples.astype(float)).max(axis=1)
        start = round(0.5 * rate)
        peak = level[start : start + round(0.08 * rate)].max()
        lags[instrument] = float(np.argmax(level[start:] >= ATTACK_SHARE * peak) / rate)
    return lags


def band_events(song: Song) -> list[tuple[float, mido.Message]]:
    """The accompaniment, with its own small human timing."""
    rng = np.random.default_rng(song.seed + 1000)
    beats = beat_times(song)
    events = []
    for index, bar in enumerate(song.bars):
        for note in bar.band:
            start = sounding_time(song, beats, index, note.start) + rng.normal(0, 0.006)
            first = song.firsts[index]
            beat = beats[first + 1] - beats[first]
            velocity = int(np.clip(note.velocity + rng.normal(0, 4), 20, 120))
            on = mido.Message("note_on", channel=note.channel, note=note.pitch, velocity=velocity)
            events.append((max(0.0, start), on))
            events.append((start + note.length * beat * 0.95, on.copy(velocity=0)))
    return events


def drum_events(
    score: Transcription, lags: dict[Instrument, float]
) -> list[tuple[float, mido.Message]]:
    """The strokes of the true score, each early by its sound's lag, so that it sounds on time."""
    events = []
    for hit in score.hits:
        start = max(0.0, hit.time - lags[hit.instrument])
        on = mido.Message(
            "note_on", channel=9, note=DRUM_KEYS[hit.instrument], velocity=hit.velocity
        )
        events += [(start, on), (start + 0.09, on.copy(velocity=0))]
    return events


def render(song: Song, lags: dict[Instrument, float], folder: Path) -> None:
    """Write <slug>.ogg and <slug>.score.json."""
    score = true_score(song, lags)
    events: list[tuple[float, mido.Message]] = []
    for channel, (program, volume, pan) in song.programs.items():
        events.append((0.0, mido.Message("program_change", channel=channel, program=program)))
        events.append(
            (0.0, mido.Message("control_change", channel=channel, control=7, value=volume))
        )
        events.append((0.0, mido.Message("control_change", channel=channel, control=10, value=pan)))
    events.append((0.0, mido.Message("control_change", channel=9, control=7, value=112)))
    events += band_events(song) + drum_events(score, lags)
    midi, wav = folder / "song.mid", folder / "song.wav"
    write_midi(events, midi)
    synthesise(midi, wav, 1.3)
    subprocess.run(
        [
            "ffmpeg",
            "-v",
            "error",
            "-y",
            "-i",
            str(wav),
            "-t",
            f"{score.duration:.2f}",
            "-af",
            "alimiter=limit=0.95:level=false",
            "-c:a",
            "libvorbis",
            "-q:a",
            "5",
            "-map_metadata",
            "-1",
            str(FOLDER / f"{song.slug}.ogg"),
        ],
        check=True,
    )
    (FOLDER / f"{song.slug}.score.json").write_text(dumps(score), encoding="utf-8")


def main() -> int:
    """Render all songs."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        lags = measure_attack_lags(folder)
        for instrument, lag in lags.items():
            print(f"{instrument.value}: sounds {lag * 1000:.1f} ms after its note-on")
        for song in all_songs():
            render(song, lags, folder)
            print(f"{song.slug}: rendered")
    return 0


if __name__ == "__main__":
    sys.exit(main())

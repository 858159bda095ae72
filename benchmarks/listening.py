"""How well and how fast the demo songs are transcribed, each in a process of its own."""

from __future__ import annotations

import json
import resource
import subprocess
import sys
import tempfile
import time
from dataclasses import asdict, dataclass
from pathlib import Path

from benchmarks.scores import BEAT_TOLERANCE, HIT_TOLERANCE, f_measure, merged
from orchesis.audio.decode import write_listening_copy
from orchesis.listening.parts import decoded, write_parts
from orchesis.music.instruments import CYMBALS, STRUCK_HATS, Instrument
from orchesis.music.json import loads
from orchesis.music.values import Transcription
from orchesis.pipeline import transcribe

SONGS = Path(__file__).resolve().parent.parent / "demo" / "songs"

VOICES: dict[str, frozenset[Instrument]] = {
    "kick": frozenset({Instrument.KICK}),
    "snare": frozenset({Instrument.SNARE, Instrument.CROSS_STICK}),
    "hat": STRUCK_HATS | CYMBALS | {Instrument.HIHAT_FOOT},
}


@dataclass(frozen=True)
class Figures:
    """What one song gave. `seconds_a_minute` is work per minute of audio."""

    song: str
    seconds_a_minute: float
    peak_mb: float
    tempo: float
    true_tempo: float
    beat_f: float
    hit_f: dict[str, float]


def times_of(song: Transcription, family: frozenset[Instrument]) -> list[float]:
    """Onset times of a family, strokes that sound together counted once."""
    return merged(hit.time for hit in song.hits if hit.instrument in family)


def measure_here(path: Path) -> Figures:
    """Transcribe in this process and compare with the true score beside the file, if any."""
    began = time.monotonic()
    with tempfile.TemporaryDirectory() as name:
        # What the workers do for a song: the copy to play from, the run, the parts.
        folder = Path(name)
        write_listening_copy(path, folder / "copy.ogg")
        result = transcribe(path)
        found = result.transcription
        if result.heard and result.heard.detail and result.heard.detail.masks is not None:
            write_parts(decoded(path), result.heard.detail.masks, folder)
    spent = time.monotonic() - began
    answer = path.with_suffix(".score.json")
    truth = loads(answer.read_text()) if answer.exists() else found
    return Figures(
        song=path.stem,
        seconds_a_minute=spent / found.duration * 60,
        peak_mb=resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024,
        tempo=found.tempo_bpm,
        true_tempo=truth.tempo_bpm,
        beat_f=f_measure(truth.beats, found.beats, BEAT_TOLERANCE),
        hit_f={
            name: f_measure(times_of(truth, family), times_of(found, family), HIT_TOLERANCE)
            for name, family in VOICES.items()
        },
    )


def measure(path: Path) -> Figures:
    """The same in a fresh process, so that its peak of memory is its own."""
    command = [sys.executable, "-m", "benchmarks.listening", str(path)]
    done = subprocess.run(command, check=True, capture_output=True, text=True)
    return Figures(**json.loads(done.stdout))


def long_song(folder: Path, seconds: int) -> Path:
    """A recording of so many seconds: demo songs one after the other, over and over."""
    listing = folder / "list.txt"
    parts = sorted(SONGS.glob("*.ogg")) * (1 + seconds // 270)
    listing.write_text("".join(f"file '{path}'\n" for path in parts))
    target = folder / f"{seconds}-seconds.wav"
    command = ["ffmpeg", "-v", "error", "-f", "concat", "-safe", "0", "-i", str(listing)]
    subprocess.run([*command, "-t", str(seconds), str(target)], check=True)
    return target


if __name__ == "__main__":
    print(json.dumps(asdict(measure_here(Path(sys.argv[1])))))

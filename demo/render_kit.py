"""Render the kit that the browser plays charts with: `python -m demo.render_kit`.

One sound an instrument and layer, from FluidR3 (MIT licence, Debian package fluid-soundfont-gm),
cut at the measured attack, so that a sample starts when its stroke is due.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

import mido
import numpy as np
from scipy.io import wavfile

from demo.render import synthesise, write_midi
from orchesis.chart.notation import STAFF
from orchesis.music.instruments import CYMBALS, Instrument

FOLDER = Path(__file__).resolve().parent.parent / "frontend" / "public" / "kit"
LAYERS = {"soft": 42, "loud": 104}
SECONDS = 1.2
CYMBAL_SECONDS = 2.6
BEFORE_ATTACK = 0.002
FADE = 0.08


def sound(instrument: Instrument, velocity: int, folder: Path) -> np.ndarray:
    """One stroke, mono, from 2 ms before its attack, faded out at its end."""
    midi, wav = folder / "one.mid", folder / "one.wav"
    on = mido.Message("note_on", channel=9, note=STAFF[instrument].midi_key, velocity=velocity)
    write_midi([(0.5, on), (4.0, on.copy(velocity=0))], midi)
    synthesise(midi, wav, 0.9)
    rate, samples = wavfile.read(wav)
    mono = samples.astype(np.float64).mean(axis=1) / 32768
    start = round(0.5 * rate)
    peak = np.abs(mono[start : start + round(0.08 * rate)]).max()
    attack = start + int(np.argmax(np.abs(mono[start:]) >= 0.08 * peak))
    length = CYMBAL_SECONDS if instrument in CYMBALS or "open" in instrument.value else SECONDS
    first = attack - round(BEFORE_ATTACK * rate)
    cut: np.ndarray = mono[first : first + round(length * rate)].copy()
    fade = round(FADE * rate)
    cut[-fade:] *= np.linspace(1, 0, fade)
    return cut


def main() -> int:
    """Render all sounds, and the list that the browser reads."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    listing = {}
    with tempfile.TemporaryDirectory() as name:
        for instrument in Instrument:
            for layer, velocity in LAYERS.items():
                samples = sound(instrument, velocity, Path(name))
                wav = Path(name) / "cut.wav"
                wavfile.write(wav, 44100, (samples * 32767).astype(np.int16))
                target = FOLDER / f"{instrument.value}-{layer}.ogg"
                subprocess.run(
                    [
                        "ffmpeg",
                        "-v",
                        "error",
                        "-y",
                        "-i",
                        str(wav),
                        "-c:a",
                        "libvorbis",
                        "-q:a",
                        "4",
                        "-map_metadata",
                        "-1",
                        str(target),
                    ],
                    check=True,
                )
            listing[instrument.value] = sorted(LAYERS)
    (FOLDER / "kit.json").write_text(
        json.dumps({"velocities": LAYERS, "sounds": listing}, indent=1) + "\n"
    )
    print(f"{len(listing)} instruments in {FOLDER}")
    return 0


if __name__ == "__main__":
    sys.exit(main())

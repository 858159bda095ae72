"""Render the kit that the browser plays charts with: `python -m demo.render_kit`.

Four layers an instrument, from FluidR3 (MIT licence, Debian package fluid-soundfont-gm), cut at the
measured attack, so that a sample starts when its stroke is due. Drums that repeat fast have every
layer twice, the second a little lower and softer, so that a row of strokes is no machine.
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
LAYERS = {"ghost": 22, "soft": 52, "loud": 92, "accent": 120}
TWICE = frozenset(
    {
        Instrument.SNARE,
        Instrument.HIHAT_CLOSED,
        Instrument.RIDE,
        Instrument.KICK,
        Instrument.TOM_HIGH,
        Instrument.TOM_FLOOR,
    }
)
SECOND_BEND, SECOND_SOFTER = -160, 4
"""Of the second of a pair: steps of pitch bend (about 4 cents), steps of velocity."""

SECONDS = 1.2
CYMBAL_SECONDS = 2.6
BEFORE_ATTACK = 0.002
FADE = 0.08


def sound(instrument: Instrument, velocity: int, folder: Path, bend: int = 0) -> np.ndarray:
    """One stroke, mono, from 2 ms before its attack, faded out at its end."""
    midi, wav = folder / "one.mid", folder / "one.wav"
    on = mido.Message("note_on", channel=9, note=STAFF[instrument].midi_key, velocity=velocity)
    bent = mido.Message("pitchwheel", channel=9, pitch=bend)
    write_midi([(0.1, bent), (0.5, on), (4.0, on.copy(velocity=0))], midi)
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


def encode(samples: np.ndarray, target: Path, wav: Path) -> None:
    """Write samples as Ogg Vorbis."""
    wavfile.write(wav, 44100, (samples * 32767).astype(np.int16))
    quality = ["-c:a", "libvorbis", "-q:a", "3", "-map_metadata", "-1"]
    command = ["ffmpeg", "-v", "error", "-y", "-i", str(wav), *quality, str(target)]
    subprocess.run(command, check=True)


def main() -> int:
    """Render all sounds, and the list that the browser and the renderer of mixes read."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    for old in FOLDER.glob("*.ogg"):
        old.unlink()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for instrument in Instrument:
            for layer, velocity in LAYERS.items():
                for variant in range(2 if instrument in TWICE else 1):
                    samples = sound(
                        instrument,
                        velocity - SECOND_SOFTER * variant,
                        folder,
                        SECOND_BEND * variant,
                    )
                    target = FOLDER / f"{instrument.value}-{layer}-{variant + 1}.ogg"
                    encode(samples, target, folder / "cut.wav")
    listing = {item.value: 2 if item in TWICE else 1 for item in Instrument}
    (FOLDER / "kit.json").write_text(
        json.dumps({"velocities": LAYERS, "variants": listing}, indent=1) + "\n"
    )
    print(f"{len(listing)} instruments in {FOLDER}")
    return 0


if __name__ == "__main__":
    sys.exit(main())

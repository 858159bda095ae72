"""Rendering MIDI with FluidSynth, dry: no reverberation, no chorus."""

from __future__ import annotations

import subprocess
import tempfile
from pathlib import Path

import mido
import numpy as np
from scipy.io import wavfile

RATE = 44_100
DRY = ("-R", "0", "-C", "0")


def render_dry(midi: mido.MidiFile, font: Path) -> np.ndarray:
    """The sound of a MIDI file through a soundfont, mono float32, shape (samples,)."""
    with tempfile.TemporaryDirectory() as name:
        file, wav = Path(name) / "a.mid", Path(name) / "a.wav"
        midi.save(file)
        command = ["fluidsynth", "-ni", "-q", *DRY, "-r", str(RATE), "-g", "0.7"]
        command += ["-F", str(wav), str(font), str(file)]
        subprocess.run(command, check=True, capture_output=True)
        return wavfile.read(wav)[1].astype(np.float32).mean(axis=1) / 32768

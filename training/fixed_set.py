"""The small fixed set that ships with the tests: `python -m training.fixed_set FOLDER`.

Eight clips of 20 s, stems and mixes, with FluidR3 (MIT) and drums of our own synthesis only, so
that they may be passed on. The figures of the shipped model on them are written beside them; a test
proves that the shipped file still gives them. They say nothing of unseen kits:
docs/measurements.md does.
"""

from __future__ import annotations

import argparse
import json
import subprocess
import sys
from pathlib import Path

import numpy as np

from benchmarks.fixed_set import FOLDER, figures
from training import band as bands
from training import bank as banks
from training.bank import RATE
from training.composer import Composer
from training.render import SECONDS, Renderer

CLIPS = 8
SEED = 940_000
STYLES = ("straight8", "sixteenth", "swing16", "ballad", "halftime", "train", "shuffle", "waltz")


def make(folder: Path) -> None:
    """Render the clips and their labels, unless they are there."""
    bank = banks.build(folder / "bank.pickle")
    every = bands.build(folder / "notes.pickle")
    notes = {key: value for key, value in every.items() if key[0].startswith("FluidR3")}
    FOLDER.mkdir(parents=True, exist_ok=True)
    for number in range(CLIPS):
        target = FOLDER / f"clip-{number}.ogg"
        if target.exists():
            continue
        rng = np.random.default_rng(SEED + number)
        renderer = Renderer(bank, ["fluid", "synth"], bands.Band(notes, rng), rng)
        stretch = Composer(rng, (STYLES[number],)).compose(SECONDS)
        made = renderer.sound(stretch, stem=number % 2 == 0)
        command = ["ffmpeg", "-v", "error", "-y", "-f", "f32le", "-ac", "1", "-ar", str(RATE)]
        command += ["-i", "-", "-c:a", "libvorbis", "-q:a", "6", str(target)]
        subprocess.run(command, input=made.mix.astype("<f4").tobytes(), check=True)
        strokes = [[round(s.time, 4), s.instrument.value] for s in made.laid]
        target.with_suffix(".json").write_text(json.dumps({"strokes": strokes}) + "\n")


def main() -> int:
    """Make what is missing and write the figures of the shipped model."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    options = parser.parse_args()
    make(options.folder)
    found = figures()
    text = json.dumps({name: round(value, 4) for name, value in found.items()}, indent=1)
    (FOLDER / "figures.json").write_text(text + "\n")
    sys.stdout.write(text + "\n")
    return 0


if __name__ == "__main__":
    sys.exit(main())

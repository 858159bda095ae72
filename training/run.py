"""From nothing to the shipped file: `.venv/bin/python -m training.run [--minutes 275]`.

Every step is skipped when its result is there, so that it can be stopped and taken up again. Needs
the Debian packages of PACKAGES; torch goes into a virtualenv of its own.
"""

from __future__ import annotations

import argparse
import os
import shutil
import subprocess
import sys
import venv
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
FOLDER = ROOT / ".run" / "training"
PYTHON = FOLDER / "venv" / "bin" / "python"
PACKAGES = (
    "fluidsynth",
    "ffmpeg",
    "fluid-soundfont-gm",
    "timgm6mb-soundfont",
    "opl3-soundfont",
    "freepats",
    "hydrogen-data",
    "hydrogen-drumkits",
    "sonic-pi-samples",
)
HELD_OUT = "gmrock"

PLAIN = ("--only-held-out", "--plain")

SETS: dict[str, tuple[str, ...]] = {
    "val_stems": ("--clips", "60", "--first-seed", "900000", "--only-held-out", "--stems", "1"),
    "val_mixes": ("--clips", "90", "--first-seed", "910000", "--only-held-out", "--stems", "0"),
    "plain_stems": ("--clips", "90", "--first-seed", "960000", *PLAIN, "--stems", "1"),
    "plain_mixes": ("--clips", "90", "--first-seed", "961000", *PLAIN, "--stems", "0"),
    "songs": ("--clips", "312", "--first-seed", "970000", "--seconds", "48"),
    "tune": ("--clips", "120", "--first-seed", "920000"),
    "val_styles": ("--clips", "60", "--first-seed", "950000", "--styles", "held-out"),
    "train": ("--clips", "4830", "--first-seed", "0"),
    "gmrock": ("--clips", "240", "--first-seed", "800000", "--only-held-out", "--stems", "0.35"),
}
"""The sets of clips. What is held out appears in the `val` and `plain` sets only, and in `gmrock`,
with which training goes on after the figures have been taken."""


def run(module: str, *arguments: str, python: Path = PYTHON) -> None:
    """Run a module of this package; stops everything when it fails."""
    environment = {**os.environ, "PYTHONPATH": f"{ROOT}:{ROOT / 'src'}"}
    subprocess.run([str(python), "-m", module, *arguments], check=True, cwd=ROOT, env=environment)


def main() -> int:
    """Everything in order."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--minutes", type=float, default=275)
    parser.add_argument("--more", type=float, default=20, help="minutes with all sources")
    options = parser.parse_args()
    if not PYTHON.exists():
        venv.create(FOLDER / "venv", with_pip=True)
        requirements = str(ROOT / "training" / "requirements.in")
        subprocess.run([str(PYTHON), "-m", "pip", "install", "-q", "-r", requirements], check=True)
    for name, arguments in SETS.items():
        run("training.dataset", str(FOLDER / name), "--held-out", HELD_OUT, *arguments)
    workers = ("--workers", "2")
    minutes = options.minutes
    run("training.train", str(FOLDER), "--minutes", str(minutes), *workers)
    run("training.export", str(FOLDER), "--to", str(FOLDER / "held-out-models"))
    sets = ("--sets", "plain_stems", "plain_mixes", "val_stems", "val_mixes", "val_styles")
    held_out = ("--models", str(FOLDER / "held-out-models"))
    run("training.judge", str(FOLDER), *held_out)
    run("training.evaluate", str(FOLDER), *held_out, *sets)
    run("training.separation", str(FOLDER), *held_out)
    # The shipped model has heard everything that is permitted.
    everything = FOLDER / "train-all"
    everything.mkdir(exist_ok=True)
    for name in ("train", "gmrock"):
        for path in (FOLDER / name).glob("*.npz"):
            target = everything / path.name
            if not target.exists():
                target.symlink_to(path)
    final = FOLDER / "ear-all.pt"
    if not final.exists():
        shutil.copy(FOLDER / "ear.pt", final)
    more = ("--name", "ear-all", "--shards", "train-all", "--go-on", "--rate", "8e-4", *workers)
    run("training.train", str(FOLDER), "--minutes", str(minutes + options.more), *more)
    run("training.export", str(FOLDER), "--name", "ear-all", "--average-with", "ear")
    run("training.judge", str(FOLDER))
    run("training.fixed_set", str(FOLDER))
    return 0


if __name__ == "__main__":
    sys.exit(main())

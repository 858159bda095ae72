"""From nothing to the shipped file: `.venv/bin/python -m training.run [--minutes 42]`.

Every step is skipped when its result is there, so that it can be stopped and taken up again. Needs
the Debian packages of PACKAGES; torch goes into a virtualenv of its own.
"""

from __future__ import annotations

import argparse
import os
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

SETS: dict[str, tuple[str, ...]] = {
    "val_stems": ("--clips", "60", "--first-seed", "900000", "--only-held-out", "--stems", "1"),
    "val_mixes": ("--clips", "90", "--first-seed", "910000", "--only-held-out", "--stems", "0"),
    "tune": ("--clips", "90", "--first-seed", "920000"),
    "train": ("--clips", "3000", "--first-seed", "0"),
}
"""The sets of clips. What is held out appears in the two `val` sets only."""


def run(module: str, *arguments: str, python: Path = PYTHON) -> None:
    """Run a module of this package; stops everything when it fails."""
    environment = {**os.environ, "PYTHONPATH": f"{ROOT}:{ROOT / 'src'}"}
    subprocess.run([str(python), "-m", module, *arguments], check=True, cwd=ROOT, env=environment)


def main() -> int:
    """Everything in order."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--minutes", type=float, default=42)
    options = parser.parse_args()
    if not PYTHON.exists():
        venv.create(FOLDER / "venv", with_pip=True)
        requirements = str(ROOT / "training" / "requirements.in")
        subprocess.run([str(PYTHON), "-m", "pip", "install", "-q", "-r", requirements], check=True)
    for name, arguments in SETS.items():
        run("training.dataset", str(FOLDER / name), "--held-out", HELD_OUT, *arguments)
    run("training.train", str(FOLDER), "--minutes", str(options.minutes))
    run("training.export", str(FOLDER))
    run("training.evaluate", str(FOLDER))
    return 0


if __name__ == "__main__":
    sys.exit(main())

"""From nothing to the shipped file: `.venv/bin/python -m training.run [--minutes 190]`.

Every step is skipped when its result is there, so that it can be stopped and taken up again. Needs
the Debian packages of PACKAGES; torch goes into a virtualenv of its own.
"""

from __future__ import annotations

import argparse
import os
import shutil
import subprocess
import sys
import time
import venv
from collections.abc import Sequence
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
FOLDER = ROOT / ".run" / "training"
PYTHON = FOLDER / "venv" / "bin" / "python"
MODELS = ROOT / "src" / "orchesis" / "listening" / "models"
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
    "csound-soundfont",
    "freedoom",
    "kobodeluxe-data",
    "mma",
    "rafkill-data",
    "circuslinux-data",
    "njam-data",
    "libopenmpt0",
)
HELD_OUT = "gmrock"
WORKERS = 2
FIGURES = ("plain_stems", "plain_mixes", "val_stems", "val_mixes", "val_styles")

PLAIN = ("--only-held-out", "--plain")

SETS: dict[str, tuple[tuple[str, ...], ...]] = {
    "val_stems": (("--clips", "60", "--first-seed", "900000", "--only-held-out", "--stems", "1"),),
    "val_mixes": (("--clips", "90", "--first-seed", "910000", "--only-held-out", "--stems", "0"),),
    "plain_stems": (("--clips", "90", "--first-seed", "960000", *PLAIN, "--stems", "1"),),
    "plain_mixes": (("--clips", "90", "--first-seed", "961000", *PLAIN, "--stems", "0"),),
    "songs": (
        ("--clips", "216", "--first-seed", "970000", "--seconds", "48"),
        ("--clips", "168", "--first-seed", "972000", "--seconds", "48", "--plain"),
    ),
    "tune": (("--clips", "120", "--first-seed", "920000"),),
    "val_styles": (("--clips", "60", "--first-seed", "950000", "--styles", "held-out"),),
    "train": (
        ("--clips", "1680", "--first-seed", "0"),
        ("--clips", "840", "--first-seed", "1000"),
        ("--clips", "840", "--first-seed", "2000", "--plain"),
        ("--clips", "600", "--first-seed", "3000"),
        ("--clips", "600", "--first-seed", "4000", "--plain"),
        ("--clips", "360", "--first-seed", "5000"),
        ("--clips", "900", "--first-seed", "6000", "--plain"),
        ("--clips", "900", "--first-seed", "7000", "--plain"),
        ("--clips", "180", "--first-seed", "8000"),
    ),
    "gmrock": (
        ("--clips", "240", "--first-seed", "800000", "--only-held-out", "--stems", "0.35"),
        ("--clips", "120", "--first-seed", "810000", *PLAIN, "--stems", "0.35"),
    ),
}
"""The sets of clips, each in one or more batches. What is held out appears in the `val` sets and in
`plain_stems` and `plain_mixes` only, and in `gmrock`, with which training may go on after the
figures have been taken."""


def environment() -> dict[str, str]:
    """One thread a process: there are as many processes as cores."""
    return {
        **os.environ,
        "PYTHONPATH": f"{ROOT}:{ROOT / 'src'}",
        "OMP_NUM_THREADS": "1",
        "OPENBLAS_NUM_THREADS": "1",
    }


def run(module: str, *arguments: str) -> None:
    """Run a module of this package; stops everything when it fails."""
    began = time.monotonic()
    command = [str(PYTHON), "-m", module, *arguments]
    subprocess.run(command, check=True, cwd=ROOT, env=environment())
    print(f"{module} took {(time.monotonic() - began) / 60:.1f} min", flush=True)


def render(*names: str, share: float = 1.0) -> None:
    """Render sets of clips, or a share of each, in as many processes as there are workers."""
    for name in names:
        began = time.monotonic()
        for batch in SETS[name]:
            render_batch(name, shortened(batch, share))
        print(f"{name} took {(time.monotonic() - began) / 60:.1f} min", flush=True)


def shortened(batch: tuple[str, ...], share: float) -> tuple[str, ...]:
    """The same batch with a share of its clips; at least one shard is rendered of it."""
    option, clips, *rest = batch
    assert option == "--clips"
    return (option, str(round(share * int(clips))), *rest)


def render_batch(name: str, batch: tuple[str, ...]) -> None:
    """Render one batch of a set."""
    workers = []
    for rank in range(WORKERS):
        command = [str(PYTHON), "-m", "training.dataset", str(FOLDER / name)]
        command += ["--held-out", HELD_OUT, *batch]
        command += ["--workers", str(WORKERS), "--rank", str(rank)]
        workers.append(subprocess.Popen(command, cwd=ROOT, env=environment()))
        if not (FOLDER / "others.pickle").exists():
            # The first one gathers the sounds, which the others then find.
            workers[0].wait()
    if any(worker.wait() for worker in workers):
        raise SystemExit(f"rendering {name} failed")


def figures(models: Path) -> None:
    """What this ear hears of the kit that it has not heard."""
    run("training.evaluate", str(FOLDER), "--models", str(models), "--sets", *FIGURES)
    run("training.separation", str(FOLDER), "--models", str(models))


def prepare() -> None:
    """Make torch's virtualenv, unless it is there."""
    if not PYTHON.exists():
        venv.create(FOLDER / "venv", with_pip=True)
        requirements = str(ROOT / "training" / "requirements.in")
        subprocess.run([str(PYTHON), "-m", "pip", "install", "-q", "-r", requirements], check=True)


def main() -> int:
    """Everything in order."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--minutes", type=float, default=190, help="without the held-out kit")
    parser.add_argument("--second", type=float, default=190, help="minutes of the second network")
    parser.add_argument("--more", type=float, default=10, help="of each, with all sources; or 0")
    parser.add_argument(
        "--once", nargs="*", default=[], help="checkpoints to ship beside them, hearing songs once"
    )
    parser.add_argument("--share", type=float, default=1.0, help="of all clips: to try this out")
    parser.add_argument("--to", type=Path, default=MODELS, help="where the shipped files go")
    options = parser.parse_args()
    prepare()
    minutes, held_out = {"ear": options.minutes, "second": options.second}, FOLDER / "held-out"
    render("train", share=options.share)
    train("ear", minutes["ear"])
    train("second", minutes["second"], "--shape", "ear", "--seed", "9")
    render("tune", "songs", *FIGURES, share=options.share)
    export(held_out, "ear", "second")
    figures(held_out)
    # What ships has heard everything that is permitted.
    names = ["ear", "second"]
    if options.more:
        render("gmrock", share=options.share)
        names = [with_all_sources(name, minutes[name] + options.more) for name in names]
    export(options.to, *names, once=options.once)
    if options.to == MODELS:
        run("training.fixed_set", str(FOLDER))
    return 0


def train(name: str, minutes: float, *arguments: str) -> None:
    """Train a network to so many minutes, or what of them is missing."""
    given = ("--name", name, "--minutes", str(minutes), "--workers", str(WORKERS), *arguments)
    run("training.train", str(FOLDER), *given)


def export(target: Path, name: str, other: str, once: Sequence[str] = ()) -> None:
    """Write two networks as one, its calibration and its judge."""
    given = ("--name", name, "--together", str(FOLDER / f"{other}.pt"), "--once", *once)
    run("training.export", str(FOLDER), "--to", str(target), *given)
    run("training.judge", str(FOLDER), "--models", str(target))


def with_all_sources(name: str, minutes: float) -> str:
    """Go on, to so many minutes in all, with the held-out kit among the sources.

    Returns the name of what ships: the mean of the weights before and after.
    """
    everything = FOLDER / "train-all"
    everything.mkdir(exist_ok=True)
    for held in ("train", "gmrock"):
        for path in (FOLDER / held).glob("*.npz"):
            target = everything / path.name
            if not target.exists():
                target.symlink_to(path)
    final = FOLDER / f"{name}-all.pt"
    if not final.exists():
        shutil.copy(FOLDER / f"{name}.pt", final)
    train(f"{name}-all", minutes, "--shards", "train-all", "--go-on", "--rate", "8e-4")
    mean = FOLDER / f"{name}-mean.pt"
    run("training.average", str(FOLDER / f"{name}.pt"), str(final), "--to", str(mean))
    return mean.stem


if __name__ == "__main__":
    sys.exit(main())

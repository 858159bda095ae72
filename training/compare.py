"""Architectures and input resolutions against each other: `python -m training.compare FOLDER`.

Each network is trained for the same minutes of the processor, on one thread, on the same clips,
then judged on the kit that was left out, by the first pass alone. Prints a table; results that are
there are not computed again.
"""

from __future__ import annotations

import argparse
import subprocess
import sys
from pathlib import Path

import torch

from orchesis.listening.network_ear import NetworkEar, load_model
from training.evaluate import evaluate, listen
from training.network import SHAPES, DrumNet

NAMES = ("gru", "lstm", "wide", "convolutions", "lstm-42-bands", "lstm-20-ms")


def main() -> int:
    """Train, export and judge each."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--minutes", type=float, default=6)
    parser.add_argument("--only", nargs="*", default=list(NAMES), choices=NAMES)
    options = parser.parse_args()
    torch.set_num_threads(1)
    print("| network | parameters | steps | stems | mixes |\n|---|---|---|---|---|", flush=True)
    for name in options.only:
        run = [sys.executable, "-m"]
        checkpoint = options.folder / f"compare-{name}.pt"
        if not checkpoint.exists():
            train = ["training.train", str(options.folder), "--minutes", str(options.minutes)]
            train += ["--shape", name, "--name", checkpoint.stem, "--processor-time"]
            subprocess.run([*run, *train], check=True, stdout=subprocess.DEVNULL)
        models = options.folder / f"models-{name}"
        if not (models / "ear.json").exists():
            export = ["training.export", str(options.folder), "--name", checkpoint.stem]
            export += ["--to", str(models)]
            subprocess.run([*run, *export], check=True, stdout=subprocess.DEVNULL)
        load_model.cache_clear()
        ear = NetworkEar(models, judged=False)
        figures = []
        for folder in ("val_stems", "val_mixes"):
            heard = listen(options.folder / folder, ear)
            figures.append(
                evaluate([(list(h.onsets), t) for h, _, t in heard])["5 classes F 50 ms"]
            )
        size = sum(p.numel() for p in DrumNet(SHAPES[name]).parameters())
        steps = torch.load(checkpoint, weights_only=False)["step"]
        print(f"| {name} | {size / 1e6:.2f} M | {steps} | {figures[0]:.3f} | {figures[1]:.3f} |")
        sys.stdout.flush()
    return 0


if __name__ == "__main__":
    sys.exit(main())

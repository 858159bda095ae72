"""Networks alone, before judge and grid: `python -m training.first_pass FOLDER FILE... --sets ...`.

What a network that learnt something new is worth, before an hour goes into its judge. Of each
checkpoint the mean of its weights hears the clips once; one threshold for all classes is chosen on
`--tune`, clips of trained sources, and the sets are scored with it: F of five classes and of all
labels within 50 ms, the precision of snares, and the mean of clips and their worst tenth.
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

import numpy as np
import torch

from benchmarks.fixed_set import FIVE_CLASSES
from orchesis.listening.features import BANDS, LOW_BANDS
from orchesis.music.instruments import Instrument as I
from training.labels import CLASSES
from training.network import DrumNet, Shape
from training.scoring import RATE_FRAMES, Counts, Truth, clips, micro, times

THRESHOLDS = np.arange(0.15, 0.75, 0.05)
REACH = 2
"""Frames on either side of which a peak is the largest."""

TOLERANCE = 0.05

Heard = list[tuple[np.ndarray, Truth]]
"""Of each clip the onset probabilities, shape (frames, classes), and the truth."""


def load(path: Path) -> DrumNet:
    """A checkpoint's averaged network."""
    saved = torch.load(path, weights_only=False)
    net = DrumNet(Shape(**saved["shape"]))
    net.load_state_dict(saved["mean"])
    return net.eval()


def hear(net: DrumNet, folder: Path) -> Heard:
    """Every clip of a folder."""
    inputs = net.shape.bands + net.shape.low_bands
    heard = []
    with torch.no_grad():
        for features, truth in clips(folder):
            given = torch.from_numpy(features[None, :, : max(inputs, BANDS)])
            if inputs > features.shape[1]:
                raise ValueError(
                    f"{folder} has no low end: {features.shape[1]} of {BANDS + LOW_BANDS}"
                )
            out = net(given[..., :inputs])[0, :, : len(CLASSES)]
            heard.append((torch.sigmoid(out).numpy(), truth))
    return heard


def peaks(curve: np.ndarray, threshold: float) -> list[float]:
    """Seconds of the local maxima of a curve above a threshold."""
    padded = np.pad(curve, REACH, constant_values=-1.0)
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * REACH + 1)
    frames = np.flatnonzero((curve >= windows.max(axis=1)) & (curve > threshold))
    return [float(frame / RATE_FRAMES) for frame in frames]


def figures(heard: Heard, threshold: float) -> dict[str, float]:
    """F of five classes and of labels, precision of snares, mean and worst tenth of clips."""
    five = {name: Counts() for name in FIVE_CLASSES}
    labels = {instrument: Counts() for instrument in CLASSES}
    each = []
    for curves, truth in heard:
        found = {i: peaks(curves[:, column], threshold) for column, i in enumerate(CLASSES)}
        clip = Counts()
        for name, family in FIVE_CLASSES.items():
            estimate = merged_times([t for i in family for t in found[i]])
            for counts in (five[name], clip):
                counts.add(times(truth, family), estimate, TOLERANCE)
        for instrument, counts in labels.items():
            reference = [time for time, _ in truth.strokes[instrument]]
            counts.add(reference, found[instrument], TOLERANCE)
        if clip.reference:
            each.append(clip.f)
    snares = labels[I.SNARE]
    return {
        "5 classes": micro(list(five.values())),
        "all labels": micro(list(labels.values())),
        "snare precision": snares.precision,
        "snare recall": snares.recall,
        "clips, mean": float(np.mean(each)),
        "worst tenth": float(np.quantile(each, 0.1)),
        **{f"{name} F": counts.f for name, counts in five.items()},
    }


def merged_times(found: list[float]) -> list[float]:
    """Strokes of one family at one moment count once."""
    kept: list[float] = []
    for time in sorted(found):
        if not kept or time - kept[-1] > 0.03:
            kept.append(time)
    return kept


def main() -> int:
    """Compare and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("checkpoints", nargs="+", type=Path)
    parser.add_argument("--tune", default="tune_first")
    parser.add_argument("--sets", nargs="+", required=True)
    options = parser.parse_args()
    for name in (options.tune, *options.sets):
        if not any((options.folder / name).glob("*.npz")):
            parser.error(f"{options.folder / name} holds no clips: render some, or name another")
    torch.set_num_threads(1)
    for path in options.checkpoints:
        net = load(path)
        tuned = hear(net, options.folder / options.tune)
        best = max(THRESHOLDS, key=lambda t: figures(tuned, t)["5 classes"])
        for name in options.sets:
            values = figures(hear(net, options.folder / name), float(best))
            words = " ".join(f"{key} {value:.3f}" for key, value in values.items())
            print(f"{path.stem} {name} (threshold {best:.2f}): {words}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())

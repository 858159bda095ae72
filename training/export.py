"""From a checkpoint to the shipped files: `python -m training.export FOLDER [--name ear]`.

Writes ear.onnx and ear.json. Thresholds and calibration are fitted on FOLDER/tune, clips of
sources and styles that were trained on; figures are reported elsewhere, on what was left out.
"""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

import numpy as np
import onnx
import onnxruntime
import torch
from onnx import helper, numpy_helper
from scipy.optimize import minimize

from benchmarks.scores import match
from orchesis.listening.candidates import DEAD_FRAMES
from orchesis.listening.fitting import fit_logistic
from orchesis.listening.network_ear import MODELS, NetworkEar, load_model
from orchesis.listening.peaks import pick_peaks
from orchesis.listening.second_pass import TERMS, describe, sigmoid
from training.labels import CLASSES
from training.network import DrumNet, Shape, Together
from training.scoring import RATE_FRAMES, clips, run, songs_of

GRID = np.round(np.concatenate([np.arange(0.1, 0.8, 0.04)]), 3)
UNFITTED = {"threshold": 0.5, "slope": 1.0, "offset": 0.0}
LARGE = 1000
"""Arrays of weights with fewer values are left in 32 bits."""

LEAST_SLOPE = 0.2
"""A flatter fit says that the class was not learnt: higher peaks are no righter than low ones."""

FEWEST = 30
"""With fewer right peaks of a class nothing is fitted: it must be sure on its own."""


def network_of(checkpoint: Path) -> DrumNet:
    """The network of a checkpoint, with the mean of its last weights."""
    saved = torch.load(checkpoint, weights_only=False)
    net = DrumNet(Shape(**saved["shape"]))
    net.load_state_dict(saved["mean"])
    return net


SHIFTS = (-1, 1)
"""Semitones up or down in which the networks hear a song once more."""


def write_onnx(
    networks: list[DrumNet], once: list[DrumNet], beats: DrumNet | None, target: Path
) -> None:
    """Export networks as one, with a free number of frames; see `Together`."""
    net = Together(networks, SHIFTS, once, beats)
    net.eval()
    example = torch.zeros(1, 400, net.inputs)
    target.parent.mkdir(parents=True, exist_ok=True)
    torch.onnx.export(
        net,
        (example,),
        str(target),
        input_names=["features"],
        output_names=["logits"],
        dynamic_axes={"features": {1: "frames"}, "logits": {1: "frames"}},
        opset_version=17,
        dynamo=False,
    )
    halved(target)


def halved(model: Path) -> None:
    """Write a model's large weights in 16 bits; they are widened again as the model is loaded.

    What is read in 32 bits is the same to some 1e-3, and the file is half as large.
    """
    held = onnx.load(model)
    graph = held.graph
    casts = []
    for tensor in graph.initializer:
        if tensor.data_type != onnx.TensorProto.FLOAT or np.prod(tensor.dims) < LARGE:
            continue
        name = tensor.name
        values = numpy_helper.to_array(tensor).astype(np.float16)
        tensor.CopyFrom(numpy_helper.from_array(values, f"{name}.16"))
        casts.append(helper.make_node("Cast", [tensor.name], [name], to=onnx.TensorProto.FLOAT))
    nodes = [*casts, *graph.node]
    del graph.node[:]
    graph.node.extend(nodes)
    onnx.save(held, model)


def peaks_of(
    folder: Path, session: onnxruntime.InferenceSession
) -> dict[str, tuple[np.ndarray, np.ndarray, int]]:
    """Per class: the height of every peak, whether it is right, and how many strokes there were."""
    heights: dict[str, list[float]] = {c.value: [] for c in CLASSES}
    right: dict[str, list[bool]] = {c.value: [] for c in CLASSES}
    there = {c.value: 0 for c in CLASSES}
    for features, truth in clips(folder):
        found = run(session, features)
        for column, instrument in enumerate(CLASSES):
            curve = found.onsets[:, column]
            peaks = pick_peaks(
                curve, half_width=DEAD_FRAMES, above_mean=0.0, mean_width=5, floor=0.05
            )
            reference = [time for time, _ in truth.strokes[instrument]]
            matched = {j for _, j in match(reference, list(peaks / RATE_FRAMES), 0.05)}
            heights[instrument.value] += [float(curve[peak]) for peak in peaks]
            right[instrument.value] += [j in matched for j in range(len(peaks))]
            there[instrument.value] += len(reference)
    return {
        name: (np.array(heights[name]), np.array(right[name], bool), there[name])
        for name in heights
    }


def fit(heights: np.ndarray, right: np.ndarray, there: int) -> dict[str, float]:
    """The threshold of the best F, and a logistic calibration (Platt, 1999)."""
    if right.sum() < FEWEST:
        return dict(UNFITTED)
    scores = [2 * right[heights >= t].sum() / max(1, (heights >= t).sum() + there) for t in GRID]
    logit = np.log(np.clip(heights, 1e-4, 1 - 1e-4) / (1 - np.clip(heights, 1e-4, 1 - 1e-4)))

    def cost(values: np.ndarray) -> float:
        z = values[0] * logit + values[1]
        return float(np.mean(np.logaddexp(0, z) - right * z) + 1e-3 * (values[0] - 1) ** 2)

    slope, offset = minimize(cost, np.array([1.0, 0.0])).x
    if slope < LEAST_SLOPE:
        return dict(UNFITTED)
    return {
        "threshold": float(GRID[int(np.argmax(scores))]),
        "slope": float(slope),
        "offset": float(offset),
    }


def song_table(folder: Path, ear: NetworkEar) -> tuple[np.ndarray, ...]:
    """Terms, column and truth of every candidate of the clips, and the strokes of each class."""
    terms, columns, right = [], [], []
    there = np.zeros(len(CLASSES), int)
    for song, found, good, strokes in songs_of(clips(folder), ear):
        terms.append(describe(song, found))
        columns.append(found.column)
        right.append(good)
        there += strokes
    return np.concatenate(terms), np.concatenate(columns), np.concatenate(right), there


def song_models(table: tuple[np.ndarray, ...]) -> dict[str, dict[str, object]]:
    """The second pass's model of each class: all classes together first, then each on its own."""
    terms, columns, right, there = table
    base = np.zeros(len(TERMS))
    base[0] = 1.0
    common = fit_logistic(terms, right, start=base)
    models = {}
    for column, instrument in enumerate(CLASSES):
        mine = columns == column
        weights = fit_logistic(terms[mine], right[mine], start=common)
        probability = sigmoid(terms[mine] @ weights)
        scores = [
            2
            * right[mine][probability >= t].sum()
            / max(1, (probability >= t).sum() + there[column])
            for t in GRID
        ]
        models[instrument.value] = {
            "weights": [round(float(value), 4) for value in weights],
            "threshold": float(GRID[int(np.argmax(scores))]) if there[column] >= FEWEST else 0.5,
        }
    return models


def main() -> int:
    """Export and calibrate."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--name", default="ear")
    parser.add_argument("--to", type=Path, default=MODELS)
    parser.add_argument(
        "--together", nargs="*", type=Path, default=[], help="checkpoints to ship beside it"
    )
    parser.add_argument(
        "--once", nargs="*", type=Path, default=[], help="the same, hearing a song once"
    )
    parser.add_argument("--beats", type=Path, help="one that has a say in beats alone")
    options = parser.parse_args()
    target = options.to / "ear.onnx"
    networks = [network_of(options.folder / f"{options.name}.pt")]
    networks += [network_of(path) for path in options.together]
    beats = network_of(options.beats) if options.beats else None
    write_onnx(networks, [network_of(path) for path in options.once], beats, target)
    session = onnxruntime.InferenceSession(str(target), providers=["CPUExecutionProvider"])
    calibration = {
        name: fit(*values) for name, values in peaks_of(options.folder / "tune", session).items()
    }
    about = {"classes": [c.value for c in CLASSES], "calibration": calibration}
    (options.to / "ear.json").write_text(json.dumps(about, indent=1) + "\n")
    load_model.cache_clear()
    ear = NetworkEar(options.to, judged=False)
    about["song"] = song_models(song_table(options.folder / "tune", ear))
    (options.to / "ear.json").write_text(json.dumps(about, indent=1) + "\n")
    for name, model in about["song"].items():
        print(name, model)
    for name, values in calibration.items():
        print(name, {key: round(value, 3) for key, value in values.items()})
    return 0


if __name__ == "__main__":
    sys.exit(main())

"""How loud strokes were: what tells it best, learnt from songs whose loudness is known.

    python -m training.loudness .run/training --collect songs --shards 6
    python -m training.loudness .run/training --train --to MODELS/strength.npz
    python -m training.loudness .run/training --figures plain_stems plain_mixes kept_songs

The witnesses that `listening/strength.py` has for each stroke, and the true loudness of the stroke
that it is, standardised for each drum of a song; a small network learns the order. The figure is
Spearman's rank correlation within a drum and a clip, mean over drums and clips by strokes.
"""

from __future__ import annotations

import argparse
import sys
from collections import defaultdict
from pathlib import Path

import numpy as np
from scipy.stats import spearmanr

from benchmarks.scores import match
from orchesis.listening.ear import Heard, Onset
from orchesis.listening.network_ear import MODELS, NetworkEar
from orchesis.listening.second_pass import looked_at
from orchesis.listening.strength import FEWEST, with_measured_loudness, witnesses
from orchesis.music.instruments import Instrument as I
from orchesis.rhythm.find import find_grid
from training.bank import RATE
from training.labels import CLASSES
from training.scoring import Truth, clips_of, shards

HIDDEN = 32
NETWORKS = 3


def standard(values: np.ndarray) -> np.ndarray:
    """With mean 0 and spread 1."""
    return (values - values.mean()) / (values.std() + 1e-9)


def pairs(onsets: list[Onset], truth: Truth, drum: I) -> tuple[list[int], list[float]]:
    """Which strokes of a drum are there, by their place in `onsets`, and their true loudness."""
    mine = [k for k, onset in enumerate(onsets) if onset.instrument is drum]
    reference = [time for time, _ in truth.strokes[drum]]
    found = match(reference, [onsets[k].time for k in mine], 0.05)
    return [mine[j] for _, j in found], [truth.strokes[drum][i][1] for i, _ in found]


def collect(folder: Path, out: Path, ear: NetworkEar, most: int) -> None:
    """Witnesses and truths of the strokes of some shards, spread over the folder."""
    files = shards(folder)
    tables, truths, groups, group = [], [], [], 0
    for shard in files[:: max(1, len(files) // most)][:most]:
        for features, truth in clips_of(shard):
            heard = ear.hear_features(features, RATE, lambda share: None)
            onsets, detail = list(heard.onsets), heard.detail
            if detail is None or not onsets:
                continue
            table = witnesses(onsets, detail, heard.frame_rate)
            for drum in CLASSES:
                index, loud = pairs(onsets, truth, drum)
                if len(index) < FEWEST or np.std(loud) < 0.01:
                    continue
                tables.append(table[index])
                truths.append(standard(np.array(loud)))
                groups.append(np.full(len(index), group))
                group += 1
        print(f"{shard.name}: {group} drums", flush=True)
    np.savez(out, table=np.concatenate(tables), truth=np.concatenate(truths),
             group=np.concatenate(groups))  # fmt: skip


def train(data: dict[str, np.ndarray], seed: int) -> dict[str, np.ndarray]:
    """A network of one hidden layer, by the error of standardised loudness."""
    import torch
    from torch import nn

    torch.manual_seed(seed)
    torch.set_num_threads(1)
    x = torch.tensor(data["table"], dtype=torch.float32)
    y = torch.tensor(np.clip(data["truth"], -2.5, 2.5), dtype=torch.float32)
    network = nn.Sequential(
        nn.Linear(x.shape[1], HIDDEN), nn.ReLU(), nn.Dropout(0.2), nn.Linear(HIDDEN, 1)
    )
    steps, size = 6000, 512
    optimiser = torch.optim.AdamW(network.parameters(), 2e-3, weight_decay=0.02)
    schedule = torch.optim.lr_scheduler.OneCycleLR(optimiser, 4e-3, total_steps=steps)
    rng = np.random.default_rng(seed)
    for _ in range(steps):
        index = torch.tensor(rng.integers(0, len(x), size))
        loss = nn.functional.smooth_l1_loss(network(x[index])[:, 0], y[index])
        optimiser.zero_grad()
        loss.backward()
        optimiser.step()
        schedule.step()
    first, last = network[0], network[3]
    return {
        "first": first.weight.detach().numpy(), "first_bias": first.bias.detach().numpy(),
        "last": last.weight.detach().numpy()[0],
    }  # fmt: skip


def figures(folder: Path, ear: NetworkEar) -> dict[str, float]:
    """Mean rank correlation of the network's word, and of what is measured, after both passes."""
    totals: dict[str, list[tuple[float, int]]] = defaultdict(list)
    for shard in shards(folder):
        for features, truth in clips_of(shard):
            heard = ear.hear_features(features, RATE, lambda share: None)
            for name, onsets in ways(ear, heard).items():
                for drum in CLASSES:
                    index, loud = pairs(onsets, truth, drum)
                    if len(index) < FEWEST or np.std(loud) < 1e-6:
                        continue
                    said = [onsets[k].loudness for k in index]
                    if np.std(said) > 0:
                        totals[name].append((spearmanr(said, loud).statistic, len(index)))
    return {name: weighted(found) for name, found in totals.items()}


def weighted(found: list[tuple[float, int]]) -> float:
    """The mean of values, each by its weight; not a number where there are none."""
    if not found:
        return float("nan")
    return float(np.average([value for value, _ in found], weights=[weight for _, weight in found]))


def ways(ear: NetworkEar, heard: Heard) -> dict[str, list[Onset]]:
    """The strokes with the network's word of the first pass, with what is measured, and as
    written.
    """
    grid = find_grid(heard)
    edges = [*(bar.start for bar in grid.bars), grid.bars[-1].end] if grid else []
    assert heard.detail is not None
    detail = looked_at(heard.detail, heard.frame_rate)
    return {
        "the word": list(heard.onsets),
        "measured": with_measured_loudness(heard.onsets, detail, heard.frame_rate),
        "written": list(ear.second_pass(heard, edges).onsets),
    }


def main() -> int:
    """Collect, train, or tell."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--models", type=Path, default=MODELS)
    parser.add_argument("--collect", nargs="*", default=[], help="sets of clips")
    parser.add_argument("--shards", type=int, default=6)
    parser.add_argument("--train", action="store_true")
    parser.add_argument("--to", type=Path)
    parser.add_argument("--figures", nargs="*", default=[], help="sets of clips")
    options = parser.parse_args()
    for name in options.collect:
        ear = NetworkEar(options.models, judged=False)
        out = options.folder / f"loudness-{name}.npz"
        collect(options.folder / name, out, ear, options.shards)
    if options.train:
        held = [np.load(path) for path in sorted(options.folder.glob("loudness-*.npz"))]
        data = {key: np.concatenate([one[key] for one in held]) for key in ("table", "truth")}
        trained = [train(data, seed) for seed in range(NETWORKS)]
        np.savez_compressed(
            options.to,
            **{
                key: np.stack([one[key] for one in trained]).astype(np.float16)
                for key in trained[0]
            },
        )
    for name in options.figures:
        found = figures(options.folder / name, NetworkEar(options.models))
        print(name, {way: round(value, 3) for way, value in found.items()}, flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())

"""The mean of two checkpoints' weights: `python -m training.average ONE OTHER --to TARGET`.

Of two networks of which one was trained on from the other, the mean errs less than either
(Wortsman et al., "Model soups", ICML 2022).
"""

from __future__ import annotations

import sys
from pathlib import Path

import torch

from training.two_files import made_one

Weights = dict[str, torch.Tensor]


def averaged(one: Weights, other: Weights) -> Weights:
    """Half of each network's weights, by name. Counters are those of the first."""
    return {
        name: 0.5 * (value + other[name]) if value.is_floating_point() else value
        for name, value in one.items()
    }


def write_average(one: Path, other: Path, target: Path) -> None:
    """Write a checkpoint that exports as the mean of two; raises ValueError for unlike shapes.

    Its steps and minutes are those of the second, which learnt last.
    """
    first, second = (torch.load(path, weights_only=False) for path in (one, other))
    if first["shape"] != second["shape"]:
        raise ValueError(f"{one} and {other} are networks of different shapes")
    mean = averaged(first["mean"], second["mean"])
    partial = target.with_suffix(".part")
    torch.save({**second, "net": mean, "mean": mean, "optimiser": None}, partial)
    partial.replace(target)


if __name__ == "__main__":
    sys.exit(made_one(write_average))

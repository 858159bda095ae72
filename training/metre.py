"""Training the bar network: which beats are the one, and which level of the pulse is the felt one.

    python -m training.metre .run/training --to src/orchesis/rhythm/models/bars.npz

A small network of dilated convolutions over beats (`rhythm/bar_network.py` runs it without torch)
reads a row of numbers a beat (`rhythm/described.py`) and says of each how likely it is a downbeat,
and of all whether these are the beats that people count. It learns from songs of people and of our
composer on kits other than the one that figures are taken on (`metre_songs.py`), on every level of
each song: on half and double tempo, in thirds, between the beats.
"""

from __future__ import annotations

import argparse
import sys
from itertools import pairwise
from pathlib import Path

import numpy as np
import torch
from torch import nn

from orchesis.rhythm.described import COLUMNS, WITNESSES
from training.metre_rows import Row, rows_of
from training.metre_songs import load

WIDTH = 48
DILATIONS = (1, 2, 4, 8, 16)
OTHER_WEIGHT = 0.3
"""What the downbeats of a level that nobody counts teach, against those of the felt one."""

PHASE_WEIGHT, SURENESS = 0.3, 2.0
"""Of where a whole stretch's bars begin, in the loss; a mean log odds of one counts as so many."""

SEEDS = 4


class BarNetwork(nn.Module):
    """Dilated convolutions over beats, with residuals."""

    def __init__(self) -> None:
        super().__init__()
        self.first = nn.Conv1d(COLUMNS, WIDTH, 1)
        self.blocks = nn.ModuleList(
            nn.Conv1d(WIDTH, WIDTH, 3, padding=d, dilation=d) for d in DILATIONS
        )
        self.last = nn.Conv1d(WIDTH, 2, 1)
        self.drop = nn.Dropout(0.15)

    def forward(self, table: torch.Tensor) -> torch.Tensor:
        """Shape (batch, COLUMNS, beats) to (batch, 2, beats): downbeat, and level, as log odds."""
        x = torch.relu(self.first(table))
        for block in self.blocks:
            x = x + self.drop(torch.relu(block(x)))
        return self.last(x)


def batch_of(rows: list[Row], rng: np.random.Generator, length: int = 96) -> tuple:
    """Stretches of rows, thinned and blurred, so that no single witness is leant on."""
    tables, downs, weights, levels = [], [], [], []
    for row in rows:
        count = len(row.table)
        first = int(rng.integers(0, max(1, count - length + 1)))
        piece = slice(first, first + length)
        table = row.table[piece].copy()
        table += rng.normal(0, 0.05, table.shape)
        for group in GROUPS:
            if rng.random() < 0.12:
                table[:, group] = 0.0
        down, known = row.down[piece], row.known[piece]
        pad = length - len(table)
        tables.append(np.pad(table, ((0, pad), (0, 0))).T)
        downs.append(np.pad(down, (0, pad)))
        weight = known * (1.0 if row.is_right else OTHER_WEIGHT)
        weights.append(np.pad(weight, (0, pad)))
        levels.append(row.is_right)
    return (
        torch.tensor(np.stack(tables), dtype=torch.float32),
        torch.tensor(np.stack(downs), dtype=torch.float32),
        torch.tensor(np.stack(weights), dtype=torch.float32),
        torch.tensor(levels, dtype=torch.float32),
    )


def groups() -> list[slice]:
    """The columns of each witness, tempo aside."""
    edges = np.cumsum([0, *WITNESSES.values()])
    return [slice(int(a), int(b)) for a, b in pairwise(edges[:-1])]


GROUPS = groups()


def pooled(level: torch.Tensor, weight: torch.Tensor) -> torch.Tensor:
    """The mean over the beats that are there."""
    there = (weight > 0).float()
    return (level * there).sum(1) / there.sum(1).clamp(min=1)


def phase_loss(odds: torch.Tensor, down: torch.Tensor, weight: torch.Tensor) -> torch.Tensor:
    """How surely each stretch tells where its bars begin, as a whole.

    Most songs keep the phase of their bars: what decides is not one beat but the sum over all that
    could be downbeats together. Stretches with an odd bar are left out.
    """
    losses = []
    for said, true, counts in zip(odds, down, weight, strict=True):
        ones = torch.nonzero(true * (counts > 0))[:, 0]
        if len(ones) < 6:
            continue
        gaps = torch.diff(ones)
        bar = int(gaps.median())
        if bar not in (2, 3, 4) or bool((gaps != bar).any()):
            continue
        there = (counts > 0).float()
        sums = torch.stack(
            [
                (said[phase::bar] * there[phase::bar]).sum() / there[phase::bar].sum().clamp(min=1)
                for phase in range(bar)
            ]
        )
        share = float(counts[ones[0]])
        losses.append(share * nn.functional.cross_entropy(SURENESS * sums[None], ones[:1] % bar))
    return torch.stack(losses).mean() if losses else odds.sum() * 0.0


def train(rows: list[Row], steps: int, seed: int) -> BarNetwork:
    """One network."""
    torch.manual_seed(seed)
    rng = np.random.default_rng(seed)
    network = BarNetwork()
    optimiser = torch.optim.AdamW(network.parameters(), 2e-3, weight_decay=0.02)
    schedule = torch.optim.lr_scheduler.OneCycleLR(optimiser, 3e-3, total_steps=steps)
    chance = np.array([1.0 if row.is_right else 0.35 for row in rows])
    chance /= chance.sum()
    network.train()
    for _ in range(steps):
        chosen = [rows[int(k)] for k in rng.choice(len(rows), 32, p=chance)]
        table, down, weight, level = batch_of(chosen, rng)
        said = network(table)
        loss = nn.functional.binary_cross_entropy_with_logits(
            said[:, 0], down, weight=weight, reduction="sum"
        ) / weight.sum().clamp(min=1)
        loss = loss + PHASE_WEIGHT * phase_loss(said[:, 0], down, weight)
        pool = pooled(said[:, 1], weight)
        loss = loss + 0.5 * nn.functional.binary_cross_entropy_with_logits(pool, level)
        optimiser.zero_grad()
        loss.backward()
        nn.utils.clip_grad_norm_(network.parameters(), 1.0)
        optimiser.step()
        schedule.step()
    network.eval()
    return network


def written(networks: list[BarNetwork], path: Path) -> None:
    """Store the networks' weights for `bar_network`."""
    arrays = {}
    for number, network in enumerate(networks):
        for name, value in network.state_dict().items():
            arrays[f"{number}.{name}"] = value.numpy().astype(np.float16)
    path.parent.mkdir(parents=True, exist_ok=True)
    np.savez_compressed(
        path, count=np.array(len(networks)), dilations=np.array(DILATIONS), **arrays
    )


def main() -> int:
    """Train, and store."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--to", type=Path, required=True)
    parser.add_argument("--sets", nargs="+", default=["metre"], help="folders of metre_songs")
    parser.add_argument("--steps", type=int, default=1500)
    options = parser.parse_args()
    torch.set_num_threads(1)
    cases = (case for name in options.sets for case in load(options.folder / name))
    rows = [row for number, case in enumerate(cases) for row in rows_of(number, case)]
    print(f"{len(rows)} levels, {sum(r.is_right for r in rows)} of them felt", flush=True)
    written([train(rows, options.steps, seed) for seed in range(SEEDS)], options.to)
    return 0


if __name__ == "__main__":
    sys.exit(main())

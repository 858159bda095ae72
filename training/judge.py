"""The judge's training: `python -m training.judge FOLDER [--models ...]`, after `export`.

Every candidate of whole songs (FOLDER/songs, sources and styles that were trained on) with what the
core's `judge.context` sees of it, and whether it was a stroke. Bar lines are those that the tool
finds. Songs are new: the network has not been trained on them. Nothing is learnt from a sixth of
them, which chooses the thresholds. Several judges that began differently are written as one, whose
word is the mean of theirs in log odds.

What an ear says of kits that it knows is surer than what it will say of others. `--foreign` adds
songs of kits that another ear (`--foreign-ear`, without any of them in its training) has never met,
in that ear's words, so that the judge learns what is then to be believed. The thresholds stay those
of the ear's own words.
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

import numpy as np
import torch
from torch import nn
from torch.nn import functional

from orchesis.listening.judge import BOUND
from orchesis.listening.network_ear import MODELS
from orchesis.listening.second_pass import TERMS
from training.judge_file import Layers, as_one, write
from training.labels import CLASSES
from training.seen import Table, gather, joined, thresholds

SETS = ("songs", "tune")
HIDDEN = 64
EPOCHS = 8
BATCH = 512
RATE_OF_LEARNING = 1e-3
DECAY = 0.1
DROPOUT = 0.5
JUDGES = 4
HELD_BACK = 6
"""One song in so many is not learnt from: on these the thresholds are chosen."""


class Net(nn.Module):
    """The judge as torch trains it."""

    def __init__(self, terms: int) -> None:
        super().__init__()
        self.layers = nn.ModuleList([nn.Linear(terms, HIDDEN), nn.Linear(HIDDEN, len(CLASSES))])
        self.straight = nn.Linear(len(TERMS), len(CLASSES), bias=False)
        self.dropout = nn.Dropout(DROPOUT)
        self.forgetting = nn.Dropout(DROPOUT / 2)

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        """(n, terms) to log odds, (n, classes)."""
        inner = self.dropout(torch.relu(self.layers[0](self.forgetting(x))))
        return self.layers[1](inner) + self.straight(x[:, : len(TERMS)])


def train(table: Table) -> tuple[list[Net], np.ndarray, np.ndarray, np.ndarray]:
    """The judges, centre and spread of their inputs, and which candidates were held back."""
    terms = table["terms"].astype(np.float32)
    held = table["clip"] % HELD_BACK == 0
    centre = terms[~held].mean(axis=0)
    spread = terms[~held].std(axis=0) + 1e-3
    x = torch.from_numpy(np.clip((terms - centre) / spread, -BOUND, BOUND))
    nets = [train_one(x, table, held, seed) for seed in range(1, JUDGES + 1)]
    return nets, centre, spread, held


def train_one(x: torch.Tensor, table: Table, held: np.ndarray, seed: int) -> Net:
    """One judge, from inputs of shape (n, terms)."""
    torch.manual_seed(seed)
    rng = np.random.default_rng(seed)
    y = torch.from_numpy(table["right"].astype(np.float32))
    column = torch.from_numpy(table["column"].astype(np.int64))
    inside, outside = np.flatnonzero(~held), torch.from_numpy(np.flatnonzero(held))
    net = Net(x.shape[1])
    optimiser = torch.optim.AdamW(net.parameters(), RATE_OF_LEARNING, weight_decay=DECAY)
    steps = EPOCHS * (len(inside) // BATCH)
    plan = torch.optim.lr_scheduler.OneCycleLR(optimiser, RATE_OF_LEARNING, steps)
    for epoch in range(EPOCHS):
        net.train()
        order = rng.permutation(inside)
        for first in range(0, len(order) - BATCH + 1, BATCH):
            rows = torch.from_numpy(order[first : first + BATCH])
            own = net(x[rows]).gather(1, column[rows, None])[:, 0]
            loss = functional.binary_cross_entropy_with_logits(own, y[rows])
            optimiser.zero_grad()
            loss.backward()
            optimiser.step()
            plan.step()
        net.eval()
        with torch.no_grad():
            own = net(x[outside]).gather(1, column[outside, None])[:, 0]
            judged = float(functional.binary_cross_entropy_with_logits(own, y[outside]))
        print(f"epoch {epoch} loss {loss.item():.4f} held back {judged:.4f}", flush=True)
    return net.eval()


def words(nets: list[Net], centre: np.ndarray, spread: np.ndarray, terms: np.ndarray) -> np.ndarray:
    """What several judges say in the mean of candidates, in log odds, shape (n, classes)."""
    x = np.clip((terms.astype(np.float32) - centre) / spread, -BOUND, BOUND)
    with torch.no_grad():
        return np.mean([net(torch.from_numpy(x)).numpy() for net in nets], axis=0)


def layers_of(net: Net) -> Layers:
    """What is written of a judge."""

    def values(parameter: torch.Tensor) -> np.ndarray:
        return parameter.detach().numpy().T

    hidden, out = net.layers
    return Layers(
        hidden=values(hidden.weight),
        hidden_offset=values(hidden.bias),
        out=values(out.weight),
        out_offset=values(out.bias),
        straight=values(net.straight.weight),
    )


def main() -> int:
    """Gather, train, write judge.npz beside the ear."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--models", type=Path, default=MODELS)
    parser.add_argument("--sets", nargs="+", default=SETS, help="folders of songs to learn from")
    parser.add_argument("--foreign-ear", type=Path, help="models of an ear that knows fewer kits")
    parser.add_argument("--foreign", nargs="+", default=[], help="folders of kits it never met")
    options = parser.parse_args()
    if bool(options.foreign) != bool(options.foreign_ear):
        parser.error("--foreign and --foreign-ear go together")
    torch.set_num_threads(1)
    asked = [(options.models, name) for name in options.sets]
    asked += [(options.foreign_ear, name) for name in options.foreign]
    tables = [gather(options.folder, models, name) for models, name in asked]
    own = sum(len(table["there"]) for table in tables[: len(options.sets)])
    table = joined(tables)
    nets, centre, spread, held = train(table)
    logits = words(nets, centre, spread, table["terms"])
    of_its_drum = logits[np.arange(len(logits)), table["column"]]
    loss = np.logaddexp(0, of_its_drum) - table["right"] * of_its_drum
    print(f"{JUDGES} judges as one, held back {loss[held].mean():.4f}", flush=True)
    chosen = held & (table["clip"] < own)
    least = thresholds(1 / (1 + np.exp(-of_its_drum)), table, chosen)
    judge = as_one([layers_of(net) for net in nets])
    write(options.models / "judge.npz", judge, centre, spread, least)
    for instrument, value in zip(CLASSES, least, strict=True):
        print(instrument.value, round(float(value), 2))
    return 0


if __name__ == "__main__":
    sys.exit(main())

"""What the judge sees of the candidates of songs, and which of them were strokes: no torch.

Gathered once for each ear, for each has words of its own, and kept: `training.judge` learns from
such tables, `training.left_out` scores on them.
"""

from __future__ import annotations

import multiprocessing
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from orchesis.listening.judge import context
from orchesis.listening.network_ear import NetworkEar
from training.labels import CLASSES
from training.scoring import clips_of, shards, songs_of

WORKERS = 2
GRID = np.round(np.arange(0.2, 0.7, 0.02), 3)
FEWEST = 30
"""A drum that is struck more seldom in the songs keeps a threshold of a half."""

Table = dict[str, np.ndarray]
"""`terms`, `column`, `right`, `clip` of every candidate; `there`: strokes, (clips, classes)."""


def gather(folder: Path, models: Path, name: str) -> Table:
    """What the judge sees of every candidate of the clips of FOLDER/NAME, heard by the ear of
    `models`; kept beside them.
    """
    cache = cache_of(folder, models, name)
    if cache.exists():
        return dict(np.load(cache))
    with multiprocessing.get_context("spawn").Pool(WORKERS, open_ear, (models,)) as pool:
        table = joined(list(pool.imap(seen_of, shards(folder / name))))
    np.savez(cache, **table)
    return table


def cache_of(folder: Path, models: Path, name: str) -> Path:
    """Where the words of an ear about a set of songs are kept."""
    return folder / f"judge-{models.resolve().name}-{name.replace('/', '-')}.npz"


_ears: list[NetworkEar] = []
"""The ear of this process, once `open_ear` has opened it."""


def open_ear(models: Path) -> None:
    """Open the ear without its judge, for `seen_of`."""
    _ears[:] = [NetworkEar(models, judged=False)]


def seen_of(shard: Path) -> Table:
    """What the judge sees of every candidate of one shard."""
    terms, columns, right, number, there = [], [], [], [], []
    for index, (song, found, good, strokes) in enumerate(songs_of(clips_of(shard), _ears[0])):
        terms.append(context(song, found).astype(np.float16))
        columns.append(found.column)
        right.append(good)
        number.append(np.full(len(found), index))
        there.append(strokes)
    print(shard, flush=True)
    return {
        "terms": np.concatenate(terms),
        "column": np.concatenate(columns),
        "right": np.concatenate(right),
        "clip": np.concatenate(number),
        "there": np.stack(there),
    }


def joined(tables: Sequence[Table]) -> Table:
    """Several tables as one, songs counted on; the tables stay as they are."""
    ends = np.cumsum([len(table["there"]) for table in tables])
    whole = {name: np.concatenate([table[name] for table in tables]) for name in tables[0]}
    whole["clip"] = np.concatenate(
        [
            table["clip"] + (end - len(table["there"]))
            for table, end in zip(tables, ends, strict=True)
        ]
    )
    return whole


def part(table: Table, songs: np.ndarray) -> Table:
    """The candidates of some songs, given by their numbers, which are counted anew."""
    place = np.full(int(table["there"].shape[0]), -1)
    place[songs] = np.arange(len(songs))
    mine = place[table["clip"]] >= 0
    kept = {name: table[name][mine] for name in ("terms", "column", "right")}
    return {**kept, "clip": place[table["clip"][mine]], "there": table["there"][songs]}


def thresholds(probability: np.ndarray, table: Table, chosen: np.ndarray) -> np.ndarray:
    """The least probability of the best F for each drum, on the chosen candidates.

    probability : shape (n,), 0 to 1. chosen : shape (n,), truth values.
    """
    kept = np.unique(table["clip"][chosen])
    result = np.full(len(CLASSES), 0.5, np.float32)
    for column in range(len(CLASSES)):
        mine = chosen & (table["column"] == column)
        there = table["there"][kept, column].sum()
        if there < FEWEST:
            continue
        right, sure = table["right"][mine], probability[mine]
        scores = [2 * right[sure >= t].sum() / max(1, (sure >= t).sum() + there) for t in GRID]
        result[column] = GRID[int(np.argmax(scores))]
    return result

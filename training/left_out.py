"""Each kit left out in turn, and each composer: `python -m training.left_out .run/training`.

What the judge loses on a kit of which it has heard nothing. Of each kit there are three folders of
twelve songs of 48 s that no network was trained on (`out_KIT_own_mixes`, `_own_stems`,
`_people_mixes`, rendered by `commands`). The judge is trained on the songs of all kits but one, and
scored on the second half of that one's; beside it stands a judge that has had the first half too.
Composers likewise: trained on our own composer's songs and scored on people's, and the reverse.
Scored is what a judge makes of the candidates, before rivals are decided: F of all labels, of
songs' mean, and of their worst tenth. The networks have heard every kit but one: it is the
judge that is left without.
"""

from __future__ import annotations

import argparse
import shlex
import sys
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

import numpy as np

from training.labels import CLASSES
from training.seen import Table, gather, joined, part, thresholds

KITS = ("fluid", "timgm", "csound", "millo1", "millo2", "millo3", "gmrock")
SETS = ("own_mixes", "own_stems", "people_mixes")
FIRST_SEED = 978_500
SONGS = 12
WORST = 10

Judge = Callable[[np.ndarray], np.ndarray]
"""From terms, (n, terms), to log odds, (n, classes)."""


def commands(folder: Path) -> list[str]:
    """What renders the songs of every kit."""
    kinds = {
        "own_mixes": "--stems 0",
        "own_stems": "--stems 1",
        "people_mixes": "--stems 0 --songs trained",
    }
    places = [(kit, name) for kit in KITS for name in SETS]
    return [
        f"python -m training.dataset {shlex.quote(str(folder))}/out_{kit}_{name} --held-out {kit} "
        f"--only-held-out --plain --seconds 48 --clips {SONGS} "
        f"--first-seed {FIRST_SEED + place} {kinds[name]}"
        for place, (kit, name) in enumerate(places)
    ]


def scores(table: Table, log_odds: np.ndarray, least: np.ndarray) -> list[float]:
    """F of all labels of each song: what is at least as likely as its drum's threshold is written.

    log_odds : shape (n,), of each candidate's own drum. least : shape (classes,), 0 to 1.
    """
    written = 1 / (1 + np.exp(-log_odds)) >= least[table["column"]]
    found = []
    for song, there in enumerate(table["there"]):
        mine = (table["clip"] == song) & written
        right = int(table["right"][mine].sum())
        found.append(2 * right / max(1, int(mine.sum()) + int(there.sum())))
    return found


def by_class(table: Table, log_odds: np.ndarray, least: np.ndarray) -> dict[str, float]:
    """F of each drum that is struck at all, over all songs."""
    written = 1 / (1 + np.exp(-log_odds)) >= least[table["column"]]
    found = {}
    for column, drum in enumerate(CLASSES):
        there = int(table["there"][:, column].sum())
        mine = written & (table["column"] == column)
        if there:
            found[drum.value] = 2 * int(table["right"][mine].sum()) / (there + int(mine.sum()))
    return found


def own_odds(judge: Judge, table: Table) -> np.ndarray:
    """What a judge says of each candidate's own drum, in log odds, shape (n,)."""
    return judge(table["terms"])[np.arange(len(table["column"])), table["column"]]


def told(found: list[float]) -> str:
    """Mean and worst tenth of songs."""
    return f"{np.mean(found):.3f}, {np.percentile(found, WORST):.3f}"


def main() -> int:
    """Train, score, print."""
    # Torch is asked for here: the rest of the module is tested without it.
    import torch

    from orchesis.listening.network_ear import MODELS
    from training import judge as judges

    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--models", type=Path, default=MODELS)
    options = parser.parse_args()
    torch.set_num_threads(1)
    # One net each: they are compared with each other, and not shipped.
    judges.JUDGES = 1
    tables = {
        (kit, name): gather(options.folder, options.models, f"out_{kit}_{name}")
        for kit in KITS
        for name in SETS
    }
    first, second, whole = np.arange(SONGS // 2), np.arange(SONGS // 2, SONGS), np.arange(SONGS)

    def of(kits: Sequence[str], sets: Sequence[str], songs: np.ndarray) -> list[Table]:
        return [part(tables[kit, name], songs) for kit in kits for name in sets]

    def learnt(parts: list[Table]) -> tuple[Judge, np.ndarray]:
        """A judge of some songs, and its thresholds."""
        table = joined(parts)
        nets, centre, spread, held = judges.train(table)

        ask = partial(judges.words, nets, centre, spread)
        return ask, thresholds(1 / (1 + np.exp(-own_odds(ask, table))), table, held)

    rows, classes = [], []
    for kit in KITS:
        others = [k for k in KITS if k != kit]
        without = learnt(of(others, SETS, whole))
        within = learnt([*of(others, SETS, whole), *of([kit], SETS, first)])
        cells = []
        for name in SETS:
            (table,) = of([kit], [name], second)
            cells += [told(scores(table, own_odds(j, table), t)) for j, t in (without, within)]
        table = joined(of([kit], SETS, second))
        one, other = (by_class(table, own_odds(j, table), t) for j, t in (without, within))
        drums = ", ".join(f"{drum} {one[drum]:.2f} ({other[drum]:.2f})" for drum in one)
        classes.append(f"| {kit} | {drums} |")
        rows.append(f"| {kit} | " + " | ".join(cells) + " |")
        print(rows[-1], flush=True)
    heads = [f"{name} {how}" for name in SETS for how in ("without it", "with it")]
    print("\n| kit | " + " | ".join(heads) + " |\n|---" + "|---" * len(heads) + "|")
    print("\n".join(rows))
    print("\n| kit | by drum, without it (with it) |\n|---|---|")
    print("\n".join(classes))
    print("\n| learnt from, scored on | labels of songs: mean, worst tenth |\n|---|---|")
    for trained in ("own_mixes", "people_mixes"):
        judge, least = learnt(of(KITS, [trained], first))
        for scored in ("own_mixes", "people_mixes"):
            table = joined(of(KITS, [scored], second))
            print(f"| {trained}, {scored} | {told(scores(table, own_odds(judge, table), least))} |")
    return 0


if __name__ == "__main__":
    sys.exit(main())

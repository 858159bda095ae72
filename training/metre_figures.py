"""How well beats and downbeats of people's songs are found: python -m training.metre_figures.

    python -m training.metre_songs .run/training/metre_kept --count 90 --first-seed 991000 --kept
    python -m training.metre_songs .run/training/metre_hand --count 40 --first-seed 992000 --kept --by-hand
    python -m training.metre_figures .run/training/metre_kept .run/training/metre_hand

Stretches of a minute of songs that nobody learnt from, on GMRockKit, in bands; within 70 ms, as the
grid is laid without anybody's help; and what the best of the readings that are offered would give.
"""  # noqa: E501

from __future__ import annotations

import sys
from collections import defaultdict
from pathlib import Path

import numpy as np

from benchmarks.scores import f_measure
from orchesis.rhythm.find import find_grid
from training.metre_songs import Case, load

NEAR = 0.07
EDGE = 0.1


def figures(case: Case) -> tuple[float, float, float]:
    """F of beats, of downbeats, and of the downbeats of the best reading that is offered."""
    grid = find_grid(case.heard)
    if grid is None:
        return 0.0, 0.0, 0.0
    first, last = grid.bars[0].start - EDGE, grid.bars[-1].end - EDGE
    beats = [time for time in case.beats if first <= time < last]
    ones = [time for time in case.downbeats if first <= time < last]
    offered = [
        f_measure(ones, [float(one.beats[k]) for k in one.lines.downbeats], NEAR)
        for one in grid.readings
    ]
    return (
        f_measure(beats, [beat for bar in grid.bars for beat in bar.beats], NEAR),
        f_measure(ones, [bar.start for bar in grid.bars], NEAR),
        max(offered),
    )


def main() -> int:
    """Print a table."""
    print("| songs | stretches | beats | downbeats | of the worst fifth | with the best reading |")
    print("|---|---|---|---|---|---|")
    for folder in sys.argv[1:]:
        kinds: dict[str, list[tuple[float, float, float]]] = defaultdict(list)
        for case in load(Path(folder)):
            machine = case.name.startswith("mma-")
            kinds["of the generator" if machine else "written by hand"].append(figures(case))
        for kind, found in kinds.items():
            beats, ones, best = np.array(found).T
            worst = float(np.sort(ones)[: max(1, len(ones) // 5)].mean())
            print(
                f"| {Path(folder).name}, {kind} | {len(found)} | {beats.mean():.3f} "
                f"| {ones.mean():.3f} | {worst:.3f} | {best.mean():.3f} |",
                flush=True,
            )
    return 0


if __name__ == "__main__":
    sys.exit(main())

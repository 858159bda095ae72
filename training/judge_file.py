"""The file of the judge, from the layers of several judges: what the core reads. No torch.

    python -m training.judge_file ONE.npz OTHER.npz --to TARGET.npz

writes two judges, of songs of different kinds, as one.
"""

from __future__ import annotations

import sys
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from training.two_files import made_one


@dataclass(frozen=True)
class Layers:
    """One trained judge: `hidden` (terms, units) and `out` (units, classes) with their offsets, and
    `straight` (TERMS, classes).
    """

    hidden: np.ndarray
    hidden_offset: np.ndarray
    out: np.ndarray
    out_offset: np.ndarray
    straight: np.ndarray


def as_one(judges: Sequence[Layers]) -> Layers:
    """One judge that says the mean of what several say, in log odds: their units side by side.

    Judges that began differently err differently where they are unsure (Hansen and Salamon, IEEE
    PAMI 1990; for the calibration Lakshminarayanan et al., "Deep ensembles", NIPS 2017).
    """
    return Layers(
        hidden=np.concatenate([one.hidden for one in judges], axis=1),
        hidden_offset=np.concatenate([one.hidden_offset for one in judges]),
        out=np.concatenate([one.out for one in judges]) / len(judges),
        out_offset=np.mean([one.out_offset for one in judges], axis=0),
        straight=np.mean([one.straight for one in judges], axis=0),
    )


def write(
    path: Path, judge: Layers, centre: np.ndarray, spread: np.ndarray, threshold: np.ndarray
) -> None:
    """Write what `orchesis.listening.judge.load_judge` reads."""
    np.savez_compressed(
        path,
        centre=centre.astype(np.float32),
        spread=spread.astype(np.float32),
        threshold=threshold.astype(np.float32),
        straight=judge.straight.astype(np.float16),
        weight0=judge.hidden.astype(np.float16),
        offset0=judge.hidden_offset.astype(np.float16),
        weight1=judge.out.astype(np.float16),
        offset1=judge.out_offset.astype(np.float16),
    )


def rescaled(
    judge: Layers,
    centre: np.ndarray,
    spread: np.ndarray,
    to_centre: np.ndarray,
    to_spread: np.ndarray,
) -> Layers:
    """The same judge for inputs that are centred and spread otherwise, all of shape (terms,)."""
    ratio, shift = to_spread / spread, (to_centre - centre) / spread
    first = len(judge.straight)
    return Layers(
        hidden=judge.hidden * ratio[:, None],
        hidden_offset=judge.hidden_offset + shift @ judge.hidden,
        out=judge.out,
        out_offset=judge.out_offset + shift[:first] @ judge.straight,
        straight=judge.straight * ratio[:first, None],
    )


def read(path: Path) -> tuple[Layers, np.ndarray, np.ndarray, np.ndarray]:
    """A judge of one hidden layer; its centre and spread, (terms,); its thresholds, (classes,)."""
    with np.load(path, allow_pickle=False) as held:
        layers = Layers(
            hidden=held["weight0"].astype(float),
            hidden_offset=held["offset0"].astype(float),
            out=held["weight1"].astype(float),
            out_offset=held["offset1"].astype(float),
            straight=held["straight"].astype(float),
        )
        return layers, held["centre"], held["spread"], held["threshold"]


def merge(one: Path, other: Path, target: Path) -> None:
    """Write a judge that says the mean of what two say; its thresholds are their means."""
    mine, centre, spread, least = read(one)
    theirs, other_centre, other_spread, other_least = read(other)
    theirs = rescaled(theirs, other_centre, other_spread, centre, spread)
    write(target, as_one([mine, theirs]), centre, spread, (least + other_least) / 2)


if __name__ == "__main__":
    sys.exit(made_one(merge))

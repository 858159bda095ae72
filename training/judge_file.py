"""The file of the judge, from the layers of several judges: what the core reads. No torch."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np


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

"""How sure what is written is: `python -m training.winners .run/training dev_mixes dev_people`.

A candidate that is kept has won over its rivals, and its family speaks for it, so it is likelier to
be there than the judge said of it as a candidate. By how much, in log odds, is fitted on whole runs
over songs of sources that were trained on, each set counting alike, and written into the judge's
file. One number: with a slope as well, fitted on these sets, it is .99 (Platt, "Probabilistic
outputs for support vector machines", 1999).
"""

from __future__ import annotations

import sys

import numpy as np
from scipy.optimize import minimize_scalar

from orchesis.listening.candidates import logit
from orchesis.listening.judge import JUDGE
from orchesis.listening.network_ear import NetworkEar
from training.evaluate import calibration_error
from training.rows import asked, measure

Said = tuple[np.ndarray, np.ndarray]
"""Of strokes: the log odds of their confidence, and whether they were there."""

MOST = 3.0


def loss(won: float, sets: list[Said]) -> float:
    """Mean cross-entropy of the sets, when so much is added to the log odds."""
    return float(
        np.mean(
            [(np.logaddexp(0, odds + won) - right * (odds + won)).mean() for odds, right in sets]
        )
    )


def fitted(sets: list[Said]) -> float:
    """What to add to the log odds."""
    return float(minimize_scalar(loss, bounds=(-MOST, MOST), method="bounded", args=(sets,)).x)


def main() -> int:
    """Fit it and write it beside the judge's layers."""
    options = asked()
    file = options.models / JUDGE.name
    with np.load(file) as held:
        judge = {name: held[name] for name in held.files}
    np.savez_compressed(file, **{**judge, "won": np.float32(0.0)})
    ear = NetworkEar(options.models)
    sets: list[Said] = []
    for name in options.sets:
        sure = measure(options.folder / name, ear).sure
        sets.append((logit([said for said, _ in sure]), np.array([right for _, right in sure])))
    won = fitted(sets)
    np.savez_compressed(file, **{**judge, "won": np.float32(won)})
    print(f"won {won:.3f}")
    for name, (odds, right) in zip(options.sets, sets, strict=True):
        told = [
            calibration_error(list(zip(1 / (1 + np.exp(-odds - more)), right, strict=True)))
            for more in (0.0, won)
        ]
        print(f"{name}: calibration {told[0]:.3f} -> {told[1]:.3f}")
    return 0


if __name__ == "__main__":
    sys.exit(main())

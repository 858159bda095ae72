"""The bar network: how likely each beat is a downbeat, and whether these are the beats one counts.

Dilated convolutions over beats that `described.describe_beats` has put in numbers; trained by
`training/metre.py` on songs that people and our composer wrote. Small enough to run in numpy.
"""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import numpy as np
import numpy.typing as npt

from orchesis.errors import OrchesisError
from orchesis.rhythm.described import Table

MODEL = Path(__file__).parent / "models" / "bars.npz"

Weights = dict[str, npt.NDArray[np.float32]]


@lru_cache(maxsize=1)
def load_networks(path: Path = MODEL) -> tuple[list[Weights], tuple[int, ...]]:
    """The networks and their dilations. Raises OrchesisError when the file is damaged."""
    try:
        with np.load(path, allow_pickle=False) as held:
            count, dilations = int(held["count"]), tuple(int(d) for d in held["dilations"])
            networks = [
                {
                    name.partition(".")[2]: held[name].astype(np.float32)
                    for name in held.files
                    if name.startswith(f"{number}.")
                }
                for number in range(count)
            ]
    except (OSError, KeyError, ValueError, EOFError) as error:
        raise OrchesisError(
            f"the bar network {path} is missing or damaged: restore it from the release "
            "('git checkout -- src/orchesis/rhythm/models')"
        ) from error
    return networks, dilations


def said_of_beats(table: Table) -> tuple[npt.NDArray[np.float64], float]:
    """What the networks say of beats, as log odds: of each, a downbeat; of all, the felt level.

    Parameters
    ----------
    table : shape (beats, COLUMNS).

    Returns
    -------
    Shape (beats,), and one number.
    """
    networks, dilations = load_networks()
    said = np.mean([_run(network, dilations, table) for network in networks], axis=0)
    return said[:, 0].astype(np.float64), float(said[:, 1].mean())


def _run(network: Weights, dilations: tuple[int, ...], table: Table) -> npt.NDArray[np.float32]:
    x = np.maximum(table @ network["first.weight"][:, :, 0].T + network["first.bias"], 0.0)
    for number, dilation in enumerate(dilations):
        weight = network[f"blocks.{number}.weight"]
        padded = np.pad(x, ((dilation, dilation), (0, 0)))
        taps = [padded[k * dilation : k * dilation + len(x)] @ weight[:, :, k].T for k in range(3)]
        x = x + np.maximum(sum(taps) + network[f"blocks.{number}.bias"], 0.0)
    return np.asarray(x @ network["last.weight"][:, :, 0].T + network["last.bias"], np.float32)

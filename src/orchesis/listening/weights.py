"""Weights of small networks that ship as one file of arrays each."""

from __future__ import annotations

import zipfile
import zlib
from pathlib import Path

import numpy as np
import numpy.typing as npt

from orchesis.errors import OrchesisError


def read_weights(path: Path) -> dict[str, npt.NDArray[np.float32]]:
    """The arrays of a file, by name. Raises OrchesisError when it is missing or damaged."""
    try:
        with np.load(path, allow_pickle=False) as held:
            return {name: held[name].astype(np.float32) for name in held.files}
    except (OSError, ValueError, EOFError, zipfile.BadZipFile, zlib.error) as error:
        raise OrchesisError(
            f"{path} is missing or damaged: restore it from the release "
            "('git checkout -- src/orchesis/listening/models')"
        ) from error

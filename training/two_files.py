"""The command line of what makes one file of two: `python -m training.X ONE OTHER --to TARGET`."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path


def made_one(make: Callable[[Path, Path, Path], None]) -> int:
    """Read the command line and make its target of its two files; the exit code."""
    parser = argparse.ArgumentParser()
    parser.add_argument("one", type=Path)
    parser.add_argument("other", type=Path)
    parser.add_argument("--to", type=Path, required=True)
    options = parser.parse_args()
    make(options.one, options.other, options.to)
    return 0

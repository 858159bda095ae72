"""A second recording on the first one's time: a copy that sounds at the same bar."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np

from orchesis.audio.decode import SAMPLE_RATE, Samples
from orchesis.listening.parts import Block, decoded, encoded_to
from orchesis.sources.lineup import LineUp

BLOCK = SAMPLE_RATE * 10


def on_time(samples: Samples, line: LineUp, count: int) -> Samples:
    """The second recording at the moments of the first.

    Parameters
    ----------
    samples : shape (n,), mono, of the second recording.
    line : how it runs along with the first.
    count : samples of the first.

    Returns
    -------
    Shape (count,).
    """
    there = line.all_there(np.arange(count) / SAMPLE_RATE) * SAMPLE_RATE
    return np.interp(there, np.arange(len(samples)), samples, left=0.0, right=0.0).astype(
        np.float32
    )


def write_aligned(path: Path, line: LineUp, duration: float, target: Path) -> None:
    """Write the second recording as Ogg Vorbis, as long as the first and in time with it.

    Raises OrchesisError; nothing is left at `target` then.
    """
    encoded_to(target, _blocks(path, line, round(duration * SAMPLE_RATE)))


def _blocks(path: Path, line: LineUp, count: int) -> Iterator[Block]:
    """The copy in pieces; only what the next piece needs is held of the original."""
    source = decoded(path)
    held, first = np.zeros((0, 2), np.float32), 0
    ended = False
    for begin in range(0, count, BLOCK):
        times = np.arange(begin, min(count, begin + BLOCK)) / SAMPLE_RATE
        there = line.all_there(times) * SAMPLE_RATE
        while not ended and first + len(held) < there[-1] + 2:
            fresh = next(source, None)
            ended = fresh is None
            held = held if fresh is None else np.concatenate([held, fresh])
        places = first + np.arange(len(held))
        if len(held) == 0:
            yield np.zeros((len(times), 2), np.float32)
            continue
        sides = [np.interp(there, places, held[:, k], left=0.0, right=0.0) for k in (0, 1)]
        yield np.stack(sides, axis=1).astype(np.float32)
        drop = int(np.clip(there[-1] - 2 - first, 0, len(held)))
        held, first = held[drop:], first + drop

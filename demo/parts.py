"""What the band of the demo songs plays: chords and lines."""

from __future__ import annotations

from demo.score import Note


def chord(
    channel: int, start: float, length: float, root: int, kind: tuple[int, ...], velocity: int
) -> list[Note]:
    """A chord as notes, its top voices a little softer."""
    return [
        Note(channel, start, length, root + step, velocity - 3 * i) for i, step in enumerate(kind)
    ]


def line(channel: int, steps: list[tuple[float, float, int]], velocity: int) -> list[Note]:
    """A melody: (start, length, pitch) in beats."""
    return [Note(channel, start, length, pitch, velocity) for start, length, pitch in steps]

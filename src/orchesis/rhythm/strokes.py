"""The strokes of a song as evidence of where its beats are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from orchesis.listening.evidence import Evidence
from orchesis.music.instruments import Instrument
from orchesis.music.values import Hit, written
from orchesis.rhythm.beats import SNAP_SECONDS, Times

LOUD = {
    Instrument.KICK: 0.8,
    Instrument.SNARE: 0.8,
    Instrument.CROSS_STICK: 0.6,
    Instrument.CRASH: 0.8,
}
OTHERS, GHOSTS = 0.4, 0.15
"""How strongly a stroke says that there is a beat."""


@dataclass(frozen=True, slots=True)
class Strokes:
    """What sounds, in order. times : shape (n,). weights : shape (n,), 0 to 1."""

    times: Times
    weights: npt.NDArray[np.float64]

    def turned(self, end: float) -> Strokes:
        """The same heard backwards from `end`."""
        return Strokes((end - self.times)[::-1], self.weights[::-1])

    def on(self, beats: Times) -> float:
        """How much is struck on these beats, all together."""
        low = np.searchsorted(self.times, beats - SNAP_SECONDS)
        high = np.searchsorted(self.times, beats + SNAP_SECONDS)
        summed = np.concatenate([[0.0], np.cumsum(self.weights)])
        return float((summed[high] - summed[low]).sum())


def strokes_of(hits: Sequence[Hit]) -> Strokes:
    """Those that are written, as sure as they were heard."""
    sounding = sorted(written(hits), key=lambda hit: hit.time)
    weights = [
        (GHOSTS if hit.ghost else LOUD.get(hit.instrument, OTHERS))
        * hit.confidence
        * np.sqrt(hit.velocity / 127)
        for hit in sounding
    ]
    return Strokes(np.array([hit.time for hit in sounding]), np.array(weights))


def strokes_heard(evidence: Evidence) -> Strokes:
    """Whatever may be a stroke, as likely as it was heard: for songs of which none is written."""
    found = evidence.found
    loud = np.array([LOUD.get(drum, OTHERS) for drum in evidence.classes])
    weights = loud[found.column] * found.peak * np.sqrt(found.loudness)
    return Strokes(found.time, weights.astype(np.float64))

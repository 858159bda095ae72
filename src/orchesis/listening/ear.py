"""The seam between the song and whatever listens to it.

An `Ear` turns samples into `Heard`: onsets with instrument, loudness and confidence, and the
frame-wise curves on which the beat tracker and the screens rest. The trained network in
`network_ear` is one Ear, the classical detector in `flux_ear` another. Nothing above this floor
knows which.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np
import numpy.typing as npt

from orchesis.audio.decode import Samples
from orchesis.music.instruments import Instrument

Curve = npt.NDArray[np.float32]
Progress = Callable[[float], None]
"""Called with the share done, 0 to 1; may raise Cancelled."""


@dataclass(frozen=True, slots=True)
class Onset:
    """Something was hit: time in seconds, loudness 0 to 1, confidence 0 to 1."""

    time: float
    instrument: Instrument
    loudness: float
    confidence: float


@dataclass(frozen=True, slots=True)
class Heard:
    """All that an Ear reports.

    onsets : in order of time.
    frame_rate : frames per second of the curves.
    pulse : shape (frames,), 0 to 1: how strongly a beat could be here.
    low : shape (frames,), 0 to 1: attacks in the bass, where bar lines tend to show.
    brightness : shape (frames,), 0 to 1: attacks of cymbals.
    change : shape (frames,), 0 to 1: how much the harmony changes here.
    downbeat : shape (frames,), 0 to 1: how strongly a bar could begin here; all 0 if not asked.
    """

    onsets: tuple[Onset, ...]
    frame_rate: float
    pulse: Curve
    low: Curve
    brightness: Curve
    change: Curve
    downbeat: Curve


class Ear(Protocol):
    """Anything that can listen."""

    def hear(self, samples: Samples, sample_rate: int, progress: Progress) -> Heard:
        """Listen to mono samples, shape (n,)."""
        ...

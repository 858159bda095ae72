"""The seam between the song and whatever listens to it.

An `Ear` turns samples into `Heard`: onsets with instrument, loudness and confidence, and the
frame-wise curves on which the beat tracker and the screens rest. The trained network in
`network_ear` is one Ear; tests have others. Nothing above this floor knows which.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Protocol

import numpy as np
import numpy.typing as npt

from orchesis.audio.decode import Samples
from orchesis.listening.candidates import Candidates
from orchesis.music.instruments import Instrument, Ornament

Curve = npt.NDArray[np.float32]
Bands = npt.NDArray[np.float32]
"""Shape (frames, bands)."""

Progress = Callable[[float], None]
"""Called with the share done, 0 to 1; may raise Cancelled."""


@dataclass(frozen=True, slots=True)
class Onset:
    """Something was hit: time in seconds, loudness 0 to 1, confidence 0 to 1.

    ornament : its grace notes, which are no strokes of their own.
    opening : of a hat, see `Hit`.
    reason : what it rests on: "network", "pattern" (other bars have it), "kit" (it sounds like
        this song's own), "fading" (it is called what its like fade like, all song long), "share"
        (it is called by how often it is struck beside its neighbours), or "correction" (the user's
        corrections taught it).
    """

    time: float
    instrument: Instrument
    loudness: float
    confidence: float
    reason: str = "network"
    ornament: Ornament | None = None
    opening: float | None = None


@dataclass(frozen=True, slots=True)
class Detail:
    """All that the network said, for the second pass, the screens and relearning.

    classes : what the columns of the curves are.
    onsets, loudness : shape (frames, classes), 0 to 1.
    features : shape (frames, bands), normalised log magnitudes.
    masks : shape (frames, bands), 0 to 1: the drums' share of the power; None without that head.
    found : the candidates, once they have been looked for: each step after it takes them from here.
    rise : shape (n, bands), what the sound gained at each of them (`second_pass.rises`).
    drums : shape (n, 2), how much of the sound is drums there (`second_pass.drum_shares`).
    low : shape (frames, low bands), as `features`: the low end in long windows, which tell the
        notes of a bass apart; None from an ear that does not look at it.
    names : what strokes of an instrument are called instead, all song long (`naming`).
    """

    classes: tuple[Instrument, ...]
    onsets: Bands
    loudness: Bands
    features: Bands
    masks: Bands | None
    found: Candidates | None = None
    rise: Bands | None = None
    drums: Bands | None = None
    low: Bands | None = None
    names: Mapping[Instrument, Instrument] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Heard:
    """All that an Ear reports.

    onsets : in order of time.
    frame_rate : frames per second of the curves.
    pulse : shape (frames,), 0 to 1: how strongly a beat could be here.
    low : shape (frames,), 0 to 1: attacks in the bass, where bar lines tend to show.
    change : shape (frames,), 0 to 1: how much the harmony changes here.
    downbeat : shape (frames,), 0 to 1: how strongly a bar could begin here; all 0 if not asked.
    detail : what a second pass needs; None from an ear that has none.
    """

    onsets: tuple[Onset, ...]
    frame_rate: float
    pulse: Curve
    low: Curve
    change: Curve
    downbeat: Curve
    detail: Detail | None = None


class Ear(Protocol):
    """Anything that can listen."""

    def hear(self, samples: Samples, sample_rate: int, progress: Progress) -> Heard:
        """Listen to a recording.

        Parameters
        ----------
        samples : shape (n,), mono, about -1 to 1.
        sample_rate : Hz.
        progress : told of the share done, 0 to 1.

        Returns
        -------
        All that was heard: strokes and curves.
        """
        ...

    def second_pass(self, heard: Heard, bar_lines: Sequence[float]) -> Heard:
        """Decide again, now that the bars are known: seconds of the bar lines, ascending."""
        ...

"""Scores on shards: what the core's own decoding makes of the network's output."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from benchmarks.fixed_set import FIVE_CLASSES
from benchmarks.scores import f_measure, match, merged
from orchesis.listening.candidates import Candidates, find_candidates
from orchesis.listening.ear import Onset
from orchesis.listening.features import HOP
from orchesis.listening.network_ear import Activations, NetworkEar, activations, normalised
from orchesis.listening.second_pass import HeardSong, drum_shares, rises
from orchesis.music.instruments import Instrument as I
from orchesis.rhythm.find import find_grid
from training.bank import RATE
from training.labels import CLASSES

RATE_FRAMES = RATE / HOP
GHOST_BELOW = 0.4
"""Composed snare strokes softer than this are ghosts."""


@dataclass
class Counts:
    """Matched, reference and estimated strokes."""

    hit: int = 0
    reference: int = 0
    estimate: int = 0

    def add(self, reference: list[float], estimate: list[float], tolerance: float) -> None:
        """Count one clip."""
        self.hit += len(match(reference, estimate, tolerance))
        self.reference += len(reference)
        self.estimate += len(estimate)

    @property
    def f(self) -> float:
        """F-measure; 1.0 where there was nothing and nothing was said."""
        total = self.reference + self.estimate
        return 2 * self.hit / total if total else 1.0

    @property
    def recall(self) -> float:
        """Share of what is there."""
        return self.hit / max(1, self.reference)

    @property
    def precision(self) -> float:
        """Share of what was said."""
        return self.hit / max(1, self.estimate)


def micro(counts: Iterable[Counts]) -> float:
    """F of several counts put together."""
    held = list(counts)
    total = Counts(
        sum(c.hit for c in held), sum(c.reference for c in held), sum(c.estimate for c in held)
    )
    return total.f


@dataclass
class Truth:
    """The labels of one clip: per class onset times and loudness; beats and downbeats."""

    strokes: dict[I, list[tuple[float, float]]] = field(default_factory=dict)
    beats: list[float] = field(default_factory=list)
    downbeats: list[float] = field(default_factory=list)


def shards(folder: Path) -> list[Path]:
    """The finished shards of a folder, in order."""
    return [path for path in sorted(folder.glob("*.npz")) if not path.name.endswith(".part.npz")]


def clips(folder: Path) -> Iterator[tuple[np.ndarray, Truth]]:
    """Normalised features and labels of every clip of a folder."""
    for path in shards(folder):
        yield from clips_of(path)


def clips_of(shard: Path) -> Iterator[tuple[np.ndarray, Truth]]:
    """The same of one shard."""
    with np.load(shard) as data:
        for features, onsets, loudness, beats in zip(
            data["features"], data["onsets"], data["loudness"], data["beats"], strict=True
        ):
            truth = Truth()
            for column, instrument in enumerate(CLASSES):
                frames = np.flatnonzero(onsets[:, column])  # covered strokes (2) count too
                truth.strokes[instrument] = [
                    (f / RATE_FRAMES, float(loudness[f, column])) for f in frames
                ]
            # Anything else stands for beats that nobody knows (`render.UNTOLD`).
            truth.beats = list(np.flatnonzero(beats[:, 0] == 1) / RATE_FRAMES)
            truth.downbeats = list(np.flatnonzero(beats[:, 1] == 1) / RATE_FRAMES)
            magnitudes = 10 ** features.astype(np.float32) - 1e-6
            yield normalised(magnitudes.astype(np.float32)), truth


def songs_of(
    heard_clips: Iterable[tuple[np.ndarray, Truth]], ear: NetworkEar
) -> Iterator[tuple[HeardSong, Candidates, np.ndarray, np.ndarray]]:
    """Of every clip: the song as the second pass sees it, on the bars that the tool finds, its
    candidates, which of them are strokes, and how many strokes each class has.
    """
    for features, truth in heard_clips:
        heard = ear.hear_features(features, RATE, lambda share: None)
        grid = find_grid(heard)
        edges = [*(bar.start for bar in grid.bars), grid.bars[-1].end] if grid else []
        detail = heard.detail
        assert detail is not None
        found = find_candidates(detail.onsets, detail.loudness, heard.frame_rate)
        rise = rises(detail.features, found.frame)
        song = HeardSong(
            detail.onsets,
            rise,
            heard.frame_rate,
            detail.classes,
            np.asarray(edges, float),
            drums=drum_shares(detail.features, detail.masks, found.frame),
        )
        good = np.zeros(len(found), bool)
        strokes = np.zeros(len(CLASSES), int)
        for column, instrument in enumerate(CLASSES):
            mine = np.flatnonzero(found.column == column)
            reference = [time for time, _ in truth.strokes[instrument]]
            strokes[column] = len(reference)
            pairs = match(reference, list(found.time[mine]), 0.05)
            good[mine[[j for _, j in pairs]]] = True
        yield song, found, good, strokes


def run(session: object, features: np.ndarray) -> Activations:
    """Activations of one clip."""
    return activations(features, session, len(CLASSES), lambda share: None)  # type: ignore[arg-type]


def times(truth: Truth, members: frozenset[I]) -> list[float]:
    """Onset times of a family, strokes within 20 ms counted once."""
    return merged(t for i in members for t, _ in truth.strokes.get(i, []))


def estimated(onsets: list[Onset], members: frozenset[I]) -> list[float]:
    """The same for what was heard."""
    return merged(onset.time for onset in onsets if onset.instrument in members)


__all__ = [
    "CLASSES",
    "FIVE_CLASSES",
    "Counts",
    "Truth",
    "clips",
    "clips_of",
    "estimated",
    "f_measure",
    "run",
    "shards",
    "songs_of",
    "times",
]

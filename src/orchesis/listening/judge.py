"""The judge: a small network that decides every candidate of a song with the whole song in view.

The ear hears some seconds at a time. The judge sees, for each candidate, what the ear says of all
drums there, what the like bars play at the same place, what is played a beat or an eighth before
and after, how much it sounds like each drum of this song's kit, how much each drum plays around it,
and how much of the sound is drums. So a steady hand is not heard as hat on one beat and as ride on
the next, and a peak that nothing else in the song speaks for is no stroke. One hidden layer beside
the logistic model of `second_pass`, trained on composed songs (docs/training.md). What would tell
songs apart, such as how often each drum plays in all of the song, is left out: it was learnt by
heart.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
import numpy.typing as npt

from orchesis.errors import OrchesisError
from orchesis.listening.candidates import Candidates, logit
from orchesis.listening.second_pass import (
    TERMS,
    HeardSong,
    Matrix,
    describe,
    kit_likenesses,
    patterns,
    sigmoid,
    strongest_near,
)

JUDGE = Path(__file__).parent / "models" / "judge.npz"

LAGS = (1 / 2, 1 / 3, 1 / 4, 1 / 6, 1 / 8)
"""Shares of a bar at which a steady hand comes again."""

REACH_FRAMES = 2
NEAR_SECONDS = 2.0
HEARD = 0.5
"""Candidates above this count as played where it is asked how much each drum plays."""

LIKELY = 0.5
"""What the judge finds likelier than this on first hearing teaches how the song's drums sound."""

LONGEST_GAP = 2.0
BOUND = 4.0
"""Inputs further than so many spreads from the mean count as that far."""


@dataclass(frozen=True, slots=True)
class Judge:
    """The trained layers.

    centre, spread : shape (terms,), of the inputs.
    weights, offsets : of each layer, shapes (inputs, outputs) and (outputs,).
    straight : shape (TERMS, classes), from the terms of `second_pass` past the layers.
    threshold : shape (classes,), the least probability that is kept.
    won : log odds by which a stroke that was kept is likelier than its candidate was.
    """

    centre: npt.NDArray[np.float32]
    spread: npt.NDArray[np.float32]
    weights: tuple[npt.NDArray[np.float32], ...]
    offsets: tuple[npt.NDArray[np.float32], ...]
    straight: npt.NDArray[np.float32]
    threshold: npt.NDArray[np.float32]
    won: float = 0.0

    def probabilities(self, terms: npt.NDArray[np.float32], found: Candidates) -> Matrix:
        """How likely each candidate is a stroke of its drum.

        Parameters
        ----------
        terms : shape (n, terms), from `context`.
        found : the candidates.

        Returns
        -------
        Shape (n,), 0 to 1.

        Raises
        ------
        OrchesisError
            Where another ear heard them.
        """
        if terms.shape[1] != len(self.centre):
            raise OrchesisError("an earlier ear heard this song: listen to it again first")
        x = np.clip((terms - self.centre) / self.spread, -BOUND, BOUND)
        past = x[:, : len(TERMS)] @ self.straight
        for number, (weight, offset) in enumerate(zip(self.weights, self.offsets, strict=True)):
            x = x @ weight + offset
            if number + 1 < len(self.weights):
                x = np.maximum(x, 0.0)
        own = (x + past)[np.arange(len(found)), found.column].astype(np.float64)
        return sigmoid(own)


@lru_cache(maxsize=2)
def load_judge(path: Path = JUDGE) -> Judge:
    """The shipped judge. Raises OrchesisError when the file is missing or damaged."""
    try:
        with np.load(path, allow_pickle=False) as held:
            layers = sum(1 for name in held.files if name.startswith("weight"))
            return Judge(
                centre=held["centre"],
                spread=held["spread"],
                weights=tuple(held[f"weight{k}"].astype(np.float32) for k in range(layers)),
                offsets=tuple(held[f"offset{k}"].astype(np.float32) for k in range(layers)),
                straight=held["straight"].astype(np.float32),
                threshold=held["threshold"],
                won=float(held["won"]) if "won" in held.files else 0.0,
            )
    except Exception as error:  # a damaged archive raises errors of many kinds
        raise OrchesisError(
            f"the judge's file {path} is missing or damaged: restore it from the release "
            "('git checkout -- src/orchesis/listening/models')"
        ) from error


def self_training_weights(judge: Judge, song: HeardSong, found: Candidates) -> Matrix:
    """The weight with which each candidate teaches what its drum sounds like, for `context`.

    The judge hears the song twice: first with the kit as the network's sure strokes tell it, then
    with the kit as it found it itself (self-training: Yarowsky, "Unsupervised word sense
    disambiguation rivaling supervised methods", ACL 1995).

    Parameters
    ----------
    judge : of the ear that heard the song.
    song : the network's words on it. found : its candidates, n of them.

    Returns
    -------
    Shape (n,), 0 to 1.
    """
    first = judge.probabilities(context(song, found), found)
    return np.where(first > LIKELY, first, 0.0)


def context(
    song: HeardSong, found: Candidates, sure: Matrix | None = None
) -> npt.NDArray[np.float32]:
    """What the judge sees of every candidate.

    Parameters
    ----------
    song : the network's words on it. found : its candidates, n of them.
    sure : shape (n,), as in `kit_likeness`.

    Returns
    -------
    Shape (n, terms).
    """
    shares, reliance = patterns(song, found)
    likeness, _ = kit_likenesses(song, found, sure)
    here = logit(strongest_near(song, found.time, REACH_FRAMES)) / 3.0
    parts = [
        describe(song, found, sure),
        here,
        np.where(reliance[:, None] > 0, logit(shares), 0.0) / 3.0,
        likeness,
        _repeated(song, found),
        _played(song, found),
        _neighbours(song, found),
        _shares(song, found),
    ]
    return np.concatenate([np.asarray(part, np.float32) for part in parts], axis=1)


def _repeated(song: HeardSong, found: Candidates) -> npt.NDArray[np.float32]:
    """What each drum plays so many shares of a bar before and after, (n, lags * classes)."""
    classes = len(song.classes)
    if len(song.edges) < 2:
        return np.zeros((len(found), len(LAGS) * classes), np.float32)
    lengths = np.diff(song.edges)
    bar = np.clip(np.searchsorted(song.edges, found.time, side="right") - 1, 0, len(lengths) - 1)
    columns = []
    for lag in LAGS:
        step = lag * lengths[bar]
        times = found.time[:, None] + step[:, None] * np.array([-2, -1, 1, 2])
        columns.append(strongest_near(song, times, REACH_FRAMES).mean(axis=1))
    return np.concatenate(columns, axis=1)


def _played(song: HeardSong, found: Candidates) -> npt.NDArray[np.float32]:
    """How much each drum plays around the candidate, shape (n, classes)."""
    near = np.zeros((len(found), len(song.classes)), np.float32)
    for column in range(len(song.classes)):
        times = found.time[(found.column == column) & (found.peak > HEARD)]
        low, high = np.searchsorted(times, [found.time - NEAR_SECONDS, found.time + NEAR_SECONDS])
        near[:, column] = np.log1p(high - low)
    return near


def _shares(song: HeardSong, found: Candidates) -> npt.NDArray[np.float32]:
    """How much of the sound is drums, in log odds, shape (n, 2)."""
    if song.drums is None:
        return np.zeros((len(found), 2), np.float32)
    return logit(song.drums).astype(np.float32) / 3.0


def _neighbours(song: HeardSong, found: Candidates) -> npt.NDArray[np.float32]:
    """The strokes of the same drum before and after: how far, how loud; and the usual loudness.

    Shape (n, 6): log seconds and relative loudness of each neighbour, the candidate's loudness
    against the drum's median, and the share of the drum's sure strokes in all.
    """
    result = np.zeros((len(found), 6), np.float32)
    all_sure = max(1, int((found.peak > HEARD).sum()))
    for column in range(len(song.classes)):
        mine = np.flatnonzero(found.column == column)
        sure = mine[found.peak[mine] > HEARD]
        if not len(mine):
            continue
        usual = float(np.median(found.loudness[sure])) if len(sure) else 0.5
        result[mine, 4] = found.loudness[mine] - usual
        result[mine, 5] = len(sure) / all_sure
        times, loud = found.time[sure], found.loudness[sure]
        before = np.searchsorted(times, found.time[mine] - 1e-6, side="left") - 1
        after = np.searchsorted(times, found.time[mine] + 1e-6, side="right")
        for place, index in ((0, before), (2, after)):
            there = (index >= 0) & (index < len(sure))
            at = np.clip(index, 0, max(0, len(sure) - 1))
            gap = np.full(len(mine), LONGEST_GAP)
            if len(sure):
                gap = np.where(there, np.abs(times[at] - found.time[mine]), LONGEST_GAP)
                result[mine, place + 1] = np.where(there, loud[at] - found.loudness[mine], 0.0)
            result[mine, place] = np.log(np.clip(gap, 0.01, LONGEST_GAP))
    return result

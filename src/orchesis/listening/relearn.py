"""Relearning: what the user has settled of a song teaches the ear the rest of it.

Bars that were settled are taken as true, note by note. Their strokes teach what this kit sounds
like; their places count for more than other bars' when patterns are compared; and each drum's model
is fitted anew, about the shipped one, on what was kept and thrown out there. Everything unsettled
is then decided again. Nothing here changes a note: it proposes.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
import numpy.typing as npt

from orchesis.listening.decide import keep
from orchesis.listening.ear import Onset
from orchesis.listening.evidence import Evidence
from orchesis.listening.fitting import SPREAD, fit_logistic
from orchesis.listening.second_pass import (
    SURE,
    Matrix,
    Model,
    Song,
    describe,
    probabilities,
)
from orchesis.music.instruments import Instrument

Curves = npt.NDArray[np.float32]

NEAR_SECONDS = 0.045
SETTLED_WEIGHT = 4.0
"""A settled bar counts as so many that were only heard."""

LESSON_SPREAD = 0.6 * SPREAD
"""How far a song's own model may stray from the shipped one: a few bars are a small sample."""

FEWEST_LESSONS = 4


def listen_again(
    evidence: Evidence,
    bar_lines: Sequence[float],
    settled_bars: Sequence[int],
    settled: Sequence[tuple[float, Instrument]],
    models: Mapping[str, Model],
) -> list[Onset]:
    """All strokes of the song, as heard with the settled bars in mind.

    Parameters
    ----------
    bar_lines : seconds, one more than there are bars.
    settled_bars : indices of bars, from 0, of which every note is as the user wants it.
    settled : seconds and drum of each note in those bars.
    models : the shipped models of the second pass.

    Returns
    -------
    Onsets in order of time; in settled bars they are what was heard, not what was settled.
    """
    found = evidence.found
    if not len(found):
        return []
    edges = np.asarray(bar_lines, dtype=np.float64)
    bar_of = np.searchsorted(edges, found.time + 0.02, side="right") - 1
    taught = np.isin(bar_of, np.asarray(settled_bars, dtype=int))
    right = _matched(evidence, settled)
    weight = np.ones(max(0, len(edges) - 1))
    weight[list(settled_bars)] = SETTLED_WEIGHT
    song = Song(
        onsets=_corrected(evidence, edges, settled_bars, settled),
        frame_rate=evidence.frame_rate,
        classes=evidence.classes,
        edges=edges,
        rise=evidence.rise,
        bar_weight=weight,
    )
    sure = np.where(found.peak > SURE, found.peak, 0.0).astype(np.float64)
    sure[taught] = np.where(right[taught], SETTLED_WEIGHT, 0.0)
    terms = describe(song, found, sure)
    own = dict(models)
    for column, name in enumerate(evidence.classes):
        lesson = taught & (found.column == column)
        if lesson.sum() >= FEWEST_LESSONS:
            start = np.asarray(models[name.value].weights)
            weights = fit_logistic(terms[lesson], right[lesson], start, LESSON_SPREAD)
            own[name.value] = Model(tuple(map(float, weights)), models[name.value].threshold)
    probability = probabilities(terms, found, evidence.classes, own)
    before = probabilities(terms, found, evidence.classes, models)
    least = np.array([models[name.value].threshold for name in evidence.classes])[found.column]
    why = ["correction" if b < t else "network" for b, t in zip(before, least, strict=True)]
    return keep(found, probability, least, evidence.classes, why)


def _matched(
    evidence: Evidence, settled: Sequence[tuple[float, Instrument]]
) -> npt.NDArray[np.bool_]:
    """Which candidates are settled notes, shape (n,): of each note the nearest candidate."""
    found = evidence.found
    right = np.zeros(len(found), bool)
    for time, instrument in settled:
        if instrument not in evidence.classes:
            continue
        low, high = np.searchsorted(found.time, [time - NEAR_SECONDS, time + NEAR_SECONDS])
        column = evidence.classes.index(instrument)
        near = [i for i in range(int(low), int(high)) if found.column[i] == column]
        if near:
            right[min(near, key=lambda i: abs(found.time[i] - time))] = True
    return right


def _corrected(
    evidence: Evidence,
    edges: Matrix,
    settled_bars: Sequence[int],
    settled: Sequence[tuple[float, Instrument]],
) -> Curves:
    """The network's curves, with settled bars playing exactly what was settled."""
    onsets: Curves = evidence.onsets.astype(np.float32) / np.float32(255)
    for bar in settled_bars:
        first, last = np.round(edges[bar : bar + 2] * evidence.frame_rate).astype(int)
        onsets[max(0, first - 2) : max(0, last - 2)] = 0.0
    for time, instrument in settled:
        if instrument in evidence.classes:
            frame = min(len(onsets) - 1, round(time * evidence.frame_rate))
            onsets[frame, evidence.classes.index(instrument)] = 1.0
    return onsets

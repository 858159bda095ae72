"""Relearning: what the user has settled of a song teaches the ear the rest of it.

Bars that were settled are taken as true, note by note. They count for more than others when
patterns are compared, and what was kept and thrown out there corrects each drum's decisions about
candidates that look alike to the network, sound alike, and stand at the same place in the bar: a
Gaussian process over the candidates, with the shipped model's log odds for its mean (Rasmussen and
Williams, "Gaussian Processes for Machine Learning", 2006, algorithms 3.1 and 3.2). Lessons reach
bars that are like the settled ones most. Everything unsettled is then decided again. Nothing here
changes a note: it proposes.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from orchesis.listening.candidates import logit
from orchesis.listening.decide import as_winners, keep
from orchesis.listening.ear import Onset
from orchesis.listening.evidence import Evidence
from orchesis.listening.judge import Judge, context, self_training_weights
from orchesis.listening.naming import renamed
from orchesis.listening.second_pass import HeardSong, Matrix, sigmoid
from orchesis.music.instruments import Instrument

Curves = npt.NDArray[np.float32]

NEAR_SECONDS = 0.045
SETTLED_WEIGHT = 4.0
"""A settled bar counts as so many that were only heard."""

ACTIVITY_SCALE, SOUND_SCALE = 2.0, 1.0
"""How fast two candidates become unlike as the network's words, and the sound, differ."""

ALIKE, PLACED, WHOLE = 16.0, 4.0, 1.0
"""Variances of what is learnt, in squared log odds: of candidates that look and sound alike, that
stand at the same place of the bar, and of the drum as a whole. Chosen on kits that were trained on
(docs/measurements.md)."""

PLACE_SPREAD = 0.012
"""Share of a bar."""

ELSEWHERE = 0.3
LIKE_POWER = 2.0
"""Lessons reach bars that are nothing like theirs with this share of their strength."""

BOUND = 0.01
"""Prior probabilities are kept this far from 0 and 1: nothing is beyond correction."""

LIFTED = 0.1
"""A stroke rests on the corrections where they made it likelier by this much."""

NEWTON_STEPS = 12


def listen_again(
    evidence: Evidence,
    bar_lines: Sequence[float],
    settled_bars: Sequence[int],
    settled: Sequence[tuple[float, Instrument]],
    judge: Judge,
) -> list[Onset]:
    """All strokes of the song, as heard with the settled bars in mind.

    Parameters
    ----------
    bar_lines : seconds, one more than there are bars.
    settled_bars : indices of bars, from 0, of which every note is as the user wants it.
    settled : seconds and drum of each note in those bars.
    judge : the shipped judge, whose word the lessons correct.

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
    song = HeardSong(
        onsets=_corrected(evidence, edges, settled_bars, settled),
        frame_rate=evidence.frame_rate,
        classes=evidence.classes,
        edges=edges,
        rise=evidence.rise,
        bar_weight=weight,
        drums=evidence.drums if len(evidence.drums) else None,
    )
    sure = self_training_weights(judge, song, found)
    sure[taught] = np.where(right[taught], SETTLED_WEIGHT, 0.0)
    before = judge.probabilities(context(song, found, sure), found)
    probability = _taught(evidence, edges, before, taught, right)
    least = judge.threshold[found.column].astype(np.float64)
    why = ["correction" if lifted else "network" for lifted in probability > before + LIFTED]
    onsets = as_winners(keep(found, probability, least, evidence.classes, why), judge.won)
    # Settled bars say by what name their strokes go.
    told = Counter(instrument for _, instrument in settled)
    names = {a: b for a, b in evidence.names.items() if told[a] <= told[b]}
    return renamed(onsets, names)


def _taught(
    evidence: Evidence,
    edges: Matrix,
    before: Matrix,
    taught: npt.NDArray[np.bool_],
    right: npt.NDArray[np.bool_],
) -> Matrix:
    """The probability of every candidate after the lessons, shape (n,)."""
    found = evidence.found
    looks = _looks(evidence)
    bar = np.clip(np.searchsorted(edges, found.time + 0.02, side="right") - 1, 0, len(edges) - 2)
    place = (found.time - edges[bar]) / np.diff(edges)[bar]
    like = bar_likeness(evidence, edges)
    mean = logit(np.clip(before, BOUND, 1 - BOUND))
    after = mean.copy()

    def kernel(one: npt.NDArray[np.intp], other: npt.NDArray[np.intp]) -> Matrix:
        apart = ((looks[one][:, None] - looks[other][None]) ** 2).sum(axis=-1)
        away = np.abs(place[one][:, None] - place[other][None])
        away = np.minimum(away, 1 - away) / PLACE_SPREAD
        reach = ELSEWHERE + (1 - ELSEWHERE) * like[np.ix_(bar[one], bar[other])] ** LIKE_POWER
        alike = ALIKE * np.exp(-apart / 2) + PLACED * np.exp(-(away**2) / 2) + WHOLE
        result: Matrix = reach * alike
        return result

    for column in range(len(evidence.classes)):
        lessons = np.flatnonzero(taught & (found.column == column))
        others = np.flatnonzero(~taught & (found.column == column))
        if len(lessons) and len(others):
            slope = _fitted(kernel(lessons, lessons), right[lessons].astype(float), mean[lessons])
            after[others] += kernel(others, lessons) @ slope
    return sigmoid(after)


def _fitted(kernel: Matrix, right: Matrix, mean: Matrix) -> Matrix:
    """What each lesson contributes, shape (n,): Newton's method on the posterior's mode."""
    value, slope = mean.copy(), np.zeros(len(mean))
    for _ in range(NEWTON_STEPS):
        share = sigmoid(value)
        weight = np.maximum(share * (1 - share), 1e-4)
        root = np.sqrt(weight)
        inner = np.eye(len(mean)) + root[:, None] * kernel * root[None, :]
        wish = weight * (value - mean) + right - share
        slope = wish - root * np.linalg.solve(inner, root * (kernel @ wish))
        value = mean + kernel @ slope
    return slope


def _looks(evidence: Evidence) -> Matrix:
    """What the network and the spectrum say at each candidate, shape (n, classes + bands)."""
    last = len(evidence.onsets) - 1
    near = np.clip(evidence.found.frame[:, None] + np.arange(-2, 3), 0, last)
    active = np.sqrt(evidence.onsets[near].max(axis=1).astype(np.float64) / 255)
    return np.concatenate([ACTIVITY_SCALE * active, SOUND_SCALE * evidence.rise], axis=1)


POINTS_A_BAR = 48
REACH_FRAMES = 3


def bar_likeness(evidence: Evidence, edges: Matrix) -> Matrix:
    """How alike the bars look to the network.

    Parameters
    ----------
    evidence : what was heard.
    edges : shape (bars + 1,), seconds of the bar lines.

    Returns
    -------
    Shape (bars, bars), 0 to 1.
    """
    bars = len(edges) - 1
    places = np.linspace(0, 1, POINTS_A_BAR, endpoint=False)
    times = edges[:-1, None] + places * np.diff(edges)[:, None]
    frames = np.round(times * evidence.frame_rate).astype(int)
    level = np.zeros((bars, POINTS_A_BAR, len(evidence.classes)), np.uint8)
    last = len(evidence.onsets) - 1
    for step in range(-REACH_FRAMES, REACH_FRAMES + 1):
        np.maximum(level, evidence.onsets[np.clip(frames + step, 0, last)], out=level)
    flat = level.reshape(bars, -1).astype(np.float32) / 255
    norm = np.linalg.norm(flat, axis=1) + 1e-6
    like: Matrix = np.clip(flat @ flat.T / norm[:, None] / norm[None, :], 0, 1).astype(np.float64)
    return like


LESSON_POWER = 3.0


def best_lessons(
    evidence: Evidence,
    bar_lines: Sequence[float],
    doubts: Sequence[float],
    most: int,
    settled_bars: Sequence[int] = (),
) -> list[int]:
    """The bars, as indices, that would teach most if they were settled next; at most so many.

    Each bar in doubt is taught by the settled bar that is most like it; bars are chosen one by one
    for what they add (facility location; Nemhauser, Wolsey and Fisher, "An analysis of
    approximations for maximizing submodular set functions", 1978). `doubts`: how much is in doubt
    in each bar, 0 for bars without drums, shape (bars,).
    """
    edges = np.asarray(bar_lines, dtype=np.float64)
    doubt = np.asarray(doubts, dtype=np.float64)
    if len(edges) < 2 or not len(evidence.onsets):
        return []
    like = bar_likeness(evidence, edges) ** LESSON_POWER
    covered = like[:, list(settled_bars)].max(axis=1, initial=0.0)
    chosen: list[int] = []
    free = [bar for bar in range(len(doubt)) if doubt[bar] > 0 and bar not in set(settled_bars)]
    while free and len(chosen) < most:
        gain = [float(doubt @ np.maximum(0.0, like[:, bar] - covered)) for bar in free]
        best = int(np.argmax(gain))
        if gain[best] <= 1e-9:
            break
        chosen.append(free.pop(best))
        covered = np.maximum(covered, like[:, chosen[-1]])
    return chosen


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

"""Beats: where a listener taps along, following the recording as it drifts.

A hidden Markov model whose state is the place within the beat and the length of the beat; tempo
may change only at a beat, little changes being likelier than large ones. (Krebs, Boeck and
Widmer, "An efficient state-space model for joint tempo and meter tracking", ISMIR 2015; the
observation is that of Boeck, Krebs and Widmer, ISMIR 2014.) Then each beat is drawn to the
strokes that were heard at it, smoothed so that one late stroke does not bend the grid.

Times are seconds, tempi beats a minute.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from orchesis.listening.ear import Curve, Onset

Times = npt.NDArray[np.float64]

SLOWEST_BPM, FASTEST_BPM = 50.0, 215.0
TEMPO_STIFFNESS = 100.0
"""Lambda of Krebs et al.: how unlikely a tempo change from beat to beat is."""

LARGEST_STEP = 0.2
"""A beat is at most a fifth longer or shorter than the one before."""

BEAT_SHARE = 16
"""A sixteenth of the beat counts as being on the beat (Boeck et al.)."""

FELT_BPM, FELT_OCTAVES = 112.0, 0.75
"""People tap most readily near 110-120 bpm; the spread in octaves is wide on purpose (Moelants,
"Preferred tempo reconsidered", ICMPC 2002)."""

PRIOR_WEIGHT = 0.15
"""Weight of that preference at each beat against what is heard."""

LEAST_PULSE = 0.02
SNAP_SECONDS = 0.045
"""From a beat: a stroke so near is one on it."""

SMOOTHING_BEATS = 4
STRAY_SECONDS = 0.008
"""Cauchy weights: a stroke so far off the line counts half."""


@dataclass(frozen=True, slots=True)
class _Space:
    """States ordered by tempo; each tempo is a run of as many states as its beat has frames."""

    lengths: npt.NDArray[np.int64]
    first: npt.NDArray[np.int64]
    last: npt.NDArray[np.int64]
    on_beat: npt.NDArray[np.bool_]
    change: npt.NDArray[np.float64]
    prior: npt.NDArray[np.float64]


def _space(frame_rate: float, slowest: float, fastest: float, felt: float) -> _Space:
    lengths = np.arange(int(np.ceil(60 * frame_rate / fastest)), int(60 * frame_rate / slowest) + 1)
    last = np.cumsum(lengths) - 1
    first = last - lengths + 1
    place = np.concatenate([np.arange(length) / length for length in lengths])
    ratio = lengths[None, :] / lengths[:, None]
    change = -TEMPO_STIFFNESS * np.abs(ratio - 1.0)
    # No band doubles its tempo from one beat to the next: that is a change of reading, and one
    # reading serves the whole song.
    change[np.abs(ratio - 1.0) > LARGEST_STEP] = -1e6
    change -= np.log(np.exp(change).sum(axis=1, keepdims=True))
    octaves = np.log2(60 * frame_rate / lengths / felt) / FELT_OCTAVES
    return _Space(lengths, first, last, place < 1 / BEAT_SHARE, change, -0.5 * octaves**2)


def track_beats(
    pulse: Curve,
    frame_rate: float,
    *,
    slowest_bpm: float = SLOWEST_BPM,
    fastest_bpm: float = FASTEST_BPM,
    felt_bpm: float = FELT_BPM,
) -> Times:
    """Beat times in seconds, from how strongly each frame could be a beat.

    Parameters
    ----------
    pulse : shape (frames,), 0 to 1.
    frame_rate : frames per second.
    slowest_bpm, fastest_bpm : the tempi to consider.
    felt_bpm : the tempo that is likeliest before anything is heard.

    Returns
    -------
    Times, ascending; empty where there is no pulse at all.
    """
    if len(pulse) < 2 * frame_rate or float(pulse.max(initial=0.0)) < LEAST_PULSE:
        return np.empty(0)
    space = _space(frame_rate, slowest_bpm, fastest_bpm, felt_bpm)
    likelihood = np.clip(pulse, LEAST_PULSE, 1.0 - LEAST_PULSE).astype(np.float64)
    log_on, log_off = np.log(likelihood), np.log((1.0 - likelihood) / (BEAT_SHARE - 1))
    transition = space.change + PRIOR_WEIGHT * space.prior[None, :]
    total = len(space.on_beat)
    score = np.full(total, -np.log(total)) + np.repeat(space.prior, space.lengths)
    came_from = np.empty((len(pulse), len(space.lengths)), dtype=np.int16)
    observation = np.empty(total)
    columns = np.arange(len(space.lengths))
    for frame in range(len(pulse)):
        entering = score[space.last][:, None] + transition
        best = entering.argmax(axis=0)
        came_from[frame] = best
        score[1:] = score[:-1].copy()
        score[space.first] = entering[best, columns]
        observation.fill(log_off[frame])
        observation[space.on_beat] = log_on[frame]
        score += observation
        if frame % 512 == 0:
            score -= score.max()
    return _trace(space, came_from, int(score.argmax())) / frame_rate


def _trace(space: _Space, came_from: npt.NDArray[np.int16], state: int) -> Times:
    """Walk back from the last state; a beat is each frame in which a beat begins."""
    tempo = int(np.searchsorted(space.last, state))
    place = state - int(space.first[tempo])
    frame = len(came_from) - 1
    beats = []
    while frame - place >= 0:
        frame -= place
        beats.append(frame)
        tempo = int(came_from[frame, tempo])
        place = int(space.lengths[tempo]) - 1
        frame -= 1
    return np.array(beats[::-1], dtype=np.float64)


def draw_to_strokes(beats: Times, onsets: Sequence[Onset]) -> Times:
    """Draw each beat towards the strokes at it, then smooth.

    A stroke within SNAP_SECONDS pulls by loudness; the corrections are then smoothed by a local
    straight line over +-SMOOTHING_BEATS beats, so that the grid follows the band and not a
    single early or late stroke.
    """
    times = np.array([onset.time for onset in onsets])
    weights = np.array([onset.loudness * onset.confidence for onset in onsets])
    return draw_to(beats, times, weights)


def draw_to(beats: Times, times: Times, weights: npt.NDArray[np.float64]) -> Times:
    """The same for strokes that are known by their times and weights alone.

    Parameters
    ----------
    beats : shape (beats,), seconds, ascending.
    times : shape (n,), seconds, ascending. weights : shape (n,), from 0 up.

    Returns
    -------
    Shape (beats,), seconds.
    """
    if len(beats) < 4 or not len(times):
        return beats
    pull, trust = np.zeros(len(beats)), np.full(len(beats), 0.02)
    for index, beat in enumerate(beats):
        low, high = np.searchsorted(times, [beat - SNAP_SECONDS, beat + SNAP_SECONDS])
        if high > low:
            weight = weights[low:high]
            pull[index] = float((weight * (times[low:high] - beat)).sum() / weight.sum())
            trust[index] += float(weight.sum())
    steps = np.arange(len(beats))
    drawn = np.empty(len(beats))
    for index in range(len(beats)):
        low, high = max(0, index - SMOOTHING_BEATS), min(len(beats), index + SMOOTHING_BEATS + 1)
        near = steps[low:high] - index
        weight = trust[low:high] * np.exp(-0.5 * (near / (SMOOTHING_BEATS / 2)) ** 2)
        target = beats[low:high] + pull[low:high]
        slope, value = np.polyfit(near, target, 1, w=np.sqrt(weight))
        # Once more without those that stray from the first line: they were early or late.
        stray = (target - (slope * near + value)) / STRAY_SECONDS
        slope, value = np.polyfit(near, target, 1, w=np.sqrt(weight / (1.0 + stray**2)))
        drawn[index] = value if slope > 0 else beats[index]
    return drawn if bool((np.diff(drawn) > 0).all()) else beats


def tempo_of(beats: Sequence[float] | Times) -> float:
    """Median tempo in beats a minute; 0.0 with fewer than two beats."""
    if len(beats) < 2:
        return 0.0
    return float(60.0 / np.median(np.diff(np.asarray(beats))))

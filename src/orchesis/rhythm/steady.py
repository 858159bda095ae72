"""One pulse all song long: the beats as tracked, with what was lost on the way put right.

A tracker decides from beat to beat. After a break, over off-beat stabs or through a quiet verse it
slips by half a beat, or taps every other beat or two in three for some bars, and goes on from
there. A band does not: it keeps one pulse. So how long the beat is comes from the tracked beats,
read as parts or multiples of the length that prevails; where the beat falls is then decided once
for the whole song, by the most likely path of a phase that may only creep (Viterbi, "Error bounds
for convolutional codes", 1967), each beat judged as `beats` judges it (Boeck, Krebs and Widmer,
ISMIR 2014). How much it gives: docs/measurements.md.

Times are seconds, lengths of beats too.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from orchesis.listening.ear import Curve
from orchesis.rhythm.beats import BEAT_SHARE, LEAST_PULSE, Times

LEVELS = (1.0, 2.0, 1 / 2, 3 / 2, 2 / 3, 3.0, 1 / 3)
"""What a tracked beat can be of the beat that prevails."""

LIKE = 0.08
"""A length so much off is still that length, played faster or slower."""

RECENT = 16
"""Beats that say how long the next one is likely to be."""

NEIGHBOURS = 12
"""Beats to either side over which the length is evened out, the longest and shortest quarter of
them left out."""

BINS = 24
"""Places within a beat at which it is looked for."""

REACH_BEATS = 1.5
"""So far the phase may creep in all of the song, either way."""

CREEP = 3.0
"""Log likelihood of moving by one place from a beat to the next. Between 2 and 5 nothing changes;
more mends a slip more in whole songs and loses stems whose tempo was tracked wrongly
(docs/notebook.md)."""

OWN_BEAT = 1 / 6
"""Of a beat: a tracked beat so near is the beat itself, and finer."""

SHORTEST = 0.4
"""Of a beat: what follows sooner is the same one again."""

Lengths = npt.NDArray[np.float64]


def steady_beats(pulse: Curve, frame_rate: float, tracked: Times, drawn: Times) -> Times:
    """The beats of one pulse all song long.

    Parameters
    ----------
    pulse : shape (frames,), 0 to 1, how strongly each frame could be a beat.
    frame_rate : frames a second.
    tracked : shape (beats,), seconds, ascending: as tracked, on frames.
    drawn : shape (beats,), the same drawn to the strokes: they tell lengths more finely.

    Returns
    -------
    Times, ascending, to be drawn to the strokes; `tracked` where that is one pulse already.
    """
    gaps = np.diff(drawn)
    own = lengths_at_level(gaps, prevailing_length(gaps))
    known = ~np.isnan(own)
    middles = ((drawn[1:] + drawn[:-1]) / 2)[known]
    times = np.arange(len(pulse)) / frame_rate
    lengths = np.interp(times, middles, _evened(middles, own[known]))
    beats = _likeliest(pulse, frame_rate, lengths)
    return _with_own(beats, tracked) if len(beats) > 1 else tracked


def prevailing_length(lengths: Lengths) -> float:
    """The length of beat that holds for most of the time; lengths : shape (n,), seconds, n > 0."""
    octaves = np.log2(lengths)
    grid = np.arange(octaves.min(), octaves.max() + 0.01, 0.01)
    held = lengths[:, None] * np.exp(-0.5 * ((octaves[:, None] - grid) / 0.04) ** 2)
    return float(2.0 ** grid[int(held.sum(axis=0).argmax())])


def lengths_at_level(lengths: Lengths, prevailing: float) -> Lengths:
    """Each length as one of the level that prevails, nan where it is none of LEVELS of it.

    Read outwards from the longest stretch at that level, so that a band that speeds up all song
    long is followed.

    Parameters
    ----------
    lengths : shape (n,), seconds. prevailing : seconds.

    Returns
    -------
    Shape (n,).
    """
    result = np.full(len(lengths), np.nan)
    start = _middle_of_longest(np.abs(lengths / prevailing - 1) < LIKE)
    for order in (range(start, len(lengths)), range(start - 1, -1, -1)):
        near = result[start : start + RECENT] if order.step < 0 else result[:0]
        recent = [prevailing, *near[~np.isnan(near)][::-1]]
        for index in order:
            usual = float(np.median(recent[-RECENT:]))
            result[index] = _at_level(float(lengths[index]), usual)
            if not np.isnan(result[index]):
                recent.append(float(result[index]))
    return result


def _at_level(length: float, usual: float) -> float:
    for level in LEVELS:
        if abs(length / level / usual - 1) < LIKE:
            return length / level
    return np.nan


def _middle_of_longest(there: Sequence[bool] | npt.NDArray[np.bool_]) -> int:
    """The middle of the longest run of truths; 0 without any."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], np.asarray(there, int), [0]])))
    starts, ends = edges[::2], edges[1::2]
    if not len(starts):
        return 0
    longest = int((ends - starts).argmax())
    return int((starts[longest] + ends[longest]) // 2)


def _evened(times: Times, lengths: Lengths) -> Lengths:
    """Lengths as the beats around them have them, the middle half of these.

    times, lengths : shape (n,), seconds.
    """
    reach = NEIGHBOURS * lengths
    low = np.searchsorted(times, times - reach)
    high = np.searchsorted(times, times + reach)
    result = np.empty(len(lengths))
    for index in range(len(lengths)):
        near = np.sort(lengths[low[index] : high[index]])
        aside = len(near) // 4
        result[index] = near[aside : len(near) - aside].mean()
    return result


def _likeliest(pulse: Curve, frame_rate: float, lengths: Lengths) -> Times:
    """The beats on the most likely path of a phase that creeps; lengths : seconds, of each frame's
    beat.
    """
    frames = np.arange(len(pulse))
    steps = 2 / (frame_rate * (lengths[1:] + lengths[:-1]))
    counted = np.concatenate([[0.0], np.cumsum(steps)])
    places = int(REACH_BEATS * BINS)
    phases = np.arange(-places, places + 1) / BINS
    wanted = np.arange(int(counted[-1]) + 1)[:, None] + phases[None, :]
    at = np.interp(wanted, counted, frames)
    likely = np.clip(pulse, LEAST_PULSE, 1.0 - LEAST_PULSE).astype(np.float64)
    gain = np.log(likely) - np.log((1.0 - likely) / (BEAT_SHARE - 1))
    summed = np.concatenate([[0.0], np.cumsum(gain)])
    until = at + np.interp(at, frames, lengths) * frame_rate / BEAT_SHARE
    edges = np.arange(len(summed))
    fits = np.interp(until, edges, summed) - np.interp(at, edges, summed)
    inside = (wanted >= 0) & (wanted <= counted[-1])
    path = _creeping(np.where(inside, fits, 0.0))
    beats = np.arange(len(path))
    return np.asarray(at[beats, path][inside[beats, path]] / frame_rate)


def _creeping(fits: npt.NDArray[np.float64]) -> npt.NDArray[np.int64]:
    """The best place of each beat, shape (beats,), where each is at most one from the last.

    fits : shape (beats, places), log likelihood.
    """
    beats, places = fits.shape
    columns = np.arange(places)
    came = np.zeros((beats, places), np.int64)
    best = fits[0]
    for beat in range(1, beats):
        wide = np.concatenate([[-np.inf], best, [-np.inf]])
        reach = np.stack([wide[1:-1], wide[:-2] - CREEP, wide[2:] - CREEP])
        choice = reach.argmax(axis=0)
        came[beat] = columns + np.array([0, -1, 1])[choice]
        best = reach[choice, columns] + fits[beat]
    path = np.empty(beats, np.int64)
    path[-1] = best.argmax()
    for beat in range(beats - 1, 0, -1):
        path[beat - 1] = came[beat, path[beat]]
    return path


def _with_own(beats: Times, tracked: Times) -> Times:
    """Beats, with the tracked ones in place of those that are near them; each once."""
    after = np.clip(np.searchsorted(tracked, beats), 1, len(tracked) - 1)
    before = after - 1
    nearer = np.abs(tracked[after] - beats) < np.abs(tracked[before] - beats)
    nearest = np.where(nearer, tracked[after], tracked[before])
    lengths = np.gradient(beats)
    joined = np.where(np.abs(nearest - beats) < OWN_BEAT * lengths, nearest, beats)
    return np.asarray(joined[np.concatenate([[True], np.diff(joined) > SHORTEST * lengths[1:]])])

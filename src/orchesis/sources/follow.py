"""Following another performance of a song: a live take, at another tempo that comes and goes.

Harmony and attacks of both are compared frame by frame, and the cheapest way through is found by
dynamic time warping with at most twice or half the pace (Sakoe and Chiba 1978; for music Dixon and
Widmer, "MATCH: a music alignment tool chest", ISMIR 2005). Then attacks are compared closely about
that way, and places that belong together are kept as knots.

A way is found through any two songs whose beats can be laid over each other, and attacks are then
alike on every beat: composed songs of one form reached .66 to .85 so, another take of the same one
.92. That is too near to tell them apart by, so nothing is followed unless a person says that it is
the same song; how alike the two are is told.
"""

from __future__ import annotations

import numpy as np
from scipy.ndimage import gaussian_filter1d, median_filter

from orchesis.audio.decode import Samples
from orchesis.listening.ear import Bands
from orchesis.listening.features import HOP, band_centres, band_spectrogram
from orchesis.sources.lineup import Curves, LineUp, NotTheSameSong, attacks_of

STEP = 10
"""Frames of the features that make one of the warping's: a tenth of a second."""

SKIP_COST = 0.6
"""What leaving a tenth of a second out at either end costs, in usual costs of a frame."""

ATTACKS_WEIGHT = 0.35
KNOT_SECONDS, STRETCH_SECONDS, REACH_SECONDS = 2.0, 4.0, 0.16
LEAST_LIKENESS = 0.15
LEAST_ALIKE = 0.3
"""Median likeness of the attacks about the way: with less there is nothing to follow."""

TOUCH_FRAMES = 1.5
"""Two performances' strokes stray from each other: attacks are blurred by so many frames."""

FEWEST_KNOTS = 8
SHORTEST = 100
"""Tenths of a second."""


def follow(one: Samples, other: Samples, sample_rate: int) -> LineUp:
    """Follow the way of another performance along the first.

    Parameters
    ----------
    one, other : shape (n,), mono.
    sample_rate : Hz, of both.

    Returns
    -------
    How the second runs along the first.

    Raises
    ------
    NotTheSameSong
        Where too little agrees.
    """
    bands = [band_spectrogram(samples, sample_rate, lambda share: None) for samples in (one, other)]
    harmony = [_harmony(each, sample_rate) for each in bands]
    first, second = (attacks_of(each) for each in bands)
    coarse = [_coarse_attacks(each) for each in (first, second)]
    one_way, other_way = (
        np.concatenate([held, ATTACKS_WEIGHT * struck])
        for held, struck in zip(harmony, coarse, strict=True)
    )
    if min(one_way.shape[1], other_way.shape[1]) < SHORTEST:
        raise NotTheSameSong("this recording is too short to be followed")
    way = warped(one_way, other_way)
    rate = sample_rate / HOP
    knots, errors, alike = _knots(first, second, way, rate)
    if len(knots) < FEWEST_KNOTS or alike < LEAST_ALIKE:
        raise NotTheSameSong(
            "this recording cannot be followed along the song: too little in it is alike"
        )
    mine, theirs = knots.T
    speed, offset = np.polyfit(mine, theirs, 1)
    return LineUp(
        offset=float(offset),
        speed=float(speed),
        error=float(np.median(errors)),
        agreeing=alike,
        drift=float(np.abs(theirs - (offset + speed * mine)).max()),
        knots=tuple((float(a), float(b)) for a, b in knots),
    )


def _harmony(bands: Bands, sample_rate: int) -> Curves:
    """Chroma of what is held, shape (12, frames // STEP), columns of unit length about a mean."""
    centres = band_centres(sample_rate)
    fold = np.zeros((len(centres), 12))
    tonal = np.flatnonzero((centres > 80) & (centres < 2000))
    fold[tonal, np.round(12 * np.log2(centres[tonal] / 440.0)).astype(int) % 12] = 1.0
    count = len(bands) // STEP
    blocks = bands[: count * STEP].reshape(count, STEP, -1)
    # The median over a tenth of a second and its neighbours: attacks pass, what is held stays.
    held = median_filter(np.median(blocks, axis=1), size=(5, 1))
    chroma = np.sqrt(np.maximum(held, 0.0)) @ fold
    chroma = gaussian_filter1d(chroma, 2, axis=0)
    chroma -= chroma.mean(axis=1, keepdims=True)
    return np.asarray((chroma / (np.linalg.norm(chroma, axis=1, keepdims=True) + 1e-9)).T)


def _coarse_attacks(strokes: Curves) -> Curves:
    count = strokes.shape[1] // STEP
    summed = strokes[:, : count * STEP].reshape(3, count, STEP).sum(axis=2)
    summed = summed - gaussian_filter1d(summed, 20, axis=1)
    return np.asarray(summed / (np.linalg.norm(summed, axis=0).mean() + 1e-9))


def warped(first: Curves, second: Curves) -> Curves:
    """The cheapest way of one along the other, in steps of 1:1, 1:2 or 2:1.

    Both ends of either may be left out, at a price.

    Parameters
    ----------
    first, second : shape (kinds, frames), as `lineup.attacks` gives them.

    Returns
    -------
    Shape (steps, 2): pairs of frames.
    """
    rows, columns = first.shape[1], second.shape[1]
    squares = (second**2).sum(axis=0)

    def costs(row: int) -> Curves:
        return np.asarray((first[:, row] ** 2).sum() + squares - 2 * first[:, row] @ second)

    probes = [costs(row) for row in np.linspace(0, rows - 1, 60).astype(int)]
    skip = SKIP_COST * float(np.median(probes))
    came = np.zeros((rows, columns), np.int8)
    best = np.full((3, columns), np.inf)
    cost = np.full((3, columns), np.inf)
    ends = np.full(rows, np.inf)
    for row in range(rows):
        cost = np.roll(cost, 1, axis=0)
        best = np.roll(best, 1, axis=0)
        cost[0] = costs(row)
        choices = np.full((4, columns), np.inf)
        choices[0] = skip * (row + np.arange(columns)) + 2 * cost[0]
        choices[1, 1:] = best[1, :-1] + 2 * cost[0, 1:]
        choices[2, 2:] = best[1, :-2] + 2 * cost[0, 1:-1] + cost[0, 2:]
        choices[3, 1:] = best[2, :-1] + 2 * cost[1, 1:] + cost[0, 1:]
        if row:
            # Inside, only one of the two may have been left out.
            choices[0, 1:] = np.inf
        came[row] = choices.argmin(axis=0)
        best[0] = choices.min(axis=0)
        ends[row] = best[0, -1] + skip * (rows - 1 - row)
    last = best[0] + skip * (columns - 1 - np.arange(columns))
    row, column = (
        (int(ends.argmin()), columns - 1)
        if ends.min() < last.min()
        else (rows - 1, int(last.argmin()))
    )
    way = [(row, column)]
    while came[row, column]:
        down, left = ((1, 1), (1, 2), (2, 1))[came[row, column] - 1]
        row, column = row - down, column - left
        way.append((row, column))
    return np.array(way[::-1], dtype=float)


def _knots(first: Curves, second: Curves, way: Curves, rate: float) -> tuple[Curves, Curves, float]:
    """Places of both in seconds, shape (knots, 2), how far each is from its neighbours' line, and
    the median likeness of all stretches.
    """
    first, second = (gaussian_filter1d(each, TOUCH_FRAMES, axis=1) for each in (first, second))
    smooth = gaussian_filter1d(way, 12, axis=0, mode="nearest") * STEP + STEP / 2
    half, reach = int(STRETCH_SECONDS * rate / 2), int(REACH_SECONDS * rate)
    places = np.arange(second.shape[1])
    found, likeness = [], []
    for middle in np.arange(smooth[0, 0] + half, smooth[-1, 0] - half, KNOT_SECONDS * rate):
        frames = np.arange(round(middle) - half, round(middle) + half)
        if frames[0] < 0 or frames[-1] >= first.shape[1]:
            continue
        expected = np.interp(frames, smooth[:, 0], smooth[:, 1])
        mine = first[:, frames]
        steps = np.arange(-reach, reach + 1)
        scores = np.array(
            [
                (mine * np.stack([np.interp(expected + step, places, c) for c in second])).sum()
                for step in steps
            ]
        )
        theirs = np.stack([np.interp(expected, places, c) for c in second])
        scores /= np.linalg.norm(mine) * np.linalg.norm(theirs) + 1e-9
        best = int(scores.argmax())
        likeness.append(float(scores[best]))
        if scores[best] >= LEAST_LIKENESS and 0 < best < len(steps) - 1:
            found.append((round(middle), expected[half] + steps[best]))
    if len(found) < FEWEST_KNOTS:
        return np.empty((0, 2)), np.empty(0), 0.0
    knots = np.array(found) / rate
    lags = knots[:, 1] - np.interp(knots[:, 0] * rate, smooth[:, 0], smooth[:, 1]) / rate
    gaps = np.abs(lags - median_filter(lags, 5, mode="nearest"))
    kept = gaps < 0.06
    return knots[kept], gaps[kept], float(np.median(likeness))

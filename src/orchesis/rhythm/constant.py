"""One constant grid from end to end, where a song has one: by a click, or a very steady band.

On such a song a tracker needs to decide nothing from beat to beat: what it found is a vote on three
things that hold for the whole song, how long a sixteenth is, where sixteenths fall, and which of
them are beats. How long and where is told by kicks and snares, as the line spectrum of their times
(a comb of teeth 1/f apart gathers them on one phase; Mardia and Jupp, Directional Statistics,
2000). Which are beats is told by the tracked beats where four fifths of them agree, and by the
kicks where they do not: snares on the off-beats of double time turn a tracker round for whole
sections, and the kicks under them stay where they are.

A song is left alone that drifts, stops, or has half a beat more somewhere: then its strokes are on
one grid here and on another there, or its kicks are.

Times are seconds.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from orchesis.listening.ear import Curve, Onset
from orchesis.music.instruments import Instrument
from orchesis.rhythm.beats import Times

Weights = npt.NDArray[np.float64]

TEETH = (4, 3)
"""Teeth of the comb in a beat: sixteenths, or thirds of it."""

LENGTH_WITHIN = 0.015
"""The length of the beat is looked for this far to either side of what prevails."""

STEPS_A_TURN = 8
"""Lengths are tried so finely that the last stroke moves by an eighth of a tooth."""

CONCENTRATED = 0.7
"""Mean resultant length of the strokes on the comb, at least: a scatter of 17 ms at 120."""

PIECE_BEATS = 24
FEWEST_IN_PIECE = 8
"""The comb must hold in every piece of so many beats that has so many strokes."""

STRAYED = 0.3
"""Of a tooth: a piece whose strokes are gathered farther off is on another grid."""

MOST_STRAYED = 0.1
"""Share of the pieces that may be; a fill played freely is one."""

AGREED = 0.8
"""Share of the tracked beats on one tooth by which they decide which teeth are beats."""

KICKS_LEAD = 1.3
"""Times the kicks on the next best tooth that are on the best, to decide among the two; and the
share of the pieces in which it must lead."""

KICKS_AGREE = 0.75
FEWEST_BEATS = 32


@dataclass(frozen=True, slots=True)
class Comb:
    """A grid of equal teeth. period : of a tooth. start : of one of them. strength : 0 to 1."""

    period: float
    start: float
    strength: float


def fit_constant_beats(
    onsets: Sequence[Onset],
    ways: Sequence[Times],
    beat: float,
    *,
    pulse: Curve,
    frame_rate: float,
) -> Times | None:
    """The beats of a song that has one constant grid; None where it has not.

    Parameters
    ----------
    onsets : of the song, in order.
    ways : the beats as tracked, and as others read them; each shape (beats,).
    beat : the length of beat that prevails.
    pulse : shape (frames,), 0 to 1, how strongly each frame could be a beat.
    frame_rate : frames a second.

    Returns
    -------
    Shape (beats,), from the first tracked beat to the last, equally far apart.
    """
    struck = [o for o in onsets if o.instrument in (Instrument.KICK, Instrument.SNARE)]
    if len(ways[0]) < FEWEST_BEATS or len(struck) < FEWEST_BEATS:
        return None
    times = np.array([onset.time for onset in struck])
    weights = np.array([onset.confidence for onset in struck])
    for teeth in TEETH:
        comb = find_comb(times, weights, beat / teeth)
        if comb.strength < CONCENTRATED or not fits_throughout(times, weights, comb, teeth):
            continue
        if teeth == 3 and has_duple_subdivision(struck, comb):
            # Every third sixteenth was tapped: three against four, as many riffs have it.
            teeth = 4
            tooth: int | None = _strongest_tooth(comb, teeth, pulse, frame_rate)
        else:
            tooth = _beat_tooth(struck, ways, comb, teeth)
        return None if tooth is None else _place_beats(comb, teeth, tooth, ways[0])
    return None


def has_duple_subdivision(struck: Sequence[Onset], comb: Comb) -> bool:
    """Whether strokes come round after four and eight teeth rather than after three and six.

    struck : kicks and snares, in order.
    """
    gained = []
    for drum in (Instrument.KICK, Instrument.SNARE):
        times = np.array([onset.time for onset in struck if onset.instrument is drum])
        if len(times) < FEWEST_IN_PIECE:
            continue
        places = np.unique(np.rint((times - times[0]) / comb.period).astype(np.int64))
        again = {lag: float(np.isin(places + lag, places).mean()) for lag in (6, 8, 12, 16)}
        gained.append(again[16] + again[8] - again[12] - again[6])
    return bool(gained) and float(np.mean(gained)) > CLEARLY_FOURS


CLEARLY_FOURS = 0.15
"""Share of strokes that come again after a bar or half a bar of fours, more than of threes."""


def _strongest_tooth(comb: Comb, teeth: int, pulse: Curve, frame_rate: float) -> int:
    """Which tooth of a beat is the likeliest beat by the curve of beats."""
    scores = []
    for tooth in range(teeth):
        beats = np.arange(
            comb.start + tooth * comb.period, len(pulse) / frame_rate, teeth * comb.period
        )
        frames = np.clip(np.rint(beats * frame_rate).astype(int), 0, len(pulse) - 1)
        near = [pulse[np.clip(frames + shift, 0, len(pulse) - 1)] for shift in (-2, -1, 0, 1, 2)]
        scores.append(float(np.max(near, axis=0).mean()))
    return int(np.argmax(scores))


def find_comb(times: Times, weights: Weights, tooth: float) -> Comb:
    """The comb of about that tooth on which strokes are gathered most.

    times, weights : shape (n,), n > 0.
    """
    span = max(times[-1] - times[0], 1.0)
    rate = 1.0 / tooth
    step = 1.0 / (STEPS_A_TURN * span)
    rates = rate + np.arange(-rate * LENGTH_WITHIN, rate * LENGTH_WITHIN + step, step)
    # One rate after the other: all at once would take hundreds of megabytes for a long song.
    turns = np.array([np.exp(2j * np.pi * at * times) @ weights for at in rates]) / weights.sum()
    best = int(np.abs(turns).argmax())
    period = 1.0 / float(rates[best])
    start = float(np.angle(turns[best]) / (2 * np.pi) * period) % period
    return Comb(period, start, float(np.abs(turns[best])))


def fits_throughout(times: Times, weights: Weights, comb: Comb, teeth: int) -> bool:
    """Whether strokes are on the comb in all of the song, not here on it and there beside it."""
    piece = PIECE_BEATS * teeth * comb.period
    edges = np.arange(times[0], times[-1] + piece, piece)
    looked_at = strayed = 0
    for start, end in pairwise(edges):
        low, high = np.searchsorted(times, (start, end))
        if high - low < FEWEST_IN_PIECE:
            continue
        phases = (times[low:high] - comb.start) / comb.period
        turn = np.exp(2j * np.pi * phases) @ weights[low:high] / weights[low:high].sum()
        looked_at += 1
        strayed += abs(np.angle(turn)) / (2 * np.pi) > STRAYED or abs(turn) < CONCENTRATED / 2
    return looked_at >= 2 and strayed <= MOST_STRAYED * looked_at


def _beat_tooth(
    struck: Sequence[Onset], ways: Sequence[Times], comb: Comb, teeth: int
) -> int | None:
    """Which of the teeth of a beat is the beat; None where neither beats nor kicks agree."""
    votes = [np.bincount(_teeth_of(beats, comb, teeth), minlength=teeth) for beats in ways]
    if votes[0].max() >= AGREED * votes[0].sum():
        return int(votes[0].argmax())
    by_kicks = _tooth_of_kicks(struck, votes[0], comb, teeth)
    if by_kicks is not None:
        return by_kicks
    agreed = [one for one in votes[1:] if one.max() >= AGREED * one.sum()]
    return int(agreed[0].argmax()) if agreed else None


def _tooth_of_kicks(
    struck: Sequence[Onset], votes: npt.NDArray[np.int64], comb: Comb, teeth: int
) -> int | None:
    """Of the two teeth that have most of the tracked beats the one that clearly has the kicks."""
    kicks = np.array([o.time for o in struck if o.instrument is Instrument.KICK])
    if len(kicks) < FEWEST_BEATS:
        return None
    on = np.bincount(_teeth_of(kicks, comb, teeth), minlength=teeth)
    # Between the teeth that the tracker found: kicks may be thickest on a pick-up.
    order = np.argsort(-votes)[:2]
    best = int(max(order, key=lambda tooth: on[tooth]))
    other = int(order[0] + order[1] - best)
    if on[best] < KICKS_LEAD * max(1, on[other]):
        return None
    return best if _leads_everywhere(kicks, comb, teeth, (best, other)) else None


def _leads_everywhere(kicks: Times, comb: Comb, teeth: int, pair: tuple[int, int]) -> bool:
    """Whether kicks keep to a tooth all song long: a song with half a beat more changes over."""
    piece = PIECE_BEATS * teeth * comb.period
    numbers = ((kicks - kicks[0]) // piece).astype(int)
    on = _teeth_of(kicks, comb, teeth)
    led = looked_at = 0
    for number in range(numbers.max() + 1):
        here = on[numbers == number]
        best, other = (int((here == tooth).sum()) for tooth in pair)
        if best + other >= FEWEST_IN_PIECE // 2:
            looked_at += 1
            led += best > other
    return looked_at > 0 and led >= KICKS_AGREE * looked_at


def _teeth_of(times: Times, comb: Comb, teeth: int) -> npt.NDArray[np.int64]:
    """On which tooth of its beat each time falls, the nearest one."""
    return np.rint((times - comb.start) / comb.period).astype(np.int64) % teeth


def _place_beats(comb: Comb, teeth: int, tooth: int, tracked: Times) -> Times:
    """The beats, from about the first tracked one to the last."""
    beat = teeth * comb.period
    first = comb.start + tooth * comb.period
    first += round((tracked[0] - first) / beat) * beat
    beats = np.arange(first, tracked[-1] + beat, beat)
    return np.asarray(beats[beats >= 0])

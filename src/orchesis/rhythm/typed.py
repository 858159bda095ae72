"""A grid at a tempo that the user typed: beats are sought near it, among the known strokes.

The strokes themselves are the evidence: beats go through them by dynamic programming with the typed
tempo for its period (Ellis, "Beat tracking by dynamic programming", JNMR 2007). Confirmed stretches
keep the beats that they have.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import Instrument
from orchesis.music.values import Hit, Meter, ReadingSummary, Transcription, written
from orchesis.rhythm.beats import Times
from orchesis.rhythm.rewrite import on_beats

RATE = 100.0
SLOWEST, FASTEST = 30.0, 300.0
TIGHT = 300.0
"""How strongly the beat keeps to the tempo, against the strokes that draw it."""

WEIGHTS = {Instrument.KICK: 1.0, Instrument.SNARE: 1.0, Instrument.CROSS_STICK: 0.8}
OTHERS = 0.4
SPREAD_FRAMES = 2.0


def on_tempo(
    song: Transcription,
    bpm: float,
    beats_a_bar: int,
    fixed: Sequence[tuple[float, float]] = (),
) -> Transcription:
    """The song's strokes on a grid near a typed tempo.

    fixed : seconds of stretches (confirmed sections) whose beats stay as they are.

    Raises InvalidTranscription for a tempo that nobody plays, or a song without strokes.
    """
    if not SLOWEST <= bpm <= FASTEST:
        raise InvalidTranscription(f"type a tempo from {SLOWEST:.0f} to {FASTEST:.0f}")
    strokes = written(song.hits)
    if not strokes:
        raise InvalidTranscription("there are no strokes to lay a grid on: tap along instead")
    beats = beats_near(strokes, max(song.duration, strokes[-1].time + 1.0), 60.0 / bpm)
    old = np.array(sorted({beat for bar in song.bars for beat in bar.beats}))
    beats = with_fixed(beats, old, fixed)
    phase = _phase(strokes, beats, beats_a_bar)
    for start, _ in fixed[:1]:
        # A confirmed section begins with a one: the rest is counted from there.
        phase = int(np.argmin(np.abs(beats - start))) % beats_a_bar
    meter = Meter(beats_a_bar, 4)
    reading = ReadingSummary(
        key="tracked/typed/0",
        words=f"{meter} at {bpm:.0f}, typed",
        tempo_bpm=float(60.0 / np.median(np.diff(beats))),
        meter=meter,
        evidence=(f"you typed {bpm:g} beats a minute; the grid follows the strokes from there",),
        downbeats=tuple(range(phase, len(beats), beats_a_bar)),
    )
    laid = replace(song, tracked_beats=tuple(float(beat) for beat in beats))
    # Other readings counted other beats: they go.
    return on_beats(laid, beats, reading, (reading,))


def with_fixed(beats: Times, old: Times, fixed: Sequence[tuple[float, float]]) -> Times:
    """The beats, with those of before in the stretches that are fixed; all in seconds."""
    for start, end in fixed:
        kept = old[(old >= start - 1e-3) & (old < end - 1e-3)]
        gap = 0.5 * float(np.median(np.diff(beats)))
        away = beats[(beats < start - gap) | (beats > end + gap)]
        # What follows begins with a beat, where the confirmed stretch ends.
        beats = np.sort(np.concatenate([away, kept, [end]]))
    return beats


def beats_near(strokes: Sequence[Hit], duration: float, period: float) -> Times:
    """Beats about `period` seconds apart through the strokes, from the first to the end."""
    strength = _strength(strokes, duration)
    step = period * RATE
    lags = np.arange(int(0.6 * step), int(1.6 * step) + 1)
    cost = -TIGHT * np.log(lags / step) ** 2
    score = strength.copy()
    came_from = np.full(len(strength), -1)
    for frame in range(int(lags[0]), len(strength)):
        before = frame - lags
        usable = before >= 0
        values = score[before[usable]] + cost[usable]
        best = int(np.argmax(values)) if len(values) else 0
        # A beat that nothing leads to begins the song.
        if len(values) and values[best] > 0:
            score[frame] += values[best]
            came_from[frame] = before[usable][best]
    last = len(strength) - 1 - int(np.argmax(score[::-1][: int(step) + 1]))
    frames = [last]
    while came_from[frames[-1]] >= 0:
        frames.append(int(came_from[frames[-1]]))
    found: Times = np.array(frames[::-1]) / RATE
    return found


def _strength(strokes: Sequence[Hit], duration: float) -> npt.NDArray[np.float64]:
    curve = np.zeros(int(duration * RATE) + 2)
    for hit in strokes:
        frame = min(len(curve) - 1, round(hit.time * RATE))
        weight = WEIGHTS.get(hit.instrument, OTHERS) * hit.velocity / 127
        curve[frame] = max(curve[frame], weight * (0.3 if hit.ghost else 1.0))
    reach = np.arange(-6, 7)
    bell = np.exp(-0.5 * (reach / SPREAD_FRAMES) ** 2)
    smooth = np.convolve(curve, bell, mode="same")
    scaled: npt.NDArray[np.float64] = smooth / (smooth.std() + 1e-9)
    return scaled


def _phase(strokes: Sequence[Hit], beats: Times, beats_a_bar: int) -> int:
    """Which beat is a one: where kicks and crashes fall, and snares do not."""
    votes = np.zeros(beats_a_bar)
    sign = {Instrument.KICK: 1.0, Instrument.CRASH: 2.0, Instrument.SNARE: -1.0}
    for hit in strokes:
        if hit.instrument in sign and not hit.ghost:
            index = int(np.argmin(np.abs(beats - hit.time)))
            if abs(beats[index] - hit.time) < 0.08:
                votes[index % beats_a_bar] += sign[hit.instrument]
    return int(np.argmax(votes))

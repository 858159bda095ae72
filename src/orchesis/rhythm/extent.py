"""Where a song begins and ends: beats are counted while somebody plays, not in silence or in what
only rings out.
"""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np

from orchesis.listening.ear import Heard
from orchesis.listening.second_pass import drum_shares
from orchesis.rhythm.beats import Times
from orchesis.rhythm.levels import TRACKED_IN
from orchesis.rhythm.readings import Reading

SILENT_BELOW = 0.45
"""Of the song's loud frames, on the scale of the features: 33 dB below them."""

FEWEST_BEATS = 8
"""No song is made shorter than this."""

NEAR = 0.06
"""Seconds by which a stroke may be before its beat."""

LONGEST_RING = 4.0
"""Seconds after the last stroke that may be no more than its ring; so long a rest is the end, or
what was before the beginning."""

ALONE_ABOVE = 0.88
"""Share of drums in all that sounds above which nothing else does: .90 to .99 in drums alone that
teach, .85 at most in mixes."""


def while_it_sounds(
    readings: tuple[Reading, ...], beats: Times, heard: Heard
) -> tuple[tuple[Reading, ...], Times]:
    """Readings and beats without those in silence before and after, and in what only rings.

    A tracker goes on at its pace where nothing tells it anything, and bars that nobody plays come
    of that. Where the band plays without the drummer, its beats count. The readings are ranked
    before this: silence tells something of where bars begin.
    """
    if heard.detail is None or not heard.onsets:
        return readings, beats
    sounds = _sounding(beats, heard)
    # Drums alone that are silent at first wait for their band, and its bars are counted.
    first = 0 if _are_alone(heard) else _first(beats, sounds, heard.onsets[0].time)
    end = _end(beats, sounds, heard.onsets[-1].time)
    if end - first < FEWEST_BEATS or end - first == len(beats):
        return readings, beats
    kept = beats[first:end]
    taken, *others = (_cut(reading, first, kept) for reading in readings)
    if taken is None:
        return readings, beats
    return (taken, *(other for other in others if other is not None)), kept


def _are_alone(heard: Heard) -> bool:
    """Whether nothing but drums is in the recording."""
    assert heard.detail is not None
    features, masks = heard.detail.features.astype(np.float32), heard.detail.masks
    if masks is None:
        return False
    masks = masks[:, : features.shape[1]].astype(np.float32)
    return float(drum_shares(features, masks, np.zeros(1, np.int32))[0, 1]) > ALONE_ABOVE


def _sounding(beats: Times, heard: Heard) -> list[bool]:
    """Of each beat but the last, which has no next one to end it, whether the record sounds."""
    assert heard.detail is not None
    level = heard.detail.features.max(axis=1)
    spots = np.round(beats * heard.frame_rate).astype(int)
    pieces = (level[start:end] for start, end in pairwise(spots))
    return [len(piece) > 0 and bool(piece.mean() > SILENT_BELOW) for piece in pieces]


def _first(beats: Times, sounds: list[bool], stroke: float) -> int:
    """The first beat of all that are counted, the first stroke being at `stroke` seconds."""
    first = int(np.searchsorted(beats, stroke - NEAR))
    start = stroke
    for number in range(min(first, len(sounds)) - 1, -1, -1):
        if start - beats[number + 1] > LONGEST_RING:
            break
        if sounds[number]:
            start, first = float(beats[number]), number
    return first


def _end(beats: Times, sounds: list[bool], stroke: float) -> int:
    """How many of the beats are before the end, the last stroke being at `stroke` seconds.

    The last bar is completed at the pace of the beats before (`grid.lay_bars`): in what rings after
    a stroke there is nothing by which to tell them.
    """
    end = int(np.searchsorted(beats, stroke + NEAR))
    until = stroke
    for number in range(end, len(sounds)):
        if beats[number] - until > LONGEST_RING:
            break
        if sounds[number]:
            until = float(beats[number])
    return (
        int(np.searchsorted(beats, until, side="right")) if until - stroke > LONGEST_RING else end
    )


def _cut(reading: Reading, first: int, kept: Times) -> Reading | None:
    """A reading of `kept`, which began `first` beats before; its key names the new first beat.

    None where nothing of its bars is left.
    """
    start = int(np.searchsorted(reading.beats, kept[0]))
    end = int(np.searchsorted(reading.beats, kept[-1], side="right"))
    downbeats = tuple(one - start for one in reading.lines.downbeats if start <= one < end)
    if end - start < 2 or not downbeats:
        return None
    level, _, rest = reading.key.partition("/")
    kind, _, phase = level.partition("-")
    if phase:
        level = f"{kind}-{(int(phase) - first) % TRACKED_IN[kind]}"
    return replace(
        reading,
        key=f"{level}/{rest}",
        beats=reading.beats[start:end],
        lines=replace(reading.lines, downbeats=downbeats),
    )

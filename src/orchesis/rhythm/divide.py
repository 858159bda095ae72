"""The division of a beat as somebody chooses it: eighths, triplets, thirty-seconds, fives."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace
from fractions import Fraction

import numpy as np

from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import SPOKEN_NAMES, Instrument
from orchesis.music.values import Bar, Feel, Hit, Transcription
from orchesis.rhythm.quantise import beat_slots

DIVISIONS: tuple[int, ...] = (1, 2, 3, 4, 5, 6, 8, 12)
"""Into which a beat can be divided by hand."""


def divide_beats(
    song: Transcription, bars: Collection[int], parts: int, *, beat: int | None = None
) -> Transcription:
    """The same strokes with beats of these bars written in so many equal parts.

    Each stroke goes to the part that is due nearest to where it sounds; its time stays.

    Parameters
    ----------
    bars : numbers of bars. parts : one of DIVISIONS.
    beat : from 0, which beat of each; None: all of them. Bars that have no such beat stay.

    Raises
    ------
    InvalidTranscription : no such bar or division, or more strokes of one drum than parts.
    """
    if parts not in DIVISIONS:
        raise InvalidTranscription(f"a beat cannot be divided into {parts}")
    for number in bars:
        song.bar(number)
    wanted = set(bars)
    new_bars = []
    hits = [hit for hit in song.hits if hit.bar not in wanted]
    for bar in song.bars:
        if bar.number not in wanted:
            new_bars.append(bar)
            continue
        count = len(bar.beats)
        chosen = [b for b in range(count) if beat is None or b == beat]
        divisions = tuple(parts if b in chosen else bar.divisions[b] for b in range(count))
        new_bars.append(replace(bar, divisions=divisions))
        here: list[list[Hit]] = [[] for _ in range(count)]
        for hit in song.hits_of(bar.number):
            here[int(hit.position * count)].append(hit)
        for index in range(count):
            if index in chosen:
                hits += _placed(bar, index, parts, here[index], song.feel)
            else:
                hits += here[index]
    return replace(song, bars=tuple(new_bars)).with_hits(hits)


def _placed(bar: Bar, beat: int, parts: int, hits: Sequence[Hit], feel: Feel) -> list[Hit]:
    """The strokes of one beat, each on the nearest free part for its drum, the nearest first."""
    edges = (*bar.beats, bar.end)
    length = edges[beat + 1] - edges[beat]
    slots = beat_slots(parts, feel)
    away = [np.abs((hit.time - edges[beat]) / length - slots) for hit in hits]
    taken: set[tuple[Instrument, int]] = set()
    placed = []
    for index in sorted(range(len(hits)), key=lambda i: float(away[i].min())):
        hit = hits[index]
        free = [step for step in range(parts) if (hit.instrument, step) not in taken]
        if not free:
            name = SPOKEN_NAMES[hit.instrument]
            raise InvalidTranscription(
                f"bar {bar.number} has more strokes of the {name} on beat {beat + 1} than {parts}: "
                "remove one first, or divide the beat more finely"
            )
        step = min(free, key=lambda step: float(away[index][step]))
        taken.add((hit.instrument, step))
        position = Fraction(beat * parts + step, parts * len(bar.beats))
        placed.append(replace(hit, position=position))
    return placed

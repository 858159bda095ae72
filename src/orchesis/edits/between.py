"""What leads from one version of a song to another on the same grid: edits, bar by bar."""

from __future__ import annotations

from collections import defaultdict
from fractions import Fraction

from orchesis.edits.edit import Edit
from orchesis.edits.relisten import BarProposal
from orchesis.music.instruments import Instrument
from orchesis.music.values import Hit, Transcription

Stroke = tuple[Fraction, Instrument]


def same_grid(one: Transcription, other: Transcription) -> bool:
    """Whether both have the same bar lines and beats, so that notes can be compared by place.

    Into how much a bar is divided may differ: that follows from its notes.
    """
    return _lines(one) == _lines(other)


def _lines(song: Transcription) -> list[tuple[object, ...]]:
    return [(bar.number, bar.start, bar.end, bar.meter, bar.beats) for bar in song.bars]


def edits_between(before: Transcription, after: Transcription) -> tuple[BarProposal, ...]:
    """Of each bar in which they differ the edits that make the one the other.

    Both must have the same bars.
    """
    old, new = _strokes(before), _strokes(after)
    found = []
    for bar in before.bars:
        mine, their = old[bar.number], new[bar.number]
        edits = tuple(
            Edit(mine.get(stroke), their.get(stroke))
            for stroke in sorted(mine.keys() | their.keys())
            if mine.get(stroke) != their.get(stroke)
        )
        if edits:
            found.append(BarProposal(bar.number, edits))
    return tuple(found)


def _strokes(song: Transcription) -> dict[int, dict[Stroke, Hit]]:
    found: dict[int, dict[Stroke, Hit]] = defaultdict(dict)
    for hit in song.hits:
        found[hit.bar][hit.position, hit.instrument] = hit
    return found

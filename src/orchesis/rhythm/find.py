"""Finding the grid: from what was heard to bars, or to the finding that there is no steady beat."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orchesis.listening.ear import Heard
from orchesis.music.values import Bar
from orchesis.rhythm.beats import FASTEST_BPM, Times, draw_to_strokes, track_beats
from orchesis.rhythm.beats import SLOWEST_BPM as SLOWEST_TRACKED
from orchesis.rhythm.constant import fit_constant_beats
from orchesis.rhythm.extent import while_it_sounds
from orchesis.rhythm.grid import lay_bars
from orchesis.rhythm.levels import SLOWEST_BPM, in_parts
from orchesis.rhythm.readings import Reading, rank_readings
from orchesis.rhythm.steady import prevailing_length, steady_beats
from orchesis.rhythm.ternary import dotted_beats

FEWEST_BEATS = 8
LEAST_REGULARITY = 0.35
"""Share of beats that must have a stroke for the grid to be drawn at all."""

CLEARLY = 0.5
"""Score of a reading by which beats as tracked must lead those of one pulse."""


@dataclass(frozen=True, slots=True)
class Grid:
    """The possible readings, best first, the bars of the best, and the beats as tracked."""

    readings: tuple[Reading, ...]
    bars: tuple[Bar, ...]
    tracked: Times


def find_grid(heard: Heard) -> Grid | None:
    """The song's bars; None where no steady beat is found.

    The beats are looked at as they were tracked and, where that is another thing, as one pulse all
    song long; that is taken unless the other can be counted clearly better. Where all of the song
    is on one constant grid, its beats are those of the grid.
    """
    ways = ways_of(heard)
    counted = [_counted(heard, beats, way) for way, beats in enumerate(ways)]
    found = [one for one in counted if one is not None]
    if not found:
        return None
    as_tracked, steady = found[0], found[-1]
    constant = fit_constant_tempo(heard, ways)
    counted_once = _counted(heard, constant, 0) if constant is not None else None
    if counted_once is not None and not counted_once[0][0].key.startswith("third"):
        return fitted(Grid(*counted_once[:1], (), counted_once[1]), heard)
    clearly = as_tracked[0][0].score > steady[0][0].score + CLEARLY
    readings, beats = as_tracked if clearly else steady
    return fitted(Grid(readings, (), beats), heard)


def fit_constant_tempo(heard: Heard, ways: Sequence[Times]) -> Times | None:
    """The beats of one constant grid, where the song's kicks and snares are on one; else None.

    ways : the beats as `ways_of` gives them.
    """
    drawn = ways[0]
    if len(drawn) < FEWEST_BEATS:
        return None
    beat = prevailing_length(np.diff(ways[-1]))
    beats = fit_constant_beats(
        heard.onsets, ways, beat, pulse=heard.pulse, frame_rate=heard.frame_rate
    )
    return None if beats is None else draw_to_strokes(beats, heard.onsets)


def fitted(grid: Grid, heard: Heard) -> Grid | None:
    """The grid with bars from the first stroke to the last, and no beats where nobody plays.

    heard : with its strokes as they are now; those at the ends may have been given up since.
    """
    readings, beats = while_it_sounds(grid.readings, grid.tracked, heard)
    bars = bars_of(readings[0], heard.onsets[0].time, heard.onsets[-1].time)
    return Grid(readings, bars, beats) if bars else None


def ways_of(
    heard: Heard, slowest_bpm: float = SLOWEST_TRACKED, fastest_bpm: float = FASTEST_BPM
) -> list[Times]:
    """The beats as tracked, drawn to the strokes; and as one pulse where that is another thing."""
    tracked = track_beats(
        heard.pulse, heard.frame_rate, slowest_bpm=slowest_bpm, fastest_bpm=fastest_bpm
    )
    drawn = draw_to_strokes(tracked, heard.onsets)
    if len(tracked) < FEWEST_BEATS:
        return [drawn]
    steady = steady_beats(heard.pulse, heard.frame_rate, tracked, drawn)
    if np.array_equal(steady, tracked):
        return [drawn]
    return [drawn, draw_to_strokes(steady, heard.onsets)]


def _counted(heard: Heard, beats: Times, way: int) -> tuple[tuple[Reading, ...], Times] | None:
    """The readings of beats, with the beats that they count; None where they are no beats.

    way : which of `ways_of` they are.
    """
    if len(beats) < FEWEST_BEATS or regularity(heard, beats) < LEAST_REGULARITY:
        return None
    readings = rank_readings(heard, beats)
    if readings and readings[0].key.startswith("third"):
        # Three eighths a beat: the beats themselves are followed, not every third of something
        # quicker, which goes astray for good where one is missed.
        slower = ways_of(heard, SLOWEST_BPM, FASTEST_COMPOUND)
        slow = slower[min(way, len(slower) - 1)]
        if len(slow) >= FEWEST_BEATS:
            beats = in_parts(slow, 3)
            # What goes across these beats, two of their thirds each, is nobody's beat.
            readings = rank_readings(heard, beats, ("third", "tracked"))
    if readings and readings[0].lines.beats_a_bar == 3 and not readings[0].meter.is_compound:
        # A tracker that taps every other triplet hears a waltz.
        dotted = dotted_beats(heard, readings[0].beats, readings[0].lines.downbeats)
        if dotted is not None and len(dotted) >= FEWEST_BEATS:
            regrouped = rank_readings(heard, dotted)
            if regrouped:
                readings, beats = regrouped, dotted
    return (readings, beats) if readings else None


FASTEST_COMPOUND = 110.0
"""Dotted quarters a minute."""


def bars_of(reading: Reading, earliest: float, latest: float) -> tuple[Bar, ...]:
    """The bars of a reading, from the first stroke to the last, in seconds."""
    return lay_bars(reading.beats, reading.lines, reading.meter, earliest=earliest, latest=latest)


def regularity(heard: Heard, beats: Times) -> float:
    """Share of beats that have a stroke within 60 ms."""
    times = np.array([onset.time for onset in heard.onsets])
    if not len(times):
        return 0.0
    right = np.clip(np.searchsorted(times, beats), 0, len(times) - 1)
    left = np.clip(right - 1, 0, len(times) - 1)
    nearest = np.minimum(np.abs(times[right] - beats), np.abs(times[left] - beats))
    return float((nearest < 0.06).mean())

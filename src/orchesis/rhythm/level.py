"""The felt tempo: whether people tap every tracked beat, every other one, or twice as often.

A tracker's tempo is often double or half of the felt one. Three readings are compared: the beats
as tracked, every second of them (two ways), and twice as many. Each is judged by how well its bars
hold together (kick on the one, snare on the beats between, chords that change on the one) and
by how near its tempo is to what people tap readily (Moelants 2002; the combination of tempo
preference and pattern is that of McKinney and Moelants, "Ambiguity in tempo perception",
Music Perception 2006).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orchesis.listening.ear import Heard
from orchesis.rhythm.beats import FASTEST_BPM, FELT_BPM, SLOWEST_BPM, Times, tempo_of
from orchesis.rhythm.downbeats import BarLines, find_bar_lines, near_beats

LEVEL_OCTAVES = 0.5
"""Spread, in octaves, of the tempo that people choose to tap."""

TEMPO_WEIGHT = 2.0
"""What a tempo one spread from the preferred costs, in units of bar-line score, is half of this."""


CONTRAST_WEIGHT = 2.0
"""What a pulse that is all on the beats and none between them is worth, in the same units."""


def pulse_contrast(heard: Heard, beats: Times) -> float:
    """Mean pulse at the beats less the mean pulse half-way between them, -1 to 1."""
    middles = (beats[:-1] + beats[1:]) / 2
    on = near_beats(heard.pulse, heard.frame_rate, beats).mean()
    off = near_beats(heard.pulse, heard.frame_rate, middles).mean()
    return float(min(1.0, on) - min(1.0, off))


@dataclass(frozen=True, slots=True)
class Reading:
    """One way to count the song."""

    beats: Times
    bar_lines: BarLines
    score: float

    @property
    def tempo_bpm(self) -> float:
        """Median tempo in beats a minute."""
        return tempo_of(self.beats)


def doubled(beats: Times) -> Times:
    """The beats and the middles between them."""
    middles = (beats[:-1] + beats[1:]) / 2
    return np.sort(np.concatenate([beats, middles]))


def rank_readings(heard: Heard, beats: Times) -> tuple[Reading, ...]:
    """The possible readings, best first. Needs at least four beats."""
    candidates = [beats, beats[::2], beats[1::2], doubled(beats)]
    readings = []
    for candidate in candidates:
        tempo = tempo_of(candidate)
        if len(candidate) < 4 or not SLOWEST_BPM <= tempo <= FASTEST_BPM:
            continue
        lines = find_bar_lines(heard, candidate)
        octaves = np.log2(tempo / FELT_BPM) / LEVEL_OCTAVES
        score = lines.score - 0.5 * TEMPO_WEIGHT * float(octaves**2)
        score += CONTRAST_WEIGHT * pulse_contrast(heard, candidate)
        readings.append(Reading(candidate, lines, score))
    if not readings:
        lines = find_bar_lines(heard, beats)
        readings.append(Reading(beats, lines, lines.score))
    return tuple(sorted(readings, key=lambda reading: -reading.score))

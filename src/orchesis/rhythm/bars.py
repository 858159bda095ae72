"""Bar lines: which beats are the one, bar by bar, odd bars included.

How likely each beat is the one is the bar network's word (`bar_network`). The most likely path of a
hidden Markov model over the place in the bar then follows the song (after Boeck, Krebs and Widmer,
"Joint beat and downbeat tracking with recurrent neural networks", ISMIR 2016), and may leave the
metre for a bar that is shorter or longer, at a price: a few bars must agree before an odd one is
believed.

Each beat is also described by what falls on it: kick, snare, a crash, a change of harmony. A metre
expects certain of these on certain beats (after Goto, "An audio-based real-time beat tracking
system for music with or without drum-sounds", JNMR 2001). By that the words are chosen that say
why the one is where it is, and bar lines where there are strokes and no sound to go by.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from orchesis.listening.ear import Curve, Heard
from orchesis.music.instruments import Instrument
from orchesis.rhythm.beats import Times
from orchesis.rhythm.landing import landings

Levels = npt.NDArray[np.float64]

NEAR_BEAT = 0.06
"""Seconds around a beat within which a stroke counts as on it."""

TEMPLATES: dict[str, dict[str, tuple[float, ...]]] = {
    "half-time": {
        "kick": (1.2, -0.3, -0.6, -0.3),
        "snare": (-0.7, -0.4, 1.5, -0.4),
        "change": (1.2, -0.5, -0.2, -0.5),
        "crash": (1.5, -0.5, -0.5, -0.5),
        "landing": (1.5, -0.5, -0.5, -0.5),
        "downbeat": (1.5, -0.5, -0.5, -0.5),
    },
    "four": {
        "kick": (1.0, -0.8, 0.5, -0.7),
        "snare": (-0.9, 1.0, -0.9, 0.8),
        "change": (1.2, -0.5, -0.2, -0.5),
        "crash": (1.5, -0.5, -0.5, -0.5),
        "landing": (1.5, -0.5, -0.5, -0.5),
        "downbeat": (1.5, -0.5, -0.5, -0.5),
    },
    "three": {
        "kick": (1.0, -0.5, -0.5),
        "snare": (-1.0, 0.5, 0.5),
        "change": (1.2, -0.6, -0.6),
        "crash": (1.5, -0.75, -0.75),
        "landing": (1.5, -0.75, -0.75),
        "downbeat": (1.5, -0.75, -0.75),
    },
    "two": {
        "kick": (0.8, -0.8),
        "snare": (-0.8, 0.8),
        "change": (1.0, -1.0),
        "crash": (1.0, -1.0),
        "landing": (1.0, -1.0),
        "downbeat": (1.0, -1.0),
    },
}
"""What each beat of the bar tends to hold. Signs are what matters; in half-time the backbeat is
on three."""

BEATS = {name: len(template["kick"]) for name, template in TEMPLATES.items()}

ODD_BAR_COST = 14.0
"""Leaving the metre for one bar, in units of the evidence of one beat (each kind has spread 1)."""

ODD_BAR_ODDS = 9.0
"""The same in log odds of the network."""

MOST_ODDS = 6.0
"""No single beat says more than this, for or against."""

WEIGHTS = {"kick": 0.7, "snare": 0.9, "change": 0.8, "crash": 0.8, "landing": 0.8, "downbeat": 1.3}
"""The network's word on downbeats counts most: it hears all of the others too."""


@dataclass(frozen=True, slots=True)
class BarLines:
    """The metre in felt beats and the indices of the beats that are downbeats, ascending.

    score : mean evidence a beat for this reading. clarity : by how much it beats the same metre a
    beat or more later.
    """

    beats_a_bar: int
    downbeats: tuple[int, ...]
    score: float
    clarity: float
    half_time: bool = False

    @property
    def odd_bars(self) -> int:
        """How many bars, the first and last aside, leave the metre."""
        lengths = np.diff(self.downbeats)
        return int((lengths != self.beats_a_bar).sum())


def beat_evidence(heard: Heard, beats: Times, landed: Levels | None = None) -> dict[str, Levels]:
    """What speaks for a bar line at each beat, centred and scaled.

    Parameters
    ----------
    heard : strokes and curves.
    beats : shape (beats,), seconds, ascending.
    landed : what `landings` says of these beats, where that is known already.

    Returns
    -------
    Shape (beats,) for each kind of WEIGHTS.
    """
    kinds = {
        "kick": {Instrument.KICK},
        "snare": {Instrument.SNARE, Instrument.CROSS_STICK},
        "crash": {Instrument.CRASH},
    }
    found: dict[str, Levels] = {}
    for name, members in kinds.items():
        level = np.zeros(len(beats))
        strokes = [onset for onset in heard.onsets if onset.instrument in members]
        times = np.array([onset.time for onset in strokes])
        if len(times):
            index = np.clip(np.searchsorted(beats, times), 1, len(beats) - 1)
            index -= (times - beats[index - 1]) < (beats[index] - times)
            near = np.abs(beats[index] - times) <= NEAR_BEAT
            loud = np.array([onset.loudness for onset in strokes])
            np.maximum.at(level, index[near], loud[near])
        found[name] = level
    found["change"] = near_beats(heard.change, heard.frame_rate, beats)
    found["downbeat"] = near_beats(heard.downbeat, heard.frame_rate, beats)
    found["landing"] = landings(heard, beats) if landed is None else landed
    return {name: _standard(level) for name, level in found.items()}


def near_beats(curve: Curve, frame_rate: float, beats: Times) -> Levels:
    """The largest value of a curve within 80 ms of each beat.

    Parameters
    ----------
    curve : shape (frames,).
    frame_rate : frames a second.
    beats : shape (beats,), seconds.

    Returns
    -------
    Shape (beats,).
    """
    reach = round(0.08 * frame_rate)
    frames = np.round(beats * frame_rate).astype(int)
    return np.array(
        [float(curve[max(0, f - reach) : max(0, f + reach)].max(initial=0.0)) for f in frames]
    )


def _standard(level: Levels) -> Levels:
    spread = float(level.std())
    return (level - level.mean()) / spread if spread > 1e-6 else np.zeros_like(level)


def place_scores(evidence: Mapping[str, Levels], template_name: str) -> Levels:
    """How well each beat fits each place of a bar.

    Parameters
    ----------
    evidence : from `beat_evidence`.
    template_name : one of TEMPLATES.

    Returns
    -------
    Shape (beats, beats a bar).
    """
    total = sum(
        WEIGHTS[name] * np.outer(evidence[name], np.array(template) / np.std(template))
        for name, template in TEMPLATES[template_name].items()
    )
    return np.asarray(total)


def find_bar_lines(evidence: Mapping[str, Levels], template_name: str) -> BarLines:
    """The downbeats of a song by one of TEMPLATES, odd bars where they pay.

    Parameters
    ----------
    evidence : from `beat_evidence`.
    template_name : one of TEMPLATES.

    Returns
    -------
    The downbeats and what they cost.
    """
    scores = place_scores(evidence, template_name)
    return _best(scores, ODD_BAR_COST, half_time=template_name == "half-time")


def bar_lines_by_odds(odds: Levels, count: int, *, half_time: bool = False) -> BarLines:
    """The downbeats of a song in bars of so many beats, odd bars where they pay.

    Parameters
    ----------
    odds : shape (beats,), log odds of each beat's being a downbeat.
    count : beats a bar. half_time : what the bars are said to be.

    Returns
    -------
    The downbeats; their score is in log odds a beat.
    """
    scores = np.zeros((len(odds), count))
    scores[:, 0] = np.clip(odds, -MOST_ODDS, MOST_ODDS)
    return _best(scores, ODD_BAR_ODDS, half_time=half_time)


def is_half_time(evidence: Mapping[str, Levels], lines: BarLines) -> bool:
    """Whether the backbeat of bars of four is on three rather than on two and four.

    Parameters
    ----------
    evidence : from `beat_evidence`. lines : bars of four.
    """
    if lines.beats_a_bar != len(TEMPLATES["four"]["kick"]):
        return False
    fits = {}
    for name in ("half-time", "four"):
        scores = place_scores(evidence, name)
        rows = [
            scores[one + place, place]
            for one in lines.downbeats
            for place in range(4)
            if 0 <= one + place < len(scores)
        ]
        fits[name] = float(np.mean(rows)) if rows else 0.0
    return fits["half-time"] > HALF_TIME_MARGIN + fits["four"]


HALF_TIME_MARGIN = 0.15


def _best(scores: Levels, odd_bar_cost: float, *, half_time: bool) -> BarLines:
    """The best way through a song's beats; scores of each beat at each place of a bar."""
    beats, count = scores.shape
    # One more place lets a bar last a beat longer; what falls there is neither for nor against.
    scores = np.concatenate([scores, np.zeros((beats, 1))], axis=1)
    places = count + 1
    cost = np.full((places, places), np.inf)
    for place in range(count - 1):
        cost[place, place + 1] = 0.0
        cost[place, 0] = odd_bar_cost
    cost[count - 1, 0] = 0.0
    cost[count - 1, count] = odd_bar_cost
    cost[count, 0] = 0.0
    if count > 1:
        # A bar of a single beat is a mistake of hearing.
        cost[0, 0] = np.inf
    best = scores[0].copy()
    best[count] = -np.inf
    came = np.zeros((beats, places), int)
    for beat in range(1, beats):
        reach = best[:, None] - cost
        came[beat] = reach.argmax(axis=0)
        best = reach.max(axis=0) + scores[beat]
    place = int(best.argmax())
    total = float(best.max())
    path = np.zeros(beats, int)
    for beat in range(beats - 1, -1, -1):
        path[beat] = place
        place = int(came[beat, place])
    by_phase = [
        sum(scores[beat, (beat - phase) % count] for beat in range(beats)) for phase in range(count)
    ]
    downbeats = tuple(int(index) for index in np.flatnonzero(path == 0))
    others = sorted(by_phase)[:-1]
    clarity = (total - max(others)) / beats if others else total / beats
    return BarLines(count, downbeats, total / beats, float(clarity), half_time)


def shifted(lines: BarLines, beats: int, by: int) -> BarLines:
    """The same metre with every downbeat `by` beats later."""
    downbeats = tuple(d + by for d in lines.downbeats if 0 <= d + by < beats)
    first = downbeats[0] - lines.beats_a_bar if downbeats else -1
    if first >= 0:
        downbeats = (first, *downbeats)
    return BarLines(lines.beats_a_bar, downbeats, lines.score, 0.0, lines.half_time)

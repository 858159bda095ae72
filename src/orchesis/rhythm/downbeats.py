"""Downbeats: which beat is the one, and how many beats make a bar.

What speaks for the one: the harmony changes there, the kick plays there, a crash sounds there;
what speaks against it is the snare, which answers on the beats between. Each metre and phase is
scored by how well these hold over the whole song (after Goto, "An audio-based real-time beat
tracking system for music with or without drum-sounds", JNMR 2001, who uses chord changes and
drum patterns in this way).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from orchesis.listening.ear import Curve, Heard
from orchesis.music.instruments import Instrument
from orchesis.rhythm.beats import Times

NEAR_BEAT = 0.06
"""Seconds around a beat within which a stroke counts as on it."""

TEMPLATES: dict[int, dict[str, tuple[float, ...]]] = {
    4: {
        "kick": (1.0, -0.8, 0.5, -0.7),
        "snare": (-0.9, 1.0, -0.9, 0.8),
        "change": (1.2, -0.5, -0.2, -0.5),
        "crash": (1.5, -0.5, -0.5, -0.5),
        "downbeat": (1.5, -0.5, -0.5, -0.5),
    },
    3: {
        "kick": (1.0, -0.5, -0.5),
        "snare": (-1.0, 0.5, 0.5),
        "change": (1.2, -0.6, -0.6),
        "crash": (1.5, -0.75, -0.75),
        "downbeat": (1.5, -0.75, -0.75),
    },
}
"""What each beat of the bar tends to hold, by number of beats. Signs are what matters."""

TRIPLE_MARGIN = 1.15
"""Three must explain the song this much better than four: it is far rarer."""


@dataclass(frozen=True, slots=True)
class BarLines:
    """The metre, the index of the first downbeat among the beats, and how clear both are."""

    beats_a_bar: int
    first: int
    clarity: float
    score: float
    reason: str


def beat_evidence(heard: Heard, beats: Times) -> dict[str, npt.NDArray[np.float64]]:
    """Per beat, shape (beats,), centred and scaled: kick, snare, change of harmony, crash."""
    kinds = {
        "kick": {Instrument.KICK},
        "snare": {Instrument.SNARE, Instrument.CROSS_STICK},
        "crash": {Instrument.CRASH},
    }
    found: dict[str, npt.NDArray[np.float64]] = {}
    for name, members in kinds.items():
        level = np.zeros(len(beats))
        for onset in heard.onsets:
            if onset.instrument not in members:
                continue
            index = int(np.argmin(np.abs(beats - onset.time)))
            if abs(beats[index] - onset.time) <= NEAR_BEAT:
                level[index] = max(level[index], onset.loudness)
        found[name] = level
    found["change"] = near_beats(heard.change, heard.frame_rate, beats)
    found["downbeat"] = 2.0 * near_beats(heard.downbeat, heard.frame_rate, beats)
    return {name: _standard(level) for name, level in found.items()}


def near_beats(curve: Curve, frame_rate: float, beats: Times) -> npt.NDArray[np.float64]:
    """The largest value of a curve within 80 ms of each beat, shape (beats,)."""
    reach = round(0.08 * frame_rate)
    frames = np.round(beats * frame_rate).astype(int)
    return np.array(
        [float(curve[max(0, f - reach) : max(0, f + reach)].max(initial=0.0)) for f in frames]
    )


def _standard(level: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    spread = float(level.std())
    return (level - level.mean()) / spread if spread > 1e-6 else np.zeros_like(level)


def find_bar_lines(heard: Heard, beats: Times) -> BarLines:
    """Metre (three or four beats) and phase that explain the song best."""
    evidence = beat_evidence(heard, beats)
    scores: dict[tuple[int, int], float] = {}
    for count, templates in TEMPLATES.items():
        place = np.arange(len(beats)) % count
        for phase in range(count):
            in_bar = (place - phase) % count
            total = sum(
                float((np.array(template)[in_bar] * evidence[name]).mean())
                / float(np.std(template))
                for name, template in templates.items()
            )
            scores[count, phase] = total
    best_four = max(score for (count, _), score in scores.items() if count == 4)
    best_three = max(score for (count, _), score in scores.items() if count == 3)
    count = 3 if best_three > TRIPLE_MARGIN * max(best_four, 0.05) else 4
    ranked = sorted(
        ((score, phase) for (c, phase), score in scores.items() if c == count), reverse=True
    )
    clarity = ranked[0][0] - ranked[1][0]
    reason = (
        f"{count} beats a bar: chord changes, kick and crash agree on the one "
        f"({ranked[0][0]:.2f} against {ranked[1][0]:.2f} for the next best place)"
    )
    return BarLines(count, ranked[0][1], clarity, ranked[0][0], reason)

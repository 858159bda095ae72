"""How well the grid, the feel and the form of the composed cases are found.

python -m benchmarks.form [NAME...]
"""

from __future__ import annotations

import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from benchmarks.scores import BEAT_TOLERANCE, f_measure, match
from benchmarks.song_cases import CASES, Answer, Case, render
from orchesis.music.values import Transcription
from orchesis.pipeline import transcribe

BOUNDARY_TOLERANCE = 0.5


@dataclass(frozen=True)
class Figures:
    """What one case gave."""

    case: str
    beat_f: float
    downbeat_f: float
    first_reading: bool
    tempo_offered: bool
    boundary_f: float
    bars_right: tuple[int, int]
    swing_error: float | None
    half_time_right: bool


def compare(case: Case, answer: Answer, song: Transcription) -> Figures:
    """One transcription against what is known."""
    beat_f = f_measure(answer.beats, song.beats, BEAT_TOLERANCE)
    wanted = [start for _, start, _, _ in answer.sections[1:]]
    found = [section.start for section in song.sections[1:]]
    right = 0
    for _, start, _end, bars in answer.sections:
        near = [s for s in song.sections if abs(s.start - start) < BOUNDARY_TOLERANCE]
        scale = case.beats / song.meter.pulses if song.meter.pulses in case.readings else 1.0
        right += any(abs(s.bars - bars * scale) < 0.51 for s in near)
    downbeats = answer.downbeats
    if case.readings and song.meter.pulses == 2 * case.beats:
        first = match(downbeats, song.downbeats, BEAT_TOLERANCE)
        downbeats = downbeats[first[0][0] % 2 :: 2] if first else downbeats
    tempi = [song.tempo_bpm, *(reading.tempo_bpm for reading in song.readings)]
    swing: float | None = None
    if case.swing_8 and case.swing_8 > 1.2:
        swing = abs((song.feel.swing_8 or 0.0) - case.swing_8)
    elif case.swing_16:
        swing = abs((song.feel.swing_16 or 0.0) - case.swing_16)
    return Figures(
        case=case.name,
        beat_f=beat_f,
        downbeat_f=f_measure(downbeats, song.downbeats, BEAT_TOLERANCE),
        first_reading=abs(song.tempo_bpm / answer.tempo - 1) < 0.02
        and song.meter.pulses in (case.beats, *case.readings),
        tempo_offered=any(abs(t / answer.tempo - 1) < 0.01 for t in tempi if t),
        boundary_f=f_measure(wanted, found, BOUNDARY_TOLERANCE),
        bars_right=(right, len(answer.sections)),
        swing_error=swing,
        half_time_right=song.feel.half_time == case.half_time,
    )


def measure(names: list[str]) -> list[Figures]:
    """All cases, or those named."""
    figures = []
    with tempfile.TemporaryDirectory() as name:
        for case in CASES:
            if names and not any(part in case.name for part in names):
                continue
            path, answer = render(case, Path(name))
            figures.append(compare(case, answer, transcribe(path).transcription))
            path.unlink()
    return figures


def table(figures: list[Figures]) -> str:
    """As text."""
    lines = [
        "| case | beat F | downbeat F | first reading | tempo offered | boundaries F | bars "
        "| swing off by | half-time |",
        "|---|---|---|---|---|---|---|---|---|",
    ]
    for f in figures:
        swing = "" if f.swing_error is None else f"{f.swing_error:.2f}"
        lines.append(
            f"| {f.case} | {f.beat_f:.3f} | {f.downbeat_f:.3f} "
            f"| {'yes' if f.first_reading else 'no'} "
            f"| {'yes' if f.tempo_offered else 'no'} | {f.boundary_f:.2f} "
            f"| {f.bars_right[0]} of {f.bars_right[1]} | {swing} "
            f"| {'right' if f.half_time_right else 'wrong'} |"
        )
    names = ("beat_f", "downbeat_f", "first_reading", "tempo_offered", "boundary_f")
    mean = {key: np.mean([getattr(f, key) for f in figures]) for key in (*names, "half_time_right")}
    bars = sum(f.bars_right[0] for f in figures) / max(1, sum(f.bars_right[1] for f in figures))
    lines.append(
        f"| all | {mean['beat_f']:.3f} | {mean['downbeat_f']:.3f} | {mean['first_reading']:.0%} "
        f"| {mean['tempo_offered']:.0%} | {mean['boundary_f']:.2f} | {bars:.0%} | "
        f"| {mean['half_time_right']:.0%} |"
    )
    return "\n".join(lines)


if __name__ == "__main__":
    print(table(measure(sys.argv[1:])))

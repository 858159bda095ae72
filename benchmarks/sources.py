"""Two sources with 1.3 s offset, 0.4 % of speed between them and different mixes: how far off?

One is a whole band, the other its drums alone, slowed down and later; and the same songs played
another time, at a tempo that comes and goes: python -m benchmarks.sources
"""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from benchmarks.song_cases import CASES, Case, compose
from demo.render import synthesise, write_midi
from orchesis.audio.decode import SAMPLE_RATE, Samples, decode
from orchesis.sources.follow import follow
from orchesis.sources.lineup import LineUp, line_up

OFFSET, SPEED = 1.3, 1.004
NAMES = ("straight eighths, click", "swung sixteenths", "drift of eight percent", "jazz ride")


@dataclass(frozen=True)
class Figures:
    """The largest and the median error over the song, in milliseconds."""

    case: str
    largest: float
    median: float


def rendered(case: Case, folder: Path, *, drums_only: bool) -> Samples:
    """The case's sound, whole or without the band."""
    events, _ = compose(case)
    if drums_only:
        events = [(t, m) for t, m in events if getattr(m, "channel", 9) == 9]
    write_midi(events, folder / "a.mid")
    synthesise(folder / "a.mid", folder / "a.wav", 0.8)
    return decode(folder / "a.wav").samples


def measure() -> list[Figures]:
    """All cases: lined up with their drums alone, and followed through another performance."""
    chosen = [case for case in CASES if case.name in NAMES]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        return [
            *(_lined_up(case, folder) for case in chosen),
            *(_followed(case, folder) for case in chosen),
        ]


def _lined_up(case: Case, folder: Path) -> Figures:
    whole = rendered(case, folder, drums_only=False)
    drums = rendered(case, folder, drums_only=True)
    places = np.arange(0, len(drums) - 1, 1 / SPEED)
    slow = np.interp(places, np.arange(len(drums)), drums)
    other = np.concatenate([np.zeros(round(OFFSET * SAMPLE_RATE)), slow])
    found = line_up(whole, other.astype(np.float32), SAMPLE_RATE)
    times = np.linspace(2, len(whole) / SAMPLE_RATE - 4, 50)
    return _figures(case.name, found, times, OFFSET + SPEED * times)


def _followed(case: Case, folder: Path) -> Figures:
    """The same song played another time: 6 % faster, by 3 % more or less as it goes on."""
    # Another name gives other strays of every stroke, as another performance does.
    live = replace(case, name=f"{case.name}, live", bpm=_hurried(case.bpm))
    one, other = (rendered(each, folder, drums_only=False) for each in (case, live))
    found = follow(one, other, SAMPLE_RATE)
    here, there = (np.array(compose(each)[1].beats) for each in (case, live))
    return _figures(live.name, found, here, there)


def _figures(name: str, found: LineUp, here: np.ndarray, there: np.ndarray) -> Figures:
    gaps = 1000 * np.abs(found.all_there(here) - there)
    return Figures(name, float(gaps.max()), float(np.median(gaps)))


def _hurried(bpm: Callable[[int, int], float]) -> Callable[[int, int], float]:
    return lambda beat, of: bpm(beat, of) * (1.06 + 0.03 * np.sin(beat / 25))


def table(figures: list[Figures]) -> str:
    """As text."""
    lines = ["| two sources | largest error ms | median ms |", "|---|---|---|"]
    return "\n".join(lines + [f"| {f.case} | {f.largest:.1f} | {f.median:.1f} |" for f in figures])


if __name__ == "__main__":
    sys.stdout.write(table(measure()) + "\n")

"""How well the beats of a whole song are found from a few that somebody taps.

python -m benchmarks.tapping [--varied]

The composed songs of `benchmarks.form`, with a tempo that sways besides, are heard by the ear that
ships. Then eight, sixteen or thirty-two beats are tapped from a one at the beginning, in the first
half and near the end, as people tap: all by up to 45 ms early or late, each scattered by 18 ms. The
grid that was found before is taken away, left as it is, counted half as fast, or slips by half a
beat in the middle of the song. Numbers of `rhythm.tapped` were chosen on `--varied`.
"""

from __future__ import annotations

import argparse
import tempfile
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from benchmarks.scores import BEAT_TOLERANCE, f_measure
from benchmarks.song_cases import CASES, Answer, Case, render, varied
from orchesis.music.values import Transcription
from orchesis.pipeline import transcribe
from orchesis.rhythm.rewrite import on_beats
from orchesis.rhythm.tapped import on_taps

SWAYS = {
    False: ((0.04, 13.0), (0.0, 13.0), (0.02, 13.0)),
    True: ((0.0, 19.0), (0.03, 19.0), (0.05, 19.0)),
}
"""Share of the tempo, and beats to a radian; by whether songs are `varied`, in turn."""

TAPS = (8, 16, 32)
PLACES = (0.02, 0.35, 0.75)
"""Share of the song's bars before the first tap."""

EARLY_OR_LATE, SCATTER = 0.045, 0.018


def swaying(case: Case, index: int, *, dev: bool) -> Case:
    """The case in a tempo that comes and goes."""
    case = varied(case) if dev else case
    share, radian = SWAYS[dev][index % 3]
    pace = case.bpm
    return replace(case, bpm=lambda beat, of: pace(beat, of) * (1 + share * np.sin(beat / radian)))


def heard_songs(*, dev: bool) -> Iterator[tuple[Case, Transcription, Answer]]:
    """Each case, as the ear that ships hears it, with what is known of it."""
    with tempfile.TemporaryDirectory() as name:
        for index, case in enumerate(CASES):
            case = swaying(case, index, dev=dev)
            path, answer = render(case, Path(name))
            yield case, transcribe(path).transcription, answer


def without_grid(song: Transcription) -> Transcription:
    """Its strokes alone."""
    return replace(song, bars=(), sections=(), readings=())


def half_as_fast(song: Transcription) -> Transcription:
    """Every other beat, four a bar."""
    return _counted(song, np.array(song.tracked_beats)[::2], 4)


def slipped(song: Transcription) -> Transcription:
    """From its middle on between the beats."""
    beats = np.array(song.tracked_beats)
    middle = len(beats) // 2
    offbeats = (beats[middle:-1] + beats[middle + 1 :]) / 2
    return _counted(song, np.concatenate([beats[:middle], offbeats]), song.meter.pulses)


def _counted(song: Transcription, beats: np.ndarray, beats_a_bar: int) -> Transcription:
    reading = replace(song.readings[0], downbeats=tuple(range(0, len(beats), beats_a_bar)))
    song = replace(song, tracked_beats=tuple(float(beat) for beat in beats))
    return on_beats(song, beats, reading, (reading,))


GRIDS: dict[str, Callable[[Transcription], Transcription]] = {
    "none": without_grid,
    "as found": lambda song: song,
    "half as fast": half_as_fast,
    "slips in the middle": slipped,
}


def taps_on(answer: Answer, place: float, count: int, rng: np.random.Generator) -> np.ndarray:
    """Beats from a one on, as somebody taps them; none where so few are left that nobody would."""
    beats, ones = np.array(answer.beats), np.array(answer.downbeats)
    first = int(np.abs(beats - ones[round(place * (len(ones) - 1))]).argmin())
    tapped = beats[first : first + count]
    if len(tapped) < min(TAPS):
        return np.empty(0)
    off = rng.uniform(-EARLY_OR_LATE, EARLY_OR_LATE) + rng.normal(0, SCATTER, len(tapped))
    return np.maximum(tapped + off, 0.0)


def figures(song: Transcription, answer: Answer) -> tuple[float, float]:
    """F of beats and of downbeats."""
    beats = [beat for bar in song.bars for beat in bar.beats]
    return (
        f_measure(answer.beats, beats, BEAT_TOLERANCE),
        f_measure(answer.downbeats, [bar.start for bar in song.bars], BEAT_TOLERANCE),
    )


def at_one_tempo(song: Transcription, taps: np.ndarray, beats_a_bar: int) -> Transcription:
    """What taps alone give: beats on the taps, and at their median tempo beyond them."""
    beat = float(np.median(np.diff(taps)))
    before = np.arange(taps[0] - beat, 0.0, -beat)[::-1]
    after = np.arange(taps[-1] + beat, song.duration, beat)
    beats = np.concatenate([before, taps, after])
    phase = len(before) % beats_a_bar
    reading = replace(song.readings[0], downbeats=tuple(range(phase, len(beats), beats_a_bar)))
    return on_beats(song, beats, reading, (reading,))


@dataclass(frozen=True)
class Row:
    """What one grid gave. before, after : F of beats and of downbeats; None where none was."""

    name: str
    before: tuple[float, float] | None
    after: tuple[float, float]
    seconds: float


def measure(*, dev: bool = False) -> list[Row]:
    """Lay each grid anew by taps, and once by nothing but the taps."""
    before: dict[str, list[tuple[float, float]]] = {name: [] for name in GRIDS}
    after: dict[str, list[tuple[float, float]]] = {name: [] for name in GRIDS}
    alone, seconds = [], []
    rng = np.random.default_rng(5)
    for case, heard, answer in heard_songs(dev=dev):
        songs = {name: grid(heard) for name, grid in GRIDS.items()}
        for name, song in songs.items():
            before[name].append(figures(song, answer))
        for place in PLACES:
            for count in TAPS:
                taps = taps_on(answer, place, count, rng)
                if not len(taps):
                    continue
                alone.append(figures(at_one_tempo(heard, taps, case.beats), answer))
                for name, song in songs.items():
                    began = time.perf_counter()
                    laid = on_taps(song, list(taps), case.beats)
                    seconds.append(time.perf_counter() - began)
                    after[name].append(figures(laid, answer))
    took = float(np.mean(seconds))
    rows = [Row(name, _mean(before[name]), _mean(after[name]), took) for name in GRIDS]
    return [*rows, Row("the taps, and their tempo beyond them", None, _mean(alone), 0.0)]


def _mean(pairs: list[tuple[float, float]]) -> tuple[float, float]:
    beats, downbeats = np.mean(pairs, axis=0)
    return float(beats), float(downbeats)


def table(rows: list[Row]) -> str:
    """As Markdown."""
    lines = [
        "| grid before | its beats F | its downbeats F | beats F by taps | downbeats F | seconds |",
        "|---|---|---|---|---|---|",
    ]
    for row in rows:
        was = "| " if row.before is None else f"{row.before[0]:.3f} | {row.before[1]:.3f}"
        lines.append(
            f"| {row.name} | {was} | {row.after[0]:.3f} | {row.after[1]:.3f} | {row.seconds:.2f} |"
        )
    return "\n".join(lines)


def main() -> int:
    """Print the table."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--varied", action="store_true", help="songs that numbers are chosen on")
    print(table(measure(dev=parser.parse_args().varied)))
    return 0


if __name__ == "__main__":
    raise SystemExit(main())

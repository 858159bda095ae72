"""How beats in three are counted and written: `python -m benchmarks.triplets`.

Fourteen rendered songs (`benchmarks.rendered`): shuffles, half-time shuffles, 12/8, 6/8, swing,
waltzes, swung sixteenths, thirty-seconds. Each has one way in which a drummer would write it.
"""

from __future__ import annotations

import sys
import tempfile
from collections import Counter
from dataclasses import dataclass
from pathlib import Path

from benchmarks.rendered import render, require_synthesiser, song_notes
from orchesis.music.values import Transcription
from orchesis.pipeline import transcribe

KICK, SNARE, HAT, RIDE, FOOT = 36, 38, 42, 51, 44
TEMPO_WITHIN = 0.02
SHUFFLE_FILL = {HAT: "x.xx.x......", SNARE: "...X..xxxxxx", KICK: "x.....x....."}
HALF_TIME = {HAT: "x.xx.xx.xx.x", SNARE: ".g..g.Xg..g.", KICK: "x....x....x."}
HALF_TIME_FILL = {HAT: "x.xx.x......", SNARE: ".g..g.xxxxxx", KICK: "x....x......"}
SWING = {RIDE: "x..x.xx..x.x", FOOT: "...x.....x..", KICK: "m..m..m..m.."}
SLOW_BLUES = {HAT: "xxxxxxxxxxxx", SNARE: "...X.....X..", KICK: "x....xx....."}
SWUNG_SIXTEENTHS = {
    HAT: "x..x..x..x..x..x..x..x..",
    SNARE: "......X....g......X..g..",
    KICK: "x....x......x.x........x",
}
ROCK_32 = {
    HAT: "x...x...x...x...x...x...x...x...",
    SNARE: "........X.......g.......X.......",
    KICK: "x...........x.....x.............",
}
FILL_32 = {
    HAT: "x...x...x...x...................",
    SNARE: "........X.......xxxxxxxxx.x.x.x.",
    KICK: "x...........x...................",
}
WALTZ = {HAT: "x.x.x.x.x.x.", SNARE: "....X...X...", KICK: "x.......x..."}
JAZZ_WALTZ = {RIDE: "x..x.xx..", FOOT: "...x.....", KICK: "m........", SNARE: "........g"}
SIX_EIGHT = {HAT: "xxxxxx", SNARE: "...X..", KICK: "x....x"}
SHUFFLE = {HAT: "x.xx.xx.xx.x", SNARE: "...X.....X..", KICK: "x.....x.x..."}


@dataclass(frozen=True, slots=True)
class Case:
    """A song, and how it is to be written: `parts` are those of most divided beats."""

    name: str
    bpm: float
    rows: dict[int, str]
    meter: str
    parts: int
    fill: dict[int, str] | None = None
    beats: int = 4
    half_time: bool = False
    somewhere: int = 0
    """A division that some beat must have."""


CASES = (
    Case("shuffle", 120, SHUFFLE, "4/4", 2, SHUFFLE_FILL, somewhere=3),
    *(
        Case(f"half-time shuffle at {bpm}", bpm, HALF_TIME, "4/4", 3, HALF_TIME_FILL, 4, True)
        for bpm in (90, 104, 130, 150, 168)
    ),
    Case("slow blues", 58, SLOW_BLUES, "12/8", 3),
    Case("slow six eight", 64, SIX_EIGHT, "6/8", 3, beats=2),
    Case("swing", 140, SWING, "4/4", 2),
    Case("swung sixteenths", 88, SWUNG_SIXTEENTHS, "4/4", 4),
    Case("thirty-seconds in fills", 84, ROCK_32, "4/4", 2, FILL_32, somewhere=8),
    Case("waltz", 110, WALTZ, "3/4", 2, beats=3),
    Case("jazz waltz", 150, JAZZ_WALTZ, "3/4", 2, beats=3),
)


def faults_of(song: Transcription, case: Case) -> list[str]:
    """What of the writing is not as a drummer would have it."""
    if not song.bars:
        return ["no beat"]
    divided = Counter(parts for bar in song.bars for parts in bar.divisions if parts > 1)
    usual = divided.most_common(1)[0][0] if divided else 1
    found = []
    if str(song.meter) != case.meter:
        found.append(f"metre {song.meter}")
    if abs(song.tempo_bpm / case.bpm - 1) > TEMPO_WITHIN:
        found.append(f"tempo {song.tempo_bpm:.0f}")
    if usual != case.parts:
        found.append(f"beats in {usual}")
    if case.half_time != song.feel.half_time:
        found.append("half-time" if song.feel.half_time else "no half-time")
    if case.somewhere and case.somewhere not in divided:
        found.append(f"no beat in {case.somewhere}")
    return found


def main() -> int:
    """Print a table."""
    require_synthesiser()
    print("| song | bpm | written | faults |\n|---|---|---|---|")
    right = 0
    with tempfile.TemporaryDirectory() as folder:
        for number, case in enumerate(CASES):
            path = Path(folder) / f"{number}.wav"
            bars = 24 if case.beats > 2 else 32
            notes = song_notes(
                case.rows,
                case.fill or case.rows,
                bpm=case.bpm,
                beats=case.beats,
                bars=bars,
                seed=number,
            )
            render(notes, path)
            song = transcribe(path).transcription
            faults = faults_of(song, case)
            right += not faults
            written = f"{song.meter} at {song.tempo_bpm:.1f}"
            print(f"| {case.name} | {case.bpm} | {written} | {', '.join(faults)} |", flush=True)
    print(f"| right | | | {right} of {len(CASES)} |")
    return 0


if __name__ == "__main__":
    sys.exit(main())

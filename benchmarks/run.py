"""`./orchesis bench`: the figures of docs/measurements.md, measured on this machine."""

from __future__ import annotations

import json
import sys
import tempfile
from dataclasses import asdict
from pathlib import Path

from benchmarks import chart, fills, fixed_set, form, kinship, listening, server, sources, tapping


def main() -> int:
    """Measure and print."""
    songs = [listening.measure(path) for path in sorted(listening.SONGS.glob("*.ogg"))]
    with tempfile.TemporaryDirectory() as name:
        long = {
            seconds: listening.measure(listening.long_song(Path(name), seconds))
            for seconds in (240, 600)
        }
    waits = server.measure()
    if "--json" in sys.argv:
        figures = [*map(asdict, [*songs, *long.values()]), *map(asdict, waits)]
        print(json.dumps(figures, indent=1))
        return 0
    print("| song | s of work a minute | peak MB | tempo (true) | beat F | kick | snare | hat |")
    print("|---|---|---|---|---|---|---|---|")
    for song in songs:
        hits = " | ".join(f"{song.hit_f[name]:.2f}" for name in listening.VOICES)
        print(
            f"| {song.song} | {song.seconds_a_minute:.1f} | {song.peak_mb:.0f} "
            f"| {song.tempo:.1f} ({song.true_tempo:.1f}) | {song.beat_f:.3f} | {hits} |"
        )
    for seconds, figure in long.items():
        print(
            f"\nA recording of {seconds // 60} minutes, taken apart too: "
            f"{figure.seconds_a_minute * seconds / 60:.1f} s "
            f"({figure.seconds_a_minute:.2f} s a minute), {figure.peak_mb:.0f} MB at the peak."
        )
    print()
    print("| wait | p50 ms | p95 ms |\n|---|---|---|")
    for wait in waits:
        print(f"| {wait.name} | {wait.p50:.0f} | {wait.p95:.0f} |")
    print("\nThe fixed set (F at 50 ms, hard clips of sounds that were trained on):\n")
    print("| " + " | ".join(fixed := fixed_set.figures()) + " |\n" + "|---" * len(fixed) + "|")
    print("| " + " | ".join(f"{value:.3f}" for value in fixed.values()) + " |")
    print("\nComposed songs with known answers:\n")
    print(form.table(form.measure([])))
    print("\nA few beats tapped, the rest found from there:\n")
    print(tapping.table(tapping.measure()))
    print("\nFills, from true notes and from heard ones:\n")
    print(fills.table([fills.measure(case) for case in fills.CASES]))
    print(fills.table(fills.heard()))
    print("\nThe chart of 120 bars:\n")
    print(chart.table(chart.measure()))
    print("\nTwo recordings, 1.3 s and 0.4 % apart:\n")
    print(sources.table(sources.measure()))
    print("\nKin among ten thousand bars:\n")
    print(kinship.table(kinship.measure()))
    return 0


if __name__ == "__main__":
    sys.exit(main())

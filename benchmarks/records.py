"""Records without truth: what can be known of them all the same.

python -m benchmarks.records RECORDING...

A record that was made to a click has one constant grid. No truth is needed to see whether beats
keep to it: on the comb that gathers kicks and snares all are on one tooth of each beat, or they
have turned round. So of each record is told how sharply its strokes are gathered, which share of
the beats is on the tooth that most of them are on, as tracked and as the grid has them now, and how
many strokes are left as uncertain. Nothing of such records ships.
"""

from __future__ import annotations

import sys
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from orchesis.audio.decode import decode
from orchesis.listening.network_ear import NetworkEar
from orchesis.music.instruments import Instrument, Status
from orchesis.pipeline import write_down
from orchesis.rhythm.beats import Times
from orchesis.rhythm.constant import CONCENTRATED, Comb, find_comb, fits_throughout
from orchesis.rhythm.find import ways_of

TEETH = 4
FEWEST = 32


@dataclass(frozen=True)
class Figures:
    """What one record gave. The shares are nan where it has no constant grid."""

    name: str
    bpm_tracked: float
    bpm: float
    gathered: float
    one_phase_tracked: float
    one_phase: float
    doubts: float


def measure(path: Path, ear: NetworkEar) -> Figures | None:
    """Listen to one; None where no steady beat is found."""
    recording = decode(path)
    heard = ear.hear(recording.samples, recording.sample_rate, lambda share: None)
    tracked = ways_of(heard)[0]
    song = write_down(ear, heard, recording, path.stem, lambda stage, share: None)
    if not song.bars or len(tracked) < FEWEST:
        return None
    beats = np.array([beat for bar in song.bars for beat in bar.beats])
    struck = [o for o in heard.onsets if o.instrument in (Instrument.KICK, Instrument.SNARE)]
    gathered, before, now = 0.0, np.nan, np.nan
    if len(struck) >= FEWEST:
        times = np.array([onset.time for onset in struck])
        weights = np.array([onset.confidence for onset in struck])
        comb = find_comb(times, weights, float(np.median(np.diff(beats))) / TEETH)
        gathered = comb.strength
        if gathered >= CONCENTRATED and fits_throughout(times, weights, comb, TEETH):
            before, now = one_phase(tracked, comb), one_phase(beats, comb)
    uncertain = sum(hit.status is Status.DOUBTFUL for hit in song.hits)
    return Figures(
        path.stem,
        60.0 / float(np.median(np.diff(tracked))),
        song.tempo_bpm,
        gathered,
        before,
        now,
        100.0 * uncertain / len(song.bars),
    )


def one_phase(beats: Times, comb: Comb) -> float:
    """The share of beats that are on the tooth on which most of them are."""
    on = np.rint((beats - comb.start) / comb.period).astype(int) % TEETH
    return float(np.bincount(on, minlength=TEETH).max() / len(beats))


def main() -> int:
    """Measure those that are named, and print a table."""
    ear = NetworkEar()
    print(
        "| record | bpm tracked | now | gathered | one phase tracked | now | doubts in 100 bars |"
    )
    print("|---|---|---|---|---|---|---|")
    rows = []
    for name in sys.argv[1:]:
        found = measure(Path(name), ear)
        if found is None:
            print(f"| {Path(name).stem} | no beat | | | | | |", flush=True)
            continue
        rows.append(found)
        print(
            f"| {found.name} | {found.bpm_tracked:.1f} | {found.bpm:.1f} | {found.gathered:.2f} "
            f"| {found.one_phase_tracked:.2f} | {found.one_phase:.2f} | {found.doubts:.0f} |",
            flush=True,
        )
    constant = [row for row in rows if not np.isnan(row.one_phase)]
    if constant:
        before = np.mean([row.one_phase_tracked for row in constant])
        now = np.mean([row.one_phase for row in constant])
        doubts = np.mean([row.doubts for row in rows])
        print(f"| {len(constant)} with one grid | | | | {before:.2f} | {now:.2f} | {doubts:.0f} |")
    return 0


if __name__ == "__main__":
    sys.exit(main())

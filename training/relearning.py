"""What four corrected bars teach: `python -m training.relearning FOLDER [--models ...]`.

Whole songs of the kit that was left out, drums and band mixed, are heard; four bars are then
corrected as a user would, to exactly what was played; the errors in the untouched rest are counted
before and after. Corrected are the four bars that the tool itself proposes (`best_lessons`) or,
for comparison, the first four with drums.
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

import numpy as np

from benchmarks.scores import match
from orchesis.listening.ear import Onset
from orchesis.listening.evidence import Evidence, gathered
from orchesis.listening.network_ear import MODELS, NetworkEar
from orchesis.listening.relearn import best_lessons, listen_again
from orchesis.music.instruments import Instrument as I
from training import band as bands
from training import bank as banks
from training.bank import RATE
from training.composer import Composer
from training.labels import CLASSES
from training.render import CLASS_LEVEL, Renderer

SONGS = 16
SONG_SECONDS = 90.0
BARS = 4
FEWEST_BARS = 16
TOLERANCE = 0.05

Strokes = list[tuple[float, I]]


def errors(onsets: list[Onset], truth: Strokes, lines: np.ndarray, settled: set[int]) -> int:
    """Strokes missed and strokes invented in the bars that were not settled."""

    def outside(time: float) -> bool:
        bar = int(np.searchsorted(lines, time + 0.02, side="right")) - 1
        return 0 <= bar < len(lines) - 1 and bar not in settled

    total = 0
    for instrument in CLASSES:
        played = [t for t, i in truth if i is instrument and outside(t)]
        heard = [o.time for o in onsets if o.instrument is instrument and outside(o.time)]
        right = len(match(played, heard, TOLERANCE))
        total += len(played) + len(heard) - 2 * right
    return total


def first_bars(truth: Strokes, lines: np.ndarray) -> list[int]:
    """The first bars, indices from 0, in which drums are played."""
    played = {int(np.searchsorted(lines, t + 0.02, side="right")) - 1 for t, _ in truth}
    return sorted(bar for bar in played if 0 <= bar < len(lines) - 1)[:BARS]


def proposed_bars(first: list[Onset], evidence: Evidence, lines: np.ndarray) -> list[int]:
    """The bars that would teach most, by what is in doubt."""
    doubts = np.zeros(len(lines) - 1)
    for onset in first:
        bar = int(np.searchsorted(lines, onset.time + 0.02, side="right")) - 1
        if 0 <= bar < len(doubts):
            doubts[bar] += 1 - onset.confidence
    return best_lessons(evidence, list(lines), list(doubts), BARS)


def main() -> int:
    """Print a table, one song a line."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--models", type=Path, default=MODELS)
    parser.add_argument("--held-out", default="gmrock")
    parser.add_argument("--seed", type=int, default=940_000)
    options = parser.parse_args()
    bank = banks.build(options.folder / "bank.pickle")
    rng = np.random.default_rng(options.seed)
    band = bands.Band(bands.build(options.folder / "notes.pickle"), rng)
    renderer = Renderer(bank, [options.held_out], band, rng)
    composer = Composer(rng)
    ear = NetworkEar(options.models)
    length = int(SONG_SECONDS * RATE)
    head = (
        "| song | bars | errors | after 4 proposed | fewer | errors | after the first 4 | fewer |"
    )
    print(head + "\n|---|---|---|---|---|---|---|---|")
    totals = np.zeros(4, int)
    shares: list[float] = []
    while len(shares) < SONGS:
        stretch = composer.compose(SONG_SECONDS)
        lines = np.array([t for t in stretch.downbeats if t < SONG_SECONDS])
        drums, laid = renderer._drums(stretch, length, dict(CLASS_LEVEL))
        truth = [(stroke.time, stroke.instrument) for stroke in laid]
        if len(lines) <= FEWEST_BARS or len(first_bars(truth, lines)) < BARS:
            continue
        rest = band.play(stretch, length)
        rest *= np.sqrt((drums**2).mean() / ((rest**2).mean() + 1e-9))
        mix = ((drums + rest) / np.abs(drums + rest).max()).astype(np.float32)
        heard = ear.hear(mix, RATE, lambda share: None)
        assert heard.detail is not None
        evidence = gathered(heard.detail, heard.frame_rate)
        first = list(ear.second_pass(heard, list(lines)).onsets)
        counts: list[int] = []
        for settled in (proposed_bars(first, evidence, lines), first_bars(truth, lines)):
            known = [
                (t, i)
                for t, i in truth
                if int(np.searchsorted(lines, t + 0.02, side="right")) - 1 in settled
            ]
            again = listen_again(evidence, list(lines), settled, known, ear.judge)
            counts += [errors(o, truth, lines, set(settled)) for o in (first, again)]
        totals += counts
        shares.append(1 - counts[1] / max(1, counts[0]))
        other = 1 - counts[3] / max(1, counts[2])
        print(
            f"| {len(shares)} | {len(lines) - 1} | {counts[0]} | {counts[1]} | {shares[-1]:.0%} "
            f"| {counts[2]} | {counts[3]} | {other:.0%} |",
            flush=True,
        )
    print(
        f"\nAll songs: {totals[0]} errors, {totals[1]} after the proposed bars, "
        f"{1 - totals[1] / totals[0]:.0%} fewer (median {np.median(shares):.0%}); {totals[2]}, "
        f"{totals[3]} after the first four, {1 - totals[3] / totals[2]:.0%} fewer."
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())

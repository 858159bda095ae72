"""Every row of what the ear is to reach, on a kit and songs that nothing was trained on.

    python -m training.dataset .run/training/rows_stems --only-held-out --plain --clips 36 --seconds 48 --stems 1 --first-seed 965000
    python -m training.dataset .run/training/rows_mixes --only-held-out --plain --clips 36 --seconds 48 --stems 0 --first-seed 966000
    python -m training.dataset .run/training/rows_people --only-held-out --plain --clips 36 --seconds 48 --stems 0 --songs kept --first-seed 967000
    python -m training.rows .run/training rows_stems rows_mixes rows_people

Clips of 48 seconds, so that what is decided for a whole song is decided. Whole runs are measured:
what is written, with the song's own questions.
"""  # noqa: E501

from __future__ import annotations

import argparse
import sys
from collections import defaultdict
from pathlib import Path

import numpy as np
from scipy.stats import spearmanr

from benchmarks.scores import match, merged
from orchesis.audio.decode import Probe, Recording
from orchesis.edits.questions import questions
from orchesis.listening.network_ear import MODELS, NetworkEar
from orchesis.listening.strength import FEWEST
from orchesis.music.instruments import Instrument as I
from orchesis.music.instruments import Status
from orchesis.music.values import Hit, Transcription, written
from orchesis.pipeline import write_down
from training.bank import RATE
from training.evaluate import calibration_error
from training.labels import CLASSES
from training.loudness import weighted
from training.scoring import FIVE_CLASSES, GHOST_BELOW, Counts, Truth, clips, micro, times

CLOSE = 0.05
APART = 1.0
"""Seconds from the nearest true stroke: what is written further off is outside of all drums."""

CYMBALS = {
    I.HIHAT_CLOSED: "hat", I.HIHAT_OPEN: "hat", I.HIHAT_FOOT: "hat",
    I.RIDE: "ride", I.RIDE_BELL: "ride", I.CRASH: "crash",
}  # fmt: skip
WORST = 10
"""Percentile of clips that is told besides the mean."""


class Rows:
    """What is counted over the clips of a set."""

    def __init__(self) -> None:
        self.families = {name: Counts() for name in FIVE_CLASSES}
        self.labels = {drum: Counts() for drum in CLASSES}
        self.by_clip: list[float] = []
        self.snares, self.ghosts, self.beats, self.ones = Counts(), Counts(), Counts(), Counts()
        self.false_ghosts, self.without_ghosts = 0, 0.0
        self.outside, self.without_drums = 0, 0.0
        self.hats = [0, 0]
        self.cymbals = [0, 0]
        self.sure: list[tuple[float, bool]] = []
        self.loud: dict[str, list[tuple[float, int]]] = defaultdict(list)
        self.doubts, self.bars = 0, 0

    def add(self, song: Transcription, truth: Truth, seconds: float) -> None:
        """Count one clip."""
        hits = [hit for hit in written(song.hits) if hit.status is not Status.LEFT_OUT]
        clip = Counts()
        for name, family in FIVE_CLASSES.items():
            mine = merged(hit.time for hit in hits if hit.instrument in family)
            for counts in (self.families[name], clip):
                counts.add(times(truth, family), mine, CLOSE)
        self.by_clip.append(clip.f)
        for drum in CLASSES:
            self._drum(drum, [hit for hit in hits if hit.instrument is drum], truth.strokes[drum])
        self._snares(hits, truth, seconds)
        self._outside(hits, truth, seconds)
        self._cymbals(hits, truth)
        if truth.beats and hits:
            ends = (song.bars[0].start - 0.1, song.bars[-1].end - 0.1) if song.bars else (0, 0)
            for counts, true, mine in (
                (self.beats, truth.beats, [beat for bar in song.bars for beat in bar.beats]),
                (self.ones, truth.downbeats, [bar.start for bar in song.bars]),
            ):
                counts.add([t for t in true if ends[0] <= t < ends[1]], mine, 0.07)
        asked = questions(song)
        told = {id(hit) for question in asked for hit in question.hits}
        left = [h for h in hits if h.status is Status.DOUBTFUL and id(h) not in told]
        self.doubts += len(left) + len(asked)
        self.bars += len(song.bars)

    def _drum(self, drum: I, mine: list[Hit], true: list[tuple[float, float]]) -> None:
        reference, estimate = [time for time, _ in true], [hit.time for hit in mine]
        self.labels[drum].add(reference, estimate, CLOSE)
        pairs = match(reference, estimate, CLOSE)
        right = {j for _, j in pairs}
        self.sure += [(hit.confidence, j in right) for j, hit in enumerate(mine)]
        loud, said = [true[i][1] for i, _ in pairs], [mine[j].velocity for _, j in pairs]
        if len(pairs) >= FEWEST and np.std(loud) > 1e-6 and np.std(said) > 0:
            self.loud[drum.value].append((spearmanr(loud, said).statistic, len(pairs)))

    def _snares(self, hits: list[Hit], truth: Truth, seconds: float) -> None:
        snares = [hit for hit in hits if hit.instrument in FIVE_CLASSES["snare"]]
        self.snares.add(
            times(truth, FIVE_CLASSES["snare"]), merged(hit.time for hit in snares), CLOSE
        )
        soft = [time for time, loud in truth.strokes[I.SNARE] if loud < GHOST_BELOW]
        said = [hit.time for hit in hits if hit.instrument is I.SNARE and hit.ghost]
        self.ghosts.add(soft, said, CLOSE)
        if not soft:
            self.false_ghosts += len(said)
            self.without_ghosts += seconds

    def _outside(self, hits: list[Hit], truth: Truth, seconds: float) -> None:
        true = np.array(sorted(t for strokes in truth.strokes.values() for t, _ in strokes))
        grid = np.arange(0, seconds, 0.1)
        self.without_drums += 0.1 * int(_far(grid, true).sum())
        self.outside += int(_far(np.array([hit.time for hit in hits]), true).sum())

    def _cymbals(self, hits: list[Hit], truth: Truth) -> None:
        true = sorted((t, drum) for drum in CYMBALS for t, _ in truth.strokes[drum])
        mine = [hit for hit in hits if hit.instrument in CYMBALS]
        for i, j in match([t for t, _ in true], [hit.time for hit in mine], CLOSE):
            one, other = true[i][1], mine[j].instrument
            self.cymbals[0] += CYMBALS[one] == CYMBALS[other]
            self.cymbals[1] += 1
            if {one, other} <= {I.HIHAT_CLOSED, I.HIHAT_OPEN}:
                self.hats[0] += one is other
                self.hats[1] += 1

    def told(self) -> dict[str, str]:
        """All rows, by what they are called."""
        loud = [one for found in self.loud.values() for one in found]
        bars = max(1, self.bars)
        return {
            "F, 5 classes, 50 ms": f"{micro(self.families.values()):.3f}",
            "... of the worst tenth of the clips": f"{np.percentile(self.by_clip, WORST):.3f}",
            "all labels": f"{micro(self.labels.values()):.3f}",
            "precision of snares": f"{self.snares.precision:.3f}",
            "false strokes a minute where no drum plays": _rate(self.outside, self.without_drums),
            "ghosts: recall, precision": f"{self.ghosts.recall:.2f}, {self.ghosts.precision:.2f}",
            "ghosts a minute in songs without": _rate(self.false_ghosts, self.without_ghosts),
            "open or closed, on matched hats": f"{self.hats[0] / max(1, self.hats[1]):.3f}",
            "ride, hat or crash": f"{self.cymbals[0] / max(1, self.cymbals[1]):.3f}",
            "loudness, rank within a class": f"{weighted(loud):.3f}",
            "beats": f"{self.beats.f:.3f}",
            "downbeats": f"{self.ones.f:.3f}",
            "calibration": f"{calibration_error(self.sure):.3f}",
            "doubts and questions left, per 100 bars": f"{100 * self.doubts / bars:.0f}",
            **{f"  {drum.value} F": _f(counts) for drum, counts in self.labels.items()},
        }


def _far(at: np.ndarray, true: np.ndarray) -> np.ndarray:
    if not len(true) or not len(at):
        return np.ones(len(at), bool)
    right = np.clip(np.searchsorted(true, at), 0, len(true) - 1)
    left = np.maximum(right - 1, 0)
    return np.minimum(np.abs(true[right] - at), np.abs(true[left] - at)) > APART


def _f(counts: Counts) -> str:
    return f"{counts.f:.3f}" if counts.reference or counts.estimate else "none"


def _rate(count: int, seconds: float) -> str:
    return f"{60 * count / seconds:.1f} ({seconds / 60:.1f} min)" if seconds else "none"


def measure(folder: Path, ear: NetworkEar) -> Rows:
    """Whole runs over the clips of a folder."""
    rows = Rows()
    for features, truth in clips(folder):
        samples = np.zeros(round(len(features) * RATE / 100), np.float32)
        seconds = len(samples) / RATE
        recording = Recording(samples, RATE, Probe("clip", RATE, 1, seconds))
        heard = ear.hear_features(features, RATE, lambda share: None)
        song = write_down(ear, heard, recording, "", lambda stage, share: None)
        rows.add(song, truth, seconds)
    return rows


def asked() -> argparse.Namespace:
    """What is asked for on the command line: `folder`, the names of its `sets`, and `models`."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("sets", nargs="+")
    parser.add_argument("--models", type=Path, default=MODELS)
    return parser.parse_args()


def main() -> int:
    """Print a table."""
    options = asked()
    ear = NetworkEar(options.models)
    columns = {name: measure(options.folder / name, ear).told() for name in options.sets}
    print("| what | " + " | ".join(columns) + " |\n|---" + "|---" * len(columns) + "|")
    for what in columns[options.sets[0]]:
        print(f"| {what} | " + " | ".join(column[what] for column in columns.values()) + " |")
    return 0


if __name__ == "__main__":
    sys.exit(main())

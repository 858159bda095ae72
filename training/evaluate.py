"""Figures on sound sources that were left out: `python -m training.evaluate FOLDER`.

Prints a table for stems and mixes: F of five classes at 50 and 25 ms, F of all labels, ghosts, open
against closed hats, loudness, beats and downbeats, and the calibration error.
"""

from __future__ import annotations

import argparse
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
from scipy.stats import spearmanr

from benchmarks.scores import match
from orchesis.listening.ear import Heard, Onset
from orchesis.listening.network_ear import MODELS, NetworkEar
from orchesis.music.instruments import Instrument as I
from orchesis.music.instruments import Ornament
from orchesis.rhythm.find import Grid, find_grid
from training.bank import RATE
from training.labels import CLASSES
from training.scoring import (
    FIVE_CLASSES,
    GHOST_BELOW,
    Counts,
    Truth,
    clips,
    estimated,
    micro,
    times,
)

GRACES = {
    Ornament.FLAM: (-0.03,),
    Ornament.DRAG: (-0.035, -0.07),
    Ornament.BUZZ: (0.04, 0.08, 0.12),
}
"""Seconds from a stroke to its grace notes: the true strokes of composed clips hold them apart."""

HATS = frozenset({I.HIHAT_CLOSED, I.HIHAT_OPEN})


Clip = tuple[Heard, Grid | None, Truth]


def listen(folder: Path, ear: NetworkEar) -> list[Clip]:
    """Every clip as heard by the first pass, its grid, and the truth."""
    heard = []
    for features, truth in clips(folder):
        first = ear.hear_features(features, RATE, lambda share: None)
        heard.append((first, find_grid(first), truth))
    return heard


def second(ear: NetworkEar, clip: Clip) -> list[Onset]:
    """The strokes of a clip after the second pass, grace notes as strokes of their own."""
    heard, grid, _ = clip
    edges = [*(bar.start for bar in grid.bars), grid.bars[-1].end] if grid else []
    strokes: list[Onset] = []
    for onset in ear.second_pass(heard, edges).onsets:
        strokes.append(onset)
        for apart in GRACES.get(onset.ornament, ()):
            time = max(0.0, onset.time + apart)
            strokes.append(replace(onset, time=time, loudness=0.4 * onset.loudness))
    return sorted(strokes, key=lambda onset: onset.time)


def evaluate(strokes: list[tuple[list[Onset], Truth]]) -> dict[str, float]:
    """All figures of strokes against the truth."""
    by_family = {(name, tol): Counts() for name in FIVE_CLASSES for tol in (0.05, 0.025)}
    by_label = {instrument: Counts() for instrument in CLASSES}
    ghosts = Counts()
    hats_right, hats = 0, 0
    loud_true: list[float] = []
    loud_found: list[float] = []
    for onsets, truth in strokes:
        for (name, tolerance), counts in by_family.items():
            counts.add(
                times(truth, FIVE_CLASSES[name]), estimated(onsets, FIVE_CLASSES[name]), tolerance
            )
        for instrument, counts in by_label.items():
            reference = [time for time, _ in truth.strokes[instrument]]
            mine = [onset for onset in onsets if onset.instrument is instrument]
            estimate = [onset.time for onset in mine]
            counts.add(reference, estimate, 0.05)
            pairs = match(reference, estimate, 0.05)
            loud_true += [truth.strokes[instrument][i][1] for i, _ in pairs]
            loud_found += [mine[j].loudness for _, j in pairs]
        soft = [time for time, loud in truth.strokes[I.SNARE] if loud < GHOST_BELOW]
        all_snares = [o for o in onsets if o.instrument is I.SNARE]
        said = [o.time for o in all_snares if o.loudness < GHOST_BELOW]
        ghosts.reference += len(soft)
        ghosts.estimate += len(said)
        ghosts.hit += len(match(soft, said, 0.05))
        closed_open = sorted((t, i) for i in HATS for t, _ in truth.strokes[i])
        mine = [o for o in onsets if o.instrument in HATS]
        for i, j in match([t for t, _ in closed_open], [o.time for o in mine], 0.05):
            hats += 1
            hats_right += closed_open[i][1] is mine[j].instrument
    figures = {f"{name} F": by_family[name, 0.05].f for name in FIVE_CLASSES}
    for tolerance, words in ((0.05, "50 ms"), (0.025, "25 ms")):
        chosen = [counts for (_, tol), counts in by_family.items() if tol == tolerance]
        figures[f"5 classes F {words}"] = micro(chosen)
    figures["all labels F 50 ms"] = micro(list(by_label.values()))
    figures |= {f"  {i.value} F": counts.f for i, counts in by_label.items()}
    figures["ghost recall"], figures["ghost precision"] = ghosts.recall, ghosts.precision
    figures["open/closed right"] = hats_right / max(1, hats)
    figures["loudness rank correlation"] = float(spearmanr(loud_true, loud_found).statistic)
    figures["calibration error"] = calibration_error(said_and_right(strokes))
    return figures


def grids(heard: list[Clip]) -> dict[str, float]:
    """F of beats and downbeats within 70 ms, as chosen among the readings."""
    beats, downbeats = Counts(), Counts()
    for _, grid, truth in heard:
        sounding = [t for strokes in truth.strokes.values() for t, _ in strokes]
        if not sounding:
            continue
        bars = grid.bars if grid else ()
        beats.add(truth.beats, [beat for bar in bars for beat in bar.beats], 0.07)
        downbeats.add(truth.downbeats, [bar.start for bar in bars], 0.07)
    return {"beat F (20 s clips)": beats.f, "downbeat F (20 s clips)": downbeats.f}


def calibration_error(sure: list[tuple[float, bool]], bins: int = 10) -> float:
    """Expected calibration error: mean gap of confidence and truth over ten bins."""
    said = np.array([s for s, _ in sure])
    right = np.array([r for _, r in sure], float)
    total = 0.0
    for low in np.arange(bins) / bins:
        inside = (said >= low) & (said < low + 1 / bins + (1e-9 if low + 1 / bins >= 1 else 0))
        if inside.any():
            total += inside.mean() * abs(said[inside].mean() - right[inside].mean())
    return float(total)


def said_and_right(strokes: list[tuple[list[Onset], Truth]]) -> list[tuple[float, bool]]:
    """For each stroke how sure it was said to be, and whether it was there (50 ms, by label)."""
    sure = []
    for onsets, truth in strokes:
        for instrument in CLASSES:
            mine = [onset for onset in onsets if onset.instrument is instrument]
            reference = [time for time, _ in truth.strokes[instrument]]
            right = {j for _, j in match(reference, [onset.time for onset in mine], 0.05)}
            sure += [(onset.confidence, j in right) for j, onset in enumerate(mine)]
    return sure


def reliability(sure: list[tuple[float, bool]]) -> str:
    """A table: of the strokes said to be so sure, how many there were and how many were right."""
    said = np.array([share for share, _ in sure])
    right = np.array([was for _, was in sure], float)
    rows = ["| said | strokes | mean said | right |", "|---|---|---|---|"]
    for low in np.arange(10) / 10:
        inside = (said >= low) & (said < low + 0.1 + (1e-9 if low >= 0.9 else 0))
        if inside.sum() >= 20:
            rows.append(
                f"| {low:.0%} to {low + 0.1:.0%} | {inside.sum()} | {said[inside].mean():.0%} "
                f"| {right[inside].mean():.0%} |"
            )
    return "\n".join(rows)


def main() -> int:
    """Print the table: first and second pass, for each folder of clips."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--models", type=Path, default=MODELS)
    parser.add_argument("--sets", nargs="+", default=["val_stems", "val_mixes"])
    options = parser.parse_args()
    # Without its judge, which is trained last, the first pass stands for both.
    ear = NetworkEar(options.models, judged=(options.models / "judge.npz").exists())
    columns: dict[str, dict[str, float]] = {}
    tables: list[str] = []
    for name in options.sets:
        heard = listen(options.folder / name, ear)
        columns[f"{name} first"] = evaluate([(list(h.onsets), t) for h, _, t in heard])
        again = [(second(ear, clip), clip[2]) for clip in heard]
        columns[f"{name} second"] = evaluate(again)
        tables.append(f"\n{name}, second pass:\n\n{reliability(said_and_right(again))}")
        columns[f"{name} second"] |= grids(heard)
    print("| what | " + " | ".join(columns) + " |\n|---" + "|---" * len(columns) + "|")
    for what in columns[f"{options.sets[0]} second"]:
        values = [c.get(what) for c in columns.values()]
        print(f"| {what} | " + " | ".join("" if v is None else f"{v:.3f}" for v in values) + " |")
    print("\n".join(tables))
    return 0


if __name__ == "__main__":
    sys.exit(main())

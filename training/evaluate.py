"""Figures on sound sources that were left out: `python -m training.evaluate FOLDER`.

Prints a table for stems and mixes: F of five classes at 50 and 25 ms, F of all labels, ghosts, open
against closed hats, loudness, beats and downbeats, and the calibration error.
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

import numpy as np
from scipy.stats import spearmanr

from benchmarks.scores import match
from orchesis.listening.network_ear import MODELS, Calibration, load_model, strokes
from orchesis.music.instruments import Instrument as I
from orchesis.rhythm.beats import track_beats
from training.labels import CLASSES
from training.scoring import (
    FAMILIES,
    GHOST_BELOW,
    RATE_FRAMES,
    Counts,
    clips,
    estimated,
    run,
    times,
)

HATS = frozenset({I.HIHAT_CLOSED, I.HIHAT_OPEN})


def evaluate(folder: Path, models: Path) -> dict[str, float]:
    """All figures of one folder of clips."""
    session, about = load_model(models)
    calibration = {I(name): Calibration(**values) for name, values in about["calibration"].items()}
    by_family = {(name, tol): Counts() for name in FAMILIES for tol in (0.05, 0.025)}
    by_label = {instrument: Counts() for instrument in CLASSES}
    ghosts, beats = Counts(), Counts()
    hats_right, hats = 0, 0
    loud_true: list[float] = []
    loud_found: list[float] = []
    sure: list[tuple[float, bool]] = []
    for features, truth in clips(folder):
        found = run(session, features)
        onsets = strokes(found, CLASSES, calibration, RATE_FRAMES)
        for (name, tolerance), counts in by_family.items():
            counts.add(times(truth, FAMILIES[name]), estimated(onsets, FAMILIES[name]), tolerance)
        for instrument, counts in by_label.items():
            reference = [time for time, _ in truth.strokes[instrument]]
            mine = [onset for onset in onsets if onset.instrument is instrument]
            estimate = [onset.time for onset in mine]
            counts.add(reference, estimate, 0.05)
            pairs = match(reference, estimate, 0.05)
            right = {j for _, j in pairs}
            sure += [(onset.confidence, j in right) for j, onset in enumerate(mine)]
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
        beats.add(truth.beats, [b for b in track_beats(found.beat, RATE_FRAMES)], 0.07)
    figures = {f"{name} F": by_family[name, 0.05].f for name in FAMILIES}
    for tolerance, words in ((0.05, "50 ms"), (0.025, "25 ms")):
        chosen = [counts for (_, tol), counts in by_family.items() if tol == tolerance]
        figures[f"5 classes F {words}"] = _micro(chosen)
    figures["all labels F 50 ms"] = _micro(list(by_label.values()))
    figures |= {f"  {i.value} F": counts.f for i, counts in by_label.items()}
    figures["ghost recall"], figures["ghost precision"] = ghosts.recall, ghosts.precision
    figures["open/closed right"] = hats_right / max(1, hats)
    figures["loudness rank correlation"] = float(spearmanr(loud_true, loud_found).statistic)
    figures["beat F"] = beats.f
    figures["calibration error"] = calibration_error(sure)
    return figures


def _micro(counts: list[Counts]) -> float:
    total = Counts(
        sum(c.hit for c in counts),
        sum(c.reference for c in counts),
        sum(c.estimate for c in counts),
    )
    return total.f


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


def main() -> int:
    """Print the table."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--models", type=Path, default=MODELS)
    options = parser.parse_args()
    stems = evaluate(options.folder / "val_stems", options.models)
    mixes = evaluate(options.folder / "val_mixes", options.models)
    print("| what | stems | full mixes |\n|---|---|---|")
    for name in stems:
        print(f"| {name} | {stems[name]:.3f} | {mixes[name]:.3f} |")
    return 0


if __name__ == "__main__":
    sys.exit(main())

"""How well the bass's notes are found: python -m training.bass_figures FOLDER --clips 24.

Stretches of half a minute of people's songs that were kept for figures, played by our bands and
GMRockKit, which the two newer networks have not heard; where each note of their bass begins is
known. Within 50 ms.
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

import numpy as np

from orchesis.listening.evidence import bass_onsets, gathered
from orchesis.listening.network_ear import NetworkEar, normalised
from training import band as bands
from training import bank as banks
from training import human
from training.band import BASSES
from training.bank import RATE
from training.human import SongBand, SongPicker, SongStretch, family_of, is_kept
from training.plain import PlainRenderer
from training.scoring import Counts

SECONDS = 30.0
CLOSE = 0.05
HELD_OUT = "gmrock"
FEWEST = 10
"""Stretches whose bass plays fewer notes are passed over."""


def bass_notes(stretch: SongStretch) -> list[float]:
    """When the bass begins a note, in seconds within the stretch, each time once."""
    times = {round(n.time, 2) for n in stretch.notes if family_of(n.program)[0] in BASSES}
    return sorted(time for time in times if 0 <= time < SECONDS)


def main() -> int:
    """Print recall, precision and F over all stretches."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path, help="where `training.run` keeps the sounds")
    parser.add_argument("--clips", type=int, default=24)
    parser.add_argument("--seed", type=int, default=77)
    options = parser.parse_args()
    home, rng, ear = options.folder, np.random.default_rng(options.seed), NetworkEar()
    songs = [song for song in human.build(home / "human.pickle") if is_kept(song.name)]
    picker, band = SongPicker(rng, songs), SongBand(bands.build(home / "notes.pickle"), rng)
    others = banks.build_others(home / "others.pickle")
    bank = banks.build(home / "bank.pickle")
    renderer = PlainRenderer(bank, [HELD_OUT], band, rng, others, SECONDS)
    counts, played = Counts(), 0
    while played < options.clips:
        stretch = picker.compose(SECONDS)
        true = bass_notes(stretch)
        if len(true) < FEWEST:
            continue
        played += 1
        magnitudes = 10 ** renderer.render(stretch, stem=False).features.astype(np.float32) - 1e-6
        heard = ear.hear_features(normalised(magnitudes), RATE, lambda share: None)
        assert heard.detail is not None
        found = bass_onsets(gathered(heard.detail, heard.frame_rate))
        counts.add(true, found, CLOSE)
    told = f"recall {counts.recall:.2f}, precision {counts.precision:.2f}, F {counts.f:.3f}"
    print(f"{played} stretches, {counts.reference} notes of the bass: {told}")
    return 0


if __name__ == "__main__":
    sys.exit(main())

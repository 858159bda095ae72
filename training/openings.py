"""How far hats are open: what is said of a kit whose open hats are damped, or are not.

    python -m training.openings .run/training --clips 60

No kit here has a hat that was recorded half open (what one calls so fades like its open one), so
the held-out kit's open hat is damped: it fades by so many decibels a second more. Clips of 24 s by
our composer, of those in which an open hat is struck often enough; told is how many of the strokes
that were heard as open are said to be half open.
"""

from __future__ import annotations

import argparse
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np

from orchesis.audio.decode import Probe, Recording
from orchesis.listening.network_ear import NetworkEar
from orchesis.music.instruments import Instrument as I
from orchesis.music.values import written
from orchesis.pipeline import write_down
from training import band as bands
from training import bank as banks
from training.bank import RATE, Sound
from training.composer import Composer
from training.plain import PLAIN_STYLES, PlainRenderer

KIT = "gmrock"
SECONDS = 24.0
FEWEST = 8
"""Open strokes in a clip."""

DAMPED = (0.0, 25.0, 60.0, 90.0)
"""Decibels a second; by itself the recording fades by 43."""


def damped(hat: Sound, decibels: float) -> Sound:
    """The same drum, fading by so many decibels a second more."""
    layers = []
    for layer in hat:
        since = np.maximum(0, np.arange(len(layer.samples)) - layer.attack) / RATE
        faded = layer.samples * 10 ** (-decibels * since / 20)
        layers.append(replace(layer, samples=faded.astype(np.float32)))
    return layers


class OneHat(PlainRenderer):
    """A renderer whose open hat is always the same recording."""

    hat: Sound

    def _kit(self) -> dict[I, Sound]:
        return {**super()._kit(), I.HIHAT_OPEN: self.hat}


def said(ear: NetworkEar, mix: np.ndarray) -> tuple[int, int]:
    """Of a clip: strokes heard as open hats, and those of them said to be half open."""
    recording = Recording(mix.astype(np.float32), RATE, Probe("clip", RATE, 1, SECONDS))
    heard = ear.hear(recording.samples, RATE, lambda share: None)
    song = write_down(ear, heard, recording, "", lambda stage, share: None)
    hats = [hit for hit in written(song.hits) if hit.instrument is I.HIHAT_OPEN]
    return len(hats), sum(hit.is_half_open for hit in hats)


def main() -> int:
    """Print a table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--clips", type=int, default=60)
    parser.add_argument("--first-seed", type=int, default=531000)
    options = parser.parse_args()
    bank = banks.build(options.folder / "bank.pickle")
    notes = bands.build(options.folder / "notes.pickle")
    ear = NetworkEar()
    print(
        "| damped by dB a second | in | strokes | heard as open | half open |\n"
        "|---|---|---|---|---|"
    )
    for decibels in DAMPED:
        hat = damped(bank[KIT][I.HIHAT_OPEN][0], decibels)
        for stem in (True, False):
            counts = np.zeros(3, int)
            for clip in range(options.clips):
                rng = np.random.default_rng(options.first_seed + clip)
                renderer = OneHat(bank, [KIT], bands.Band(notes, rng), rng, [], SECONDS)
                renderer.hat = hat
                stretch = Composer(rng, PLAIN_STYLES).compose(SECONDS)
                true = sum(stroke.instrument is I.HIHAT_OPEN for stroke in stretch.strokes)
                if true >= FEWEST:
                    heard, half = said(ear, renderer.sound(stretch, stem=stem).mix)
                    counts += (true, heard, half)
            words = " | ".join(str(count) for count in counts)
            print(f"| {decibels:.0f} | {'drums' if stem else 'mix'} | {words} |", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())

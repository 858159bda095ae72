"""How well the masks take a record apart: `python -m training.separation FOLDER [--models M]`.

Composed mixes of the held-out kit: the gains found on the mix are applied to the drums and to the
band alone, and what is left of each is told in dB. Nothing of this was trained on.
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

import numpy as np

from orchesis.listening.network_ear import MODELS, NetworkEar
from orchesis.listening.parts import FRAMES_A_STEP, STEP, Part, filtered, gains
from training import band as bands
from training import bank as banks
from training.bank import RATE
from training.composer import Composer
from training.render import CLASS_LEVEL, SECONDS, Renderer

CLIPS = 24


def left_of(sound: np.ndarray, gain: np.ndarray) -> float:
    """What is left of a sound under these gains, in dB of its energy."""
    after = filtered(np.stack([sound, sound], axis=1).astype(np.float32), [gain])[0][:, 0]
    return float(10 * np.log10((after**2).sum() / (sound**2).sum() + 1e-12))


def distortion(sound: np.ndarray, gain: np.ndarray) -> float:
    """Energy of what changed in a sound that should pass, against what passed, in dB."""
    after = filtered(np.stack([sound, sound], axis=1).astype(np.float32), [gain])[0][:, 0]
    return float(10 * np.log10((sound**2).sum() / (((after - sound) ** 2).sum() + 1e-12)))


def main() -> int:
    """Print a table."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--models", type=Path, default=MODELS)
    parser.add_argument("--held-out", default="gmrock")
    options = parser.parse_args()
    bank = banks.build(options.folder / "bank.pickle")
    rng = np.random.default_rng(930_000)
    band = bands.Band(bands.build(options.folder / "notes.pickle"), rng)
    renderer = Renderer(bank, [options.held_out], band, rng)
    composer = Composer(rng)
    ear = NetworkEar(options.models, judged=False)
    rows: dict[str, list[float]] = {}
    length = int(SECONDS * RATE)
    for _ in range(CLIPS):
        stretch = composer.compose(SECONDS)
        drums, laid = renderer._drums(stretch, length, dict(CLASS_LEVEL))
        if len(laid) < 20:
            continue
        rest = band.play(stretch, length)
        rest *= np.sqrt((drums**2).mean() / ((rest**2).mean() + 1e-9))
        mix = ((drums + rest) / np.abs(drums + rest).max()).astype(np.float32)
        heard = ear.hear(mix, RATE, lambda share: None)
        masks = heard.detail.masks[::FRAMES_A_STEP][: length // STEP + 1]
        for part, keep, lose in (
            (Part.DRUMS_FORWARD, drums, rest),
            (Part.DRUMS_DOWN, rest, drums),
        ):
            gain = gains(masks, part, RATE)
            rows.setdefault(f"{part.value}: other side", []).append(left_of(lose, gain))
            rows.setdefault(f"{part.value}: own side", []).append(left_of(keep, gain))
            rows.setdefault(f"{part.value}: own against changed", []).append(distortion(keep, gain))
    print("| what | median dB | worst tenth |\n|---|---|---|")
    for name, values in rows.items():
        worst = np.percentile(values, 90 if "other" in name else 10)
        print(f"| {name} | {np.median(values):.1f} | {worst:.1f} |")
    return 0


if __name__ == "__main__":
    sys.exit(main())

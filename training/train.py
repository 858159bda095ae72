"""Training: `python -m training.train FOLDER --minutes 40`. Resumable, seeded, checkpointed.

Cross-entropy on onsets with half targets on the frames beside them, squared error of loudness at
onsets, cross-entropy on beats; AdamW with a cosine schedule over the time allowed; the weights
are averaged over the last part of it. New shards are taken in as they appear.
"""

from __future__ import annotations

import argparse
import sys
import time
from dataclasses import asdict
from pathlib import Path

import numpy as np
import torch
from torch.nn import functional

from training.labels import CLASSES
from training.network import DrumNet, Shape

WINDOW = 1000
BATCH = 16
PEAK_RATE = 3e-3
POSITIVE_WEIGHT = 1.5
BEAT_WEIGHT = 0.4
LOUDNESS_WEIGHT = 0.6
AVERAGE_FROM = 0.6
AVERAGE_DECAY = 0.998
CHECKPOINT_SECONDS = 180.0
RESCAN_SECONDS = 60.0


def normalised(level: np.ndarray) -> np.ndarray:
    """Log10 magnitudes relative to the clip's own loud frames: 0 is 60 dB below them, 1 at them.

    The same as `orchesis.listening.network.normalised`: change both or none.
    """
    top = np.percentile(level.max(axis=1).astype(np.float32), 99)
    return np.clip((level.astype(np.float32) - top) / 3.0 + 1.0, 0.0, 1.4)


class Shards:
    """All clips of a folder, in memory, growing as the folder grows."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.seen: set[Path] = set()
        self.clips: list[tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]] = []

    def scan(self) -> None:
        """Take in new shards."""
        for path in sorted(self.folder.glob("*.npz")):
            if path in self.seen or path.name.endswith(".part.npz"):
                continue
            data = np.load(path)
            features = data["features"]
            for index in range(len(features)):
                clip = normalised(features[index]).astype(np.float16)
                self.clips.append(
                    (clip, data["onsets"][index], data["loudness"][index], data["beats"][index])
                )
            self.seen.add(path)


def batch_of(shards: Shards, rng: np.random.Generator) -> tuple[torch.Tensor, ...]:
    """A random batch of windows, lightly changed: level, tilt, a band up or down, holes."""
    parts = []
    for _ in range(BATCH):
        features, onsets, loudness, beats = shards.clips[int(rng.integers(len(shards.clips)))]
        start = int(rng.integers(0, len(features) - WINDOW))
        piece = features[start : start + WINDOW].astype(np.float32)
        piece = (
            piece + rng.normal(0, 0.03) + np.linspace(-1, 1, piece.shape[1]) * rng.normal(0, 0.05)
        )
        if rng.random() < 0.5:
            shift = int(rng.integers(-2, 3))
            piece = np.roll(piece, shift, axis=1)
        if rng.random() < 0.2:
            low = int(rng.integers(0, piece.shape[1] - 8))
            piece[:, low : low + int(rng.integers(3, 8))] = 0.0
        cut = slice(start, start + WINDOW)
        parts.append((np.clip(piece, 0, 1.5), onsets[cut], loudness[cut], beats[cut]))
    return tuple(
        torch.from_numpy(np.stack([np.asarray(part[k], np.float32) for part in parts]))
        for k in range(4)
    )


def widened(target: torch.Tensor) -> torch.Tensor:
    """Half targets on the frames beside each onset."""
    beside = torch.zeros_like(target)
    beside[:, 1:] = torch.maximum(beside[:, 1:], 0.5 * target[:, :-1])
    beside[:, :-1] = torch.maximum(beside[:, :-1], 0.5 * target[:, 1:])
    return torch.maximum(target, beside)


def loss_of(
    output: torch.Tensor, onsets: torch.Tensor, loudness: torch.Tensor, beats: torch.Tensor
) -> torch.Tensor:
    """The loss of a batch."""
    count = len(CLASSES)
    onset_logits, loud_logits, beat_logits = (
        output[..., :count],
        output[..., count : 2 * count],
        output[..., 2 * count :],
    )
    weight = torch.tensor(POSITIVE_WEIGHT)
    onset = functional.binary_cross_entropy_with_logits(
        onset_logits, widened(onsets), pos_weight=weight
    )
    error = (torch.sigmoid(loud_logits) - loudness) ** 2 * onsets
    loud = error.sum() / onsets.sum().clamp(min=1)
    beat = functional.binary_cross_entropy_with_logits(
        beat_logits, widened(beats), pos_weight=torch.tensor(3.0)
    )
    # Onsets are rare: their mean loss is small, so it is counted per class and not per cell.
    return onset * count + LOUDNESS_WEIGHT * loud + BEAT_WEIGHT * 2 * beat


def main() -> int:
    """Train for the time allowed and write FOLDER/NAME.pt."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--minutes", type=float, default=40)
    parser.add_argument("--name", default="ear")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--trunk", type=int, default=96)
    options = parser.parse_args()
    torch.manual_seed(options.seed)
    rng = np.random.default_rng(options.seed)
    shards = Shards(options.folder / "train")
    shape = Shape(trunk=options.trunk)
    net = DrumNet(shape)
    mean = DrumNet(shape)
    optimiser = torch.optim.AdamW(net.parameters(), lr=PEAK_RATE, weight_decay=0.01)
    path = options.folder / f"{options.name}.pt"
    step, spent = 0, 0.0
    averaging = False
    if path.exists():
        saved = torch.load(path, weights_only=False)
        net.load_state_dict(saved["net"])
        mean.load_state_dict(saved["mean"])
        optimiser.load_state_dict(saved["optimiser"])
        step, spent, averaging = saved["step"], saved["spent"], saved["averaging"]
    began = time.monotonic() - spent
    saved_at = scanned_at = 0.0
    losses: list[float] = []
    while (spent := time.monotonic() - began) < 60 * options.minutes:
        if spent - scanned_at > RESCAN_SECONDS or not shards.clips:
            shards.scan()
            scanned_at = spent
            if not shards.clips:
                time.sleep(2)
                continue
        share = spent / (60 * options.minutes)
        rate = (
            PEAK_RATE
            * min(1.0, (step + 1) / 150)
            * (0.02 + 0.98 * 0.5 * (1 + np.cos(np.pi * share)))
        )
        for group in optimiser.param_groups:
            group["lr"] = rate
        features, onsets, loudness, beats = batch_of(shards, rng)
        loss = loss_of(net(features), onsets, loudness, beats)
        optimiser.zero_grad()
        loss.backward()
        torch.nn.utils.clip_grad_norm_(net.parameters(), 1.0)
        optimiser.step()
        step += 1
        if share > AVERAGE_FROM:
            with torch.no_grad():
                for held, fresh in zip(
                    mean.state_dict().values(), net.state_dict().values(), strict=True
                ):
                    if not averaging or not held.is_floating_point():
                        held.copy_(fresh)
                    else:
                        held.mul_(AVERAGE_DECAY).add_(fresh, alpha=1 - AVERAGE_DECAY)
            averaging = True
        losses.append(float(loss.detach()))
        if step % 50 == 0:
            mean_loss = np.mean(losses[-50:])
            clips = len(shards.clips)
            print(
                f"{spent / 60:5.1f} min step {step} clips {clips} loss {mean_loss:.4f}", flush=True
            )
        if spent - saved_at > CHECKPOINT_SECONDS:
            saved_at = spent
            save(path, net, mean if averaging else net, optimiser, step, spent, averaging)
    save(path, net, mean if averaging else net, optimiser, step, spent, averaging)
    return 0


def save(
    path: Path,
    net: DrumNet,
    mean: DrumNet,
    optimiser: torch.optim.Optimizer,
    step: int,
    spent: float,
    averaging: bool,
) -> None:
    """Write a checkpoint, whole or not at all."""
    partial = path.with_suffix(".part")
    state = {
        "shape": asdict(net.shape),
        "net": net.state_dict(),
        "mean": mean.state_dict(),
        "optimiser": optimiser.state_dict(),
        "step": step,
        "spent": spent,
        "averaging": averaging,
    }
    torch.save(state, partial)
    partial.replace(path)


if __name__ == "__main__":
    sys.exit(main())

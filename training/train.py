"""Training: `python -m training.train FOLDER --minutes 40`. Resumable, seeded, checkpointed.

Cross-entropy on onsets with half targets on the frames beside them, squared error of loudness at
onsets, cross-entropy on beats; AdamW with a cosine schedule over the time allowed; the weights
are averaged over the last part of it. New shards are taken in as they appear.
"""

from __future__ import annotations

import argparse
import sys
import tempfile
import time
from dataclasses import asdict
from pathlib import Path

import numpy as np
import torch
from torch import distributed, multiprocessing
from torch.nn import functional

from orchesis.listening.features import BANDS
from training.labels import CLASSES
from training.mixing import as_another_kit, joined, normalised, overlaid, remixed
from training.network import SHAPES, DrumNet, Shape, shifted
from training.render import UNTOLD

WINDOW = 800
BATCH = 8
PEAK_RATE = 2e-3
POSITIVE_WEIGHT = 1.5
SOFT_BELOW, SOFT_WEIGHT = 0.4, 2.0
"""Strokes softer than this count so many times as much: of ghosts under a band half were missed."""
BEAT_WEIGHT = 0.4
LOUDNESS_WEIGHT = 0.6
MASK_WEIGHT = 0.4
AVERAGE_FROM = 0.6
AVERAGE_DECAY = 0.999
REMIXED = 0.3
"""Share of windows whose drums get the rest of another clip: bands and voices in any number."""
OVERLAID = 0.12
"""Share of windows that are two drummers at once: hats under cymbals, toms with kicks, strokes some
hundredths apart, all of which grooves have too seldom to be learnt."""
CHECKPOINT_SECONDS = 180.0
RESCAN_SECONDS = 60.0


Arrays = tuple[np.ndarray, ...]
"""Of a clip: features, onset weights, loudness, beats and, where there are any, masks."""


class Shards:
    """The clips of this worker's shards, in memory, growing as the folder grows."""

    def __init__(self, folder: Path, rank: int = 0, workers: int = 1) -> None:
        self.folder, self.rank, self.workers = folder, rank, workers
        self.seen: set[Path] = set()
        self.clips: list[Arrays] = []

    def scan(self) -> None:
        """Take in new shards: of each pair of neighbours one, as their names say; of the first
        ones of each batch, whose names are thousands, as well.
        """
        for path in sorted(self.folder.glob("*.npz")):
            if path in self.seen or path.name.endswith(".part.npz"):
                continue
            self.seen.add(path)
            seed = int(path.stem)
            if (seed + seed // 1000) % self.workers != self.rank:
                continue
            with np.load(path) as data:
                # Each is read once: a clip that were a view of its own copy of the whole shard
                # would hold thirty times what it needs.
                read = {name: data[name] for name in data.files}
            features = read["features"]
            empty = np.zeros((*features.shape[:2], 0), np.uint8)
            for index in range(len(features)):
                clip = normalised(features[index]).astype(np.float16)
                rest = (read["onsets"], read["loudness"], read["beats"], read.get("masks", empty))
                self.clips.append((clip, *(array[index] for array in rest)))


def batch_of(shards: Shards, rng: np.random.Generator) -> tuple[torch.Tensor, ...]:
    """A random batch of windows, changed: another band, another kit, a band up or down, holes.

    Beats of -1 are not asked for: the drums still tell them, but the other band has its own.
    """
    parts = []
    for _ in range(BATCH):
        features, onsets, loudness, beats, masks = shards.clips[
            int(rng.integers(len(shards.clips)))
        ]
        start = int(rng.integers(0, len(features) - WINDOW))
        cut = slice(start, start + WINDOW)
        piece = features[cut].astype(np.float32)
        share = masks[cut].astype(np.float32) / 255
        counted = np.where(beats[cut] == UNTOLD, -1.0, beats[cut]).astype(np.float32)
        marks, loud = onsets[cut], loudness[cut]
        chance = rng.random() if share.size else 1.0
        if chance < REMIXED + OVERLAID:
            other = shards.clips[int(rng.integers(len(shards.clips)))]
            begin = int(rng.integers(0, len(other[0]) - WINDOW))
            there = slice(begin, begin + WINDOW)
            one_drummer = chance < REMIXED
            mixed, loudest = (remixed, 0.3) if one_drummer else (overlaid, 0.1)
            piece, share = mixed(
                piece,
                share,
                other[0][there].astype(np.float32),
                other[4][there].astype(np.float32) / 255,
                float(rng.uniform(-0.5, loudest)),
            )
            if not one_drummer:
                marks = joined(marks, other[1][there])
                loud = np.maximum(loud, other[2][there])
            counted = np.full_like(counted, -1.0)
        piece = as_another_kit(piece, rng)
        if rng.random() < 0.5:
            shift = int(rng.integers(-2, 3))
            piece, share = (
                shifted(torch.from_numpy(part), BANDS, shift).numpy() for part in (piece, share)
            )
        if rng.random() < 0.2:
            low = int(rng.integers(0, BANDS - 8))
            piece[:, low : low + int(rng.integers(3, 8))] = 0.0
        share = share[:, :BANDS]
        parts.append((np.clip(piece, 0, 1.5), marks, loud, counted, share))
    return tuple(
        torch.from_numpy(np.stack([np.asarray(part[k], np.float32) for part in parts]))
        for k in range(5)
    )


def widened(target: torch.Tensor) -> torch.Tensor:
    """Half targets on the frames beside each onset."""
    beside = torch.zeros_like(target)
    beside[:, 1:] = torch.maximum(beside[:, 1:], 0.5 * target[:, :-1])
    beside[:, :-1] = torch.maximum(beside[:, :-1], 0.5 * target[:, 1:])
    return torch.maximum(target, beside)


def loss_of(output: torch.Tensor, targets: tuple[torch.Tensor, ...]) -> torch.Tensor:
    """The loss of a batch. An onset of 2 is masked: neither asked for nor forbidden."""
    marks, loudness, beats, masks = targets
    count = len(CLASSES)
    onset_logits, loud_logits, beat_logits, mask_logits = output.split(
        [count, count, 2, output.shape[-1] - 2 * count - 2], dim=-1
    )
    onsets = (marks == 1).float()
    asked = 1.0 - widened((marks == 2).float()).ceil() * (1 - widened(onsets).ceil())
    asked = asked * (1.0 + (SOFT_WEIGHT - 1.0) * widened(onsets * (loudness < SOFT_BELOW)))
    onset = (
        functional.binary_cross_entropy_with_logits(
            onset_logits,
            widened(onsets),
            pos_weight=torch.tensor(POSITIVE_WEIGHT),
            reduction="none",
        )
        * asked
    ).mean()
    error = (torch.sigmoid(loud_logits) - loudness) ** 2 * onsets
    loud = error.sum() / onsets.sum().clamp(min=1)
    told = (beats >= 0).float()
    of_beats = functional.binary_cross_entropy_with_logits(
        beat_logits,
        widened(beats.clamp(min=0)),
        pos_weight=torch.tensor(3.0),
        reduction="none",
    )
    beat = (of_beats * told).sum() / told.sum().clamp(min=1)
    # Onsets are rare: their mean loss is small, so it is counted per class and not per cell.
    loss = onset * count + LOUDNESS_WEIGHT * loud + BEAT_WEIGHT * 2 * beat
    if masks.shape[-1] and mask_logits.shape[-1]:
        loss = loss + MASK_WEIGHT * functional.binary_cross_entropy_with_logits(mask_logits, masks)
    return loss


def gathered(values: list[torch.Tensor], workers: int) -> None:
    """Replace tensors by their mean over all workers, in place."""
    flat = torch.cat([value.reshape(-1) for value in values])
    distributed.all_reduce(flat)
    flat /= workers
    first = 0
    for value in values:
        value.copy_(flat[first : first + value.numel()].view_as(value))
        first += value.numel()


def work(rank: int, options: argparse.Namespace) -> None:
    """One worker: its own batches of its own share of the shards; gradients are averaged.

    Two workers of one thread each do more than one of two threads.
    """
    torch.set_num_threads(1 if options.workers > 1 else options.threads)
    if options.workers > 1:
        distributed.init_process_group(
            "gloo", init_method=options.meeting, rank=rank, world_size=options.workers
        )
    torch.manual_seed(options.seed)
    rng = np.random.default_rng(options.seed + 1000 * rank)
    shards = Shards(options.folder / options.shards, rank, options.workers)
    shape = SHAPES[options.shape]
    path = options.folder / f"{options.name}.pt"
    step, spent, averaging = 0, 0.0, False
    saved = torch.load(path, weights_only=False) if path.exists() else None
    if saved is not None:
        shape = Shape(**saved["shape"])
    net, mean = DrumNet(shape), DrumNet(shape)
    optimiser = torch.optim.AdamW(net.parameters(), lr=PEAK_RATE, weight_decay=0.01)
    if saved is not None:
        net.load_state_dict(saved["net"])
        mean.load_state_dict(saved["mean"])
        if saved["optimiser"] is not None:
            # The committed checkpoint has none, to be small: its momentum is soon found again.
            optimiser.load_state_dict(saved["optimiser"])
        step, spent, averaging = saved["step"], saved["spent"], saved["averaging"]
    start = spent if options.go_on else 0.0
    averaging = averaging and not options.go_on
    clock_of = time.process_time if options.processor_time else time.monotonic
    began = clock_of() - spent
    saved_at = scanned_at = 0.0
    losses: list[float] = []
    while True:
        now = clock_of() - began
        if now - scanned_at > RESCAN_SECONDS or not shards.clips:
            shards.scan()
            scanned_at = now
            if not shards.clips:
                time.sleep(2)
                continue
        # All workers go by the first one's clock: they must stop at the same step.
        clock = torch.tensor([now])
        if options.workers > 1:
            distributed.broadcast(clock, 0)
        spent = float(clock)
        if spent >= 60 * options.minutes:
            break
        share = (spent - start) / (60 * options.minutes - start)
        rate = (
            options.rate
            * min(1.0, (step + 1) / 150)
            * (0.02 + 0.98 * 0.5 * (1 + np.cos(np.pi * share)))
        )
        for group in optimiser.param_groups:
            group["lr"] = rate
        batch = batch_of(shards, rng)
        loss = loss_of(net(batch[0]), batch[1:])
        optimiser.zero_grad()
        loss.backward()
        if options.workers > 1:
            gathered([p.grad for p in net.parameters() if p.grad is not None], options.workers)
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
        if rank:
            continue
        if step % 20 == 0:
            mean_loss = np.mean(losses[-20:])
            clips = len(shards.clips)
            print(
                f"{spent / 60:5.1f} min step {step} clips {clips} loss {mean_loss:.4f}", flush=True
            )
        if spent - saved_at > CHECKPOINT_SECONDS:
            saved_at = spent
            save(path, net, mean if averaging else net, optimiser, step, spent, averaging)
    if not rank:
        save(path, net, mean if averaging else net, optimiser, step, spent, averaging)
    if options.workers > 1:
        distributed.barrier()
        distributed.destroy_process_group()


def main() -> int:
    """Train for the time allowed and write FOLDER/NAME.pt."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--minutes", type=float, default=40)
    parser.add_argument("--name", default="ear")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--shape", choices=sorted(SHAPES), default="fine-low")
    parser.add_argument("--shards", default="train", help="folder of the shards, within FOLDER")
    parser.add_argument("--workers", type=int, default=1)
    parser.add_argument("--threads", type=int, default=1)
    parser.add_argument("--rate", type=float, default=PEAK_RATE)
    parser.add_argument(
        "--go-on", action="store_true", help="a new schedule for the minutes that are added"
    )
    parser.add_argument(
        "--processor-time",
        action="store_true",
        help="count minutes of the processor: fair on a machine that does other work",
    )
    options = parser.parse_args()
    if options.workers == 1:
        work(0, options)
        return 0
    with tempfile.NamedTemporaryFile() as meeting:
        options.meeting = f"file://{meeting.name}.meeting"
        multiprocessing.spawn(work, (options,), nprocs=options.workers)
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

"""When exactly strokes begin: how `listening/attacks.py` learns it, and how well it does.

    python -m training.attacks .run/training --collect attacks_own --clips 90 --first-seed 511000
    python -m training.attacks .run/training --collect attacks_people --songs --clips 60 --first-seed 512000
    python -m training.attacks .run/training --collect attacks_hard --hard --clips 50 --first-seed 513000
    python -m training.attacks .run/training --train attacks_own attacks_people attacks_hard --to MODELS/attacks.npz
    python -m training.attacks .run/training --collect attacks_kept --held-out --clips 24 --first-seed 521000
    python -m training.attacks .run/training --figures attacks_kept attacks_kept_people

Clips of 24 s whose strokes were laid at known times, to the sample; the ear hears them, its
candidates are matched with what was laid, and the sound around each is kept. Told is how far the
times are off, and how far the pocket of hats and snares against the kick is, of each clip.
"""  # noqa: E501

from __future__ import annotations

import argparse
import sys
from pathlib import Path

import numpy as np

from benchmarks.scores import match
from orchesis.listening.attacks import (
    MODEL,
    MOST,
    REACH,
    STEP,
    company,
    fine_levels,
    load_attacks,
    moved,
    scaled,
)
from orchesis.listening.network_ear import NetworkEar
from orchesis.music.instruments import Instrument as I
from training import band as bands
from training import bank as banks
from training.bank import RATE
from training.composer import Composer
from training.dataset import HELD_OUT_STYLES
from training.human import SongBand, SongPicker, is_kept
from training.human import build as build_songs
from training.labels import CLASSES
from training.plain import PLAIN_STYLES, PlainRenderer
from training.render import Renderer

SECONDS = 24.0
STEMS = 0.25
HELD_OUT = "gmrock"
LIKELY = 0.2
"""The least peak of a candidate that is learnt from."""

CLOSE = 0.04
JITTER = 8
"""Steps by which the middle is shifted at random: the answer must move with it."""

CHANNELS, WIDTH, LAST_WIDTH = 16, 9, 5
BATCH, RATE_OF_LEARNING = 128, 3e-3
OFF_BY = 2.0
"""Milliseconds above which errors count linearly: some matches are of another stroke."""

FEWEST = 12
"""Strokes of a voice in a clip, of which a pocket is told."""

VOICES = {"snare": (I.SNARE, I.CROSS_STICK), "hat": (I.HIHAT_CLOSED, I.HIHAT_OPEN, I.RIDE)}

Table = dict[str, np.ndarray]


def collect(options: argparse.Namespace) -> Table:
    """What is learnt from: surroundings, drums, how late, of which clip."""
    home = options.folder
    bank, notes = banks.build(home / "bank.pickle"), bands.build(home / "notes.pickle")
    others = banks.build_others(home / "others.pickle")
    sources = [name for name in bank if (name == HELD_OUT) == options.held_out]
    styles = tuple(s for s in PLAIN_STYLES if options.held_out or s not in HELD_OUT_STYLES)
    songs = []
    if options.songs:
        known = build_songs(home / "human.pickle")
        songs = [song for song in known if is_kept(song.name) == options.held_out]
    ear, kind = NetworkEar(), Renderer if options.hard else PlainRenderer
    parts: dict[str, list[np.ndarray]] = {"about": [], "drums": [], "late": [], "clip": []}
    for number in range(options.clips):
        rng = np.random.default_rng(options.first_seed + number)
        composer = SongPicker(rng, songs) if songs else Composer(rng, styles)
        band = SongBand(notes, rng) if songs else bands.Band(notes, rng)
        made = kind(bank, sources, band, rng, others, SECONDS).sound(
            composer.compose(SECONDS), stem=rng.random() < STEMS
        )
        heard = ear.hear(made.mix, RATE, lambda share: None, exact=False)
        assert heard.detail is not None
        assert heard.detail.found is not None
        found = heard.detail.found
        levels = fine_levels(made.mix.astype(np.float32), RATE)
        index, late = [], []
        for column, drum in enumerate(CLASSES):
            mine = np.flatnonzero((found.column == column) & (found.peak > LIKELY))
            true = [stroke.time for stroke in made.laid if stroke.instrument is drum]
            for i, j in match(true, found.time[mine].tolist(), CLOSE):
                index.append(mine[j])
                late.append(true[i])
        centres = np.round(found.time[index] / STEP).astype(np.int64)
        reach = np.arange(-REACH - JITTER, REACH + JITTER + 1)
        places = np.clip(centres[:, None] + reach, 0, len(levels) - 1)
        parts["about"].append(levels[places].astype(np.float16))
        parts["drums"].append(company(found, heard.detail.onsets)[index].astype(np.float16))
        parts["late"].append(np.array(late) / STEP - centres)
        parts["clip"].append(np.full(len(index), options.first_seed + number))
        print(f"clip {number}: {len(index)} strokes", flush=True)
    return {name: np.concatenate(held) for name, held in parts.items()}


def read(folder: Path, names: list[str]) -> Table:
    """Several collections as one."""
    tables = [np.load(folder / f"{name}.npz") for name in names]
    return {key: np.concatenate([table[key] for table in tables]) for key in tables[0].files}


def train(table: Table, steps: int, seed: int) -> Table:
    """Learn; gives back the weights as `listening/attacks.py` takes them."""
    import torch
    from torch import nn
    from torch.nn import functional

    torch.manual_seed(seed)
    torch.set_num_threads(1)
    rng = np.random.default_rng(seed)
    said = 2 * len(CLASSES)
    net = nn.ModuleDict(
        {
            "drum": nn.Linear(said, CHANNELS),
            "gate": nn.Linear(said, CHANNELS),
            "first": nn.Conv1d(table["about"].shape[2], CHANNELS, WIDTH, padding=WIDTH // 2),
            "second": nn.Conv1d(CHANNELS, CHANNELS, WIDTH, padding=WIDTH // 2),
            "last": nn.Conv1d(CHANNELS, 1, LAST_WIDTH, padding=LAST_WIDTH // 2),
        }
    )
    narrow = nn.Parameter(torch.tensor(0.0))
    optimiser = torch.optim.AdamW(
        [*net.parameters(), narrow], lr=RATE_OF_LEARNING, weight_decay=1e-3
    )
    places = torch.arange(-REACH, REACH + 1).float()
    for step in range(steps):
        for group in optimiser.param_groups:
            group["lr"] = RATE_OF_LEARNING * (0.02 + 0.49 * (1 + np.cos(np.pi * step / steps)))
        index = rng.integers(0, len(table["late"]), BATCH)
        shift = rng.integers(-JITTER, JITTER + 1, BATCH)
        columns = shift[:, None] + np.arange(2 * REACH + 1) + JITTER
        about = scaled(table["about"][index[:, None], columns].astype(np.float32))
        x = torch.from_numpy(np.ascontiguousarray(about.transpose(0, 2, 1)))
        drums = torch.from_numpy(table["drums"][index].astype(np.float32))
        true = torch.from_numpy((table["late"][index] - shift).astype(np.float32))
        offset = places + torch.from_numpy(shift.astype(np.float32))[:, None]
        hidden = torch.relu(net["first"](x) + net["drum"](drums)[:, :, None])
        hidden = torch.relu(net["second"](hidden)) * torch.sigmoid(net["gate"](drums))[:, :, None]
        weight = net["last"](hidden)[:, 0] - torch.exp(narrow) * (offset / 10.0) ** 2
        weight = weight.masked_fill(offset.abs() > MOST, -torch.inf)
        mean = (torch.softmax(weight, 1) * places).sum(1)
        loss = functional.smooth_l1_loss(mean, true, beta=OFF_BY)
        optimiser.zero_grad()
        loss.backward()
        optimiser.step()
        if step % 500 == 0:
            print(f"step {step}: {float(loss.detach()):.3f}", flush=True)
    weights = {"narrow": np.exp(narrow.detach().numpy())}
    for name, layer in net.items():
        turned = layer.weight.detach().numpy()
        weights[name] = turned.transpose(2, 1, 0) if turned.ndim == 3 else turned.T
        weights[f"{name}_bias"] = layer.bias.detach().numpy()
    return {name: np.asarray(value, np.float32) for name, value in weights.items()}


def figures(table: Table, net: Table) -> str:
    """A row: errors of the ear's times and of the exact ones, and of pockets."""
    middle = slice(JITTER, JITTER + 2 * REACH + 1)
    about = scaled(table["about"][:, middle].astype(np.float32))
    drums = table["drums"].astype(np.float32)
    parts = [slice(first, first + 512) for first in range(0, len(about), 512)]
    found = np.concatenate([moved(about[part], drums[part], net) for part in parts])
    cells = []
    for error in (table["late"], table["late"] - found):
        pockets = _pockets(table, error)
        cells.append(
            f"{np.median(np.abs(error)):.1f}, {np.mean(np.abs(error)):.1f} | "
            f"{np.median(pockets):.1f}, {np.percentile(pockets, 90):.1f}, {max(pockets):.1f}"
        )
    return " | ".join([str(len(about)), *cells])


def _pockets(table: Table, error: np.ndarray) -> list[float]:
    drum = table["drums"][:, : len(CLASSES)].argmax(axis=1)
    of = {name: np.isin(drum, [CLASSES.index(d) for d in drums]) for name, drums in VOICES.items()}
    kick = drum == CLASSES.index(I.KICK)
    told = []
    for clip in np.unique(table["clip"]):
        here = table["clip"] == clip
        if (here & kick).sum() < FEWEST:
            continue
        base = float(np.median(error[here & kick]))
        voices = [here & mine for mine in of.values() if (here & mine).sum() >= FEWEST]
        told += [abs(float(np.median(error[voice])) - base) for voice in voices]
    return told


def main() -> int:
    """Collect, learn, or print figures."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--collect", help="name of what is kept, FOLDER/NAME.npz")
    parser.add_argument("--clips", type=int, default=60)
    parser.add_argument("--first-seed", type=int, default=511000)
    parser.add_argument("--songs", action="store_true", help="people's songs")
    parser.add_argument("--hard", action="store_true", help="worn sound, bent kits")
    parser.add_argument("--held-out", action="store_true", help="the kit and songs kept")
    parser.add_argument("--train", nargs="+", help="on these collections")
    parser.add_argument("--steps", type=int, default=3000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--to", type=Path, default=MODEL)
    parser.add_argument("--figures", nargs="+", help="of these collections")
    options = parser.parse_args()
    if options.collect:
        np.savez(options.folder / f"{options.collect}.npz", **collect(options))
    if options.train:
        np.savez_compressed(
            options.to, **train(read(options.folder, options.train), options.steps, options.seed)
        )
    if options.figures:
        print("| clips | strokes | off by ms: median, mean | pocket: median, p90, worst "
              "| exact: off by | pocket |\n|---|---|---|---|---|---|")  # fmt: skip
        for name in options.figures:
            print(f"| {name} | {figures(read(options.folder, [name]), load_attacks(options.to))} |")
    return 0


if __name__ == "__main__":
    sys.exit(main())

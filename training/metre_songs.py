"""Stretches of a minute for learning where the one is: rendered, heard once, kept as heard.

    python -m training.metre_songs .run/training/metre --count 240 --first-seed 981000
    python -m training.metre_songs .run/training/metre_kept --count 90 --first-seed 991000 --kept
    python -m training.metre_songs .run/training/metre_shards --shards songs songs2 whole_trained

Those that teach are people's songs of a known metre and our own composer's, on every kit but
GMRockKit; those for figures are people's songs that nobody learnt from, on GMRockKit. `--shards`
only hears songs that other programs have rendered already.
"""

from __future__ import annotations

import argparse
import pickle
import sys
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from orchesis.listening.ear import Heard
from orchesis.listening.network_ear import MODELS, NetworkEar, normalised
from training import band as bands
from training import bank as banks
from training import human, varied
from training.bank import RATE
from training.composer import STYLES, Composer, Stretch
from training.dataset import HELD_OUT_STYLES
from training.human import HumanSong, SongBand, SongPicker, is_kept
from training.plain import PLAIN_STYLES, PlainRenderer
from training.render import Renderer
from training.scoring import clips_of, shards

SECONDS = 60.0
OWN_SHARE = 0.25
"""So many of those that teach are our own composer's."""

HELD_OUT = "gmrock"


@dataclass(frozen=True)
class Case:
    """A stretch as heard, and the truth: beats and downbeats in seconds, and what it is of."""

    name: str
    heard: Heard
    beats: tuple[float, ...]
    downbeats: tuple[float, ...]


def pool(home: Path, *, kept: bool) -> list[list[HumanSong]]:
    """People's songs of a known metre: those written by hand, and those of the generator."""
    songs = human.build(home / "human.pickle") + varied.build(home / "varied.pickle")
    mine = [song for song in songs if song.beats and is_kept(song.name) == kept]
    machine = [song for song in mine if song.name.startswith("mma-")]
    return [[song for song in mine if song not in machine], machine]


def make(
    rng: np.random.Generator,
    home: Path,
    ear: NetworkEar,
    *,
    kept: bool,
    count: int,
    by_hand: bool = False,
    stems: float = 0.0,
) -> list[Case]:
    """So many cases; `by_hand`: of songs alone that were written note by note.

    stems : the share of drums alone.
    """
    bank, notes = banks.build(home / "bank.pickle"), bands.build(home / "notes.pickle")
    others = banks.build_others(home / "others.pickle")
    sources = [source for source in bank if (source == HELD_OUT) == kept]
    pools = pool(home, kept=kept)
    cases = []
    for number in range(count):
        own = not kept and not by_hand and rng.random() < OWN_SHARE
        plain = kept or rng.random() < 0.5
        kind = PlainRenderer if plain else Renderer
        stretch: Stretch
        if own:
            styles = [s for s in (PLAIN_STYLES if plain else STYLES) if s not in HELD_OUT_STYLES]
            stretch, name = Composer(rng, tuple(styles)).compose(SECONDS), "own"
        else:
            songs = pools[number % 3 > 0 and not by_hand]
            song = songs[int(rng.integers(len(songs)))]
            stretch, name = SongPicker(rng, [song]).compose(SECONDS), song.name
        band = bands.Band(notes, rng) if own else SongBand(notes, rng)
        renderer = kind(bank, sources, band, rng, others, SECONDS)
        # Nothing is drawn where no stems are asked for: the sets of before come out as they did.
        clip = renderer.render(stretch, stem=stems > 0 and bool(rng.random() < stems))
        magnitudes = 10 ** clip.features.astype(np.float32) - 1e-6
        heard = ear.hear_features(normalised(magnitudes), RATE, lambda share: None)
        end = min(SECONDS, stretch.duration)
        cases.append(
            Case(
                name,
                slim(heard),
                tuple(t for t in stretch.beats if 0 <= t < end),
                tuple(t for t in stretch.downbeats if 0 <= t < end),
            )
        )
    return cases


def cases_of(shard: Path, ear: NetworkEar) -> list[Case]:
    """The songs of a shard that say where their beats are, as the ear hears them."""
    return [
        Case(
            shard.parent.name,
            slim(ear.hear_features(features, RATE, lambda share: None)),
            tuple(truth.beats),
            tuple(truth.downbeats),
        )
        for features, truth in clips_of(shard)
        if truth.beats
    ]


def store(cases: list[Case], path: Path) -> None:
    """Write cases, all of them or none."""
    partial = path.with_suffix(".part")
    partial.write_bytes(pickle.dumps(cases))
    partial.replace(path)


def slim(heard: Heard) -> Heard:
    """The same in fewer bytes: half the precision, and nothing that the bars do not rest on."""
    detail = heard.detail
    assert detail is not None
    nothing = np.zeros((0, len(detail.classes)), np.float16)
    masks = None if detail.masks is None else detail.masks.astype(np.float16)
    kept = replace(
        detail,
        onsets=nothing,
        loudness=nothing,
        features=detail.features.astype(np.float16),
        masks=masks,
        found=None,
        low=None if detail.low is None else detail.low.astype(np.float16),
    )
    return replace(heard, detail=kept)


def load(folder: Path) -> list[Case]:
    """All cases of a folder, by seeds."""
    return [
        case for file in sorted(folder.glob("*.pickle")) for case in pickle.loads(file.read_bytes())
    ]


def main() -> int:
    """Render and hear, ten cases a file; files that are there are left alone."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--count", type=int, default=240)
    parser.add_argument("--first-seed", type=int, default=981000)
    parser.add_argument("--by-hand", action="store_true", help="no songs of the generator")
    parser.add_argument("--stems", type=float, default=0.0, help="share of drums alone")
    parser.add_argument("--kept", action="store_true", help="those kept for figures, on GMRockKit")
    parser.add_argument(
        "--shards", nargs="+", default=[], help="sets beside the folder, to be heard only"
    )
    parser.add_argument("--models", type=Path, default=MODELS)
    options = parser.parse_args()
    options.folder.mkdir(parents=True, exist_ok=True)
    # Run as a program, this module has another name than when it is read.
    from training.metre_songs import cases_of, make, store

    ear = NetworkEar(options.models, judged=False)
    home = options.folder.parent
    for shard in (path for name in options.shards for path in shards(home / name)):
        path = options.folder / f"{shard.parent.name}-{shard.stem}.pickle"
        if not path.exists():
            store(cases_of(shard, ear), path)
            print(f"heard {shard.stem}", flush=True)
    if options.shards:
        return 0
    for number in range(options.count // 10):
        seed = options.first_seed + number
        path = options.folder / f"{seed}.pickle"
        if path.exists():
            continue
        rng = np.random.default_rng(seed)
        cases = make(
            rng,
            home,
            ear,
            kept=options.kept,
            count=10,
            by_hand=options.by_hand,
            stems=options.stems,
        )
        store(cases, path)
        print(f"songs {seed}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())

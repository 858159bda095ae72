"""Shards of clips: rendered by several processes, each from a seed of its own, kept on disk.

python -m training.dataset FOLDER --clips 600 --first-seed 0 --held-out gmrock [--only-held-out]
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from training import band as bands
from training import bank as banks
from training.composer import STYLES, Composer
from training.human import HumanSong, SongBand, SongPicker, is_kept
from training.human import build as build_songs
from training.modelled import ModelledKit
from training.modelled_band import ensemble
from training.plain import PLAIN_STYLES, NewKitRenderer, PlainRenderer
from training.render import SECONDS, Clip, Renderer

CLIPS_A_SHARD = 30
"""Of twenty seconds; of longer ones fewer."""
KITS_A_SHARD = 8
"""Modelled kits, drawn anew for each shard."""

HELD_OUT_STYLES = ("samba", "halfshuffle")


def make_shard(
    path: Path,
    seed: int,
    bank: banks.Bank,
    notes: bands.Notes,
    sources: list[str],
    styles: tuple[str, ...],
    stems: float,
    others: list[banks.Sound],
    seconds: float,
    kind: type[Renderer] = Renderer,
    songs: Sequence[HumanSong] = (),
    modelled: float = 0.0,
    made: float = 0.0,
    count: int | None = None,
) -> None:
    """Render one shard, unless it is there already; count : its clips, None: by their length."""
    if path.exists():
        return
    rng = np.random.default_rng(seed)
    composer = SongPicker(rng, songs) if songs else Composer(rng, styles)
    kits = [ModelledKit(rng).sounds() for _ in range(KITS_A_SHARD if modelled else 0)]
    players = ensemble(rng) if made else None
    band = (SongBand if songs else bands.Band)(notes, rng, players, made)
    renderer = kind(bank, sources, band, rng, others, seconds, kits, modelled)
    if count is None:
        count = round(CLIPS_A_SHARD * SECONDS / seconds)
    clips = [
        renderer.render(composer.compose(seconds), stem=rng.random() < stems) for _ in range(count)
    ]
    save_shard(path, clips)


def save_shard(path: Path, clips: Sequence[Clip]) -> None:
    """Write clips of one length as a shard, whole or not at all."""
    partial = path.with_suffix(".part.npz")
    np.savez(
        partial,
        features=np.stack([clip.features for clip in clips]),
        onsets=np.stack([clip.onsets for clip in clips]).astype(np.uint8),
        loudness=np.stack([clip.loudness for clip in clips]),
        beats=np.stack([clip.beats for clip in clips]).astype(np.uint8),
        masks=np.stack([np.round(255 * clip.masks) for clip in clips]).astype(np.uint8),
    )
    partial.replace(path)


def main() -> int:
    """Render shards."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--clips", type=int, default=600)
    parser.add_argument("--first-seed", type=int, default=0)
    parser.add_argument("--held-out", nargs="+", default=["gmrock"], help="sources, by name")
    parser.add_argument("--only-held-out", action="store_true")
    parser.add_argument("--styles", choices=("trained", "held-out"), default="trained")
    parser.add_argument("--plain", action="store_true", help="kits as they are: see plain.py")
    parser.add_argument("--bent", action="store_true", help="plain, but of drums bent and blended")
    parser.add_argument(
        "--songs", choices=("trained", "kept"), help="of people's songs, or those kept for figures"
    )
    parser.add_argument(
        "--modelled", type=float, default=0.0, help="share of kits by the acoustic model"
    )
    parser.add_argument(
        "--made-band", type=float, default=0.0, help="share of tuned instruments by synthesis"
    )
    parser.add_argument("--workers", type=int, default=1, help="how many share the seeds")
    parser.add_argument("--rank", type=int, default=0, help="which of them this one is")
    parser.add_argument("--stems", type=float, default=0.4)
    parser.add_argument("--seconds", type=float, default=SECONDS, help="a clip")
    options = parser.parse_args()
    options.folder.mkdir(parents=True, exist_ok=True)
    home = options.folder.parent
    bank, notes = banks.build(home / "bank.pickle"), bands.build(home / "notes.pickle")
    others = banks.build_others(home / "others.pickle")
    held = options.held_out
    if unknown := sorted(set(held) - set(bank)):
        parser.error(f"no source is called {', '.join(unknown)}: there are {', '.join(bank)}")
    sources = [s for s in bank if (s in held) == options.only_held_out]
    styles = (
        STYLES if options.only_held_out else tuple(s for s in STYLES if s not in HELD_OUT_STYLES)
    )
    if options.styles == "held-out":
        styles = HELD_OUT_STYLES
    if options.plain or options.bent:
        styles = tuple(s for s in PLAIN_STYLES if options.only_held_out or s in styles)
    songs = []
    if options.songs:
        kept = options.songs == "kept"
        songs = [s for s in build_songs(home / "human.pickle") if is_kept(s.name) == kept]
    kind = PlainRenderer if options.plain else Renderer
    if options.bent:
        kind = NewKitRenderer
    shard = round(CLIPS_A_SHARD * SECONDS / options.seconds)
    for number in range(options.rank, max(1, options.clips // shard), options.workers):
        seed = options.first_seed + number
        make_shard(
            options.folder / f"{seed:06}.npz",
            seed,
            bank,
            notes,
            sources,
            styles,
            options.stems,
            others,
            options.seconds,
            kind,
            songs,
            options.modelled,
            options.made_band,
        )
        print(f"shard {seed}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())

"""Whole songs that people wrote note by note, each once, as mixes: a shard a song.

    python -m training.whole .run/training/whole_kept --songs kept
    python -m training.whole .run/training/whole_trained --songs trained --kits fluid timgm csound millo1 millo2 freepats
    python -m training.rows .run/training whole_kept

Clips say little of what goes wrong on the way through a song: beats that slip after a break, bars
that are counted from another beat since. Songs made of a style's pattern are left out, and those
that say nothing of their beats.
"""  # noqa: E501

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path

from training import band as bands
from training import bank as banks
from training.dataset import make_shard
from training.human import HumanSong, is_kept
from training.human import build as build_songs
from training.plain import PLAIN_STYLES, PlainRenderer

LONGEST = 200.0
"""Seconds."""

FIRST_SEED = {True: 970000, False: 971000}
"""Of songs that are kept for figures, and of those that are learnt from."""

FEWEST_BEATS, FEWEST_BARS = 9, 3
FROM_PATTERNS = "mma-"


def whole_songs(songs: Sequence[HumanSong], *, kept: bool) -> list[HumanSong]:
    """Those written note by note that say where their beats are."""
    return [
        song
        for song in songs
        if not song.name.startswith(FROM_PATTERNS)
        and is_kept(song.name) == kept
        and len(song.beats) >= FEWEST_BEATS
        and len(song.downbeats) >= FEWEST_BARS
    ]


def main() -> int:
    """Render them; what is there already stays."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--songs", choices=("trained", "kept"), default="kept")
    parser.add_argument("--kits", nargs="+", default=["gmrock"], help="sources, by name")
    options = parser.parse_args()
    kept = options.songs == "kept"
    options.folder.mkdir(parents=True, exist_ok=True)
    home = options.folder.parent
    bank, notes = banks.build(home / "bank.pickle"), bands.build(home / "notes.pickle")
    others = banks.build_others(home / "others.pickle")
    if unknown := sorted(set(options.kits) - set(bank)):
        parser.error(f"no source is called {', '.join(unknown)}: there are {', '.join(bank)}")
    sources = [source for source in bank if source in options.kits]
    songs = whole_songs(build_songs(home / "human.pickle"), kept=kept)
    for number, song in enumerate(songs):
        make_shard(
            options.folder / f"{number:06}.npz",
            FIRST_SEED[kept] + number,
            bank,
            notes,
            sources,
            PLAIN_STYLES,
            0.0,
            others,
            float(min(LONGEST, song.duration - 1)),
            PlainRenderer,
            [song],
            count=1,
        )
        print(song.name, flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())

"""People's accompaniment styles over songs of changing shape, for learning where the one is.

`human.mma_songs` plays one groove over four chords, a bar each: there every bar line has a change
of chord, and nothing else has. Here chords last half a bar to four bars, sections have grooves of
their own of the same style, and the last bar of eight may hold one of its fills.
"""

from __future__ import annotations

import os
import pickle
import subprocess
import tempfile
from pathlib import Path

import numpy as np

from training.human import MMA, MMA_SECONDS, HumanSong, _grooves, song_of

BARS = 40
SECTION_BARS = 8
ASIDE = ("intro", "end", "fill", "break")
"""What the name of a groove holds that no section rests on."""

MAJOR = ("C", "Dm", "Em", "F", "G7", "Am", "Bb", "G")
MINOR = ("Am", "Dm", "Em", "F", "G", "C", "E7", "Bb")
CHORD_RHYTHMS = ((4.0, 0.1), (2.0, 0.3), (1.0, 0.4), (0.5, 0.2))
"""Bars that a chord lasts, and how often."""

BEATS = {"Time 2": 2, "Time 3": 3, "Time 4": 4, "Time 5": 5, "Time 6": 6}


def beats_a_bar(text: str) -> int:
    """Beats of a bar, by the style's own words; four where it says nothing."""
    for line in text.splitlines():
        words = " ".join(line.split()[:2])
        if words in BEATS:
            return BEATS[words]
    return 4


def chart(rng: np.random.Generator, grooves: list[str], beats: int) -> list[str]:
    """Bars of a song in the generator's own notation."""
    main = [g for g in grooves if not any(word in g.lower() for word in ASIDE)] or grooves[:1]
    fills = [g for g in grooves if "fill" in g.lower()]
    chords = MAJOR if rng.random() < 0.6 else MINOR
    lasts = [last for last, _ in CHORD_RHYTHMS]
    often = [share for _, share in CHORD_RHYTHMS]
    lines: list[str] = []
    kinds = []
    for _ in range(2):
        groove = str(rng.choice(main[:8]))
        length = float(rng.choice(lasts, p=often))
        kinds.append((groove, length, [str(c) for c in rng.choice(chords, size=16)]))
    number = 1
    for section in range(BARS // SECTION_BARS):
        groove, length, names = kinds[int(rng.random() < 0.4) if section else 0]
        lines.append(f"Groove {groove}")
        for bar in range(SECTION_BARS):
            if bar == SECTION_BARS - 1 and fills and rng.random() < 0.6:
                lines.append(f"Groove {rng.choice(fills)}")
            if length >= 1.0:
                lines.append(f"{number} {names[int(bar / length) % 4]}")
            else:
                first, second = names[2 * bar % 8], names[(2 * bar + 1) % 8]
                half = (beats + 1) // 2
                rest = ["/"] * (beats - half - 1)
                lines.append(" ".join([str(number), first, *["/"] * (half - 1), second, *rest]))
            number += 1
    return lines


def build(path: Path, seeds: tuple[int, ...] = (11, 12)) -> list[HumanSong]:
    """Songs in every style of the generator, one of each seed; read once and kept at `path`.

    Named like those of `human.mma_songs`, so that a style that is kept for figures is kept here.
    """
    if path.exists():
        return pickle.loads(path.read_bytes())
    songs = []
    for seed in seeds:
        rng = np.random.default_rng(seed)
        for file in sorted(MMA.rglob("*.mma")):
            made = played(rng, file)
            song = song_of(f"mma-{file.parent.name}-{file.stem}", made) if made else None
            if song is not None and song.beats:
                songs.append(song)
    path.write_bytes(pickle.dumps(songs))
    return songs


def played(rng: np.random.Generator, file: Path) -> bytes | None:
    """A song in one style as MIDI; None where the generator refuses it."""
    grooves = _grooves(file)
    if not grooves:
        return None
    bars = chart(rng, grooves, beats_a_bar(file.read_text(errors="replace")))
    head = [f"Transpose {int(rng.integers(-5, 6))}", f"Use {file.relative_to(MMA).with_suffix('')}"]
    with tempfile.TemporaryDirectory() as name:
        song = Path(name) / "song.mma"
        song.write_text("\n".join([*head, *bars]) + "\n")
        done = subprocess.run(
            ["mma", song.name], cwd=name, capture_output=True, env={**os.environ, "HOME": name},
            check=False, timeout=MMA_SECONDS,
        )  # fmt: skip
        made = song.with_suffix(".mid")
        return made.read_bytes() if done.returncode == 0 and made.exists() else None

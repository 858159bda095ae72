"""What a new listening run heard of a song that has a chart, until it is taken or left."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from orchesis.edits.between import edits_between, same_grid
from orchesis.edits.edit import edit_to_json
from orchesis.edits.merge import merged
from orchesis.edits.relisten import BarProposal
from orchesis.errors import Missing
from orchesis.music.json import loads
from orchesis.music.values import Transcription
from studio.artefacts import have
from studio.models import Song
from studio.values.decided import decided_of
from studio.values.stored import load_transcription


def heard_path(song: Song) -> Path:
    """Where it is kept."""
    return song.folder / "heard-again.json"


def read_heard(song: Song) -> Transcription:
    """What was heard. Raises Missing where nothing waits to be looked at."""
    path = heard_path(song)
    if not have(path):
        raise Missing("Nothing of this song was heard anew that waits to be looked at.")
    return loads(path.read_text(encoding="utf-8"))


@dataclass(frozen=True)
class Changes:
    """What would be otherwise: of the song as a whole, in words, and of bars on the same grid."""

    facts: tuple[str, ...]
    bars: tuple[BarProposal, ...]

    @property
    def is_any(self) -> bool:
        """Whether anything would be."""
        return bool(self.facts or self.bars)

    @property
    def words(self) -> str:
        """In a few words."""
        count = len(self.bars)
        bars = [f"{count} bar{'' if count == 1 else 's'} would be otherwise"] if count else []
        return "; ".join([*self.facts, *bars])


def what_would_change(song: Song, heard: Transcription) -> Changes:
    """What taking it would change; what people have decided stays."""
    now = load_transcription(song)
    then = merged(now, heard, decided_of(song))
    facts = []
    if round(now.tempo_bpm, 1) != round(then.tempo_bpm, 1):
        facts.append(f"{now.tempo_bpm:.1f} beats a minute would be {then.tempo_bpm:.1f}")
    if now.meter != then.meter:
        facts.append(f"{now.meter} would be {then.meter}")
    if len(now.bars) != len(then.bars):
        facts.append(f"{len(now.bars)} bars would be {len(then.bars)}")
    elif not same_grid(now, then):
        facts.append("the bar lines would be elsewhere")
    before, after = ([(s.label, s.first_bar) for s in song.sections] for song in (now, then))
    if before != after:
        facts.append(f"{len(before)} sections would be {len(after)}, or begin elsewhere")
    bars = edits_between(now, then) if same_grid(now, then) else ()
    return Changes(tuple(facts), bars)


def heard_values(song: Song) -> dict[str, Any]:
    """The same for the screen. Raises Missing where nothing waits to be looked at."""
    changes = what_would_change(song, read_heard(song))
    return {
        "facts": list(changes.facts),
        "bars": [
            {"bar": bar.bar, "edits": [edit_to_json(edit) for edit in bar.edits]}
            for bar in changes.bars
        ],
    }

"""Putting what a listening run gave into rows, merged into what people have decided."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from django.db import transaction

from orchesis.edits.merge import merged
from orchesis.pipeline import Result
from studio.actions.action import Action, Before, Held, Outcome, in_bars, log_change, perform
from studio.actions.locking import lock_song, write_bars
from studio.models import Song
from studio.values.decided import BY_EAR, decided_of

OURS = ("confirmed", "decided")
"""Values of the header that the studio adds to those of transcription.json."""


@dataclass(frozen=True)
class HearAgain(Action):
    """A song that had been heard before, heard anew: a step of its owner's, which can be undone."""

    result: Result

    def bars(self, song: Song) -> None:
        """All of the song: the grid may be another."""
        return

    def outcome(self, held: Held) -> Outcome | None:
        """What was heard, merged into what people decided, also while it was being listened to."""
        score = merged(held.score(), self.result.transcription, decided_of(held.song))
        data, hits = in_bars(score)
        known = {number: row.hits for number, row in held.rows.items()}
        changed = sum(
            known.get(number) != hits.get(number) for number in known.keys() | hits.keys()
        )
        ours = {name: held.header[name] for name in OURS if held.header.get(name)}
        header = {**held.header, **data, **ours}
        if not changed and header == held.header:
            return None
        return Outcome(f"{BY_EAR}: {_counted(changed)}", header=header, hits=hits, score=score)

    def log(self, held: Held, outcome: Outcome, before: Before) -> None:
        """One step of the owner's."""
        log_change(held.song, held.author, outcome, before)


def store_transcription(
    song: Song, result: Result, before: Callable[[], None] = lambda: None
) -> str:
    """Store what a listening run gave, all or nothing; see `HearAgain`.

    before : called inside the transaction; what it raises leaves everything as it was.

    Returns what happened to a song that had been heard before, in words.
    """
    with transaction.atomic():
        before()
        locked, rows = lock_song(song)
        locked.loudness = list(result.loudness)
        locked.duration = result.transcription.duration
        locked.save(update_fields=["loudness", "duration"])
        if locked.header is not None:
            done = perform(locked, locked.owner, HearAgain(result))
            return done.words if done.words.startswith(BY_EAR) else f"{BY_EAR}: {_counted(0)}"
        score = result.transcription
        header, hits = in_bars(score)
        write_bars(locked, rows, hits)
        locked.header = header
        locked.tempo_bpm, locked.meter = score.tempo_bpm, str(score.meter)
        locked.revision += 1
        locked.save(update_fields=["header", "tempo_bpm", "meter", "revision", "updated_at"])
        return ""


def _counted(bars: int) -> str:
    if bars == 0:
        return "no bar changed"
    return f"{bars} bars changed" if bars > 1 else "one bar changed"

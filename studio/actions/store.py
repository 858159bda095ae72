"""Putting what a listening run gave into rows, merged into what people have decided."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from django.contrib.auth.models import User
from django.db import transaction

from orchesis.edits.merge import merged
from orchesis.music.json import dumps, loads
from orchesis.music.values import Transcription
from orchesis.pipeline import Result
from studio import artefacts
from studio.actions.action import (
    Action,
    Before,
    Done,
    Held,
    Outcome,
    in_bars,
    log_change,
    perform,
)
from studio.actions.locking import lock_song, write_bars
from studio.models import Song, SongBar
from studio.storage import write_whole
from studio.values.decided import BY_EAR, decided_of
from studio.values.heard import heard_path, read_heard, what_would_change

OURS = ("confirmed", "decided")
"""Values of the header that the studio adds to those of transcription.json."""


@dataclass(frozen=True)
class HearAgain(Action):
    """A song that had been heard before, heard anew: a step like any other, which can be undone."""

    heard: Transcription

    def bars(self, song: Song) -> None:
        """All of the song: the grid may be another."""
        return

    def outcome(self, held: Held) -> Outcome | None:
        """What was heard, merged into what people decided, also while it was being listened to."""
        score = merged(held.score(), self.heard, decided_of(held.song))
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
        """One step of whoever took it."""
        log_change(held.song, held.author, outcome, before)


def offer_heard(song: Song, result: Result, before: Callable[[], None] = lambda: None) -> str:
    """Keep what a run heard of a song that has a chart, until somebody has looked at it.

    Returns in words whether anything would be otherwise. Arguments as `store_transcription`.
    """
    with transaction.atomic():
        before()
        Song.objects.filter(pk=song.pk).update(
            loudness=list(result.loudness), duration=result.transcription.duration
        )
        song.refresh_from_db()
        # As it is stored: to the tenth of a millisecond.
        text = dumps(result.transcription)
        changes = what_would_change(song, loads(text))
    if not changes.is_any:
        artefacts.withdraw(heard_path(song))
        return f"{BY_EAR}: nothing would be otherwise"
    write_whole(heard_path(song), text.encode())
    return f"{BY_EAR}: {changes.words}. Look at it before it is taken"


def take_heard(song: Song, author: User) -> Done:
    """Take what was heard anew, as a step that can be undone. Raises Missing for nothing."""
    done = perform(song, author, HearAgain(read_heard(song)))
    forget_heard(song)
    return done


def forget_heard(song: Song) -> None:
    """Leave the song as it is: what was heard anew is not offered any more."""
    artefacts.withdraw(heard_path(song))


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
            done = perform(locked, locked.owner, HearAgain(result.transcription))
            return done.words if done.words.startswith(BY_EAR) else f"{BY_EAR}: {_counted(0)}"
        write_first(locked, rows, result.transcription)
        return ""


def write_first(locked: Song, rows: dict[int, SongBar], score: Transcription) -> None:
    """Write the first transcription of a song, which is locked, into its rows."""
    header, hits = in_bars(score)
    write_bars(locked, rows, hits)
    locked.header = header
    locked.tempo_bpm, locked.meter = score.tempo_bpm, str(score.meter)
    locked.revision += 1
    locked.save(update_fields=["header", "tempo_bpm", "meter", "revision", "updated_at"])


def _counted(bars: int) -> str:
    if bars == 0:
        return "no bar changed"
    return f"{bars} bars changed" if bars > 1 else "one bar changed"

"""Changes of the whole song: reading, grid, form. Each can be taken back, in turn with edits."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction

from orchesis.music.json import to_json
from orchesis.music.values import Transcription
from studio.actions.store import load_transcription
from studio.models import EditEntry, Song, SongBar, SongChange

MOST_KEPT = 40
"""Changes of a song that are kept for undo."""


@dataclass(frozen=True)
class Changed:
    """What a change did, in words."""

    song: Song
    words: str
    score: Transcription | None = None


def change_song(
    song: Song, author: User, words: str, change: Callable[[Transcription], Transcription]
) -> Changed:
    """Apply a change to the whole song and log it. What `change` raises leaves all as it was."""
    with transaction.atomic():
        locked = Song.objects.select_for_update().prefetch_related("bars").get(pk=song.pk)
        old = load_transcription(locked)
        new = change(old)
        moved = new.hits != old.hits or new.bars != old.bars
        before, after = _state(locked, old, moved), _values(new, locked, moved)
        _restore(locked, after)
        forget_redo(locked, author)
        SongChange.objects.create(
            song=locked, author=author, words=words[:200], before=before, after=after
        )
        changes = SongChange.objects.filter(song=locked)
        too_old = list(changes.order_by("-id").values_list("pk", flat=True)[MOST_KEPT:])
        changes.filter(pk__in=too_old).delete()
        return Changed(locked, words, new)


SHOWN = {"tempo": "Tempo", "meter": "Metre", "first beat": "First beat", "feel": "Feel"}
"""The findings as the screen calls them."""


def confirm_finding(song: Song, author: User, finding: str, confirmed: bool) -> Changed:
    """Mark a finding about the whole song as settled by the user, or not."""
    with transaction.atomic():
        locked = Song.objects.select_for_update().get(pk=song.pk)
        assert locked.header is not None
        names = set(locked.header.get("confirmed", []))
        names = names | {finding} if confirmed else names - {finding}
        locked.header = {**locked.header, "confirmed": sorted(names)}
        locked.revision += 1
        locked.save(update_fields=["header", "revision", "updated_at"])
        return Changed(locked, f"{SHOWN[finding]} {'confirmed' if confirmed else 'open again'}")


def forget_redo(song: Song, author: User) -> None:
    """Something new was done: what was taken back cannot be put back any more.

    Only the rows that change are written: those of whole songs are long.
    """
    for kind in (EditEntry, SongChange):
        kind.objects.filter(song=song, author=author, redoable=True).update(redoable=False)


def undo_change(song: Song, entry: SongChange) -> Changed:
    """Take a change back. To be called inside a transaction that holds the song's row."""
    _restore(song, entry.before)
    entry.undone = entry.redoable = True
    entry.save()
    return Changed(song, f"Undone: {entry.words}")


def redo_change(song: Song, entry: SongChange) -> Changed:
    """Put a change back, under the same condition."""
    _restore(song, entry.after)
    entry.undone = entry.redoable = False
    entry.save()
    return Changed(song, f"Redone: {entry.words}")


def _state(song: Song, score: Transcription, with_hits: bool) -> dict[str, Any]:
    rows = {row.number: row.hits for row in song.bars.all()} if with_hits else None
    return {"header": song.header, "hits": _listed(rows)}


def _values(score: Transcription, song: Song, with_hits: bool) -> dict[str, Any]:
    assert song.header is not None
    data = to_json(score)
    rows: dict[int, list[Any]] = {bar["number"]: [] for bar in data["bars"]}
    for hit in data.pop("hits"):
        rows[hit["bar"]].append(hit)
    header = {**song.header, **data}
    return {"header": header, "hits": _listed(rows) if with_hits else None}


def _listed(rows: dict[int, list[Any]] | None) -> list[list[Any]] | None:
    """JSON objects have text keys: bars are listed as pairs instead."""
    return None if rows is None else [[number, hits] for number, hits in sorted(rows.items())]


def _restore(song: Song, state: dict[str, Any]) -> None:
    song.header = state["header"]
    song.tempo_bpm = state["header"]["tempo_bpm"]
    song.meter = "/".join(map(str, state["header"]["meter"]))
    song.revision += 1
    if state["hits"] is not None:
        revisions = dict(song.bars.values_list("number", "revision"))
        song.bars.all().delete()
        SongBar.objects.bulk_create(
            SongBar(song=song, number=number, hits=hits, revision=revisions.get(number, 0) + 1)
            for number, hits in state["hits"]
        )
    song.save()

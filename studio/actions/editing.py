"""Edits of a song's bars: apply, undo, redo. Every one is logged and can be taken back."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import QuerySet

from orchesis.edits.edit import (
    Edit,
    EditConflict,
    apply_to_bar,
    edit_from_json,
    edit_to_json,
    explain,
    inverse,
)
from orchesis.errors import InvalidTranscription
from orchesis.music.json import hit_from_json, hit_to_json
from orchesis.music.values import Meter
from studio.actions.changing import Changed, redo_change, undo_change
from studio.actions.runs import NotNow
from studio.models import EditEntry, Song, SongBar, SongChange


@dataclass(frozen=True)
class Edited:
    """What an edit did: the bar as it is now, and the edit in words."""

    song: Song
    bar: SongBar
    words: str


def apply_edit(song: Song, author: User, client_id: uuid.UUID, edit: Edit) -> Edited:
    """Apply an edit and log it. An edit that was stored before is not applied twice.

    Raises EditConflict when the bar no longer holds what the edit expects.
    """
    with transaction.atomic():
        locked, bar = _lock(song, edit.bar)
        known = EditEntry.objects.filter(song=song, client_id=client_id).first()
        if known is not None:
            return Edited(locked, bar, known.words)
        words = explain(edit, _meter(locked))
        _write(locked, bar, edit)
        EditEntry.objects.filter(song=song, author=author, redoable=True).update(redoable=False)
        SongChange.objects.filter(song=song, author=author, redoable=True).update(redoable=False)
        EditEntry.objects.create(
            song=song,
            author=author,
            client_id=client_id,
            bar_number=edit.bar,
            edit=edit_to_json(edit),
            words=words[:200],
        )
        return Edited(locked, bar, words)


def undo(song: Song, author: User) -> Edited | Changed:
    """Take back the author's last edit, or change of the whole song, that stands."""
    with transaction.atomic():
        whole = Song.objects.select_for_update().get(pk=song.pk)
        entry = _entries(song, author).filter(undone=False).last()
        change = SongChange.objects.filter(song=song, author=author, undone=False).last()
        if change and (entry is None or change.created_at > entry.created_at):
            return undo_change(whole, change)
        if entry is None:
            raise NotNow("there is nothing to undo")
        edit = inverse(edit_from_json(entry.edit))
        locked, bar = _lock(song, edit.bar)
        _write(locked, bar, edit)
        entry.undone = entry.redoable = True
        entry.save()
        return Edited(locked, bar, f"Undone: {entry.words}")


def redo(song: Song, author: User) -> Edited | Changed:
    """Put back what the author took back last."""
    with transaction.atomic():
        whole = Song.objects.select_for_update().get(pk=song.pk)
        entry = _entries(song, author).filter(undone=True, redoable=True).first()
        change = SongChange.objects.filter(
            song=song, author=author, undone=True, redoable=True
        ).first()
        if change and (entry is None or change.created_at < entry.created_at):
            return redo_change(whole, change)
        if entry is None:
            raise NotNow("there is nothing to redo")
        edit = edit_from_json(entry.edit)
        locked, bar = _lock(song, edit.bar)
        _write(locked, bar, edit)
        entry.undone = entry.redoable = False
        entry.save()
        return Edited(locked, bar, f"Redone: {entry.words}")


def can_undo(song: Song, author: User) -> bool:
    """True when the author has an edit that stands."""
    mine = {"song": song, "author": author, "undone": False}
    return EditEntry.objects.filter(**mine).exists() or SongChange.objects.filter(**mine).exists()


def can_redo(song: Song, author: User) -> bool:
    """True when the author has taken back an edit and made none since."""
    mine = {"song": song, "author": author, "redoable": True}
    return EditEntry.objects.filter(**mine).exists() or SongChange.objects.filter(**mine).exists()


def _entries(song: Song, author: User) -> QuerySet[EditEntry]:
    return EditEntry.objects.select_for_update().filter(song=song, author=author)


def _meter(song: Song) -> Meter:
    assert song.header is not None
    return Meter(*song.header["meter"])


def _lock(song: Song, number: int) -> tuple[Song, SongBar]:
    """Lock the song's row, then the bar's: always in this order, so that no two wait crosswise."""
    locked = Song.objects.select_for_update().get(pk=song.pk)
    bar = SongBar.objects.select_for_update().filter(song=locked, number=number).first()
    if locked.header is None or bar is None:
        raise InvalidTranscription(f"this song has no bar {number}")
    return locked, bar


def _write(song: Song, bar: SongBar, edit: Edit) -> None:
    hits = apply_to_bar([hit_from_json(hit) for hit in bar.hits], edit)
    bar.hits = [hit_to_json(hit) for hit in hits]
    bar.revision += 1
    bar.save()
    song.revision += 1
    song.save(update_fields=["revision", "updated_at"])


__all__ = ["EditConflict", "Edited", "apply_edit", "can_redo", "can_undo", "redo", "undo"]

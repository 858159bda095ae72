"""Edits of a song's bars: apply, undo, redo. Every one is logged and can be taken back."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import QuerySet

from orchesis.edits.edit import EditConflict
from orchesis.edits.gesture import (
    Gesture,
    apply_gesture,
    check_places,
    explain_gesture,
    gesture_from_json,
    gesture_to_json,
    inverted,
)
from orchesis.errors import InvalidTranscription
from orchesis.music.json import bar_from_json, hit_from_json, hit_to_json
from orchesis.music.values import Bar, Meter
from studio.actions.changing import Changed, forget_redo, redo_change, undo_change
from studio.models import EditEntry, Song, SongBar, SongChange
from studio.queueing import NotNow


@dataclass(frozen=True)
class Edited:
    """What a gesture did: its bars as they are now, in order, and the gesture in words."""

    song: Song
    bars: tuple[SongBar, ...]
    words: str


def apply_edits(song: Song, author: User, client_id: uuid.UUID, gesture: Gesture) -> Edited:
    """Apply a gesture and log it, all or nothing. One that was stored is not applied twice.

    Raises EditConflict when a bar no longer holds what an edit expects, or when another gesture has
    been stored under this id; InvalidTranscription for a note that cannot be meant.
    """
    with transaction.atomic():
        locked, bars = _lock(song, gesture.bars)
        known = EditEntry.objects.filter(song=song, client_id=client_id).first()
        if known is not None:
            if known.author_id != author.pk or gesture_from_json(known.edit) != gesture:
                raise EditConflict("another edit was stored under this id: send it under a new one")
            return Edited(locked, tuple(bars.values()), known.words)
        check_places(gesture, _homes(locked, gesture))
        words = explain_gesture(gesture, _meter(locked))
        _write(locked, bars, gesture)
        forget_redo(song, author)
        EditEntry.objects.create(
            song=song,
            author=author,
            client_id=client_id,
            bar_number=gesture.bars[0],
            edit=gesture_to_json(gesture),
            words=words,
        )
        return Edited(locked, tuple(bars.values()), words)


def undo(song: Song, author: User) -> Edited | Changed:
    """Take back the author's last edit, or change of the whole song, that stands."""
    with transaction.atomic():
        whole = Song.objects.select_for_update().get(pk=song.pk)
        entry = _entries(song, author).filter(undone=False).last()
        changes = SongChange.objects.filter(song=song, author=author, closed=False)
        change = changes.filter(undone=False).last()
        if change and (entry is None or change.created_at > entry.created_at):
            return undo_change(whole, change)
        if entry is None:
            raise NotNow("there is nothing to undo")
        locked, bars = _travel(song, inverted(gesture_from_json(entry.edit)))
        entry.undone = entry.redoable = True
        entry.save()
        return Edited(locked, bars, f"Undone: {entry.words}")


def redo(song: Song, author: User) -> Edited | Changed:
    """Put back what the author took back last."""
    with transaction.atomic():
        whole = Song.objects.select_for_update().get(pk=song.pk)
        entry = _entries(song, author).filter(undone=True, redoable=True).first()
        changes = SongChange.objects.filter(song=song, author=author, closed=False)
        change = changes.filter(undone=True, redoable=True).first()
        if change and (entry is None or change.created_at < entry.created_at):
            return redo_change(whole, change)
        if entry is None:
            raise NotNow("there is nothing to redo")
        locked, bars = _travel(song, gesture_from_json(entry.edit))
        entry.undone = entry.redoable = False
        entry.save()
        return Edited(locked, bars, f"Redone: {entry.words}")


def _entries(song: Song, author: User) -> QuerySet[EditEntry]:
    return EditEntry.objects.select_for_update().filter(song=song, author=author)


def _homes(song: Song, gesture: Gesture) -> dict[int, Bar]:
    """The bars of the grid that a gesture changes."""
    assert song.header is not None
    touched = set(gesture.bars)
    homes = (bar_from_json(bar) for bar in song.header["bars"] if bar["number"] in touched)
    return {bar.number: bar for bar in homes}


def _meter(song: Song) -> Meter:
    assert song.header is not None
    return Meter(*song.header["meter"])


def _travel(song: Song, gesture: Gesture) -> tuple[Song, tuple[SongBar, ...]]:
    locked, bars = _lock(song, gesture.bars)
    _write(locked, bars, gesture)
    return locked, tuple(bars.values())


def _lock(song: Song, numbers: tuple[int, ...]) -> tuple[Song, dict[int, SongBar]]:
    """Lock the song's row, then the bars': always in this order, so that no two wait crosswise."""
    locked = Song.objects.select_for_update().get(pk=song.pk)
    rows = SongBar.objects.select_for_update().filter(song=locked, number__in=numbers)
    bars = {row.number: row for row in rows}
    missing = next((number for number in numbers if number not in bars), None)
    if locked.header is None or missing is not None:
        raise InvalidTranscription(f"this song has no bar {missing}")
    return locked, bars


def _write(song: Song, bars: dict[int, SongBar], gesture: Gesture) -> None:
    before = {number: [hit_from_json(hit) for hit in row.hits] for number, row in bars.items()}
    for number, hits in apply_gesture(before, gesture).items():
        row = bars[number]
        row.hits = [hit_to_json(hit) for hit in hits]
        row.groove = None
        row.revision += 1
    SongBar.objects.bulk_update(bars.values(), ["hits", "groove", "revision"])
    song.revision += 1
    song.save(update_fields=["revision", "updated_at"])


__all__ = ["EditConflict", "Edited", "apply_edits", "redo", "undo"]

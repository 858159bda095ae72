"""Edits of a song's bars: apply, undo, redo. Every one is logged and can be taken back."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from django.contrib.auth.models import User
from django.db import transaction

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
from orchesis.music.json import bar_from_json, hit_from_json, hit_to_json
from orchesis.music.values import Bar, Meter
from studio.actions.changing import Changed, forget_redo, redo_change, undo_change
from studio.actions.locking import count_up, lock_bars, lock_song
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
        bars = lock_bars(song, gesture.bars)
        # Read while the bars are held: the grid under them stays.
        fresh = Song.objects.get(pk=song.pk)
        known = EditEntry.objects.filter(song=song, client_id=client_id).first()
        if known is not None:
            if known.author_id != author.pk or gesture_from_json(known.edit) != gesture:
                raise EditConflict("another edit was stored under this id: send it under a new one")
            return Edited(fresh, tuple(bars.values()), known.words)
        check_places(gesture, _homes(fresh, gesture))
        words = explain_gesture(gesture, _meter(fresh))
        _write(fresh, bars, gesture)
        forget_redo(song, author)
        EditEntry.objects.create(
            song=song,
            author=author,
            client_id=client_id,
            bar_number=gesture.bars[0],
            edit=gesture_to_json(gesture),
            words=words,
        )
        return Edited(fresh, tuple(bars.values()), words)


Step = EditEntry | SongChange


def undo(song: Song, author: User) -> Edited | Changed:
    """Take back the author's last edit, or change of the whole song, that stands.

    Raises NotNow where there is none, EditConflict where others have built on it.
    """
    return _travel(song, author, back=True)


def redo(song: Song, author: User) -> Edited | Changed:
    """Put back what the author took back last. Raises as `undo`."""
    return _travel(song, author, back=False)


def _travel(song: Song, author: User, *, back: bool) -> Edited | Changed:
    """One step through the author's history."""
    for _ in range(MOST_TRIES):
        step = _next_step(song, author, back=back)
        if step is None:
            raise NotNow(f"there is nothing to {'undo' if back else 'redo'}")
        with transaction.atomic():
            done = _taken(song, step, back=back)
        if done is not None:
            return done
    raise NotNow("this song is being changed just now: try again")


MOST_TRIES = 5


def _next_step(song: Song, author: User, *, back: bool) -> Step | None:
    """What comes next, of edits and changes of the whole song together."""
    entries = EditEntry.objects.filter(song=song, author=author)
    changes = SongChange.objects.filter(song=song, author=author)
    steps: list[Step | None] = (
        [entries.filter(undone=False).last(), changes.filter(undone=False).last()]
        if back
        else [
            entries.filter(undone=True, redoable=True).first(),
            changes.filter(undone=True, redoable=True).first(),
        ]
    )
    there = [step for step in steps if step is not None]
    latest_first = sorted(there, key=lambda step: step.created_at, reverse=back)
    return latest_first[0] if latest_first else None


def _taken(song: Song, step: Step, *, back: bool) -> Edited | Changed | None:
    """Take a step within a transaction; None where another request of the author took it first."""
    if isinstance(step, SongChange):
        whole, bars = lock_song(song)
        if not SongChange.objects.filter(pk=step.pk, undone=not back).exists():
            return None
        return (undo_change if back else redo_change)(whole, bars, step)
    gesture = gesture_from_json(step.edit)
    gesture = inverted(gesture) if back else gesture
    held = lock_bars(song, gesture.bars)
    entry = EditEntry.objects.select_for_update().filter(pk=step.pk, undone=not back).first()
    if entry is None:
        return None
    _write(song, held, gesture)
    entry.undone = entry.redoable = back
    entry.save(update_fields=["undone", "redoable"])
    words = f"{'Undone' if back else 'Redone'}: {entry.words}"
    return Edited(song, tuple(held.values()), words)


def _homes(song: Song, gesture: Gesture) -> dict[int, Bar]:
    """The bars of the grid that a gesture changes."""
    assert song.header is not None
    touched = set(gesture.bars)
    homes = (bar_from_json(bar) for bar in song.header["bars"] if bar["number"] in touched)
    return {bar.number: bar for bar in homes}


def _meter(song: Song) -> Meter:
    assert song.header is not None
    return Meter(*song.header["meter"])


def _write(song: Song, bars: dict[int, SongBar], gesture: Gesture) -> None:
    """Apply a gesture to bars that are held, then count the song up."""
    before = {number: [hit_from_json(hit) for hit in row.hits] for number, row in bars.items()}
    for number, hits in apply_gesture(before, gesture).items():
        row = bars[number]
        row.hits = [hit_to_json(hit) for hit in hits]
        row.groove = None
        row.revision += 1
    SongBar.objects.bulk_update(bars.values(), ["hits", "groove", "revision"])
    count_up(song)


__all__ = ["EditConflict", "Edited", "apply_edits", "redo", "undo"]

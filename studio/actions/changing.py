"""Changes of the whole song: reading, grid, form, findings confirmed. Each can be taken back.

A change is kept as the values that it changed. Taking it back gives those values back and leaves
alone whatever else was decided since; where its own values have changed since, it is refused.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction

from orchesis.edits.gesture import BarConflict
from orchesis.edits.threeway import MISSING, Clash, merged_value
from orchesis.music.json import to_json
from orchesis.music.values import Transcription
from studio.actions.locking import lock_song, write_bars
from studio.models import EditEntry, Song, SongBar, SongChange
from studio.queueing import NotNow
from studio.values.decided import changed_keys, decided_parts
from studio.values.stored import load_transcription

MOST_KEPT = 40
"""Changes of a song that are kept for undo."""

Header = dict[str, Any]


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
        locked, rows = lock_song(song)
        old = load_transcription(locked)
        new = change(old)
        moved = new.hits != old.hits or new.bars != old.bars
        before = {number: row.hits for number, row in rows.items()} if moved else None
        data = to_json(new)
        after: dict[int, list[Any]] | None = {bar["number"]: [] for bar in data["bars"]}
        for hit in data.pop("hits"):
            assert after is not None
            after[hit["bar"]].append(hit)
        assert locked.header is not None
        header = {**locked.header, **data}
        parts = decided_parts(locked.header, header)
        if parts:
            header["decided"] = sorted(parts | set(header.get("decided", [])))
        record_change(locked, rows, author, words, header, before, after if moved else None)
        return Changed(locked, words, new)


SHOWN = {"tempo": "Tempo", "meter": "Metre", "first beat": "First beat", "feel": "Feel"}
"""The findings as the screen calls them."""


def confirm_finding(song: Song, author: User, finding: str, confirmed: bool) -> Changed:
    """Mark a finding about the whole song as settled by the user, or not; a step like any other."""
    with transaction.atomic():
        locked = Song.objects.select_for_update().get(pk=song.pk)
        assert locked.header is not None
        names = set(locked.header.get("confirmed", []))
        names = names | {finding} if confirmed else names - {finding}
        header = {**locked.header, "confirmed": sorted(names)}
        words = f"{SHOWN[finding]} {'confirmed' if confirmed else 'open again'}"
        if header == locked.header:
            return Changed(locked, words)
        record_change(locked, {}, author, words, header, None, None)
        return Changed(locked, words)


def record_change(
    song: Song,
    rows: dict[int, SongBar],
    author: User,
    words: str,
    header: Header,
    before: dict[int, list[Any]] | None,
    after: dict[int, list[Any]] | None,
) -> None:
    """Store a change of a song that is held, and log what it changed.

    rows : its bars. header : as it shall be. before, after : the hits of each bar, if they changed.
    """
    assert song.header is not None
    keys = changed_keys(song.header, header)
    old = {name: song.header[name] for name in keys if name in song.header}
    new = {name: header[name] for name in keys if name in header}
    _store(song, rows, header, after)
    forget_redo(song, author)
    SongChange.objects.create(
        song=song,
        author=author,
        words=words[:200],
        before={"header": old, "hits": _listed(before)},
        after={"header": new, "hits": _listed(after)},
    )
    changes = SongChange.objects.filter(song=song)
    too_old = list(changes.order_by("-id").values_list("pk", flat=True)[MOST_KEPT:])
    changes.filter(pk__in=too_old).delete()


def forget_redo(song: Song, author: User) -> None:
    """Something new was done: what was taken back cannot be put back any more.

    Only the rows that change are written: those of whole songs are long.
    """
    for kind in (EditEntry, SongChange):
        kind.objects.filter(song=song, author=author, redoable=True).update(redoable=False)


def undo_change(song: Song, rows: dict[int, SongBar], entry: SongChange) -> Changed:
    """Take a change back. To be called inside a transaction that holds the whole song."""
    _travel(song, rows, entry.after, entry.before)
    entry.undone = entry.redoable = True
    entry.save(update_fields=["undone", "redoable"])
    return Changed(song, f"Undone: {entry.words}")


def redo_change(song: Song, rows: dict[int, SongBar], entry: SongChange) -> Changed:
    """Put a change back, under the same condition."""
    _travel(song, rows, entry.before, entry.after)
    entry.undone = entry.redoable = False
    entry.save(update_fields=["undone", "redoable"])
    return Changed(song, f"Redone: {entry.words}")


def _travel(
    song: Song, rows: dict[int, SongBar], expected: dict[str, Any], target: dict[str, Any]
) -> None:
    """Bring the values that a change changed from `expected` to `target`, and no others.

    Raises NotNow where one of them, or a bar that was written anew, is not as expected any more.
    """
    assert song.header is not None
    header = dict(song.header)
    for name in changed_keys(expected["header"], target["header"]):
        try:
            states = (header, expected["header"], target["header"])
            header[name] = merged_value(*(state.get(name, MISSING) for state in states))
        except Clash as error:
            raise NotNow(
                "the same has been changed since, by somebody else: that would be lost"
            ) from error
        if header[name] is MISSING:
            del header[name]
    hits = None
    if target["hits"] is not None:
        hits = dict(map(tuple, target["hits"]))
        known = dict(map(tuple, expected["hits"]))
        now = {number: row.hits for number, row in rows.items()}
        changed = sorted(
            number for number in known.keys() | now.keys() if known.get(number) != now.get(number)
        )
        if changed:
            named = ", ".join(map(str, changed[:6])) + (" and more" if len(changed) > 6 else "")
            raise BarConflict(
                f"the notes of bar {named} have been changed since: that would be lost", changed
            )
    _store(song, rows, header, hits)


def _store(
    song: Song, rows: dict[int, SongBar], header: Header, hits: dict[int, list[Any]] | None
) -> None:
    song.header = header
    song.tempo_bpm = header["tempo_bpm"]
    song.meter = "/".join(map(str, header["meter"]))
    song.revision += 1
    if hits is not None:
        write_bars(song, rows, hits)
    song.save(update_fields=["header", "tempo_bpm", "meter", "revision", "updated_at"])


def _listed(rows: dict[int, list[Any]] | None) -> list[list[Any]] | None:
    """JSON objects have text keys: bars are listed as pairs instead."""
    return None if rows is None else [[number, hits] for number, hits in sorted(rows.items())]

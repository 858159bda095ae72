"""Putting a transcription into rows, merged into what people have decided."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db import transaction

from orchesis.edits.gesture import gesture_from_json
from orchesis.edits.merge import Decided, merged
from orchesis.music.json import to_json
from orchesis.pipeline import Result
from studio.actions.locking import lock_song, write_bars
from studio.models import Song, SongChange
from studio.values.stored import load_transcription

OURS = ("confirmed", "decided")
"""Values of the header that the studio adds to those of transcription.json."""

GRID_KEYS = {"bars", "beats", "readings", "tracked_beats"}


def store_transcription(
    song: Song, result: Result, before: Callable[[], None] = lambda: None
) -> None:
    """Store a new transcription, all or nothing, merged into what stands by now.

    Whatever people decided, also while the song was being listened to, stays with its history.

    before : called inside the transaction; what it raises leaves everything as it was.
    """
    with transaction.atomic():
        before()
        locked, rows = lock_song(song)
        score, header = result.transcription, locked.header
        if header is not None:
            score = merged(load_transcription(locked), score, decided_of(locked))
            # What was before such a change cannot be put back any more: other strokes are there.
            locked.changes.filter(closed=False).update(closed=True, redoable=False)
        data = to_json(score)
        data |= {name: header[name] for name in OURS if header and header.get(name)}
        by_bar: dict[int, list[dict[str, object]]] = {bar["number"]: [] for bar in data["bars"]}
        for hit in data.pop("hits"):
            by_bar[hit["bar"]].append(hit)
        write_bars(locked, rows, by_bar)
        locked.header = data
        locked.loudness = list(result.loudness)
        # By the recording itself: a grid may go on beyond its end.
        locked.duration = score.duration
        locked.tempo_bpm = score.tempo_bpm
        locked.meter = str(score.meter)
        locked.revision += 1
        locked.save(
            update_fields=[
                "header", "loudness", "duration", "tempo_bpm", "meter", "revision", "updated_at",
            ]
        )  # fmt: skip


def decided_of(song: Song) -> Decided:
    """What people have decided of a song, by its log and its confirmations."""
    bars: set[int] = set()
    for data in song.edits.filter(undone=False).values_list("edit", flat=True):
        bars.update(gesture_from_json(data).bars)
    header = song.header or {}
    parts = set(header.get("decided", []))
    standing = SongChange.objects.filter(song=song, undone=False)
    for before, after in standing.values_list("before", "after"):
        parts |= decided_parts(before["header"], after["header"])
    numbers = {bar["number"] for bar in header.get("bars", [])}
    return Decided(
        confirmed=tuple(header.get("confirmed", [])),
        bars=frozenset(bars & numbers),
        grid="grid" in parts,
        sections="sections" in parts,
    )


def decided_parts(before: dict[str, Any], after: dict[str, Any]) -> set[str]:
    """What a change of the header decides: the grid, or the sections (not: that one is confirmed).

    A change of the grid moves the sections too; that decides nothing about them.
    """
    keys = changed_keys(before, after)
    if keys & GRID_KEYS:
        return {"grid"}
    if "sections" in keys and _unconfirmed(before) != _unconfirmed(after):
        return {"sections"}
    return set()


def _unconfirmed(header: dict[str, Any]) -> list[dict[str, Any]]:
    return [
        {name: value for name, value in section.items() if name != "confirmed"}
        for section in header.get("sections", [])
    ]


def changed_keys(before: dict[str, Any], after: dict[str, Any]) -> set[str]:
    """The values of a header that a change changed."""
    names = before.keys() | after.keys()
    return {name for name in names if before.get(name) != after.get(name)}

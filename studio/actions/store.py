"""Putting what a listening run gave into rows, merged into what people have decided."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db import transaction

from orchesis.edits.merge import merged
from orchesis.music.json import to_json
from orchesis.pipeline import Result
from studio.actions.changing import record_change
from studio.actions.locking import lock_song, write_bars
from studio.models import Song
from studio.values.decided import BY_EAR, decided_of
from studio.values.stored import load_transcription

OURS = ("confirmed", "decided")
"""Values of the header that the studio adds to those of transcription.json."""


def store_transcription(
    song: Song, result: Result, before: Callable[[], None] = lambda: None
) -> str:
    """Store a new transcription, all or nothing, merged into what stands by now.

    Whatever people decided, also while the song was being listened to, stays with its history. What
    a song that had been heard before becomes is a step of its owner's, and can be taken back.

    before : called inside the transaction; what it raises leaves everything as it was.

    Returns what happened, in words.
    """
    with transaction.atomic():
        before()
        locked, rows = lock_song(song)
        header, score = locked.header, result.transcription
        if header is not None:
            score = merged(load_transcription(locked), score, decided_of(locked))
        data = to_json(score)
        hits: dict[int, list[Any]] = {bar["number"]: [] for bar in data["bars"]}
        for hit in data.pop("hits"):
            hits[hit["bar"]].append(hit)
        locked.loudness = list(result.loudness)
        locked.duration = score.duration
        locked.save(update_fields=["loudness", "duration"])
        if header is None:
            write_bars(locked, rows, hits)
            locked.header = data
            locked.tempo_bpm, locked.meter = score.tempo_bpm, str(score.meter)
            locked.revision += 1
            locked.save(update_fields=["header", "tempo_bpm", "meter", "revision", "updated_at"])
            return ""
        known = {number: row.hits for number, row in rows.items()}
        changed = sum(
            known.get(number) != hits.get(number) for number in known.keys() | hits.keys()
        )
        words = f"{BY_EAR}: {_counted(changed)}"
        fresh = {**data, **{name: header[name] for name in OURS if header.get(name)}}
        if changed or {**header, **fresh} != header:
            record_change(locked, rows, locked.owner, words, {**header, **fresh}, known, hits)
        return words


def _counted(bars: int) -> str:
    if bars == 0:
        return "no bar changed"
    return f"{bars} bars changed" if bars > 1 else "one bar changed"

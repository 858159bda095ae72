"""A stored song as an object of the core."""

from __future__ import annotations

from collections import OrderedDict

from django.db import connection

from orchesis.music.json import from_json, hit_from_json
from orchesis.music.values import Hit, Transcription
from studio.models import Song, SongBar

BARS_KEPT = 4096
"""Bars whose notes a process keeps as objects, some ten songs: an edit changes one of them."""

Key = tuple[int, int]
"""A row of SongBar and its revision: every change of its notes raises that."""

_kept: OrderedDict[Key, tuple[Hit, ...]] = OrderedDict()


def load_transcription(song: Song) -> Transcription:
    """The transcription as it stands now, edits included. The song must have one."""
    assert song.header is not None
    bare = from_json({**song.header, "title": song.title, "hits": []})
    bars = _notes(list(song.bars.values_list("pk", "revision")))
    return bare.with_hits(hit for bar in bars for hit in bar)


def _notes(keys: list[Key]) -> list[tuple[Hit, ...]]:
    """The notes of these bars; those that this process has read before are not read again."""
    found = {key: _kept[key] for key in keys if key in _kept}
    missing = {pk: (pk, revision) for pk, revision in keys if (pk, revision) not in found}
    rows = SongBar.objects.filter(pk__in=missing).values_list("pk", "revision", "hits")
    for pk, revision, hits in rows:
        # It may have been changed since its revision was asked for: what is read now counts.
        found[missing[pk]] = notes = tuple(hit_from_json(hit) for hit in hits)
        # What a transaction has written may never be.
        if not connection.in_atomic_block:
            _kept[pk, revision] = notes
    for key in keys:
        if key in _kept:
            _kept.move_to_end(key)
    while len(_kept) > BARS_KEPT:
        _kept.popitem(last=False)
    return [found.get(key, ()) for key in keys]

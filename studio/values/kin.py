"""Kinship of grooves over all of a user's songs."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Mapping
from typing import Any
from uuid import UUID

from django.contrib.auth.models import User

from orchesis.groove.alike import patterns
from orchesis.groove.kinship import WORDS, Library, bits_of
from orchesis.music.json import hit_from_json
from orchesis.music.values import Meter
from studio.models import Song, SongBar

BYTES = 8 * WORDS
Key = tuple[UUID, int]


def library_of(owner: User, pulses: int) -> tuple[Library, dict[Hashable, int]]:
    """Every bar of the owner's songs that has so many beats, as (song, bar) keys and as bits."""
    songs = {
        song.pk: song.header or {}
        for song in Song.objects.filter(owner=owner, header__isnull=False, is_copy_for=None).only(
            "id", "header"
        )
    }
    _freshen(songs)
    wanted: dict[UUID, set[int]] = {}
    for pk, header in songs.items():
        metres = {bar["number"]: Meter(*bar["meter"]) for bar in header["bars"]}
        wanted[pk] = {number for number, meter in metres.items() if meter.pulses == pulses}
    rows = SongBar.objects.filter(song_id__in=wanted).values_list("song_id", "number", "groove")
    values: dict[Hashable, int] = {}
    for pk, number, groove in rows:
        value = int.from_bytes(groove or b"", "big")
        if value and number in wanted[pk]:
            values[pk, number] = value
    return Library(values), values


def _freshen(songs: Mapping[UUID, dict[str, Any]]) -> None:
    """Bars that were written since they were last compared get their bits anew."""
    stale: dict[UUID, list[SongBar]] = defaultdict(list)
    for row in SongBar.objects.filter(song_id__in=songs, groove__isnull=True):
        stale[row.song_id].append(row)
    for pk, rows in stale.items():
        metres = {bar["number"]: Meter(*bar["meter"]) for bar in songs[pk]["bars"]}
        for row in rows:
            played = patterns([hit_from_json(hit) for hit in row.hits]).get(row.number, frozenset())
            meter = metres.get(row.number)
            value = bits_of(played, meter.pulses) if meter else 0
            row.groove = value.to_bytes(BYTES, "big")
        SongBar.objects.bulk_update(rows, ["groove"], batch_size=500)

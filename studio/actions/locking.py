"""What a change holds while it is made: the bars it touches, and the song's counter for a moment.

Always in this order: bars by their numbers, then the song's row, then the log. So two people at
different bars never wait for each other, and no two ever wait crosswise. A change of the whole song
holds all of its bars; who holds a bar therefore knows that the grid under it stays.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from django.db.models import F
from django.utils import timezone

from orchesis.errors import InvalidTranscription
from studio.models import Song, SongBar


def lock_bars(song: Song, numbers: Iterable[int]) -> dict[int, SongBar]:
    """Hold some bars of a song. Raises InvalidTranscription where it has no such bar."""
    wanted = sorted(set(numbers))
    rows = SongBar.objects.select_for_update().filter(song=song, number__in=wanted)
    bars = {row.number: row for row in rows.order_by("number")}
    missing = next((number for number in wanted if number not in bars), None)
    if missing is not None:
        raise InvalidTranscription(f"this song has no bar {missing}")
    return bars


def lock_song(song: Song) -> tuple[Song, dict[int, SongBar]]:
    """Hold a whole song: all of its bars, and its row, read afresh."""
    rows = SongBar.objects.select_for_update().filter(song=song).order_by("number")
    bars = {row.number: row for row in rows}
    return Song.objects.select_for_update().get(pk=song.pk), bars


def count_up(song: Song) -> None:
    """Raise the song's revision, which every change does; holds its row until the end.

    To be called before a row that refers to the song is added: that would hold the song's row for
    reading, and two who did so would each wait for the other to let go.
    """
    Song.objects.filter(pk=song.pk).update(revision=F("revision") + 1, updated_at=timezone.now())
    song.revision = Song.objects.values_list("revision", flat=True).get(pk=song.pk)


def write_bars(song: Song, rows: dict[int, SongBar], hits: dict[int, list[Any]]) -> None:
    """Make the bars of a song, which are held, these: only those that differ are written."""
    gone = [row.pk for number, row in rows.items() if number not in hits]
    if gone:
        song.bars.filter(pk__in=gone).delete()
    changed = []
    for number, row in rows.items():
        if number in hits and row.hits != hits[number]:
            row.hits, row.groove = hits[number], None
            row.revision += 1
            changed.append(row)
    SongBar.objects.bulk_update(changed, ["hits", "groove", "revision"], batch_size=200)
    added = [
        SongBar(song=song, number=number, hits=notes)
        for number, notes in sorted(hits.items())
        if number not in rows
    ]
    SongBar.objects.bulk_create(added, batch_size=500)

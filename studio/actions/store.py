"""Putting a transcription into rows, and reading it back."""

from __future__ import annotations

from django.db import transaction

from orchesis.edits.keep import with_settled
from orchesis.form.keep import with_confirmed
from orchesis.music.json import from_json, to_json
from orchesis.music.values import Transcription
from orchesis.pipeline import Result
from studio.models import Song, SongBar


def store_transcription(song: Song, result: Result) -> None:
    """Replace what is stored of a song by a new transcription, all or nothing.

    What the user has confirmed of the grid, the feel, the form and the notes stays.
    """
    score = result.transcription
    confirmed: list[str] = []
    if song.header is not None:
        confirmed = list(song.header.get("confirmed", []))
        old = load_transcription(song)
        score = with_settled(old, with_confirmed(old, score, confirmed))
    data = to_json(score)
    if confirmed:
        data["confirmed"] = confirmed
    by_bar: dict[int, list[dict[str, object]]] = {bar["number"]: [] for bar in data["bars"]}
    for hit in data.pop("hits"):
        by_bar[hit["bar"]].append(hit)
    with transaction.atomic():
        locked = Song.objects.select_for_update().get(pk=song.pk)
        locked.bars.all().delete()
        locked.edits.all().delete()
        locked.changes.all().delete()
        SongBar.objects.bulk_create(
            [SongBar(song=locked, number=number, hits=hits) for number, hits in by_bar.items()]
        )
        locked.header = data
        locked.loudness = list(result.loudness)
        locked.duration = score.duration
        locked.tempo_bpm = score.tempo_bpm
        locked.meter = str(score.meter)
        locked.revision += 1
        locked.save()


def load_transcription(song: Song) -> Transcription:
    """The transcription as it stands now, edits included. The song must have one."""
    assert song.header is not None
    hits = [hit for bar in song.bars.all() for hit in bar.hits]
    return from_json({**song.header, "title": song.title, "hits": hits})

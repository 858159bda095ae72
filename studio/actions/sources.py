"""Second recordings of a song: added, lined up by the worker, taken away."""

from __future__ import annotations

from pathlib import Path

from django.core.files import File
from django.db import transaction

from orchesis.audio.decode import SUFFIXES, probe
from orchesis.errors import RefusedAudio
from studio.actions.runs import NotNow
from studio.models import Song, Source, SourceState

MOST_SOURCES = 6


def add_source(song: Song, upload: File[bytes], title: str = "") -> Source:
    """Store a second recording and have it lined up. Raises RefusedAudio and leaves nothing."""
    name = Path((upload.name or "recording").replace("\\", "/")).name[:200]
    suffix = Path(name).suffix.lower()
    if suffix not in SUFFIXES:
        raise RefusedAudio(f"files that end in {suffix or 'nothing'} are not taken")
    with transaction.atomic():
        Song.objects.select_for_update().get(pk=song.pk)
        if song.sources.count() >= MOST_SOURCES:
            raise NotNow(f"a song has at most {MOST_SOURCES} more recordings: take one away first")
        source = Source.objects.create(
            song=song, title=(title.strip() or Path(name).stem)[:200], suffix=suffix
        )
    try:
        with source.source_path.open("wb") as target:
            for chunk in upload.chunks():
                target.write(chunk)
        probe(source.source_path)
    except BaseException:
        remove_source(source)
        raise
    transaction.on_commit(lambda: _send(source.pk))
    return source


def follow_source(source: Source) -> None:
    """Have a refused one followed, since somebody says that it is the song. Raises NotNow."""
    with transaction.atomic():
        waiting = Source.objects.filter(pk=source.pk, state=SourceState.REFUSED)
        if not waiting.update(state=SourceState.QUEUED, words=""):
            raise NotNow("only a recording that could not be lined up is followed as another take")
        transaction.on_commit(lambda: _send(source.pk, performed_anew=True))


def remove_source(source: Source) -> None:
    """Take a second recording away with its files."""
    for path in (source.source_path, source.aligned_path, source.evidence_path):
        path.unlink(missing_ok=True)
    source.delete()


def _send(source_id: int, *, performed_anew: bool = False) -> None:
    from studio.jobs.sources import line_up_source

    line_up_source.delay(source_id, performed_anew)

"""Second recordings of a song: added, lined up by the worker, taken away."""

from __future__ import annotations

from pathlib import Path

from django.core.files import File
from django.db import transaction

from orchesis.audio.decode import probe
from studio import artefacts
from studio.actions.importing import checked_name, keep_upload
from studio.actions.quotas import hold_quota, need_quota
from studio.models import OPEN_STATES, Job, JobKind, RunState, Song, Source, SourceState
from studio.queueing import NotNow, latest_job, queue_job
from studio.storage import need_room, told_when_full

MOST_SOURCES = 6
FULL = "this recording was not stored"


def add_source(song: Song, upload: File[bytes], title: str = "") -> Source:
    """Store a second recording and have it lined up.

    Raises RefusedAudio, NotNow or DiskFull, and leaves nothing behind.
    """
    name, suffix = checked_name(upload)
    need_room(upload.size, FULL)
    with transaction.atomic():
        hold_quota(song.owner)
        need_quota(song.owner, size=upload.size)
        Song.objects.select_for_update().get(pk=song.pk)
        if song.sources.count() >= MOST_SOURCES:
            raise NotNow(f"a song has at most {MOST_SOURCES} more recordings: take one away first")
        source = Source.objects.create(
            song=song,
            title=(title.strip() or Path(name).stem)[:200],
            suffix=suffix,
            source_bytes=upload.size,
        )
    try:
        with told_when_full(FULL):
            keep_upload(upload, source.source_path)
        probe(source.source_path)
        artefacts.publish(song)
        with transaction.atomic():
            queue_job(song, JobKind.LINE_UP, source=source)
    except BaseException:
        remove_source(source)
        raise
    return source


def line_up_job(source: Source) -> Job | None:
    """The newest job that lines a source up; one whose worker died is taken up on the way."""
    return latest_job(source.song, JobKind.LINE_UP, source)


def state_of(source: Source) -> tuple[SourceState, str]:
    """Where the lining up stands, and the words for it: by its job until that is done."""
    job = line_up_job(source)
    if job is not None and job.state in OPEN_STATES:
        return SourceState(job.state), job.message
    if job is not None and job.state in (
        RunState.FAILED,
        RunState.INTERRUPTED,
        RunState.CANCELLED,
    ):
        return SourceState.FAILED, job.message
    return SourceState(source.state), source.words


def follow_source(source: Source) -> None:
    """Have a refused one followed, since somebody says that it is the song. Raises NotNow."""
    with transaction.atomic():
        Source.objects.select_for_update().get(pk=source.pk)
        if state_of(source)[0] != SourceState.REFUSED:
            raise NotNow("only a recording that could not be lined up is followed as another take")
        queue_job(source.song, JobKind.LINE_UP, source=source, options={"performed_anew": True})


def line_up_again(source: Source) -> None:
    """Try again where lining up failed or was interrupted. Raises NotNow."""
    with transaction.atomic():
        Source.objects.select_for_update().get(pk=source.pk)
        if state_of(source)[0] != SourceState.FAILED:
            raise NotNow("this recording is being lined up, or was already")
        job = line_up_job(source)
        queue_job(source.song, JobKind.LINE_UP, source=source, options=job.options if job else {})


def remove_source(source: Source) -> None:
    """Take a second recording away with its files; what works on it is stopped."""
    paths = (source.source_path, source.aligned_path, source.evidence_path)
    source.jobs.filter(state__in=OPEN_STATES).update(cancel_requested=True)
    source.delete()
    for path in paths:
        artefacts.withdraw(path)

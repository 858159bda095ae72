"""Importing a recording: checked, stored under a name of our own, queued for listening."""

from __future__ import annotations

import logging
import shutil
from pathlib import Path

from django.contrib.auth.models import User
from django.core.files import File
from django.db import transaction

from orchesis.audio.decode import SUFFIXES, probe
from orchesis.cli import title_of
from orchesis.errors import RefusedAudio
from studio.models import ListeningRun, RunState, Song

log = logging.getLogger(__name__)


def import_recording(owner: User, upload: File[bytes], title: str = "") -> Song:
    """Store an uploaded recording and queue its listening run.

    Raises RefusedAudio, and leaves nothing behind, when the file cannot be taken.
    """
    name = Path((upload.name or "recording").replace("\\", "/")).name[:255]
    suffix = Path(name).suffix.lower()
    if suffix not in SUFFIXES:
        raise RefusedAudio(f"files that end in {suffix or 'nothing'} are not taken")
    song = Song(
        owner=owner,
        title=(title.strip() or title_of(Path(name)) or "Untitled")[:200],
        file_name=name,
        suffix=suffix,
    )
    song.folder.mkdir(parents=True)
    try:
        with song.source_path.open("wb") as target:
            for chunk in upload.chunks():
                target.write(chunk)
        song.duration = probe(song.source_path).duration or 0.0
        with transaction.atomic():
            song.save()
            queue_listening(song)
    except BaseException:
        shutil.rmtree(song.folder, ignore_errors=True)
        raise
    return song


def queue_listening(song: Song) -> ListeningRun:
    """Add a run and hand it to the worker when the transaction is through."""
    run = ListeningRun.objects.create(song=song)
    transaction.on_commit(lambda: _send(run.pk))
    return run


def _send(run_id: int) -> None:
    from studio.jobs.listen import listen_to_song

    try:
        listen_to_song.delay(run_id)
    except Exception:
        # Whatever keeps the queue from taking it, the user must be told and can try again.
        log.exception("run %s could not be queued", run_id)
        ListeningRun.objects.filter(pk=run_id, state=RunState.QUEUED).update(
            state=RunState.FAILED, message="The job queue does not answer. Try again."
        )


def delete_song(song: Song) -> None:
    """Remove a song, its history and its files."""
    folder = song.folder
    with transaction.atomic():
        song.runs.filter(state__in=[RunState.QUEUED, RunState.RUNNING]).update(
            cancel_requested=True
        )
        song.delete()
        transaction.on_commit(lambda: shutil.rmtree(folder, ignore_errors=True))

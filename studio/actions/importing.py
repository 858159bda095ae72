"""Importing a recording: checked, stored under a name of our own, queued for listening."""

from __future__ import annotations

import hashlib
import shutil
from pathlib import Path
from typing import IO

from django.contrib.auth.models import User
from django.core.files import File
from django.core.files.uploadedfile import TemporaryUploadedFile
from django.db import transaction

from orchesis.audio.decode import SUFFIXES, probe
from orchesis.errors import OrchesisError, RefusedAudio
from orchesis.music.titles import title_of
from studio import artefacts
from studio.actions.groups import given_words
from studio.actions.quotas import hold_quota, need_quota
from studio.models import OPEN_STATES, JobKind, Song
from studio.queueing import NotNow, queue_job
from studio.storage import need_room, told_when_full

FULL = "this recording was not stored"
MOST_ALIKE = 3
"""Recordings of one length that are compared with a new one."""


class SameRecording(OrchesisError):
    """A recording that is on the shelf already. `song`: which."""

    def __init__(self, song: Song) -> None:
        super().__init__(f"This recording is on your shelf already: “{song.title}”.")
        self.song = song


def import_recording(
    owner: User, upload: File[bytes], title: str = "", *, again: bool = False
) -> Song:
    """Store an uploaded recording and queue its listening run.

    again : also where the same recording is on the shelf already.

    Raises RefusedAudio, SameRecording, NotNow or DiskFull, and leaves nothing behind, when it
    cannot be taken.
    """
    name, suffix = checked_name(upload)
    need_room(upload.size, FULL)
    need_quota(owner, songs=1, size=upload.size)
    same = None if again else same_recording(owner, upload)
    if same is not None:
        raise SameRecording(same)
    song = Song(
        owner=owner,
        title=(title.strip() or title_of(Path(name)) or "Untitled")[:200],
        file_name=name,
        suffix=suffix,
        source_bytes=upload.size,
    )
    try:
        with told_when_full(FULL):
            song.folder.mkdir(parents=True)
            keep_upload(upload, song.source_path)
        song.duration = probe(song.source_path).duration or 0.0
        with transaction.atomic():
            hold_quota(owner)
            need_quota(owner, songs=1, size=upload.size, minutes=song.duration / 60)
            song.save()
            artefacts.publish(song)
            queue_job(song, JobKind.COPY)
            queue_job(song, JobKind.LISTEN)
    except BaseException:
        shutil.rmtree(song.folder, ignore_errors=True)
        raise
    return song


def same_recording(owner: User, upload: File[bytes]) -> Song | None:
    """The song on somebody's shelf that has just these bytes as its recording.

    Only songs whose recording is as long are looked at, so that hardly any file is ever read.
    """
    alike = Song.objects.filter(owner=owner, is_copy_for=None, source_bytes=upload.size)
    alike = alike.exclude(suffix="").defer("header", "loudness")
    digest = ""
    for song in alike[:MOST_ALIKE]:
        if not artefacts.have(song.source_path):
            continue
        if not digest:
            digest = digest_of(upload)
        with song.source_path.open("rb") as file:
            if digest_of(file) == digest:
                return song
    return None


def digest_of(file: IO[bytes] | File[bytes]) -> str:
    """The SHA-256 of a file; it is at its start again afterwards."""
    digest = hashlib.sha256()
    file.seek(0)
    while piece := file.read(1 << 20):
        digest.update(piece)
    file.seek(0)
    return digest.hexdigest()


def checked_name(upload: File[bytes]) -> tuple[str, str]:
    """An upload's name without any path, and its ending. Raises RefusedAudio for another kind."""
    name = Path((upload.name or "recording").replace("\\", "/")).name[:255]
    suffix = Path(name).suffix.lower()
    if suffix not in SUFFIXES:
        raise RefusedAudio(f"files that end in {suffix or 'nothing'} are not taken")
    return name, suffix


def keep_upload(upload: File[bytes], target: Path) -> None:
    """Move an upload to where it stays: renamed where it is a file already, else written."""
    if isinstance(upload, TemporaryUploadedFile):
        upload.flush()
        # A second name for the same bytes: the temporary one goes when the request is over.
        try:
            target.hardlink_to(upload.temporary_file_path())
            return
        except OSError:
            target.unlink(missing_ok=True)
    with target.open("wb") as file:
        for chunk in upload.chunks():
            file.write(chunk)


def delete_song(song: Song) -> None:
    """Remove a song, its history and its files. Raises NotNow while it is given to somebody."""
    given = given_words(song)
    if given:
        raise NotNow(f"this song is given to {given} to practise: withdraw that first")
    folder = song.folder
    with transaction.atomic():
        song.jobs.filter(state__in=OPEN_STATES).update(cancel_requested=True)
        copies = [one.copy for one in song.editions.exclude(copy=None).select_related("copy")]
        song.delete()
        for copy in copies:
            if copy is not None:
                delete_song(copy)
        transaction.on_commit(lambda: shutil.rmtree(folder, ignore_errors=True))

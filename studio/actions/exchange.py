"""Songs that come in as something other than a recording, and songs that leave as a bundle."""

from __future__ import annotations

import json
import shutil
import subprocess
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

from django.contrib.auth.models import User
from django.core.files import File
from django.db import transaction

from orchesis.audio.decode import SUFFIXES, probe
from orchesis.errors import OrchesisError
from orchesis.exchange.bundle import BUNDLE_SUFFIX, Bundle, read_bundle, write_bundle
from orchesis.exchange.imported import LARGEST_FILE, Imported, Refused
from orchesis.exchange.line_up import LinedUp, line_up
from orchesis.exchange.read import ENDINGS, read_part
from orchesis.music.values import Transcription
from studio import artefacts
from studio.actions.action import WholeSong
from studio.actions.importing import import_recording
from studio.actions.locking import lock_song
from studio.actions.quotas import hold_quota, need_quota
from studio.actions.store import OURS, write_first
from studio.models import EditEntry, JobKind, Song, SongChange
from studio.queueing import queue_job
from studio.storage import need_room, told_when_full, write_whole
from studio.values.stored import load_transcription

FULL = "this song was not stored"
LOG_BEFORE = "log-before.json"
"""What was done to a song before it came here, as its bundle told it."""

MOST_LOGGED = 20_000
SILENCE_SECONDS = 1.0
"""After the last bar of a song without a recording."""

FFMPEG_SECONDS = 60


def import_any(owner: User, upload: File[bytes], title: str = "") -> Song:
    """Store a recording, a part of another program, or a bundle, by the ending of its name.

    Raises RefusedAudio, Refused or DiskFull, and leaves nothing behind.
    """
    suffix = Path((upload.name or "").lower()).suffix
    if suffix == BUNDLE_SUFFIX:
        return import_bundle(owner, upload)
    if suffix in ENDINGS:
        return import_part(owner, upload, title)
    return import_recording(owner, upload, title)


def part_of(upload: File[bytes]) -> Imported:
    """The drum part in an upload. Raises Refused."""
    if upload.size > LARGEST_FILE:
        raise Refused("This file is larger than any score: at most 20 MB are read.")
    return read_part(upload.read(), Path(upload.name or "part").name)


def import_part(owner: User, upload: File[bytes], title: str = "") -> Song:
    """A song from a part alone, without a recording: its kit is what one hears."""
    part = part_of(upload)
    score = part.song
    song = Song(
        owner=owner,
        title=(title.strip() or score.title or "Untitled")[:200],
        file_name=Path(upload.name or "part").name[:255],
        suffix="",
        duration=score.duration + SILENCE_SECONDS,
    )
    need_room(round(song.duration * 2000), FULL)
    need_quota(owner, songs=1)
    _stored(song, score, lambda: prepare_silence(song))
    return song


def prepare_silence(song: Song) -> None:
    """Make the listening copy of a song that has no recording. Raises OrchesisError."""
    song.folder.mkdir(parents=True, exist_ok=True)
    command = ["ffmpeg", "-v", "error", "-nostdin", "-f", "lavfi"]
    command += ["-i", "anullsrc=r=44100:cl=stereo", "-t", f"{song.duration:.3f}"]
    command += ["-c:a", "libvorbis", "-q:a", "0", "-y", str(song.listening_path)]
    done = subprocess.run(command, capture_output=True, timeout=FFMPEG_SECONDS, check=False)
    if done.returncode != 0:
        raise OrchesisError("The song could not be prepared for playing. Try again.")
    write_whole(song.peaks_path, bytes(int(song.duration * 100)))


def _stored(song: Song, score: Transcription, prepare: Callable[[], None]) -> None:
    """Put a new song with its notes into rows, all or nothing."""
    try:
        with told_when_full(FULL):
            song.folder.mkdir(parents=True, exist_ok=True)
            prepare()
        with transaction.atomic():
            hold_quota(song.owner)
            # A recording that comes along is listened to.
            minutes = song.duration / 60 if song.suffix else 0.0
            need_quota(song.owner, songs=1, size=song.source_bytes, minutes=minutes)
            song.save()
            artefacts.publish(song)
            write_first(*lock_song(song), score)
    except BaseException:
        shutil.rmtree(song.folder, ignore_errors=True)
        raise
    song.refresh_from_db()


def import_bundle(owner: User, upload: IO[bytes] | File[bytes]) -> Song:
    """A song from a bundle of this or another installation. Its recording is listened to anew.

    What comes of that is offered, as ever with songs that have a chart; nothing is changed by it.
    """
    song = Song(owner=owner, file_name="bundle", suffix="")
    need_room(getattr(upload, "size", 0) or 0, FULL)
    need_quota(owner, songs=1, size=getattr(upload, "size", 0) or 0)
    try:
        with told_when_full(FULL):
            song.folder.mkdir(parents=True)
            bundle = read_bundle(_file(upload), song.folder / "source")
        song.suffix = bundle.suffix
        score = bundle.song
        song.title = (score.title or "Untitled")[:200]
        song.file_name = bundle.recording or "bundle"
        if bundle.recording:
            song.duration = probe(song.source_path).duration or score.duration
            song.source_bytes = song.source_path.stat().st_size
        else:
            song.duration = score.duration + SILENCE_SECONDS
        _stored(song, score, lambda: _prepared(song, bundle))
    except BaseException:
        shutil.rmtree(song.folder, ignore_errors=True)
        raise
    ours = {name: bundle.decisions[name] for name in OURS if name in bundle.decisions}
    with transaction.atomic():
        locked, _ = lock_song(song)
        locked.header = {**(locked.header or {}), **_checked(ours)}
        locked.save(update_fields=["header"])
        if bundle.recording:
            if not artefacts.is_there(song.listening_path):
                queue_job(locked, JobKind.COPY)
            queue_job(locked, JobKind.LISTEN)
    song.refresh_from_db()
    return song


def _checked(ours: dict[str, Any]) -> dict[str, Any]:
    """Decisions as lists of words; what is anything else is not taken."""
    return {
        name: [str(word)[:80] for word in words[:50]]
        for name, words in ours.items()
        if isinstance(words, list)
    }


def _file(upload: IO[bytes] | File[bytes]) -> IO[bytes]:
    inner = getattr(upload, "file", upload)
    inner.seek(0)
    return inner


def _prepared(song: Song, bundle: Bundle) -> None:
    if not bundle.recording:
        prepare_silence(song)
    log = json.dumps(bundle.log[:MOST_LOGGED], ensure_ascii=False)
    write_whole(song.folder / LOG_BEFORE, log.encode())


def bundle_of(song: Song) -> IO[bytes]:
    """The song as a bundle, in a file that goes when it is closed."""
    with told_when_full("the bundle was not made"):
        target = tempfile.TemporaryFile()  # noqa: SIM115
        is_here = has_recording(song) and artefacts.have(song.source_path)
        header = song.header or {}
        write_bundle(
            target,
            load_transcription(song),
            decisions={name: header[name] for name in OURS if name in header},
            log=_log(song),
            recording=song.source_path if is_here else None,
        )
    target.seek(0)
    return target


def has_recording(song: Song) -> bool:
    """Whether the song was taken off a recording that is kept."""
    return song.suffix in SUFFIXES and artefacts.is_there(song.source_path)


def _log(song: Song) -> list[dict[str, Any]]:
    """What was done to the song, in order: before it came here, and since."""
    before: list[dict[str, Any]] = []
    path = song.folder / LOG_BEFORE
    if artefacts.have(path):
        before = json.loads(path.read_bytes())
    since = [
        {
            "at": entry.created_at.isoformat(),
            "by": entry.author.get_username(),
            "bar": entry.bar_number,
            "words": entry.words,
            "undone": entry.undone,
            "edit": entry.edit,
        }
        for entry in EditEntry.objects.filter(song=song).select_related("author")
    ]
    since += [
        {
            "at": change.created_at.isoformat(),
            "by": change.author.get_username(),
            "words": change.words,
            "undone": change.undone,
        }
        for change in SongChange.objects.filter(song=song).select_related("author")
    ]
    return [*before, *sorted(since, key=lambda item: item["at"])][-MOST_LOGGED:]


@dataclass(frozen=True)
class TakePart(WholeSong):
    """Take over the notes of a part from elsewhere where both it and the song have bars."""

    part: Transcription
    source: str

    @property
    def words(self) -> str:  # type: ignore[override]
        """Where from."""
        return f"Notes of {self.source} taken over"

    def change(self, song: Song, score: Transcription) -> Transcription:
        """The same bars with other notes."""
        return lined_up(score, self.part, self.source).song


def lined_up(score: Transcription, part: Transcription, source: str) -> LinedUp:
    """A part on the bars of a song. Raises Refused for a song without bars."""
    if not score.bars:
        raise Refused("This song has no bars yet: lay its grid in Listen first.")
    return line_up(score, part, source=source)

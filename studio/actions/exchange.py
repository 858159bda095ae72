"""Songs that come in as something other than a recording, and songs that leave as a bundle."""

from __future__ import annotations

import hashlib
import json
import shutil
import subprocess
import tempfile
import uuid
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

from django.contrib.auth.models import User
from django.core.files import File
from django.db import transaction

from orchesis.audio.decode import SUFFIXES, probe
from orchesis.errors import OrchesisError
from orchesis.exchange.bundle import BUNDLE_SUFFIX, DAMAGED, write_bundle
from orchesis.exchange.imported import LARGEST_FILE, Imported, Refused
from orchesis.exchange.line_up import LinedUp, line_up
from orchesis.exchange.read import ENDINGS, SNIFFED, require_score_file
from orchesis.exchange.sandbox import read_bundle_sandboxed, read_part_sandboxed
from orchesis.music.json import dumps, loads
from orchesis.music.values import Transcription
from studio import artefacts
from studio.actions.action import WholeSong
from studio.actions.importing import import_recording, keep_upload
from studio.actions.locking import lock_song
from studio.actions.quotas import hold_quota, need_quota
from studio.actions.store import OURS, write_first
from studio.models import OPEN_STATES, EditEntry, JobKind, Song, SongChange
from studio.people import name_of
from studio.queueing import NotNow, has_just_failed, queue_job, take_up
from studio.storage import need_room, told_when_full, write_whole
from studio.values.stored import load_transcription

FULL = "this song was not stored"
LOG_BEFORE = "log-before.json"
"""What was done to a song before it came here, as its bundle told it."""

MOST_LOGGED = 20_000
SILENCE_SECONDS = 1.0
"""After the last bar of a song without a recording."""

FFMPEG_SECONDS = 60
INCOMING, COMPARED = "incoming", "compared"
"""Folders of a song: what is about to be read, and what was read beside it."""

COMPARED_KEPT = 4
LOOKED_AT = 8
Before = Callable[[], None]


def import_any(owner: User, upload: File[bytes], title: str = "", *, again: bool = False) -> Song:
    """Store a recording, a part of another program, or a bundle, by the ending of its name.

    again : take a recording that is on the shelf already once more.

    Raises RefusedAudio, Refused, SameRecording or DiskFull, and leaves nothing behind.
    """
    suffix = Path((upload.name or "").lower()).suffix
    if suffix == BUNDLE_SUFFIX:
        return queue_file(owner, upload, "bundle", title)
    if suffix in ENDINGS:
        return queue_file(owner, upload, "part", title)
    return import_recording(owner, upload, title, again=again)


def queue_file(owner: User, upload: File[bytes], kind: str, title: str = "") -> Song:
    """A song that is about to be read from a file of another program, by a worker.

    kind : part or bundle. Raises Refused for what is plainly none, and leaves nothing behind.
    """
    name = Path((upload.name or kind).replace("\\", "/")).name[:255]
    if kind == "part":
        require_part_file(upload)
    elif upload.read(2) != b"PK":
        raise Refused(DAMAGED)
    upload.seek(0)
    need_room(upload.size, FULL)
    need_quota(owner, songs=1, size=upload.size if kind == "bundle" else 0)
    song = Song(
        owner=owner,
        title=(title.strip() or Path(name).stem or "Untitled")[:200],
        file_name=name,
        suffix="",
    )
    path = song.folder / INCOMING / f"{uuid.uuid4().hex}{Path(name).suffix.lower()}"
    try:
        with told_when_full(FULL):
            path.parent.mkdir(parents=True)
            keep_upload(upload, path)
        with transaction.atomic():
            hold_quota(owner)
            need_quota(owner, songs=1)
            song.save()
            artefacts.publish(song)
            file = path.relative_to(song.folder).as_posix()
            options = {"kind": kind, "file": file, "name": name, "title": title.strip()[:200]}
            queue_job(song, JobKind.READ, options=options)
    except BaseException:
        shutil.rmtree(song.folder, ignore_errors=True)
        raise
    return song


def require_part_file(upload: File[bytes]) -> None:
    """Raise Refused for what is too large for any score, or plainly none."""
    if upload.size > LARGEST_FILE:
        raise Refused("This file is larger than any score: at most 8 MB are read.")
    require_score_file(upload.read(SNIFFED), upload.name or "part")
    upload.seek(0)


def shelve_part(song: Song, path: Path, options: Mapping[str, Any], before: Before) -> None:
    """Make a song of a part alone, without a recording: its kit is what one hears.

    before : called inside the transaction; what it raises leaves everything as it was.
    """
    score = read_part_sandboxed(path, str(options["name"])).song
    song.title = (str(options["title"]) or score.title or song.title)[:200]
    song.duration = score.duration + SILENCE_SECONDS
    need_room(round(song.duration * 2000), FULL)
    with told_when_full(FULL):
        prepare_silence(song)
    with transaction.atomic():
        before()
        _write(song, score, {})


def shelve_bundle(song: Song, path: Path, options: Mapping[str, Any], before: Before) -> None:
    """Make a song of a bundle of this or another installation. Its recording is listened to anew.

    What comes of that is offered, as ever with songs that have a chart; nothing is changed by it.
    """
    with told_when_full(FULL):
        bundle = read_bundle_sandboxed(path, song.folder / "source")
    score = bundle.song
    song.suffix = bundle.suffix
    song.title = (score.title or "Untitled")[:200]
    song.file_name = bundle.recording or "bundle"
    if bundle.recording:
        song.duration = probe(song.source_path).duration or score.duration
        song.source_bytes = song.source_path.stat().st_size
    else:
        song.duration = score.duration + SILENCE_SECONDS
        prepare_silence(song)
    log = json.dumps(bundle.log[:MOST_LOGGED], ensure_ascii=False)
    with told_when_full(FULL):
        write_whole(song.folder / LOG_BEFORE, log.encode())
    ours = {name: bundle.decisions[name] for name in OURS if name in bundle.decisions}
    with transaction.atomic():
        before()
        hold_quota(song.owner)
        minutes = song.duration / 60 if song.suffix else 0.0
        need_quota(song.owner, size=song.source_bytes, minutes=minutes)
        _write(song, score, _checked(ours))
        if bundle.recording:
            if not artefacts.is_there(song.listening_path):
                queue_job(song, JobKind.COPY)
            queue_job(song, JobKind.LISTEN)


def _write(song: Song, score: Transcription, ours: Mapping[str, Any]) -> None:
    """Put the notes of a song that has none into rows, within the caller's transaction."""
    locked, rows = lock_song(song)
    if locked.has_score:
        raise NotNow("this song has been read already")
    for name in ("title", "file_name", "suffix", "duration", "source_bytes"):
        setattr(locked, name, getattr(song, name))
    locked.save(update_fields=["title", "file_name", "suffix", "duration", "source_bytes"])
    artefacts.publish(locked)
    write_first(locked, rows, score)
    if ours:
        locked.header = {**(locked.header or {}), **ours}
        locked.save(update_fields=["header"])


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


def find_comparison(song: Song, upload: File[bytes]) -> Imported | None:
    """The drum part in a file that is laid beside a song; None while a worker reads it.

    Raises Refused where it is none, OrchesisError where reading it has just failed.
    """
    require_part_file(upload)
    name = Path((upload.name or "part").replace("\\", "/")).name[:120]
    body = upload.read()
    key = hashlib.sha256(body + name.encode()).hexdigest()[:24]
    answer = song.folder / COMPARED / f"{key}.json"
    if artefacts.have(answer):
        read = json.loads(answer.read_bytes())
        if "refused" in read:
            raise Refused(read["refused"])
        return Imported(loads(read["song"]), tuple(read["remarks"]))
    path = answer.with_suffix(Path(name).suffix.lower() or ".xml")
    options = {"file": path.relative_to(song.folder).as_posix(), "name": name}
    with transaction.atomic():
        Song.objects.select_for_update().only("pk").get(pk=song.pk)
        recent = song.jobs.filter(kind=JobKind.COMPARE)[:LOOKED_AT]
        job = next((one for one in recent if one.options == options), None)
        if job is not None and job.is_stale:
            take_up(job)
        if job is not None and job.state in OPEN_STATES:
            return None
        if job is not None and has_just_failed(job):
            raise OrchesisError(job.message or "The file could not be read. Try again.")
        with told_when_full("this file was not read"):
            path.parent.mkdir(exist_ok=True)
            write_whole(path, body)
        artefacts.publish(song)
        queue_job(song, JobKind.COMPARE, options=options)
    return None


def store_comparison(song: Song, path: Path, name: str) -> None:
    """Read a file that is laid beside a song, and keep what is in it; the oldest go."""
    try:
        part = read_part_sandboxed(path, name)
        told: dict[str, Any] = {"song": dumps(part.song), "remarks": list(part.remarks)}
    except Refused as error:
        told = {"refused": str(error)}
    write_whole(path.with_suffix(".json"), json.dumps(told, ensure_ascii=False).encode())
    artefacts.withdraw(path)
    kept = sorted(path.parent.glob("*.json"), key=lambda one: one.stat().st_mtime_ns)
    for old in kept[:-COMPARED_KEPT]:
        artefacts.withdraw(old)


def _checked(ours: dict[str, Any]) -> dict[str, Any]:
    """Decisions as lists of words; what is anything else is not taken."""
    return {
        name: [str(word)[:80] for word in words[:50]]
        for name, words in ours.items()
        if isinstance(words, list)
    }


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
            "by": name_of(entry.author),
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
            "by": name_of(change.author),
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

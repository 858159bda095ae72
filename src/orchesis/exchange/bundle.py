"""A bundle: a song in one ZIP file, which another installation reads back without loss.

It holds the recording as it was imported, the transcription, what people decided, and the log. A
manifest names each file with its length and its hash; anything else in the archive, or a file that
is not as the manifest says, and nothing of the bundle is taken.
"""

from __future__ import annotations

import errno
import hashlib
import json
import zipfile
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

from orchesis.audio.decode import LARGEST_BYTES, SUFFIXES
from orchesis.errors import InvalidTranscription
from orchesis.exchange.imported import BROKEN_ZIP, Refused
from orchesis.music.bounds import check_bounds
from orchesis.music.json import dumps, loads
from orchesis.music.values import Transcription

FORMAT = "orchesis-bundle"
VERSION = 1
BUNDLE_SUFFIX = ".zip"
MANIFEST = "manifest.json"
TRANSCRIPTION, DECISIONS, LOG = "transcription.json", "decisions.json", "log.json"
TEXTS = (TRANSCRIPTION, DECISIONS, LOG)
LARGEST_TEXT = 60_000_000
"""Bytes of a text in it: a transcription of an hour has some 20 million."""

DAMAGED = "This bundle is damaged or has been changed: nothing of it was taken."


@dataclass(frozen=True, slots=True)
class Bundle:
    """What a bundle says of a song. recording : the name of the file in it; "": there is none."""

    song: Transcription
    decisions: dict[str, Any]
    log: list[dict[str, Any]]
    recording: str

    @property
    def suffix(self) -> str:
        """The ending of the recording."""
        return Path(self.recording).suffix if self.recording else ""


def write_bundle(
    target: IO[bytes],
    song: Transcription,
    *,
    decisions: Mapping[str, Any],
    log: list[dict[str, Any]],
    recording: Path | None,
) -> None:
    """Write a bundle. The recording goes in as it is: it is packed already."""
    texts = {
        TRANSCRIPTION: dumps(song),
        DECISIONS: json.dumps(decisions, ensure_ascii=False),
        LOG: json.dumps(log, ensure_ascii=False),
    }
    files: dict[str, dict[str, Any]] = {}
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in texts.items():
            data = text.encode()
            archive.writestr(name, data)
            files[name] = {"bytes": len(data), "sha256": hashlib.sha256(data).hexdigest()}
        if recording is not None:
            name = f"recording{recording.suffix}"
            archive.write(recording, name, zipfile.ZIP_STORED)
            with recording.open("rb") as file:
                digest = hashlib.file_digest(file, "sha256").hexdigest()
            files[name] = {"bytes": recording.stat().st_size, "sha256": digest}
        manifest = {"format": FORMAT, "version": VERSION, "title": song.title, "files": files}
        archive.writestr(MANIFEST, json.dumps(manifest, ensure_ascii=False, indent=1))


def read_bundle(source: IO[bytes], recording_to: Path | None = None) -> Bundle:
    """Read a bundle, and write its recording to a path where it has one.

    Parameters
    ----------
    recording_to : the file to write, without its ending; None: the recording is only checked.

    Raises
    ------
    Refused : it is no bundle, of another version, damaged, or something is wrong in it.
    """
    try:
        with zipfile.ZipFile(source) as archive:
            return _read(archive, recording_to)
    except OSError as error:
        # Our own disk's have a number; the archive's have none, or are about a place that a damaged
        # directory tells of and no file has.
        if error.errno not in (None, errno.EINVAL):
            raise
        raise Refused(DAMAGED) from error
    except InvalidTranscription as error:
        raise Refused(f"The transcription in this bundle cannot be read: {error}.") from error
    except (*BROKEN_ZIP, TypeError, RecursionError, OverflowError) as error:
        raise Refused(DAMAGED) from error


def _read(archive: zipfile.ZipFile, recording_to: Path | None) -> Bundle:
    names = [info.filename for info in archive.infolist()]
    if MANIFEST not in names:
        raise Refused("This is no bundle of a song: save one with “Bundle” in the Chart stage.")
    manifest = json.loads(_text(archive, MANIFEST))
    if not isinstance(manifest, dict) or manifest.get("format") != FORMAT:
        raise Refused("This is no bundle of a song: its manifest is of something else.")
    if manifest.get("version") != VERSION:
        raise Refused(
            f"This bundle is of version {manifest.get('version')!r}: only {VERSION} is read."
        )
    files = dict(manifest["files"])
    recordings = [name for name in files if name not in TEXTS]
    allowed = {f"recording{suffix}" for suffix in SUFFIXES}
    # No name of the archive ever becomes a path: what is not expected is not taken.
    if (
        sorted(names) != sorted([MANIFEST, *files])
        or not set(TEXTS) <= set(files)
        or len(recordings) > 1
        or not set(recordings) <= allowed
    ):
        raise Refused(DAMAGED)
    texts = {}
    for name in TEXTS:
        data = _text(archive, name)
        _check(files[name], len(data), hashlib.sha256(data).hexdigest())
        texts[name] = data.decode()
    song = loads(texts[TRANSCRIPTION])
    check_bounds(song)
    decisions, log = json.loads(texts[DECISIONS]), json.loads(texts[LOG])
    if not isinstance(decisions, dict) or not isinstance(log, list):
        raise Refused(DAMAGED)
    recording = recordings[0] if recordings else ""
    if recording:
        target = recording_to.with_suffix(Path(recording).suffix) if recording_to else None
        _check(files[recording], *_copied(archive, recording, target))
    return Bundle(song, decisions, [item for item in log if isinstance(item, dict)], recording)


def _text(archive: zipfile.ZipFile, name: str) -> bytes:
    if archive.getinfo(name).file_size > LARGEST_TEXT:
        raise Refused("A text in this bundle is larger than that of any song.")
    with archive.open(name) as file:
        # What the directory says of its size may be a lie.
        data = file.read(LARGEST_TEXT + 1)
    if len(data) > LARGEST_TEXT:
        raise Refused("A text in this bundle is larger than that of any song.")
    return data


def _copied(archive: zipfile.ZipFile, name: str, target: Path | None) -> tuple[int, str]:
    """Copy a recording out; returns its length and its hash. What was begun is removed again."""
    digest, length = hashlib.sha256(), 0
    out = target.open("wb") if target is not None else None
    try:
        with archive.open(name) as file:
            while piece := file.read(1 << 20):
                length += len(piece)
                if length > LARGEST_BYTES:
                    raise Refused("The recording in this bundle is larger than what is taken.")
                digest.update(piece)
                if out is not None:
                    out.write(piece)
    except BaseException:
        if target is not None:
            target.unlink(missing_ok=True)
        raise
    finally:
        if out is not None:
            out.close()
    return length, digest.hexdigest()


def _check(said: Mapping[str, Any], length: int, digest: str) -> None:
    if said["bytes"] != length or said["sha256"] != digest:
        raise Refused(DAMAGED)

"""Where a song's bytes are: in its folder, and in a store for all hosts where there is one.

A host works on files of its own: a folder a song, below MEDIA_ROOT. Without a store that is all
there is. With one (any that speaks S3, `ORCHESIS_STORE_BUCKET`) each file that others need, a
recording, what was heard in it, a print, is also in the store under the hash of its content; a row
says which content a name of a song has now. So no host needs a disk of another, what two songs have
in common is stored once, and a file is never half there: a name means one content or another.

What can be worked out again for a page (`shown`) stays with the host that worked it out.
"""

from __future__ import annotations

import contextlib
import hashlib
import logging
import os
import tempfile
import time
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path
from typing import Any
from uuid import UUID

from django.conf import settings
from django.core.files import File
from django.core.files.storage import Storage, storages
from django.utils import timezone

from orchesis.errors import OrchesisError
from studio.models import Artefact, Song
from studio.storage import PARTIAL_SUFFIX

log = logging.getLogger(__name__)

STORE = "artefacts"
MARK = ".content"
"""After a name: the file beside it that says which content this host has of it."""

OWN = frozenset({"shown"})
PASSING = ("prints/", "mixes/")
"""What is made again when somebody asks: its rows go after a while."""

PASSING_KEPT = timedelta(days=14)
READ_AT_ONCE = 1024 * 1024
LEFT_FOR = timedelta(hours=6)
"""For so long a content without a row may be one whose row is about to be written."""


AWAY = "The store of recordings does not answer. Try again in a moment."


class StoreAway(OrchesisError):
    """The store does not answer, or has not what a row says that it has."""


def is_shared() -> bool:
    """Whether there is a store."""
    return bool(settings.STORE_BUCKET)


def is_there(path: Path) -> bool:
    """Whether a song has this file, on whichever host."""
    if not is_shared():
        return path.exists()
    return _row(path) is not None or (path.exists() and not _mark(path).exists())


def have(path: Path) -> bool:
    """Whether a song has this file; if so it is on this host now, as it was last published.

    Raises StoreAway where it cannot be fetched.
    """
    if not is_shared():
        return path.exists()
    row = _row(path)
    if row is None:
        if not _mark(path).exists():
            # Made here and not published yet, or never there.
            return path.exists()
        # Withdrawn elsewhere.
        path.unlink(missing_ok=True)
        _mark(path).unlink(missing_ok=True)
        return False
    if not (path.exists() and _has(path) == row.sha256):
        _fetch(row, path)
    return True


def fetch(song: Song) -> None:
    """Have all of a song's files here, prints and mixes aside. Raises StoreAway."""
    if not is_shared():
        return
    for row in song.artefacts.exclude(name__startswith=PASSING[0]).exclude(
        name__startswith=PASSING[1]
    ):
        have(song.folder / row.name)


def publish(song: Song) -> None:
    """Put what is new in a song's folder into the store, for all hosts. Raises StoreAway."""
    if not is_shared() or not song.folder.exists():
        return
    for path in _files(song.folder):
        with contextlib.suppress(FileNotFoundError):
            _publish(song, path)


def names_of(song: Song) -> set[str]:
    """What a song has in its folder here and in the store, what hosts keep for themselves aside."""
    here = {path.relative_to(song.folder).as_posix() for path in _files(song.folder)}
    return here | set(song.artefacts.values_list("name", flat=True))


def withdraw(path: Path) -> None:
    """Remove a file of a song, here and for all hosts."""
    path.unlink(missing_ok=True)
    if is_shared():
        _mark(path).unlink(missing_ok=True)
        Artefact.objects.filter(song_id=_song_of(path), name=_name_of(path)).delete()


def tidy_store() -> int:
    """Remove contents that no row names, and rows of what is made again; how many contents went."""
    if not is_shared():
        return 0
    old = timezone.now() - PASSING_KEPT
    for start in PASSING:
        Artefact.objects.filter(name__startswith=start, published_at__lt=old).delete()
    store, removed = _store(), 0
    before = timezone.now() - LEFT_FOR
    for key in _keys(store):
        if Artefact.objects.filter(sha256=key.rpartition("/")[2]).exists():
            continue
        if store.get_modified_time(key) < before:
            store.delete(key)
            removed += 1
    return removed


def bound_local(most_bytes: int) -> int:
    """Where a store has them too, remove files here that nobody has looked at for longest.

    Until all of them together take at most so many bytes; how many went. What was written or read
    within some hours stays, whatever it takes.
    """
    if not is_shared():
        return 0
    found = []
    for mark in Path(settings.MEDIA_ROOT).glob(f"*/**/*{MARK}"):
        path = mark.with_name(mark.name.removesuffix(MARK))
        with contextlib.suppress(FileNotFoundError):
            state = path.stat()
            found.append((max(state.st_atime, state.st_mtime), state.st_size, path))
    total, removed = sum(size for _, size, _ in found), 0
    before = time.time() - LEFT_FOR.total_seconds()
    for used, size, path in sorted(found):
        if total <= most_bytes or used > before:
            break
        row = _row(path)
        if row is None or row.sha256 != _has(path):
            # Not what the store has: another host's is newer, or this one's is not there yet.
            continue
        path.unlink(missing_ok=True)
        _mark(path).unlink(missing_ok=True)
        total -= size
        removed += 1
    return removed


def _keys(store: Storage) -> Iterator[str]:
    folders, _ = store.listdir("")
    for folder in folders:
        for name in store.listdir(folder)[1]:
            yield f"{folder}/{name}"


def _store() -> Storage:
    return storages[STORE]


def _song_of(path: Path) -> UUID:
    return UUID(path.relative_to(settings.MEDIA_ROOT).parts[0])


def _name_of(path: Path) -> str:
    return Path(*path.relative_to(settings.MEDIA_ROOT).parts[1:]).as_posix()


def _row(path: Path) -> Artefact | None:
    return Artefact.objects.filter(song_id=_song_of(path), name=_name_of(path)).first()


def _mark(path: Path) -> Path:
    return path.with_name(path.name + MARK)


def _has(path: Path) -> str:
    """The content that this host has under a name, as it was marked."""
    try:
        return _mark(path).read_text()
    except FileNotFoundError:
        return ""


def _files(folder: Path) -> Iterator[Path]:
    for at, folders, names in os.walk(folder):
        folders[:] = [name for name in folders if name not in OWN and not name.startswith("tmp")]
        for name in names:
            if not name.endswith(MARK) and PARTIAL_SUFFIX not in name:
                yield Path(at) / name


def _key(sha256: str) -> str:
    return f"{sha256[:2]}/{sha256}"


def _publish(song: Song, path: Path) -> None:
    mark = _mark(path)
    if mark.exists() and mark.stat().st_mtime_ns >= path.stat().st_mtime_ns:
        return
    with path.open("rb") as file, _told():
        digest = hashlib.file_digest(file, "sha256").hexdigest()
        store = _store()
        if not store.exists(_key(digest)):
            file.seek(0)
            store.save(_key(digest), File(file, name=digest))
        size = os.fstat(file.fileno()).st_size
    Artefact.objects.update_or_create(
        song=song,
        name=path.relative_to(song.folder).as_posix(),
        defaults={"sha256": digest, "size": size, "published_at": timezone.now()},
    )
    mark.write_text(digest)


def _fetch(row: Artefact, path: Path) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    total = hashlib.sha256()
    handle, name = tempfile.mkstemp(dir=path.parent, suffix=PARTIAL_SUFFIX)
    partial = Path(name)
    try:
        with _told(), os.fdopen(handle, "wb") as target, _store().open(_key(row.sha256)) as source:
            while block := source.read(READ_AT_ONCE):
                target.write(block)
                total.update(block)
        if total.hexdigest() != row.sha256:
            raise StoreAway("A file of this song is damaged in the store: restore it there.")
        # Marked after it is in its place: a kill between the two has it fetched once more.
        partial.replace(path)
        _mark(path).write_text(row.sha256)
    finally:
        partial.unlink(missing_ok=True)


@contextlib.contextmanager
def _told() -> Iterator[Any]:
    """Turn whatever the store's library raises into StoreAway."""
    try:
        yield
    except OrchesisError:
        raise
    except Exception as error:
        log.exception("the store does not do what it was asked")
        raise StoreAway(
            "The store of recordings does not answer. Try again in a moment."
        ) from error

"""Where bytes go: files written whole or not at all, and room on the disk that is kept for edits.

Recordings, copies and caches stop being written while there is still room; what a person decides
goes into the database, which then has that room.
"""

from __future__ import annotations

import contextlib
import errno
import logging
import os
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

from django.conf import settings

from orchesis.errors import OrchesisError

log = logging.getLogger(__name__)

FULL = (errno.ENOSPC, errno.EDQUOT)
PARTIAL_SUFFIX = ".part"


class DiskFull(OrchesisError):
    """There is no room for what was to be stored."""

    def __init__(self, what: str) -> None:
        super().__init__(
            f"The disk is full: {what}. Make room on the machine that runs Orchesis, or remove "
            "songs, then try again."
        )


def is_full(error: BaseException) -> bool:
    """Whether this error says that the disk is full."""
    return isinstance(error, OSError) and error.errno in FULL


def room() -> int:
    """Bytes that may still be written, those that are kept for edits not counted."""
    folder = Path(settings.MEDIA_ROOT)
    while not folder.exists():
        folder = folder.parent
    return shutil.disk_usage(folder).free - int(settings.ROOM_KEPT_BYTES)


def need_room(size: int, what: str) -> None:
    """Raise DiskFull where so many bytes would not fit. `what`: what could not be done."""
    if room() < size:
        raise DiskFull(what)


@contextlib.contextmanager
def told_when_full(what: str) -> Iterator[None]:
    """Turn the system's error of a full disk into DiskFull. `what`: what could not be done."""
    try:
        yield
    except OSError as error:
        if is_full(error):
            raise DiskFull(what) from error
        raise


@contextlib.contextmanager
def removed_at_the_end(path: Path) -> Iterator[None]:
    """Take a temporary file away, however the work with it ends."""
    try:
        yield
    finally:
        path.unlink(missing_ok=True)


def write_whole(path: Path, content: bytes) -> None:
    """Write a file whole or not at all; what was there before stays until then."""
    handle, name = tempfile.mkstemp(dir=path.parent, suffix=PARTIAL_SUFFIX)
    partial = Path(name)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content)
        partial.replace(path)
    except BaseException:
        partial.unlink(missing_ok=True)
        raise


def keep_in_cache(path: Path, content: bytes) -> bool:
    """Keep what can be worked out again. Whoever reads never needs the disk: a failure is logged.

    False where it was not kept: there was no room, or its song was removed meanwhile.
    """
    try:
        if room() < len(content):
            return False
        path.parent.mkdir(exist_ok=True)
        write_whole(path, content)
    except OSError as error:
        log.warning("%s is not kept: %s", path.name, error)
        return False
    return True

"""Tidying: what is left behind by kills, by time and by removed songs goes; caches stay bounded.

Run at start and once a day by the keeper, and by `./orchesis tidy`. Nothing that a person decided,
and no recording of a song that exists, is ever touched.
"""

from __future__ import annotations

import shutil
import time
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from uuid import UUID

from django.conf import settings
from django.contrib.sessions.models import Session
from django.db.models import Exists, OuterRef, Value
from django.db.models.functions import Coalesce
from django.utils import timezone

from studio.actions.retention import end_old_recordings
from studio.actions.visits import end_old_visits
from studio.artefacts import bound_local, tidy_store
from studio.models import OPEN_STATES, Job, Song
from studio.storage import PARTIAL_SUFFIX

LEFT_FOR = 3600.0
"""Seconds for which something may still be in the making: what is older was left behind."""

JOBS_KEPT = timedelta(days=30)
MOST_JOBS_AT_ONCE = 20_000
MOST_CACHE_BYTES = 2 * 1024**3
CACHES = ("shown", "prints", "compared")
"""Folders beside a song's recording whose files can all be worked out again."""


@dataclass
class Tidied:
    """How much went."""

    folders: int = 0
    uploads: int = 0
    partial_files: int = 0
    cached_files: int = 0
    sessions: int = 0
    jobs: int = 0
    recordings: int = 0
    contents: int = 0
    visits: int = 0

    def words(self) -> str:
        """In a line."""
        return (
            f"{self.folders} folders without a song, {self.uploads} unfinished uploads, "
            f"{self.partial_files} half-written files, {self.cached_files} cached files, "
            f"{self.sessions} expired sessions, {self.jobs} old jobs, "
            f"{self.recordings} recordings whose time was over, "
            f"{self.contents} contents without a song, {self.visits} visits of the demo"
        )


def tidy(*, most_cache_bytes: int = MOST_CACHE_BYTES, left_for: float = LEFT_FOR) -> Tidied:
    """Remove what is left behind. Safe beside everything else, at any time.

    most_cache_bytes : of all songs together; the least recently used files go first.
    left_for : seconds for which something unfinished is left alone.
    """
    done = Tidied()
    before = time.time() - left_for
    media = Path(settings.MEDIA_ROOT)
    done.folders = _remove_orphans(media, before)
    done.uploads = _remove_uploads(before)
    for path in media.glob(f"*/**/*{PARTIAL_SUFFIX}*"):
        done.partial_files += _remove_old(path, before)
    done.cached_files = _bound_caches(media, most_cache_bytes)
    done.sessions = Session.objects.filter(expire_date__lt=timezone.now()).delete()[0]
    done.jobs = _remove_jobs()
    done.visits = end_old_visits()
    done.recordings = end_old_recordings(settings.KEEP_RECORDINGS_DAYS)
    done.contents = tidy_store()
    done.cached_files += bound_local(settings.LOCAL_MEGABYTES * 1024**2)
    return done


def _remove_orphans(media: Path, before: float) -> int:
    """Folders whose song does not exist: an upload was cut down before its row was stored."""
    if not media.exists():
        return 0
    removed = 0
    for folder in media.iterdir():
        if not folder.is_dir() or folder.stat().st_mtime > before:
            continue
        try:
            known = Song.objects.filter(pk=UUID(folder.name)).exists()
        except ValueError:
            continue
        if not known:
            shutil.rmtree(folder, ignore_errors=True)
            removed += 1
    return removed


def _remove_uploads(before: float) -> int:
    folders = [Path(settings.FILE_UPLOAD_TEMP_DIR), settings.RUN / "nginx" / "incoming"]
    files = [path for folder in folders if folder.exists() for path in folder.iterdir()]
    return sum(_remove_old(path, before) for path in files)


def _remove_old(path: Path, before: float) -> bool:
    try:
        if path.is_file() and path.stat().st_mtime < before:
            path.unlink()
            return True
    except FileNotFoundError:
        pass
    return False


def _cached(media: Path) -> Iterator[Path]:
    for name in CACHES:
        yield from media.glob(f"*/{name}/*")


def _bound_caches(media: Path, most: int) -> int:
    found = []
    for path in _cached(media):
        try:
            state = path.stat()
        except FileNotFoundError:
            continue
        found.append((max(state.st_atime, state.st_mtime), state.st_size, path))
    total, removed = sum(size for _, size, _ in found), 0
    for _, size, path in sorted(found):
        if total <= most:
            break
        path.unlink(missing_ok=True)
        total -= size
        removed += 1
    return removed


def _remove_jobs() -> int:
    """Jobs that ended long ago, but of each song and kind the newest, which says how it went."""
    of_what = Coalesce("source_id", Value(0))
    newer = Job.objects.annotate(of=of_what).filter(
        song=OuterRef("song"), kind=OuterRef("kind"), of=OuterRef("of"), pk__gt=OuterRef("pk")
    )
    old = (
        Job.objects.exclude(state__in=OPEN_STATES)
        .filter(created_at__lt=timezone.now() - JOBS_KEPT)
        .annotate(of=of_what)
        .filter(Exists(newer))
    )
    # The database does not delete from what it asks at the same time.
    found = list(old.values_list("pk", flat=True)[:MOST_JOBS_AT_ONCE])
    return int(Job.objects.filter(pk__in=found).delete()[0])

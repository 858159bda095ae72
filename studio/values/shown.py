"""What the page shows of a song, worked out once for each revision and kept beside its files.

The grooves and the feel of a long song take some tenths of a second to work out, and nothing of
them changes until the song does: every change raises its revision. A compressed twin lies beside
each file, which the proxy sends as it is.
"""

from __future__ import annotations

import contextlib
import gzip
import hashlib
import json
import os
import time
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path
from typing import Any

from django.conf import settings
from rest_framework.renderers import JSONRenderer

from studio.models import Song
from studio.storage import keep_in_cache

KEPT = 2
"""Of each kind the newest: an undo goes back to a revision of its own."""


@lru_cache(maxsize=1)
def code_stamp() -> str:
    """Another for every version of the code: nothing that an old one worked out is shown.

    By content: hosts that run one version find each other's work, whenever each was installed.
    """
    told = hashlib.sha256()
    for folder in ("src/orchesis", "studio"):
        for path in sorted((Path(settings.ROOT) / folder).rglob("*.py")):
            told.update(path.read_bytes())
    return told.hexdigest()[:16]


def shown_path(song: Song, what: str) -> Path:
    """Where an answer about this revision of the song is kept, if it is."""
    seen = hashlib.sha256(f"{song.title} {code_stamp()}".encode()).hexdigest()[:12]
    return song.folder / "shown" / f"{what}.{song.revision}-{seen}.json"


def shown(song: Song, what: str, make: Callable[[], dict[str, Any]]) -> bytes:
    """JSON of what `make` gives for this revision of the song; made only where it is not kept.

    `what` names it, once for all songs. Values that depend on who looks do not belong into it.
    """
    path = shown_path(song, what)
    try:
        return path.read_bytes()
    except OSError:
        body: bytes = JSONRenderer().render(make())
    _keep(path, what, body)
    return body


def shown_before(song: Song, what: str) -> dict[str, Any] | None:
    """The newest answer of this kind that is kept, of whichever revision, by this code."""
    now = shown_path(song, what)
    seen = now.stem.rpartition("-")[2]
    kept = sorted(now.parent.glob(f"{what}.*-{seen}.json"), key=_changed)
    for path in reversed(kept):
        try:
            found: dict[str, Any] = json.loads(path.read_bytes())
        except (OSError, ValueError):
            continue
        return found
    return None


def _keep(path: Path, what: str, body: bytes) -> None:
    if not path.parent.parent.exists():
        return
    # The proxy tells files apart by size and by the second they were written in: two revisions of
    # one second and one size would be one to a browser that asks whether anything has changed.
    before = [int(_changed(old) / 1e9) for old in path.parent.glob(f"{what}.*.json")]
    written = max([int(time.time()), *(second + 1 for second in before)])
    # The twin first: who finds the file finds both.
    packed = keep_in_cache(path.with_name(path.name + ".gz"), gzip.compress(body, 6, mtime=0))
    if not packed or not keep_in_cache(path, body):
        return
    for kept_path in (path, path.with_name(path.name + ".gz")):
        with contextlib.suppress(FileNotFoundError):
            os.utime(kept_path, (written, written))
    kept = sorted(path.parent.glob(f"{what}.*.json"), key=_changed)
    for old in kept[:-KEPT]:
        old.unlink(missing_ok=True)
        old.with_name(old.name + ".gz").unlink(missing_ok=True)


def _changed(path: Path) -> int:
    try:
        return path.stat().st_mtime_ns
    except FileNotFoundError:
        return 0

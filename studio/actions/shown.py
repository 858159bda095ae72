"""What the page shows of a song, worked out once for each revision and kept beside its files.

The grooves and the feel of a long song take some tenths of a second to work out, and nothing of
them changes until the song does: every change raises its revision.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path
from typing import Any

from django.conf import settings
from rest_framework.renderers import JSONRenderer

from studio.models import Song
from studio.storage import keep_in_cache


@lru_cache(maxsize=1)
def code_stamp() -> str:
    """Another for every version of the code: nothing that an old one worked out is shown."""
    told = hashlib.sha256()
    for folder in ("src/orchesis", "studio"):
        for path in sorted((Path(settings.ROOT) / folder).rglob("*.py")):
            found = path.stat()
            told.update(f"{path.name} {found.st_size} {found.st_mtime_ns}\n".encode())
    return told.hexdigest()[:16]


def shown(song: Song, what: str, make: Callable[[], dict[str, Any]]) -> bytes:
    """JSON of what `make` gives for this revision of the song; made only where it is not kept.

    `what` names it, once for all songs. Values that depend on who looks do not belong into it.
    """
    path = song.folder / "shown" / f"{what}.json"
    stamp = f"{song.revision} {code_stamp()}\n".encode()
    try:
        kept = path.read_bytes()
    except OSError:
        kept = b""
    if kept.startswith(stamp):
        return kept[len(stamp) :]
    body: bytes = JSONRenderer().render(make())
    if path.parent.parent.exists():
        keep_in_cache(path, stamp + body)
    return body

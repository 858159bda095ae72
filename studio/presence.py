"""Who has a song open, at which bar: in Redis, for a few seconds; nobody keeps a record of it."""

from __future__ import annotations

import logging
import time

import redis

from studio.counters import connection

log = logging.getLogger(__name__)

HERE_SECONDS = 8
"""So often a page says that it is here."""

GONE_SECONDS = 20.0


def be_here(song: str, name: str, bar: int) -> list[tuple[str, int]]:
    """Say that somebody is here; gives back the others and their bars, by name."""
    key = f"here:{song}"
    now = time.time()
    try:
        pipe = connection().pipeline()
        pipe.hset(key, name, f"{now:.1f} {bar}")
        pipe.expire(key, 2 * int(GONE_SECONDS))
        pipe.hgetall(key)
        rows = pipe.execute()[-1]
    except redis.RedisError as error:
        log.warning("nobody is told who is here: %s", error)
        return []
    found = []
    for who, value in rows.items():
        seen, at = _text(value).split()
        if _text(who) != name and now - float(seen) < GONE_SECONDS:
            found.append((_text(who), int(at)))
    return sorted(found)


def _text(value: bytes | str) -> str:
    return value.decode() if isinstance(value, bytes) else value

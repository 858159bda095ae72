"""Lines of charts that one process has engraved, kept in Redis for all others."""

from __future__ import annotations

import redis

from studio.counters import connection

KEPT_SECONDS = 12 * 3600
"""A line has some six kilobytes: what nobody looks at for half a day is engraved again."""

PREFIX = "drawing:"


class RedisDrawings:
    """See `orchesis.chart.engrave.SharedDrawings`. A queue that is away keeps nothing."""

    def __init__(self) -> None:
        self._connection: redis.Redis | None = None

    def get(self, name: str) -> bytes | None:
        """A drawing by its name; looking at it keeps it."""
        try:
            found = self._redis().getex(PREFIX + name, ex=KEPT_SECONDS)
        except redis.RedisError:
            return None
        return found if isinstance(found, bytes) else None

    def put(self, name: str, drawing: bytes) -> None:
        """Keep a drawing for half a day."""
        try:
            self._redis().set(PREFIX + name, drawing, ex=KEPT_SECONDS)
        except redis.RedisError:
            return

    def _redis(self) -> redis.Redis:
        if self._connection is None:
            self._connection = connection()
        return self._connection

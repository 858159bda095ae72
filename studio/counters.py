"""The queue's server, Redis, asked directly: for counters, and whether it answers at all."""

from __future__ import annotations

import redis
from django.conf import settings

ANSWER_SECONDS = 0.5


def connection() -> redis.Redis:
    """A connection that has half a second to answer, and is not tried twice."""
    return redis.Redis.from_url(
        settings.REDIS_URL,
        socket_timeout=ANSWER_SECONDS,
        socket_connect_timeout=ANSWER_SECONDS,
        retry=None,
    )


def answers() -> bool:
    """Whether it answers."""
    try:
        return bool(connection().ping())
    except redis.RedisError:
        return False

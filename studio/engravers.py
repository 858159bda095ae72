"""What a person waits for and no web process works out itself: asked of the engravers.

Charts, pictures of sound, another reading, what would be heard otherwise: tenths of a second of
work each. A web process hands it to a worker of the queue `engrave`, on whichever host, and waits
for the answer, which comes through Redis and stays there for a while: who asks for the same
revision of a song in the same way gets it from there. So pages go on while charts are drawn, and a
library that falls takes no web process along.

Elsewhere, in workers themselves and in tests, it is worked out on the spot.
"""

from __future__ import annotations

import hashlib
import json
import logging
import uuid
import zlib
from collections.abc import Callable
from typing import Any

import redis
from celery import current_app, shared_task
from django.conf import settings

from orchesis.errors import InvalidTranscription, Missing, OrchesisError
from studio.artefacts import StoreAway
from studio.counters import connection
from studio.metrics import engraving_seconds
from studio.tracing import trace, traced

log = logging.getLogger(__name__)

QUEUE = "engrave"
ENGRAVE = "orchesis.engrave"
"""The engravers' task, by its name."""

Asked = dict[str, Any]
Worker = Callable[[str, Asked], bytes]
WORKS: dict[str, Worker] = {}
"""What can be asked for: by name, what makes the answer of a song's id and of what is asked.
`jobs/engraving.py` fills it."""

TAKEN_WITHIN = 3.0
"""Seconds in which an engraver takes up what is asked; else none is there, or too much waits."""

MADE_WITHIN = 25.0
KEPT_SECONDS = 900
"""An answer is some tens of kilobytes, compressed."""

AWAY_SECONDS = 2
"""After nobody took something up: who asks meanwhile is told so at once."""

TAKEN, MADE, FAILED = b"t", b"m", b"f"
TOLD: dict[str, type[OrchesisError]] = {
    kind.__name__: kind for kind in (Missing, InvalidTranscription, StoreAway, OrchesisError)
}
"""Errors that are carried over: what they say is for people."""


class EngraversAway(OrchesisError):
    """Nobody draws just now."""

    def __init__(self) -> None:
        super().__init__("This takes longer than it should just now. It is tried again.")


def engraved(name: str, song: str, asked: Asked, stamp: str) -> bytes:
    """The answer to something of WORKS.

    name : which. song : its id. asked : what is asked, plain values.
    stamp : another whenever the answer is another: the song's revision and what else it rests on.

    Raises EngraversAway, and what the work itself raises.
    """
    if settings.ROLE != "web":
        return WORKS[name](song, asked)
    told = json.dumps([name, song, asked, stamp], sort_keys=True)
    key = f"answer:{hashlib.sha256(told.encode()).hexdigest()[:32]}"
    try:
        found = connection().get(key)
        return _opened(found) if isinstance(found, bytes) else _ordered(name, song, asked, key)
    except redis.RedisError as error:
        log.warning("nothing is engraved: %s", error)
        raise EngraversAway from error


def _ordered(name: str, song: str, asked: Asked, key: str) -> bytes:
    line = connection()
    if line.get("engravers:away"):
        raise EngraversAway
    back = f"back:{uuid.uuid4().hex}"
    order = (name, song, asked, key, back, trace())
    try:
        current_app.tasks[ENGRAVE].apply_async(order, queue=QUEUE, expires=MADE_WITHIN)
    except Exception as error:
        log.warning("the queue takes nothing to engrave: %s", error)
        raise EngraversAway from error
    waiting = redis.Redis.from_url(settings.REDIS_URL, socket_timeout=MADE_WITHIN + 5)
    with waiting:
        if waiting.blpop([back], timeout=TAKEN_WITHIN) is None:
            line.set("engravers:away", 1, ex=AWAY_SECONDS)
            raise EngraversAway
        answer: Any = waiting.blpop([back], timeout=MADE_WITHIN)
    if answer is None:
        raise EngraversAway
    return _opened(answer[1])


def _opened(answer: bytes) -> bytes:
    body = zlib.decompress(answer[1:])
    if answer[:1] == MADE:
        return body
    kind, words = json.loads(body)
    raise TOLD[kind](words)


@shared_task(name=ENGRAVE, acks_late=False, reject_on_worker_lost=False)  # type: ignore[untyped-decorator]
def engrave(name: str, song: str, asked: Asked, key: str, back: str, trace_name: str) -> None:
    """Take an order up, work it out, and send the answer back."""
    line = connection()
    line.rpush(back, TAKEN)
    line.expire(back, int(2 * MADE_WITHIN))
    found = line.get(key)
    if isinstance(found, bytes):
        # Made meanwhile, for somebody else.
        line.rpush(back, found)
        return
    with traced(trace_name), engraving_seconds.labels(name).time():
        answer = _answer(name, song, asked)
    line.rpush(back, answer)
    if answer[:1] == MADE:
        line.set(key, answer, ex=KEPT_SECONDS)


def _answer(name: str, song: str, asked: Asked) -> bytes:
    try:
        return MADE + zlib.compress(WORKS[name](song, asked), 1)
    except Exception as error:
        kind = next((k for k in type(error).__mro__ if TOLD.get(k.__name__) is k), None)
        if kind is None:
            log.exception("%s of %s could not be worked out", name, song)
            kind, error = OrchesisError, OrchesisError("Something went wrong inside. Try again.")
        return FAILED + zlib.compress(json.dumps([kind.__name__, str(error)]).encode(), 1)

"""One name for a request through everything that it causes: page, job, log lines of both.

The proxy names each request; the name goes into the answer's `X-Request-Id`, into the job that the
request asks for, and into each log line that is written for either. Lines are JSON, one object
each, so that any collector reads them.
"""

from __future__ import annotations

import json
import logging
import re
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import UTC, datetime

from django.http import HttpRequest, HttpResponse

HEADER = "X-Request-Id"
NAMED = re.compile(r"[0-9a-f]{8,32}")
_trace: ContextVar[str] = ContextVar("trace", default="")


def trace() -> str:
    """The name of the request that this is done for; empty where nobody asked."""
    return _trace.get()


@contextmanager
def traced(name: str) -> Iterator[None]:
    """What is done inside is done for the request of that name."""
    token = _trace.set(name)
    try:
        yield
    finally:
        _trace.reset(token)


class Traced:
    """Names each request, or takes the proxy's name for it."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer, with the name."""
        given = request.headers.get(HEADER, "")
        # Whatever else somebody sends would end up in logs as he wrote it.
        name = given if NAMED.fullmatch(given) else uuid.uuid4().hex
        with traced(name):
            response = self.get_response(request)
        response[HEADER] = name
        return response


class JsonLines(logging.Formatter):
    """A log line as a JSON object: when, how grave, who says what, for which request."""

    def format(self, record: logging.LogRecord) -> str:
        """The line."""
        told = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname,
            "logger": record.name,
            "message": record.getMessage(),
        }
        if name := trace():
            told["request"] = name
        if record.exc_info:
            told["error"] = self.formatException(record.exc_info)
        return json.dumps(told, ensure_ascii=False)

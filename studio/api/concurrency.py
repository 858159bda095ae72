"""Limits on how many expensive requests one person or one address has worked on at a time.

A web process answers one request at a time, and there are few of them: whoever asks for much work
at once waits for themselves, not everybody for them.
"""

from __future__ import annotations

import contextlib
import logging
from typing import Any

import redis
from rest_framework.exceptions import Throttled
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from studio.counters import connection
from studio.passwords import client_address

log = logging.getLogger(__name__)

MOST_OF_A_PERSON = 2
MOST_OF_AN_ADDRESS = 6
"""A class sits behind one address."""

FORGOTTEN_AFTER = 60
"""Seconds: a process that was killed does not count its request down again."""

WAIT_SECONDS = 1
WAIT = "Orchesis is still at work on your last request. Try again in a second."


class ConcurrencyLimited(APIView):
    """A view whose work is dear. Put it before the other base of a view.

    Who is told to wait asks again in a second; the pages do so by themselves.
    """

    _held: tuple[str, ...] = ()

    def initial(self, request: Request, *args: Any, **kwargs: Any) -> None:
        """Called before the view: counts the request up. Raises Throttled."""
        super().initial(request, *args, **kwargs)
        if request.method in ("GET", "HEAD", "OPTIONS"):
            return
        limits = {f"flight:address:{client_address(request._request)}": MOST_OF_AN_ADDRESS}
        if request.user.is_authenticated:
            limits[f"flight:person:{request.user.pk}"] = MOST_OF_A_PERSON
        else:
            limits[f"flight:guest:{request.session.session_key or ''}"] = MOST_OF_A_PERSON
        try:
            line = connection()
            for key, most in limits.items():
                count = int(line.incr(key))
                line.expire(key, FORGOTTEN_AFTER)
                self._held = (*self._held, key)
                if count > most:
                    raise Throttled(wait=WAIT_SECONDS, detail=WAIT)
        except redis.RedisError as error:
            log.warning("requests in flight are not counted: %s", error)

    def finalize_response(
        self, request: Request, response: Response, *args: Any, **kwargs: Any
    ) -> Response:
        """Called after the view, however it ended: counts the request down."""
        held, self._held = self._held, ()
        with contextlib.suppress(redis.RedisError):
            for key in held:
                connection().decr(key)
        return super().finalize_response(request, response, *args, **kwargs)

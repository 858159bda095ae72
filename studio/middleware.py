"""Middleware: headers, a ceiling of time, and a database that is away or has no room."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from pathlib import Path

from django.conf import settings
from django.db import DatabaseError, connections
from django.http import HttpRequest, HttpResponse

from studio.api.problems import database_problem, is_told
from studio.ceiling import ceiling

CONTENT_SECURITY_POLICY = " ".join(
    (Path(__file__).parent / "content-security-policy.txt").read_text().split()
)
"""The time stretcher is WebAssembly; nothing else may be made into code. PrimeVue puts its theme
into style tags. Also read by the proxy, for what it serves by itself."""

AWAY_PAGE = """<!doctype html><html lang="en"><meta charset="utf-8">
<meta name="viewport" content="width=device-width"><title>Orchesis: a short rest</title>
<body style="font:1.2rem/1.6 Georgia,serif;background:#f6f2e9;color:#23211d;
max-width:34rem;margin:18vh auto;padding:0 1.5rem">
<h1 style="font-weight:500">A short rest</h1>
<p>The database does not answer just now. Whatever was said to be saved is saved.
Reload this page in a moment; if it stays away, start Orchesis again.</p>"""


class SecurityHeaders:
    """Adds the content security policy to every answer."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer, with headers."""
        response = self.get_response(request)
        response["Content-Security-Policy"] = CONTENT_SECURITY_POLICY
        response["X-Frame-Options"] = "DENY"
        return response


class Ceiling:
    """Stops what takes longer than anybody waits."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer in time, or be stopped: `problems.failed` then says so."""
        wall = settings.REQUEST_WALL_SECONDS
        with ceiling(settings.REQUEST_SECONDS, wall=wall, on_stop=drop_connections):
            return self.get_response(request)


def drop_connections() -> None:
    """Let go of the database: what was asked of it may not have been answered yet.

    Whatever was not committed is undone by the database, and the next request connects afresh.
    """
    for connection in connections.all(initialized_only=True):
        with contextlib.suppress(Exception):
            connection.close()


class DatabaseAway:
    """Turns a database that cannot be reached, or has no room, into an answer that says so."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer."""
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        """Called by Django when a view has raised."""
        if not isinstance(error, DatabaseError) or not is_told(error):
            return None
        if request.path.startswith("/api/"):
            return database_problem(error)
        return HttpResponse(AWAY_PAGE, status=503, headers={"Retry-After": "3"})

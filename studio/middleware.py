"""Middleware: headers that keep the pages to themselves, and a database that is away."""

from __future__ import annotations

from collections.abc import Callable

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse

CONTENT_SECURITY_POLICY = "; ".join(
    [
        "default-src 'self'",
        # The time stretcher is WebAssembly; nothing else may be made into code.
        "script-src 'self' 'wasm-unsafe-eval'",
        # PrimeVue puts its theme into style tags.
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data:",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    ]
)

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


class DatabaseAway:
    """Turns a database that cannot be reached into an answer that says so: 503, try again."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer; the session may ask the database outside of any view."""
        try:
            return self.get_response(request)
        except (OperationalError, InterfaceError):
            return self._away(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        """Called by Django when a view has raised."""
        if isinstance(error, (OperationalError, InterfaceError)):
            return self._away(request)
        return None

    def _away(self, request: HttpRequest) -> HttpResponse:
        if request.path.startswith("/api/"):
            detail = "The database does not answer. Your change is not stored yet: try again."
            return JsonResponse(
                {"code": "database_away", "detail": detail},
                status=503,
                headers={"Retry-After": "3"},
            )
        return HttpResponse(AWAY_PAGE, status=503, headers={"Retry-After": "3"})

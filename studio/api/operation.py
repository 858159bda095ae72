"""For whoever runs this server: whether it lives, whether it can work, what it has done."""

from __future__ import annotations

import hmac

from django.conf import settings
from django.db import DatabaseError, connection
from django.http import HttpResponse
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from studio import counters, metrics, storage


class LiveView(APIView):
    """Asked by whoever starts this process again where it hangs."""

    permission_classes = [AllowAny]

    @extend_schema(exclude=True)
    def get(self, request: Request) -> Response:
        """It answers."""
        return Response({"live": True})


class ReadyView(APIView):
    """Asked by whoever sends people here."""

    permission_classes = [AllowAny]

    @extend_schema(exclude=True)
    def get(self, request: Request) -> Response:
        """200 where people can work here; what does not answer is named.

        Without its queue or with a full disk charts are still read and edited: that is said, and
        people are sent here all the same.
        """
        found = {
            "database": _database_answers(),
            "queue": counters.answers(),
            "room": storage.room() > 0,
        }
        return Response(found, status=200 if found["database"] else 503)


def _database_answers() -> bool:
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
            return bool(cursor.fetchone())
    except DatabaseError:
        return False


class MetricsView(APIView):
    """Asked by a monitor, with the word of this installation, or by an administrator."""

    permission_classes = [AllowAny]

    @extend_schema(exclude=True)
    def get(self, request: Request) -> HttpResponse:
        """All of it, as Prometheus reads it."""
        word = request.headers.get("Authorization", "").removeprefix("Bearer ")
        is_monitor = hmac.compare_digest(word.encode(), settings.METRICS_WORD.encode())
        if not (is_monitor or request.user.is_superuser):
            raise NotFound("Not found.")
        return HttpResponse(metrics.report(), content_type="text/plain; version=0.0.4")

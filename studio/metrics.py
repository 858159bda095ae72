"""What a monitor asks for: how long requests, edits and jobs take, what waits, what went wrong.

Counters of all processes of this machine meet in a folder (`PROMETHEUS_MULTIPROC_DIR`, set by the
launcher), what is in the database is counted when it is asked for. The form is Prometheus' own.
"""

from __future__ import annotations

import os
import time
from collections.abc import Callable

from django.db.models import Count, Min
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from prometheus_client import (
    REGISTRY,
    CollectorRegistry,
    Counter,
    Gauge,
    Histogram,
    generate_latest,
    multiprocess,
)

from studio import storage
from studio.models import OPEN_STATES, Job, RunState, Song

FOLDER = "PROMETHEUS_MULTIPROC_DIR"
SECONDS = (0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 5.0, 15.0)
LONG_SECONDS = (1.0, 5.0, 15.0, 30.0, 60.0, 120.0, 300.0, 600.0)

requests = Histogram(
    "orchesis_request_seconds",
    "Answers, by address and status",
    ("view", "status"),
    buckets=SECONDS,
)
job_seconds = Histogram(
    "orchesis_job_seconds", "Jobs that ended", ("kind", "state"), buckets=LONG_SECONDS
)
stage_seconds = Histogram(
    "orchesis_stage_seconds", "Stages of jobs", ("kind", "stage"), buckets=LONG_SECONDS
)
engraving_seconds = Histogram(
    "orchesis_engraving_seconds", "What was worked out for who waits", ("what",), buckets=SECONDS
)
errors = Counter("orchesis_errors", "Requests and jobs that ended by a fault of ours", ("where",))


class Measured:
    """Times every request, by the view that answers it."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer."""
        began = time.perf_counter()
        response = self.get_response(request)
        match = request.resolver_match
        # By its pattern: addresses themselves are as many as there are songs.
        view = f"{request.method} /{match.route}" if match else "none"
        requests.labels(view, f"{response.status_code // 100}xx").observe(
            time.perf_counter() - began
        )
        if response.status_code == 500:
            errors.labels("request").inc()
        return response


class Stopwatch:
    """Times a job and its stages."""

    def __init__(self, kind: str) -> None:
        self._kind = kind
        self._began = self._stage_began = time.perf_counter()
        self._stage = ""

    def stage(self, name: str) -> None:
        """A stage is worked on; the one before, if it was another, is over."""
        now = time.perf_counter()
        if name == self._stage:
            return
        if self._stage:
            stage_seconds.labels(self._kind, self._stage).observe(now - self._stage_began)
        self._stage, self._stage_began = name, now

    def end(self, state: str) -> None:
        """It ended so."""
        self.stage("")
        job_seconds.labels(self._kind, state).observe(time.perf_counter() - self._began)
        if state == RunState.FAILED:
            errors.labels("job").inc()


def report() -> bytes:
    """Everything, in Prometheus' text form."""
    registry = REGISTRY
    if os.environ.get(FOLDER):
        registry = CollectorRegistry()
        multiprocess.MultiProcessCollector(registry)  # type: ignore[no-untyped-call]
    counted = CollectorRegistry()
    _count(counted)
    return generate_latest(registry) + generate_latest(counted)


def _count(registry: CollectorRegistry) -> None:
    jobs = Gauge("orchesis_jobs", "Jobs that wait or run", ("kind", "state"), registry=registry)
    oldest = Gauge(
        "orchesis_oldest_wait_seconds", "How long the oldest waits", ("kind",), registry=registry
    )
    rows = Job.objects.filter(state__in=OPEN_STATES).values("kind", "state")
    for row in rows.annotate(count=Count("pk"), since=Min("created_at")).order_by():
        jobs.labels(row["kind"], row["state"]).set(row["count"])
        if row["state"] == RunState.QUEUED:
            waited = (timezone.now() - row["since"]).total_seconds()
            oldest.labels(row["kind"]).set(waited)
    Gauge("orchesis_songs", "Songs", registry=registry).set(Song.objects.count())
    Gauge("orchesis_room_bytes", "Room for recordings and caches", registry=registry).set(
        storage.room()
    )

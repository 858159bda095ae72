"""Jobs: asked for, handed to workers in turn, cancelled, and taken up again when a worker died.

The row of a job is the truth. A message in the queue says only "there is work": it may get lost,
come twice, or wait for a queue that is away; the keeper (`manage.py keep`) sends it again. So an
upload is answered as soon as its row is stored. Hearts beat by the database's clock: hosts whose
own clocks differ agree on who is alive.
"""

from __future__ import annotations

import logging
from collections.abc import Sequence
from datetime import timedelta
from typing import Any

from celery import current_app
from django.conf import settings
from django.db import transaction
from django.db.models import Case, F, OuterRef, Q, Subquery, Value, When
from django.db.models.functions import Now
from django.utils import timezone

from orchesis.errors import OrchesisError
from studio.counters import answers
from studio.models import OPEN_STATES, STALE_AFTER, Job, JobKind, RunState, Song, Source
from studio.tracing import trace

log = logging.getLogger(__name__)

WORK = "orchesis.work"
"""The workers' task (`jobs/work.py`), by name: jobs are asked for on a floor below it."""

MOST_ATTEMPTS = 2
"""The first, and the one by itself after an interruption. Then a person decides."""

WAKE_AGAIN_AFTER = timedelta(seconds=10)
LOOKED_AT_WITHIN = timedelta(seconds=20)
"""A job of a song that somebody looks at goes before those that nobody waits for."""

QUEUE_OF = {
    JobKind.LISTEN: "listen",
    JobKind.LINE_UP: "listen",
    JobKind.PARTS: "render",
    JobKind.PRINT: "render",
    JobKind.MIX: "render",
    JobKind.COPY: "small",
    JobKind.PREPARE: "small",
    JobKind.READ: "small",
    JobKind.COMPARE: "small",
    JobKind.EXPORT: "render",
}
"""Long work and short work have workers of their own: a page is not printed after an album."""

WAITED_FOR = (JobKind.PRINT, JobKind.MIX, JobKind.READ, JobKind.COMPARE, JobKind.EXPORT)
RUNS = (JobKind.LISTEN, JobKind.READ)
"""By which a song gets its chart: how far the newest of them is stands on the shelf."""

"""Somebody sits before these: they go before what is made in advance."""

GOES_ON = "It was interrupted and goes on by itself."
INTERRUPTED = "It was interrupted twice. Nothing of the song was changed; try again."


class NotNow(OrchesisError):
    """What was asked does not fit the state that the song is in."""


def kinds_of(queue: str) -> list[str]:
    """The kinds of jobs that the workers of a queue do."""
    return [kind.value for kind, name in QUEUE_OF.items() if name == queue]


def queue_job(
    song: Song,
    kind: JobKind,
    *,
    source: Source | None = None,
    options: dict[str, Any] | None = None,
) -> Job:
    """Add a job, and wake a worker when the transaction is through."""
    job = Job.objects.create(
        song=song, kind=kind, source=source, options=options or {}, trace=trace()
    )
    transaction.on_commit(lambda: wake([job]))
    return job


def wake(jobs: Sequence[Job]) -> bool:
    """Tell the workers that there is work. False where the queue does not answer: later, then."""
    if jobs and settings.ROLE == "web" and not answers():
        # Somebody waits for an answer, and the queue's own library would try for long.
        log.warning("the queue does not answer: it is told of %s jobs later", len(jobs))
        return False
    for job in jobs:
        queue = QUEUE_OF[JobKind(job.kind)]
        Job.objects.filter(pk=job.pk).update(woken_at=Now())
        try:
            current_app.tasks[WORK].apply_async((queue,), queue=queue)
        except Exception as error:
            log.warning("the queue does not take job %s: %s", job.pk, error)
            Job.objects.filter(pk=job.pk).update(woken_at=None)
            return False
    return True


def sleeping_jobs() -> list[Job]:
    """Waiting jobs of which no worker was told, or was told long ago."""
    waiting = Job.objects.filter(state=RunState.QUEUED, cancel_requested=False)
    untold = waiting.filter(woken_at=None)
    late = waiting.filter(woken_at__lt=Now() - WAKE_AGAIN_AFTER)
    # One message is enough to wake a worker for what is late: it goes on while there is work.
    return [*untold.order_by("id")[:50], *late.order_by("woken_at")[:1]]


def claim_next(queue: str) -> Job | None:
    """Take the next job of a queue for this worker, each user in turn; None where there is none.

    First comes what a person waits for: a print, a mix, whatever belongs to a song that is looked
    at. Then whoever was served longest ago, or never: a single song does not wait behind somebody's
    album. Of one user's jobs the oldest comes first.
    """
    kinds = kinds_of(queue)
    served = (
        Job.objects.filter(
            song__owner=OuterRef("song__owner"), kind__in=kinds, started_at__isnull=False
        )
        .order_by("-started_at")
        .values("started_at")[:1]
    )
    waiting = Job.objects.filter(state=RunState.QUEUED, kind__in=kinds, cancel_requested=False)
    while True:
        job = (
            waiting.annotate(served=Subquery(served), waited_for=_is_waited_for())
            .order_by("-waited_for", F("served").asc(nulls_first=True), "id")
            .first()
        )
        if job is None:
            return None
        taken = waiting.filter(pk=job.pk, attempts=job.attempts).update(
            state=RunState.RUNNING,
            attempts=F("attempts") + 1,
            started_at=Now(),
            heartbeat_at=Now(),
            stage="",
            progress=0.0,
            message="",
        )
        if taken:
            return Job.objects.select_related("song", "source").get(pk=job.pk)


def _is_waited_for() -> Case:
    return Case(
        When(Q(kind__in=WAITED_FOR) | Q(asked_at__gt=Now() - LOOKED_AT_WITHIN), then=Value(1)),
        default=Value(0),
    )


def looked_at(song: Song) -> None:
    """Note that somebody looks at a song now: what of it waits is waited for.

    Whoever only looks waits for nobody: a job that a worker takes this moment is left alone.
    """
    stale = Q(asked_at=None) | Q(asked_at__lt=Now() - LOOKED_AT_WITHIN / 4)
    waiting = song.jobs.filter(stale, state=RunState.QUEUED)
    if not waiting.exists():
        return
    with transaction.atomic():
        free = list(waiting.select_for_update(skip_locked=True).values_list("pk", flat=True))
        Job.objects.filter(pk__in=free).update(asked_at=Now())


def latest_job(
    song: Song, kind: JobKind = JobKind.LISTEN, source: Source | None = None
) -> Job | None:
    """The newest job of a kind; one whose worker died is taken up again on the way."""
    job = song.jobs.filter(kind=kind, source=source).first()
    if job is not None and job.is_stale:
        take_up(job)
    return job


TELL_FOR = timedelta(seconds=20)
"""For so long a failure is told; who asks later has it tried again."""


def has_just_failed(job: Job) -> bool:
    """Whether a job has ended otherwise than well, and only just."""
    ended = job.finished_at
    late = ended is not None and timezone.now() - ended > TELL_FOR
    return job.state not in (*OPEN_STATES, RunState.DONE) and not late


def latest_run(song: Song) -> Job | None:
    """The newest job by which a song gets its chart; one whose worker died is taken up again."""
    job = song.jobs.filter(kind__in=RUNS, source=None).first()
    if job is not None and job.is_stale:
        take_up(job)
    return job


def take_up(job: Job) -> None:
    """Queue a job again whose worker died; end it where that has happened too often."""
    state, message = RunState.QUEUED, GOES_ON
    if job.cancel_requested:
        state, message = RunState.CANCELLED, "Cancelled. Nothing was changed."
    elif job.attempts >= MOST_ATTEMPTS:
        state, message = RunState.INTERRUPTED, INTERRUPTED
    with transaction.atomic():
        changed = Job.objects.filter(
            pk=job.pk,
            state=RunState.RUNNING,
            attempts=job.attempts,
            heartbeat_at__lt=Now() - STALE_AFTER,
        ).update(
            state=state,
            message=message,
            progress=0.0,
            stage="",
            woken_at=None,
            finished_at=None if state == RunState.QUEUED else timezone.now(),
        )
        if changed:
            job.refresh_from_db()
            if state == RunState.QUEUED:
                transaction.on_commit(lambda: wake([job]))


def take_up_all() -> int:
    """Take up every job whose worker died; gives back how many there were."""
    stale = Job.objects.filter(state=RunState.RUNNING, heartbeat_at__lt=Now() - STALE_AFTER)
    jobs = list(stale)
    for job in jobs:
        take_up(job)
    return len(jobs)


def cancel_run(song: Song) -> Job:
    """Stop a song's job: at once when it is waiting, within a second when it is at work."""
    with transaction.atomic():
        job = song.jobs.select_for_update().filter(kind__in=RUNS).first()
        if job is None or job.state not in OPEN_STATES:
            raise NotNow("nothing is running for this song")
        job.cancel_requested = True
        if job.state == RunState.QUEUED:
            job.state, job.finished_at = RunState.CANCELLED, timezone.now()
            job.message = "Cancelled before it began."
        job.save(update_fields=["cancel_requested", "state", "finished_at", "message"])
    return job

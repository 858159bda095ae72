"""What every job in a worker has: progress, a heart, a wish to cancel, and one way to end.

A job belongs to the worker that took it last (`Job.attempts`). A worker that was frozen for a while
and lost its job meanwhile finds out before it stores anything.
"""

from __future__ import annotations

import logging
import threading
import time

from django.db import close_old_connections, connection
from django.db.models import QuerySet
from django.db.models.functions import Now
from django.utils import timezone

from orchesis.errors import Cancelled
from studio.metrics import Stopwatch
from studio.models import Job, RunState
from studio.priority import StarvationGuard

log = logging.getLogger(__name__)

REPORT_EVERY = 0.4
HEARTBEAT_EVERY = 3.0
BUSY = "This machine is busy with other programs, so this takes longer."


class Watch:
    """Writes a job's progress at most a few times a second and learns of a wish to cancel."""

    def __init__(self, job: Job) -> None:
        self._job_id, self._attempt = job.pk, job.attempts
        self._stopwatch = Stopwatch(job.kind)
        self._last = 0.0
        self._cancelled = False

    def mine(self) -> QuerySet[Job]:
        """The job's row, as long as this worker has it and nobody wants it cancelled."""
        return Job.objects.filter(
            pk=self._job_id,
            attempts=self._attempt,
            state=RunState.RUNNING,
            cancel_requested=False,
        )

    def report(self, stage: str, share: float) -> None:
        """Say how far it is: `stage` in a word, `share` of all from 0 to 1."""
        self._stopwatch.stage(stage)
        now = time.monotonic()
        if now - self._last < REPORT_EVERY and share < 1.0:
            return
        self._last = now
        self._cancelled = not self.mine().update(stage=stage, progress=share, heartbeat_at=Now())

    def cancelled(self) -> bool:
        """Asked often, also while a child process works; looks at most a few times a second."""
        now = time.monotonic()
        if now - self._last >= REPORT_EVERY:
            self._last = now
            self._cancelled = not self.mine().exists()
        return self._cancelled

    def still_mine(self) -> None:
        """Hold the job's row, within a transaction. Raises Cancelled where it is lost."""
        if not self.mine().select_for_update().exists():
            raise Cancelled("stopped")

    def finish(self, state: RunState, message: str = "") -> None:
        """End the job, unless another worker has it by now."""
        self._stopwatch.end(state)
        Job.objects.filter(pk=self._job_id, attempts=self._attempt, state=RunState.RUNNING).update(
            state=state,
            message=message[:500],
            finished_at=timezone.now(),
            **({"progress": 1.0, "stage": "done"} if state == RunState.DONE else {}),
        )


class Heart(threading.Thread):
    """Beats while the work goes on, also through long stages."""

    def __init__(self, watch: Watch) -> None:
        super().__init__(daemon=True)
        self._watch = watch
        self._done = threading.Event()
        self._standing = StarvationGuard()

    def run(self) -> None:
        """Beat until stopped."""
        while not self._done.wait(HEARTBEAT_EVERY):
            try:
                close_old_connections()
                self._standing.look()
                told = BUSY if self._standing.is_starved else ""
                self._watch.mine().update(heartbeat_at=Now(), message=told)
            except Exception:
                log.warning("a heartbeat could not be written")
        connection.close()

    def stop(self) -> None:
        """Stop beating."""
        self._done.set()
        self._standing.end()

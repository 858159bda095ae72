"""The workers' task: take the next job of a queue and do it."""

from __future__ import annotations

import logging
from collections.abc import Callable

from celery import shared_task
from celery.exceptions import SoftTimeLimitExceeded
from django.db import InterfaceError, OperationalError, close_old_connections

from orchesis.errors import Cancelled, OrchesisError
from studio import artefacts
from studio.jobs.copying import copy_recording
from studio.jobs.exporting import export_account
from studio.jobs.line_up import line_up_source
from studio.jobs.listen import listen_to_song
from studio.jobs.mixing import render_practice_mix
from studio.jobs.preparing import prepare_song
from studio.jobs.printing import print_chart
from studio.jobs.reading import read_compared, read_song
from studio.jobs.running import Heart, Watch
from studio.jobs.taking_apart import take_apart
from studio.models import Job, JobKind, RunState
from studio.queueing import WORK, claim_next
from studio.storage import DiskFull, is_full
from studio.tracing import traced

log = logging.getLogger(__name__)

# What each gives back is said of the job when it is done.
DOERS: dict[JobKind, Callable[[Job, Watch], str]] = {
    JobKind.LISTEN: listen_to_song,
    JobKind.COPY: copy_recording,
    JobKind.PARTS: take_apart,
    JobKind.PREPARE: prepare_song,
    JobKind.LINE_UP: line_up_source,
    JobKind.PRINT: print_chart,
    JobKind.MIX: render_practice_mix,
    JobKind.READ: read_song,
    JobKind.COMPARE: read_compared,
    JobKind.EXPORT: export_account,
}


@shared_task(name=WORK)
def work(queue: str) -> None:
    """Do the next job of this queue, if there is one."""
    job = claim_next(queue)
    if job is not None:
        with traced(job.trace):
            do(job)


def do(job: Job) -> None:
    """Do a job that was taken, and write down how it ended."""
    watch = Watch(job)
    heart = Heart(watch)
    heart.start()
    try:
        artefacts.fetch(job.song)
        words = DOERS[JobKind(job.kind)](job, watch)
        artefacts.publish(job.song)
        watch.finish(RunState.DONE, words)
    except Cancelled:
        watch.finish(RunState.CANCELLED, "Cancelled. Nothing was changed.")
    except SoftTimeLimitExceeded:
        watch.finish(RunState.FAILED, "It took too long. Try a shorter recording.")
    except OrchesisError as error:
        text = str(error)
        watch.finish(RunState.FAILED, f"{text[:1].upper()}{text[1:]}".rstrip(".") + ".")
    except (OperationalError, InterfaceError):
        # Nothing can be written down either: the keeper finds the job without a heart.
        log.exception("job %s lost the database", job.pk)
        close_old_connections()
    except Exception as error:
        log.exception("job %s failed", job.pk)
        full = str(DiskFull("this could not be finished")) if is_full(error) else ""
        watch.finish(RunState.FAILED, full or "Something went wrong inside. Try again.")
    finally:
        heart.stop()

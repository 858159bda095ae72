"""Pages of long songs of which nothing is kept: asked of a worker, so that no web process waits."""

from __future__ import annotations

from django.db import transaction

from studio.models import OPEN_STATES, JobKind, Song
from studio.queueing import queue_job, take_up
from studio.values.page import is_cold

LOOKED_AT = 8


def is_being_prepared(song: Song, page: str, school: str = "") -> bool:
    """Whether a page has to be waited for: then a worker makes it, from this moment on.

    False too where a worker has tried: on a host of its own, or without success. Then it is worked
    out on the spot.
    """
    if not is_cold(song, page, school):
        return False
    options = {"page": page, "school": school, "revision": song.revision}
    recent = song.jobs.filter(kind=JobKind.PREPARE)[:LOOKED_AT]
    job = next((one for one in recent if one.options == options), None)
    if job is not None and job.is_stale:
        take_up(job)
    if job is not None:
        return job.state in OPEN_STATES
    with transaction.atomic():
        Song.objects.select_for_update().only("pk").get(pk=song.pk)
        known = song.jobs.filter(kind=JobKind.PREPARE, state__in=OPEN_STATES, options=options)
        if not known.exists():
            queue_job(song, JobKind.PREPARE, options=options)
    return True

"""Having the page of a song ready for whoever opens it."""

from __future__ import annotations

from studio.jobs.running import Watch
from studio.models import Job
from studio.values.page import prepare_page


def prepare_song(job: Job, watch: Watch) -> str:
    """Work out what its page shows. Where that fails, opening it tries again."""
    watch.report("prepare", 0.1)
    job.song.refresh_from_db()
    prepare_page(job.song)
    return ""

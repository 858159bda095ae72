"""Having the page of a song ready for whoever opens it."""

from __future__ import annotations

from studio.jobs.running import Watch
from studio.models import Job
from studio.values.page import PAGES, prepare_page


def prepare_song(job: Job, watch: Watch) -> str:
    """Work out what its page shows, or the one page that somebody waits for."""
    watch.report("prepare", 0.1)
    job.song.refresh_from_db()
    page = job.options.get("page")
    if page:
        PAGES[page](job.song, job.options.get("school", ""))
    else:
        prepare_page(job.song)
    return ""

"""Reading a file that another program wrote, in the worker: it may be made to harm."""

from __future__ import annotations

from orchesis.errors import Missing
from orchesis.exchange.imported import Refused
from studio import artefacts
from studio.actions.exchange import shelve_bundle, shelve_part, store_comparison
from studio.jobs.running import Watch
from studio.models import Job

READERS = {"part": shelve_part, "bundle": shelve_bundle}


def read_song(job: Job, watch: Watch) -> str:
    """Make the song of the file that the job's options name."""
    watch.report("read", 0.1)
    path = job.song.folder / str(job.options["file"])
    if not artefacts.have(path):
        raise Missing("the file is not there any more: upload it again")
    try:
        READERS[job.options["kind"]](job.song, path, job.options, watch.still_mine)
    except Refused:
        # It would be refused again.
        artefacts.withdraw(path)
        raise
    artefacts.withdraw(path)
    return ""


def read_compared(job: Job, watch: Watch) -> str:
    """Read a file that is laid beside a song."""
    watch.report("read", 0.1)
    path = job.song.folder / str(job.options["file"])
    if not artefacts.have(path):
        raise Missing("the file is not there any more: upload it again")
    store_comparison(job.song, path, str(job.options["name"]))
    return ""

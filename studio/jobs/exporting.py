"""Packing all that is somebody's into one file, in the worker."""

from __future__ import annotations

from django.contrib.auth.models import User

from orchesis.errors import Missing
from studio.actions.accounts import make_export
from studio.jobs.running import Watch
from studio.models import Job


def export_account(job: Job, watch: Watch) -> str:
    """Make the file of the person whom the job's options name."""
    watch.report("export", 0.05)
    user = User.objects.filter(pk=job.options["user"]).first()
    if user is None:
        raise Missing("this account does not exist any more")
    make_export(user, job.options["stamp"], lambda share: watch.report("export", share))
    return ""

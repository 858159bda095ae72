"""Printing the chart as PDF or as pictures: seconds of work that no page waits for."""

from __future__ import annotations

from studio.actions.prints import SHEET, make_print, make_sheet
from studio.jobs.running import Watch
from studio.models import Job
from studio.people import Group
from studio.values.charts import options_from_json


def print_chart(job: Job, watch: Watch) -> str:
    """Make the file that the job's option `name` names, for the song as it is now."""
    watch.report("print", 0.1)
    code = job.options.get("code", "")
    if job.options["name"] == SHEET:
        # A list that was given up meanwhile has no sheet any more.
        for group in Group.objects.filter(pk=job.options["group"]):
            make_sheet(group, code)
        return ""
    options = options_from_json(job.options.get("options", {}))
    make_print(job.song, str(job.options["name"]), options, code)
    return ""

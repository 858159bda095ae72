"""Printing the chart as PDF or as pictures: seconds of work that no page waits for."""

from __future__ import annotations

from studio.actions.prints import make_print
from studio.jobs.running import Watch
from studio.models import Job
from studio.values.charts import options_from_json


def print_chart(job: Job, watch: Watch) -> str:
    """Make the file that the job's option `name` names, for the song as it is now."""
    watch.report("print", 0.1)
    options = options_from_json(job.options.get("options", {}))
    make_print(job.song, str(job.options["name"]), options)
    return ""

"""`manage.py keep`: the keeper. Takes up interrupted jobs, wakes workers, tidies daily."""

from __future__ import annotations

import logging
import signal
import threading
import time
from typing import Any

from django.core.management.base import BaseCommand
from django.db import close_old_connections

from studio.actions.tidying import tidy
from studio.actions.visits import end_old_visits
from studio.queueing import sleeping_jobs, take_up_all, wake

log = logging.getLogger(__name__)

LOOK_EVERY = 1.0
TIDY_EVERY = 24 * 3600.0
VISITS_EVERY = 600.0


class Command(BaseCommand):
    """Run until told to stop. There may be several: each step is safe beside another's."""

    help = "Take up interrupted jobs, wake the workers, tidy at start and daily."

    def handle(self, *args: Any, **options: Any) -> None:
        """Run."""
        stopped = threading.Event()
        signal.signal(signal.SIGTERM, lambda *_: stopped.set())
        tidied_at = looked_at = 0.0
        while not stopped.is_set():
            try:
                close_old_connections()
                take_up_all()
                wake(sleeping_jobs())
                if time.monotonic() - looked_at > VISITS_EVERY:
                    looked_at = time.monotonic()
                    end_old_visits()
                if not tidied_at or time.monotonic() - tidied_at > TIDY_EVERY:
                    tidied_at = time.monotonic()
                    log.info("tidied: %s", tidy().words())
            except Exception:
                # The database or the queue is away: the next look may find it.
                log.exception("the keeper could not do its round")
                stopped.wait(2.0)
            stopped.wait(LOOK_EVERY)

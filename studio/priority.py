"""How far a worker stands back behind everything else, and the end of it.

The launcher starts workers so that pages come before them. Where other programs keep the machine
busy, whoever stands back behind all of them gets hardly any of the processor. So a worker looks at
what it gets: after STARVED_SECONDS of next to nothing it steps forward until its job is done.
"""

from __future__ import annotations

import contextlib
import os
import time
from pathlib import Path

STARVED_SECONDS = 20.0
STARVED_SHARE = 0.35
"""Of one core: less than that while there is work to do is next to nothing."""

AUTOGROUP = Path("/proc/self/autogroup")


def niceness() -> int:
    """How much this worker stands back now, 0 to 19: its session, or the process itself."""
    session = 0
    with contextlib.suppress(OSError, ValueError, IndexError):
        session = int(AUTOGROUP.read_text().split()[-1])
    return max(session, os.getpriority(os.PRIO_PROCESS, 0))


def set_niceness(value: int) -> bool:
    """Stand back so much; False where the system does not allow it."""
    with contextlib.suppress(OSError):
        AUTOGROUP.write_text(str(value))
    if value < os.getpriority(os.PRIO_PROCESS, 0):
        with contextlib.suppress(OSError):
            os.setpriority(os.PRIO_PROCESS, 0, value)
    return niceness() <= value


class StarvationGuard:
    """Of one job: looks, now and then, whether it gets on; steps forward where it does not."""

    def __init__(self) -> None:
        self._before = niceness()
        self._since = time.monotonic()
        self._worked = _processor_seconds()
        self.is_starved = False
        """Whether it got next to nothing of the processor in the last while."""

    def look(self) -> None:
        """Called every few seconds while the job is at work."""
        now = time.monotonic()
        if now - self._since < STARVED_SECONDS:
            return
        worked = _processor_seconds()
        self.is_starved = worked - self._worked < STARVED_SHARE * (now - self._since)
        self._since, self._worked = now, worked
        if self.is_starved and niceness() > 0:
            set_niceness(0)

    def end(self) -> None:
        """The job is done: the next one stands back as before."""
        if self._before > niceness():
            set_niceness(self._before)


def _processor_seconds() -> float:
    times = os.times()
    return times.user + times.system + times.children_user + times.children_system

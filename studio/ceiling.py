"""A ceiling of time for what is worked out while somebody waits.

The web workers do one request at a time, in their main thread, so that a timer can stop it: first
here, with an answer that says so; if that does not help, because one call into a library does not
come back, the web server ends the worker and starts another (`--timeout` in launcher/web.py).
"""

from __future__ import annotations

import contextlib
import signal
import threading
from collections.abc import Iterator
from types import FrameType


class TookTooLong(Exception):
    """The work went on beyond its ceiling and was stopped."""


@contextlib.contextmanager
def ceiling(seconds: float) -> Iterator[None]:
    """Stop what runs inside after so many seconds by raising TookTooLong in it.

    Without effect outside of a main thread: only there can a timer interrupt.
    """
    if threading.current_thread() is not threading.main_thread():
        yield
        return

    def ring(number: int, frame: FrameType | None) -> None:
        raise TookTooLong(f"more than {seconds:g} s")

    before = signal.signal(signal.SIGALRM, ring)
    signal.setitimer(signal.ITIMER_REAL, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)

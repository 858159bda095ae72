"""A ceiling for what is worked out while somebody waits: of processor time, and by the clock.

The web workers do one request at a time, in their main thread, so that a timer can stop it: first
here, with an answer that says so; if that does not help, because one call into a library does not
come back, the web server ends the worker and starts another (`--timeout` in launcher/web.py).
Processor time is what counts: on a busy machine small work takes long by the clock and is no less
welcome.
"""

from __future__ import annotations

import contextlib
import signal
import threading
from collections.abc import Callable, Iterator
from types import FrameType


class TookTooLong(Exception):
    """The work went on beyond its ceiling and was stopped."""


@contextlib.contextmanager
def ceiling(
    seconds: float, *, wall: float | None = None, on_stop: Callable[[], None] = lambda: None
) -> Iterator[None]:
    """Stop what runs inside by raising TookTooLong in it.

    Parameters
    ----------
    seconds : of processor time of this process.
    wall : seconds by the clock; None: as many as it likes.
    on_stop : called before the error is raised, whatever was interrupted: between a question to the
        database and its answer the connection is of no more use.

    Without effect outside of a main thread: only there can a timer interrupt.
    """
    if threading.current_thread() is not threading.main_thread():
        yield
        return

    def ring(number: int, frame: FrameType | None) -> None:
        _disarm()
        on_stop()
        worked = number == signal.SIGPROF
        raise TookTooLong(f"more than {seconds:g} s of work" if worked else f"more than {wall} s")

    before = {number: signal.signal(number, ring) for number in (signal.SIGPROF, signal.SIGALRM)}
    signal.setitimer(signal.ITIMER_PROF, seconds)
    signal.setitimer(signal.ITIMER_REAL, wall or 0)
    try:
        yield
    finally:
        _disarm()
        for number, handler in before.items():
            signal.signal(number, handler)


def _disarm() -> None:
    signal.setitimer(signal.ITIMER_PROF, 0)
    signal.setitimer(signal.ITIMER_REAL, 0)

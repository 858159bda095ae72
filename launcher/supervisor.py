"""Keeping our servers running, and stopping all of them together.

Each child is in a session of its own, so that Ctrl-C reaches only the supervisor, which stops
them in reverse order; should the supervisor be killed, the kernel ends the children. A server
that dies is started again, a few times; then everything is stopped with a message.
"""

from __future__ import annotations

import os
import signal
import subprocess
import time
from dataclasses import dataclass, field

from launcher.places import LOGS, ROOT, StepFailed

ENDS_WITH_US = ["setpriv", "--pdeathsig", "TERM", "--"]
"""From util-linux: the child gets SIGTERM when we die, however we die."""

MOST_RESTARTS = 8
RESTART_WINDOW = 120.0
STOP_SECONDS = {"worker": 4.0, "database": 20.0}
DEFAULT_STOP_SECONDS = 8.0


@dataclass
class _Child:
    name: str
    command: list[str]
    environment: dict[str, str]
    process: subprocess.Popen[bytes]
    restarts: list[float] = field(default_factory=list)


class Supervisor:
    """Starts servers, watches them, stops them."""

    def __init__(self) -> None:
        self._children: list[_Child] = []
        self._watching = False

    def start(self, name: str, command: list[str], environment: dict[str, str]) -> None:
        """Start a server; its output goes to the log of its name."""
        process = self._spawn(name, command, environment)
        self._children.append(_Child(name, command, environment, process))

    def _spawn(
        self, name: str, command: list[str], environment: dict[str, str]
    ) -> subprocess.Popen[bytes]:
        LOGS.mkdir(parents=True, exist_ok=True)
        with (LOGS / f"{name}.log").open("ab") as log:
            return subprocess.Popen(
                [*ENDS_WITH_US, *command],
                cwd=ROOT,
                env=environment,
                stdin=subprocess.DEVNULL,
                stdout=log,
                stderr=subprocess.STDOUT,
                start_new_session=True,
            )

    def check(self) -> None:
        """Raise StepFailed when a child has died during the start."""
        for child in self._children:
            if child.process.poll() is not None:
                log = LOGS / f"{child.name}.log"
                tail = "\n".join(log.read_text(errors="replace").splitlines()[-8:])
                raise StepFailed(f"{tail}\n\nthe {child.name} ended at once (log: {log})")

    def watch(self) -> None:
        """Watch until told to stop by a signal; start again what dies."""
        self._watching = True
        while self._watching:
            time.sleep(0.3)
            for child in self._children:
                if child.process.poll() is not None and self._watching:
                    self._restart(child)

    def _restart(self, child: _Child) -> None:
        now = time.monotonic()
        child.restarts = [at for at in child.restarts if now - at < RESTART_WINDOW] + [now]
        if len(child.restarts) > MOST_RESTARTS:
            raise StepFailed(f"the {child.name} keeps dying: see {LOGS / child.name}.log")
        print(f"  the {child.name} ended and is started again", flush=True)
        time.sleep(min(5.0, 0.3 * len(child.restarts)))
        child.process = self._spawn(child.name, child.command, child.environment)

    @property
    def is_watching(self) -> bool:
        """True once the start is over."""
        return self._watching

    def stop_watching(self) -> None:
        """Let `watch` return."""
        self._watching = False

    def stop(self) -> None:
        """Stop all children, the last started first."""
        for child in reversed(self._children):
            if child.process.poll() is not None:
                continue
            child.process.terminate()
            try:
                child.process.wait(STOP_SECONDS.get(child.name, DEFAULT_STOP_SECONDS))
            except subprocess.TimeoutExpired:
                os.killpg(child.process.pid, signal.SIGKILL)
                child.process.wait()
        self._children.clear()

"""Keeping our servers running, and stopping all of them together.

Each child is in a session of its own, so that Ctrl-C reaches only the supervisor, which stops
them in reverse order; should the supervisor be killed, the kernel ends the children, and the next
start waits for the last of them (`end_leftovers`). A server that dies is started again, and what
it left running goes first: it would hold the port. One that keeps dying rests between two tries;
the others run on.
"""

from __future__ import annotations

import contextlib
import json
import os
import shutil
import signal
import subprocess
import time
from dataclasses import dataclass, field
from pathlib import Path

from launcher.places import LOGS, ROOT, RUN, StepFailed, say

ENDS_WITH_US = ["setpriv", "--pdeathsig", "TERM", "--"]
"""From util-linux: the child gets SIGTERM when we die, however we die."""

MANY_RESTARTS = 8
RESTART_WINDOW = 120.0
REST_SECONDS = 60.0
"""A part that ended MANY_RESTARTS times in RESTART_WINDOW seconds rests so long."""

SETTLED_SECONDS = 3.0
"""Only ends so soon after the start count for that."""

WORKER_SECONDS = 4.0
STOP_SECONDS = {
    **dict.fromkeys(("worker", "engraver", "renderer", "helper"), WORKER_SECONDS),
    "database": 20.0,
}
DEFAULT_STOP_SECONDS = 8.0
FINISH_SECONDS = dict.fromkeys(("app", "app-2"), 1.5)
"""Workers whose master was killed finish what they are at: somebody waits for it."""

LOOK_EVERY = 0.3

LARGEST_LOG = 16 * 1024**2
LOGS_KEPT = 3
LOGS_EVERY = 20.0


@dataclass
class _Child:
    name: str
    command: list[str]
    environment: dict[str, str]
    process: subprocess.Popen[bytes]
    niceness: int = 0
    begun: float = field(default_factory=time.monotonic)
    restarts: list[float] = field(default_factory=list)
    rests_until: float = 0.0


class Supervisor:
    """Starts servers, watches them, stops them."""

    def __init__(self, children_file: Path | None = None) -> None:
        self._children: list[_Child] = []
        self._watching = False
        self._children_file = children_file
        self._logs_at = 0.0

    def start(
        self, name: str, command: list[str], environment: dict[str, str], niceness: int = 0
    ) -> None:
        """Start a server; its output goes to the log of its name.

        niceness : how much it stands back behind the others, 0 to 19.
        """
        process = self._spawn(name, command, environment, niceness)
        self._children.append(_Child(name, command, environment, process, niceness))
        self._write_down()

    def _spawn(
        self, name: str, command: list[str], environment: dict[str, str], niceness: int
    ) -> subprocess.Popen[bytes]:
        LOGS.mkdir(mode=0o700, parents=True, exist_ok=True)
        with (LOGS / f"{name}.log").open("ab") as log:
            process = subprocess.Popen(
                [*ENDS_WITH_US, "nice", "-n", str(own_niceness(niceness)), *command],
                cwd=ROOT,
                env=environment,
                stdin=subprocess.DEVNULL,
                stdout=log,
                stderr=subprocess.STDOUT,
                start_new_session=True,
            )
        # Linux shares the processor out among sessions first: what a process's niceness says counts
        # only within its own, so the session is told as well (sched(7), "autogroup").
        with contextlib.suppress(OSError):
            Path(f"/proc/{process.pid}/autogroup").write_text(str(niceness))
        return process

    def _write_down(self) -> None:
        """Note who our children are, for a start after we were killed."""
        if self._children_file is None:
            return
        pids = {child.name: child.process.pid for child in self._children}
        noted = {
            name: {"pid": pid, "begun": begun}
            for name, pid in pids.items()
            if (begun := started_at(pid)) is not None
        }
        # On a full disk the next start finds an older note: it says less, and nothing wrong.
        with contextlib.suppress(OSError):
            self._children_file.write_text(json.dumps(noted))

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
            time.sleep(LOOK_EVERY)
            for child in self._children:
                if child.process.poll() is not None and self._watching:
                    self._restart(child)
            if time.monotonic() - self._logs_at > LOGS_EVERY:
                self._logs_at = time.monotonic()
                rotate_logs(LOGS)

    def _restart(self, child: _Child) -> None:
        now = time.monotonic()
        if now < child.rests_until:
            return
        child.restarts = [at for at in child.restarts if now - at < RESTART_WINDOW]
        # What ran for a while was killed, not broken: however often, it comes back at once.
        if now - child.begun < SETTLED_SECONDS:
            child.restarts.append(now)
        if len(child.restarts) > MANY_RESTARTS:
            child.restarts, child.rests_until = [], now + REST_SECONDS
            say(
                f"the {child.name} keeps ending: tried again in {REST_SECONDS:.0f} s, the others "
                f"run on (log: {LOGS / child.name}.log)"
            )
            return
        say(f"the {child.name} ended and is started again")
        let_finish(child.process.pid, FINISH_SECONDS.get(child.name, 0.0))
        end_group(child.process.pid)
        time.sleep(min(2.0, 0.1 * max(0, len(child.restarts) - 1)))
        try:
            child.process = self._spawn(
                child.name, child.command, child.environment, child.niceness
            )
            child.begun = time.monotonic()
        except OSError as error:
            # A full disk, or no more processes: the next look tries again.
            say(f"the {child.name} could not be started: {error}")
            return
        self._write_down()

    @property
    def is_watching(self) -> bool:
        """True once the start is over."""
        return self._watching

    def stop_watching(self) -> None:
        """Let `watch` return."""
        self._watching = False

    def stop(self) -> None:
        """Stop all children, the last started first, and whatever they left running."""
        for child in reversed(self._children):
            if child.process.poll() is None:
                child.process.terminate()
                with contextlib.suppress(subprocess.TimeoutExpired):
                    child.process.wait(STOP_SECONDS.get(child.name, DEFAULT_STOP_SECONDS))
            end_group(child.process.pid)
            child.process.wait()
        self._children.clear()
        self._write_down()


def let_finish(pid: int, seconds: float) -> None:
    """Wait until nothing of a child's session is left, at most so long."""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        try:
            os.killpg(pid, 0)
        except (ProcessLookupError, PermissionError):
            return
        time.sleep(0.05)


def end_group(pid: int) -> None:
    """End what is left of a child's session: workers whose master died hold its port."""
    with contextlib.suppress(ProcessLookupError, PermissionError):
        os.killpg(pid, signal.SIGKILL)


AUTOGROUP = Path("/proc/sys/kernel/sched_autogroup_enabled")


def own_niceness(niceness: int) -> int:
    """What a process gets of its session's niceness: nothing where sessions have one of their own.

    A session's can be taken back by anybody (`studio.priority`), a process's by root alone.
    """
    try:
        return 0 if AUTOGROUP.read_text().strip() == "1" else niceness
    except OSError:
        return niceness


def started_at(pid: int) -> str | None:
    """When a process began, in the kernel's ticks: with its number it is that process alone."""
    try:
        text = Path(f"/proc/{pid}/stat").read_text()
    except OSError:
        return None
    # The name in brackets may hold anything, spaces and brackets too.
    fields = text.rpartition(")")[2].split()
    return None if fields[0] in "ZX" else fields[19]


def noted_children(children_file: Path) -> dict[str, tuple[int, str]]:
    """The children that a supervisor noted: by name their process number and when it began."""
    try:
        noted = json.loads(children_file.read_text())
        return {name: (int(one["pid"]), str(one["begun"])) for name, one in noted.items()}
    except (OSError, ValueError, TypeError, KeyError, AttributeError):
        return {}


def end_leftovers(children_file: Path) -> int:
    """End the children of a supervisor that was killed; gives back how many still ran.

    They have got SIGTERM when it died. The database writes what it holds, so it is given time; a
    worker would finish its job first, which is taken up again anyway.
    """
    noted = noted_children(children_file)
    left = {name: pid for name, (pid, begun) in noted.items() if started_at(pid) == begun}
    running = len(left)
    if left:
        say("waiting for the servers of the last run to end")
    for pid in left.values():
        with contextlib.suppress(ProcessLookupError):
            os.kill(pid, signal.SIGTERM)
    began = time.monotonic()
    while left:
        for name, pid in list(left.items()):
            allowed = STOP_SECONDS.get(name, DEFAULT_STOP_SECONDS)
            ended = started_at(pid) != noted[name][1]
            if ended or time.monotonic() - began > allowed:
                end_group(pid)
                del left[name]
        time.sleep(0.05)
    for pid, begun in noted.values():
        # Their own children may outlive them: a group's number stays taken while one is left.
        if started_at(pid) in (None, begun):
            end_group(pid)
    return running


def rotate_logs(folder: Path, largest: int = LARGEST_LOG, kept: int = LOGS_KEPT) -> None:
    """Move logs that have grown too large to NAME.1, NAME.2 ...; writers keep their open file."""
    for log in folder.glob("*.log"):
        try:
            if log.stat().st_size <= largest:
                continue
            for number in range(kept, 1, -1):
                older = log.with_name(f"{log.name}.{number - 1}")
                if older.exists():
                    older.replace(log.with_name(f"{log.name}.{number}"))
            with contextlib.suppress(OSError):
                shutil.copyfile(log, log.with_name(f"{log.name}.1"))
            # The servers append: what they write next begins at the start again.
            os.truncate(log, 0)
        except OSError:
            continue


CHILDREN = RUN / "children.json"

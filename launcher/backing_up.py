"""The commands `backup` and `restore`: what must be up, what is locked, what is said."""

from __future__ import annotations

import contextlib
import fcntl
import os
import signal
import threading
import time
from collections.abc import Iterator
from pathlib import Path

from launcher import backup, running, services, setup
from launcher.places import MEDIA, ROOT, RUN, StepFailed, say
from launcher.supervisor import CHILDREN, Supervisor, end_leftovers

DAY = 24 * 3600.0
AGAIN_AFTER = 600.0
"""Seconds after which a daily backup that failed is tried again."""


def version() -> str:
    """Which database layout this version has: the name of its newest migration."""
    return max(path.stem for path in (ROOT / "studio" / "migrations").glob("0*.py"))


def connection_of(ports: services.Ports) -> backup.Connection:
    """The database of this installation."""
    return backup.Connection(
        services.DATABASE_HOST or "127.0.0.1",
        services.database_port(ports),
        os.environ.get("ORCHESIS_DB_USER", "orchesis"),
        services.database_password(),
        os.environ.get("ORCHESIS_DB_NAME", "orchesis"),
    )


@contextlib.contextmanager
def _only_backup() -> Iterator[None]:
    with (RUN / "backup.lock").open("a") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise StepFailed("a backup is being made already: wait for it") from None
        yield


def back_up(to: Path | None, *, daily: bool) -> int:
    """Back up the running installation once, or now and each day until told to stop."""
    folder = (to or RUN / "backups").absolute()
    if not daily:
        _once(folder)
        return 0
    stopped = threading.Event()
    signal.signal(signal.SIGTERM, lambda *_: stopped.set())
    while not stopped.is_set():
        wait = _due_in(folder)
        if wait <= 0:
            try:
                _once(folder)
            except StepFailed as error:
                say(f"no backup: {error}")
                wait = AGAIN_AFTER
        stopped.wait(max(wait, 1.0))
    return 0


def _due_in(folder: Path) -> float:
    """Seconds until the next daily backup: a restart makes none before its time."""
    newest = backup.newest(folder) if folder.exists() else None
    if newest is None:
        return 0.0
    return (newest / backup.MANIFEST).stat().st_mtime + DAY - time.time()


def _once(folder: Path) -> None:
    ports = running.ports_in_use()
    with _only_backup():
        made = backup.back_up(connection_of(ports), MEDIA, folder, version())
        backup.words_of(made, backup.prune(folder))


def restore(folder: Path) -> int:
    """Put a backup into this run folder, which must be empty, and bring it to this version."""
    with running.only_one():
        setup.ensure("web")
        end_leftovers(CHILDREN)
        made_by = backup.read_manifest(folder)["version"]
        if made_by > version():
            raise StepFailed(f"{folder} was made by a newer Orchesis: restore it with that one")
        ports = services.choose_ports()
        supervisor = Supervisor(CHILDREN)
        try:
            services.start_database(supervisor, ports)
            say("restoring, and comparing what was restored with the backup")
            backup.restore(connection_of(ports), MEDIA, folder.absolute())
            environment = services.service_environment(ports, demo=False)
            running.manage(environment, "migrate", "--verbosity", "0")
        finally:
            supervisor.stop()
    say(f"restored and the same as {folder}: ./orchesis start begins with it")
    return 0

"""`demo` and `start`: from nothing to an address, and back."""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import shutil
import signal
import subprocess
import sys
import time
import urllib.request
from collections.abc import Collection, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from launcher import services, setup
from launcher.places import PYTHON, ROOT, RUN, StepFailed, python_environment, say
from launcher.supervisor import CHILDREN, Supervisor, end_leftovers
from launcher.web import start_web

ANSWER_SECONDS = 120.0
"""The pages' processes and all workers read in the same libraries at once: half a minute where two
installations start beside each other on two slow cores."""


@dataclass(frozen=True)
class Worker:
    """A worker of a host: its name among the processes, how much it stands back, how many jobs at
    once.
    """

    name: str
    niceness: int
    at_once: int = 1


WORKERS = {
    "listen": Worker("worker", 10),
    "engrave": Worker("engraver", 0, at_once=2),
    "render": Worker("renderer", 5),
    "small": Worker("helper", 3),
}
"""By queue. Listening takes all the processor there is: pages and edits come before it. Engraving
is waited for as a page is."""

STEPS_BACK = "ORCHESIS_STEP_BACK"
"""`no` in this variable of the environment: workers get as much of the processor as anything else.
Where other programs keep a machine busy, a worker steps forward by itself after a while
(`studio/priority.py`)."""


@contextlib.contextmanager
def only_one() -> Iterator[None]:
    """Hold the run folder: two starts must not share one."""
    RUN.mkdir(mode=0o700, parents=True, exist_ok=True)
    # Recordings, logs and secrets are in there: nobody else on this machine looks in.
    RUN.chmod(0o700)
    lock: IO[str] = (RUN / "lock").open("a")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        where = ""
        with contextlib.suppress(OSError, ValueError, KeyError):
            port = json.loads((RUN / "ports.json").read_text())["web"]
            where = f" at http://127.0.0.1:{port}"
        raise StepFailed(f"Orchesis is running already{where}: stop that one first") from None
    try:
        yield
    finally:
        lock.close()


def manage(environment: dict[str, str], *arguments: str) -> None:
    """Run one of Django's commands."""
    done = subprocess.run(
        [str(PYTHON), str(ROOT / "studio" / "manage.py"), *arguments],
        env=environment,
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode != 0:
        raise StepFailed(f"{done.stderr[-1500:]}\n'manage.py {' '.join(arguments)}' failed")


ROLES = ("web", *WORKERS, "keeper")
"""What a host may do: pages and the API; listening; drawing what is waited for; printing, mixing
and taking records apart; what takes a second or two; looking after jobs."""


def bring_up(
    supervisor: Supervisor,
    ports: services.Ports,
    *,
    demo: bool,
    roles: Collection[str] = ROLES,
) -> None:
    """Start the servers in order and wait until the pages answer.

    roles : what this host does; the others are done by other hosts, on the same database, queue and
    store. The database is brought to this version by the host of the pages.
    """
    tell_of_load()
    say("starting the database and the queue")
    services.start_database(supervisor, ports)
    services.start_redis(supervisor)
    # What the processes of the last run counted: counters begin anew with each start.
    shutil.rmtree(services.metrics_folder(), ignore_errors=True)
    environment = services.service_environment(ports, demo=demo)
    if "web" in roles:
        manage(environment, "migrate", "--verbosity", "0")
    say("starting the workers and the web server")
    for queue, worker in WORKERS.items():
        if queue in roles:
            # Threads that come and go otherwise leave an arena of memory each behind: what had
            # listened to forty songs held 201 MB for the 172 after the first, and 175 so.
            role = {**environment, "ORCHESIS_ROLE": "worker", "MALLOC_ARENA_MAX": "2"}
            supervisor.start(worker.name, worker_command(queue), role, steps_back(worker))
    if "keeper" in roles:
        keeper = [str(PYTHON), str(ROOT / "studio" / "manage.py"), "keep"]
        supervisor.start("keeper", keeper, {**environment, "ORCHESIS_ROLE": "keeper"})
    if "web" not in roles:
        return
    web = {**environment, "ORCHESIS_ROLE": "web", "ORCHESIS_PROXY": "1"}
    start_web(supervisor, ports, web)
    if demo:
        say("loading the demo songs; the worker listens to them now")
        manage(environment, "load_demo")
    wait_for_pages(ports, supervisor)


BUSY_LOAD = 1.5
"""Programs that want to run, for each core: from there on listening takes noticeably longer."""


def tell_of_load() -> None:
    """Say so where other programs keep this machine busy."""
    load, cores = os.getloadavg()[0], len(os.sched_getaffinity(0))
    if load > BUSY_LOAD * cores:
        say(
            f"this machine is busy (load {load:.0f} on {cores} cores): listening takes longer; "
            "pages and edits come first"
        )


def steps_back(worker: Worker) -> int:
    """How much a worker stands back here behind all else, 0 to 19."""
    return 0 if os.environ.get(STEPS_BACK) == "no" else worker.niceness


def worker_command(queue: str) -> list[str]:
    """The command of the worker that takes a queue's jobs."""
    worker = WORKERS[queue]
    command = [str(PYTHON), "-m", "celery"]
    # Hosts of one name, or two of ours on one machine, are told apart by their process.
    host = f"{queue}-{os.getpid()}@%h"
    command += ["-A", "studio.celery_app", "worker", "--queues", queue, "--hostname", host]
    command += ["--concurrency", str(worker.at_once), "--loglevel", "INFO"]
    command += ["--without-gossip", "--without-mingle"]
    # What caches and libraries gather is let go now and then; engravers do far more, smaller tasks.
    return [*command, "--max-tasks-per-child", "200" if queue == "engrave" else "50"]


def on_the_running(*arguments: str) -> int:
    """Run one of Django's commands on the installation of this run folder, which must be up."""
    environment = python_environment(**ports_in_use().environment())
    command = [str(PYTHON), str(ROOT / "studio" / "manage.py"), *arguments]
    return subprocess.run(command, env=environment, cwd=ROOT, check=False).returncode


def ports_in_use() -> services.Ports:
    """Where the running installation listens. Raises StepFailed where none runs."""
    try:
        return services.Ports(**json.loads((RUN / "ports.json").read_text()))
    except (OSError, ValueError, TypeError):
        raise StepFailed("Orchesis is not running here: start it first, then again") from None


def wait_for_pages(ports: services.Ports, supervisor: Supervisor) -> None:
    """Wait until the web server answers from the database."""
    deadline = time.monotonic() + ANSWER_SECONDS
    address = f"http://127.0.0.1:{ports.web}/api/session"
    while time.monotonic() < deadline:
        supervisor.check()
        with contextlib.suppress(OSError):
            with urllib.request.urlopen(address, timeout=3) as answer:
                if answer.status == 200:
                    return
        time.sleep(0.1)
    raise StepFailed(f"the web server does not answer: see {RUN / 'logs' / 'web.log'}")


def serve(
    *, demo: bool, port: int | None, backups: Path | None = None, roles: Collection[str] = ROLES
) -> int:
    """Set up, start everything, and stay until Ctrl-C or SIGTERM.

    backups : where to back up each day; None: nowhere. roles : see `bring_up`.
    """
    began = time.monotonic()
    print("Orchesis", flush=True)
    with only_one():
        setup.ensure("web")
        end_leftovers(CHILDREN)
        ports = services.choose_ports(port)
        services.remember(ports)
        supervisor = Supervisor(CHILDREN)

        def stop(*_: object) -> None:
            if not supervisor.is_watching:
                raise KeyboardInterrupt
            supervisor.stop_watching()

        signal.signal(signal.SIGTERM, stop)
        signal.signal(signal.SIGINT, stop)
        try:
            bring_up(supervisor, ports, demo=demo, roles=roles)
            if backups is not None:
                daily = [sys.executable, str(ROOT / "orchesis"), "backup", "--daily"]
                supervisor.start("backups", [*daily, "--to", str(backups)], python_environment())
            where = f"is at http://127.0.0.1:{ports.web}" if "web" in roles else "works here"
            print(
                f"\n  Orchesis {where}   (up in {time.monotonic() - began:.0f} s)"
                + ("\n  Choose 'Try the demo songs' to enter." if demo else "")
                + "\n  Ctrl-C stops it.\n",
                flush=True,
            )
            supervisor.watch()
        except KeyboardInterrupt:
            pass
        finally:
            signal.signal(signal.SIGINT, signal.SIG_IGN)
            signal.signal(signal.SIGTERM, signal.SIG_IGN)
            print("  stopping", flush=True)
            supervisor.stop()
            shutil.rmtree(services.metrics_folder(), ignore_errors=True)
    print("  stopped; everything is kept in .run/", flush=True)
    return 0


def explain(error: StepFailed) -> int:
    """Show a failed step; returns the exit code."""
    print(f"\norchesis: {error}", file=sys.stderr)
    return 1

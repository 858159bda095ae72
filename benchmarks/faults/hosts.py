"""Several hosts on one machine: a database, a queue and a store between them, and no shared folder.

One host has the pages, others the workers, each with files of its own; a worker host is killed
while it listens, and the songs are finished by the other.
"""

from __future__ import annotations

import contextlib
import os
import secrets
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from benchmarks.faults.stack import Check, Person, Stack, at_most
from benchmarks.listening import SONGS
from launcher.places import ROOT
from launcher.services import accepts, any_free, program

BUCKET = "orchesis"
DATABASE = """
import sys
from launcher import services
from launcher.supervisor import Supervisor
supervisor = Supervisor()
ports = services.Ports(int(sys.argv[1]), 0)
services.start_database(supervisor, ports)
print("up", flush=True)
sys.stdin.read()
supervisor.stop()
"""
SONGS_IMPORTED = 4
WORKING = "listen,engrave,render,small"
"""The roles of a host without pages."""

WORK_SECONDS = 240.0
ASK_AGAIN_SECONDS = 0.5


@contextlib.contextmanager
def between(folder: Path) -> Iterator[dict[str, str]]:
    """A database, a queue and a store of objects; gives back the environment that names them."""
    ports = {name: any_free() for name in ("db", "queue", "store")}
    word = {name: secrets.token_urlsafe(16) for name in ("db", "queue")}
    folder.mkdir(parents=True)
    environment = {
        "ORCHESIS_DB_HOST": "127.0.0.1",
        "ORCHESIS_DB_PORT": str(ports["db"]),
        "ORCHESIS_DB_PASSWORD": word["db"],
        "ORCHESIS_REDIS_URL": f"redis://:{word['queue']}@127.0.0.1:{ports['queue']}/0",
        "ORCHESIS_STORE_BUCKET": BUCKET,
        "ORCHESIS_STORE_ENDPOINT": f"http://127.0.0.1:{ports['store']}",
        "ORCHESIS_STORE_REGION": "us-east-1",
        "ORCHESIS_STORE_KEY": "key",
        "ORCHESIS_STORE_SECRET": "secret",
        "ORCHESIS_SECRET_DJANGO": secrets.token_urlsafe(50),
    }
    own = {
        **os.environ,
        "PYTHONPATH": f"{ROOT}:{ROOT / 'src'}",
        "ORCHESIS_RUN": str(folder),
        "ORCHESIS_DB_PASSWORD": word["db"],
    }
    quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    database = subprocess.Popen(
        [sys.executable, "-c", DATABASE, str(ports["db"])],
        env=own, cwd=ROOT, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    queue = [program("redis-server"), "--port", str(ports["queue"]), "--bind", "127.0.0.1"]
    queue += ["--requirepass", word["queue"], "--save", "", "--dir", str(folder)]
    store = [sys.executable, "-m", "moto.server", "-p", str(ports["store"])]
    others = [subprocess.Popen(command, **quiet) for command in (queue, store)]  # type: ignore[call-overload]
    try:
        assert database.stdout is not None
        while "up" not in (line := database.stdout.readline()):
            if not line:
                raise RuntimeError("the database between the hosts did not start")
        deadline = time.monotonic() + 60
        while not all(accepts("127.0.0.1", ports[name]) for name in ("queue", "store")):
            if time.monotonic() > deadline:
                raise RuntimeError("the queue or the store did not start")
            time.sleep(0.1)
        _make_bucket(environment)
        yield environment
    finally:
        for child in others:
            child.kill()
            child.wait()
        database.communicate("")


def _make_bucket(environment: dict[str, str]) -> None:
    import boto3

    boto3.client(
        "s3",
        endpoint_url=environment["ORCHESIS_STORE_ENDPOINT"],
        region_name=environment["ORCHESIS_STORE_REGION"],
        aws_access_key_id="key",
        aws_secret_access_key="secret",
    ).create_bucket(Bucket=BUCKET)


@contextlib.contextmanager
def host(folder: Path, environment: dict[str, str], roles: str) -> Iterator[Stack]:
    """One of them, with a folder of its own."""
    stack = Stack(folder, environment=environment, roles=roles)
    try:
        stack.start()
        yield stack
    finally:
        stack.stop()


def short_song(folder: Path, seconds: float) -> bytes:
    """The beginning of a demo song."""
    path = folder / f"short-{seconds:g}.ogg"
    command = ["ffmpeg", "-v", "error", "-y", "-i", str(SONGS / "steps-to-the-market.ogg")]
    subprocess.run([*command, "-t", str(seconds), "-c", "copy", str(path)], check=True)
    return path.read_bytes()


def finished(person: Person, songs: list[str], seconds: float) -> list[str]:
    """Wait until these songs have been listened to; how each of them ended."""
    deadline = time.monotonic() + seconds
    states = dict.fromkeys(songs, "queued")
    while True:
        # Only those that have not ended: asking is work for the hosts too.
        for song in (song for song, state in states.items() if state in ("queued", "running")):
            states[song] = person.get(f"/api/songs/{song}")[1]["run"]["state"]
        if not {"queued", "running"} & set(states.values()) or time.monotonic() > deadline:
            return list(states.values())
        time.sleep(ASK_AGAIN_SECONDS)


def kill(stack: Stack) -> None:
    """As if its plug were pulled: everything that belongs to it, at once."""
    pids = []
    for name in ("worker", "engraver", "renderer", "helper", "keeper", "app", "web"):
        pids += [*stack.workers_of(name), *([own] if (own := stack.pid_of(name)) else [])]
    stack.kill_launcher()
    for pid in pids:
        with contextlib.suppress(ProcessLookupError):
            os.kill(pid, signal.SIGKILL)


def measure() -> list[Check]:
    """Pages on one host, workers on two others, one of which is killed while it listens."""
    with (
        tempfile.TemporaryDirectory(prefix="orchesis-hosts-") as name,
        contextlib.ExitStack() as up,
    ):
        folder = Path(name)
        environment = up.enter_context(between(folder / "between"))
        pages = up.enter_context(host(folder / "pages", environment, "web,keeper"))
        person = Person(pages.port)
        person.sign_up("several")
        first = up.enter_context(host(folder / "first", environment, WORKING))
        sound = short_song(folder, 36)
        songs = []
        for number in range(SONGS_IMPORTED):
            status, made = person.upload("/api/songs", f"song-{number}.ogg", sound)
            if status != 201:
                raise RuntimeError(f"the import was not taken: {status} {made}")
            songs.append(made["id"])
        while person.get(f"/api/songs/{songs[0]}")[1]["run"]["state"] != "running":
            time.sleep(0.1)
        time.sleep(1.5)
        kill(first)
        began = time.monotonic()
        second = up.enter_context(host(folder / "second", environment, WORKING))
        states = finished(person, songs, WORK_SECONDS)
        took = time.monotonic() - began
        heard = [person.get(f"/api/songs/{song}/audio")[0] for song in songs]
        heard += [person.get(f"/api/songs/{song}/peaks")[0] for song in songs]
        prints = [printed(person, song) for song in songs]
        there = {stack.folder.name: _files(stack) for stack in (pages, first, second)}
        wrong = [state for state in states if state != "done"]
    return [
        Check(f"{SONGS_IMPORTED} songs of which one's host was killed: not finished",
              f"{len(wrong)} {wrong[:1] or ''} (the others took {took:.0f} s)", "0", not wrong),
        Check("heard and printed on the host of the pages",
              f"{sum(code in (200, 206) for code in heard)}, {sum(prints)}",
              f"{2 * SONGS_IMPORTED}, {SONGS_IMPORTED}",
              all(code in (200, 206) for code in heard) and all(prints)),
        Check("evidence on a host that nobody asked for it", f"{there['pages']} on that of pages",
              "0", there["pages"] == 0),
        at_most("until a killed host's song is taken up", took, WORK_SECONDS, "s"),
    ]  # fmt: skip


def printed(person: Person, song: str) -> bool:
    """Ask for a chart as PDF until it is made; whether it came."""
    for _ in range(150):
        status, body = person.get(f"/api/songs/{song}/files/chart.pdf")
        if status != 202:
            return status == 200 and bytes(body).startswith(b"%PDF")
        time.sleep(0.2)
    return False


def _files(stack: Stack) -> int:
    return sum(1 for _ in (stack.folder / "media").rglob("evidence.npz"))

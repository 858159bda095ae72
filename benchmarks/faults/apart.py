"""Hosts that share neither disk nor network but a cable each: `python -m benchmarks.faults apart`.

Each worker host gets a network namespace of its own, with one address and one way out, to the
machine where database, queue and store are; and a view of the disk in which the others' folders are
empty. One cable is pulled while its host listens and plugged in again after another has finished
the songs: nothing may be done twice, and the host has to take up work again by itself. It needs the
rights of root and iproute2; where these are missing it says so.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import socket
import subprocess
import tempfile
import threading
import time
from collections.abc import Iterator
from pathlib import Path

from benchmarks.faults import hosts
from benchmarks.faults.stack import Check, Person, Stack, at_most

NETWORK = "10.83.0"
HERE = f"{NETWORK}.1"
BRIDGE = "orchesis-br"
SONGS = 4
PULLED_SECONDS = 45.0
"""Longer than a host may be silent before its work is given to others."""

ENDED = """
from studio.models import Job, RunState
jobs = Job.objects.filter(song_id__in={songs!r}).order_by("pk")
if jobs.filter(state__in=(RunState.QUEUED, RunState.RUNNING)).exists():
    print("open")
else:
    told = jobs.values_list("pk", "state", "finished_at", "song__revision")
    print("\\n".join(str([str(word) for word in words]) for words in told))
"""

BACK_SECONDS = 90.0
"""Within which a host whose cable is back must have finished a song."""


def possible() -> bool:
    """Whether this machine lets us make networks."""
    if os.geteuid() or shutil.which("ip") is None:
        return False
    tried = subprocess.run(["unshare", "-n", "-m", "true"], capture_output=True, check=False)
    return tried.returncode == 0


def _ip(*words: str) -> None:
    subprocess.run(["ip", *words], check=True, capture_output=True)


@contextlib.contextmanager
def bridge() -> Iterator[None]:
    """Where all cables meet, with this machine's own address on it."""
    _ip("link", "add", BRIDGE, "type", "bridge")
    try:
        _ip("addr", "add", f"{HERE}/24", "dev", BRIDGE)
        _ip("link", "set", BRIDGE, "up")
        yield
    finally:
        _ip("link", "del", BRIDGE)


@contextlib.contextmanager
def room(name: str, number: int) -> Iterator[str]:
    """A namespace with its cable; gives back the cable's end on this side."""
    inner, outer = f"orc{number}", f"orc{number}h"
    _ip("netns", "add", name)
    try:
        _ip("link", "add", inner, "type", "veth", "peer", "name", outer)
        _ip("link", "set", inner, "netns", name)
        _ip("link", "set", outer, "master", BRIDGE, "up")
        _ip("-n", name, "addr", "add", f"{NETWORK}.{number}/24", "dev", inner)
        _ip("-n", name, "link", "set", inner, "up")
        _ip("-n", name, "link", "set", "lo", "up")
        yield outer
    finally:
        _ip("netns", "del", name)


def plug(cable: str, state: str) -> None:
    """Pull a cable ("down") or put it back ("up")."""
    _ip("link", "set", cable, state)


def behind(name: str, hidden: list[Path]) -> list[str]:
    """What a command is put behind so that it runs in a namespace and does not see some folders."""
    covers = " && ".join(f"mount -t tmpfs none '{path}'" for path in hidden)
    return ["ip", "netns", "exec", name, "sh", "-c", f'{covers} && exec "$@"', "sh"]


@contextlib.contextmanager
def reachable(ports: list[int]) -> Iterator[None]:
    """The services that listen on loopback, at this machine's address on the bridge too."""
    doors = []
    for port in ports:
        door = socket.create_server((HERE, port))
        doors.append(door)
        threading.Thread(target=_let_in, args=(door, port), daemon=True).start()
    try:
        yield
    finally:
        for door in doors:
            door.close()


def _let_in(door: socket.socket, port: int) -> None:
    while True:
        try:
            guest, _ = door.accept()
        except OSError:
            return
        inside = socket.create_connection(("127.0.0.1", port))
        for one, other in ((guest, inside), (inside, guest)):
            threading.Thread(target=_carry, args=(one, other), daemon=True).start()


def _carry(one: socket.socket, other: socket.socket) -> None:
    with contextlib.suppress(OSError):
        while data := one.recv(65536):
            other.sendall(data)
    for end in (one, other):
        with contextlib.suppress(OSError):
            end.shutdown(socket.SHUT_RDWR)


def seen_from(environment: dict[str, str]) -> dict[str, str]:
    """The environment of a host that reaches the services over its cable."""
    return {name: value.replace("127.0.0.1", HERE) for name, value in environment.items()}


def ports_of(environment: dict[str, str]) -> list[int]:
    """Of database, queue and store."""
    return [
        int(environment["ORCHESIS_DB_PORT"]),
        int(environment["ORCHESIS_REDIS_URL"].rsplit(":", 1)[1].split("/")[0]),
        int(environment["ORCHESIS_STORE_ENDPOINT"].rsplit(":", 1)[1]),
    ]


@contextlib.contextmanager
def host(
    folder: Path, environment: dict[str, str], name: str, hidden: list[Path]
) -> Iterator[Stack]:
    """A host in a namespace."""
    for path in hidden:
        path.mkdir(exist_ok=True)
    stack = Stack(
        folder,
        environment=seen_from(environment),
        roles=hosts.WORKING,
        before=behind(name, hidden),
    )
    try:
        stack.start()
        yield stack
    finally:
        stack.stop()


def measure() -> list[Check]:
    """Pull the cable of one of two hosts while it listens, and put it back."""
    if not possible():
        return [Check("hosts in networks of their own", "not possible here", "tried", True)]
    with (
        tempfile.TemporaryDirectory(prefix="orchesis-apart-") as name,
        contextlib.ExitStack() as up,
    ):
        folder = Path(name)
        environment = up.enter_context(hosts.between(folder / "between"))
        up.enter_context(bridge())
        up.enter_context(reachable(ports_of(environment)))
        pages = up.enter_context(hosts.host(folder / "pages", environment, "web,keeper"))
        others = [folder / "between", folder / "pages"]
        cable = up.enter_context(room("orchesis-one", 2))
        up.enter_context(room("orchesis-two", 3))
        person = Person(pages.port)
        person.sign_up("apart")
        one, two = folder / "one", folder / "two"
        up.enter_context(host(one, environment, "orchesis-one", [*others, two]))
        sound = hosts.short_song(folder, 36)
        songs = [_import(person, f"song-{number}", sound) for number in range(SONGS)]
        while person.get(f"/api/songs/{songs[0]}")[1]["run"]["state"] != "running":
            time.sleep(0.1)
        time.sleep(1.5)
        plug(cable, "down")
        pulled = time.monotonic()
        with host(two, environment, "orchesis-two", [*others, one]):
            states = hosts.finished(person, songs, hosts.WORK_SECONDS)
            took = time.monotonic() - pulled
            time.sleep(max(0.0, PULLED_SECONDS - took))
            before = _all_ended(pages, songs)
        # The other host is off now: whatever is done next is done by the one that was cut off.
        plug(cable, "up")
        back = time.monotonic()
        last = _import(person, "afterwards", sound)
        again = hosts.finished(person, [last], BACK_SECONDS)
        returned = time.monotonic() - back
        after = _all_ended(pages, songs)
        heard = [person.get(f"/api/songs/{song}/audio")[0] in (200, 206) for song in songs]
    wrong = [state for state in states if state != "done"]
    lines = zip(before.splitlines(), after.splitlines(), strict=True)
    jobs = len(before.splitlines())
    changed = sum(one != other for one, other in lines)
    return [
        Check("a host's cable is pulled while it listens: songs not finished by the other",
              f"{len(wrong)} of {SONGS}", "0", not wrong),
        at_most("until the other had finished them", took, hosts.WORK_SECONDS, "s"),
        Check(f"jobs of theirs ({jobs}) that changed when the cable was put back",
              f"{changed}", "0", not changed),
        Check("recordings that are heard on the host of the pages", f"{sum(heard)}", f"{SONGS}",
              all(heard)),
        Check("the host listens again by itself", f"{again[0]} after {returned:.0f} s",
              f"{BACK_SECONDS:.0f} s", again == ["done"]),
    ]  # fmt: skip


def _import(person: Person, name: str, sound: bytes) -> str:
    status, made = person.upload("/api/songs", f"{name}.ogg", sound)
    if status != 201:
        raise RuntimeError(f"the import was not taken: {status} {made}")
    return str(made["id"])


def _all_ended(pages: Stack, songs: list[str]) -> str:
    """Wait until nothing is left to do; what was done, told so that it differs if done twice."""
    deadline = time.monotonic() + hosts.WORK_SECONDS
    while True:
        told = pages.manage("shell", "--no-imports", "-c", ENDED.format(songs=songs))
        if not told.startswith("open") or time.monotonic() > deadline:
            return told
        time.sleep(1.0)

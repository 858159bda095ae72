"""Services that stop answering without ending: SIGSTOP to the database, then to the queue."""

from __future__ import annotations

import contextlib
import os
import signal
import time
from collections.abc import Iterator

from benchmarks.faults.stack import Check, Person, Stack, at_most
from benchmarks.listening import SONGS

MOST_SECONDS = 5.0
"""The time-out of three seconds, and one for trying to connect anew."""


@contextlib.contextmanager
def frozen(stack: Stack, part: str) -> Iterator[None]:
    """A part that does not move."""
    pid = stack.pid_of(part)
    assert pid is not None, f"the {part} does not run"
    os.kill(pid, signal.SIGSTOP)
    try:
        yield
    finally:
        os.kill(pid, signal.SIGCONT)


def measure(stack: Stack) -> list[Check]:
    """Both, and what comes after."""
    person = Person(stack.port)
    person.sign_up("patient")
    checks = []
    waits, statuses = [], []
    with frozen(stack, "database"):
        for path in ("/api/songs", "/api/session", "/songs"):
            began = time.monotonic()
            statuses.append(person.get(path)[0])
            waits.append(time.monotonic() - began)
    checks.append(
        at_most("an answer while the database is frozen, longest", max(waits), MOST_SECONDS, "s")
    )
    checks.append(
        Check("what it says then", f"{statuses}", "503, 503, page", statuses == [503, 503, 200])
    )
    began = time.monotonic()
    while person.get("/api/songs")[0] != 200 and time.monotonic() - began < 20:
        time.sleep(0.1)
    checks.append(at_most("pages come again after it moves", time.monotonic() - began, 5, "s"))
    sound = (SONGS / "steps-to-the-market.ogg").read_bytes()
    with frozen(stack, "queue"):
        began = time.monotonic()
        status, song = person.upload("/api/songs", "take.ogg", sound)
        took = time.monotonic() - began
        other = Person(stack.port)
        other.get("/api/session")
        began = time.monotonic()
        guess = other.post("/api/session/sign-in", {"username": "patient", "password": "x"})[0]
        signed = time.monotonic() - began
    checks.append(at_most("an upload is answered while the queue is frozen", took, 4, "s"))
    checks.append(Check("it is taken", str(status), "201", status == 201))
    checks.append(at_most("a sign-in is answered meanwhile", signed, 3, "s"))
    checks.append(Check("and looked at", str(guess), "403", guess == 403))
    began = time.monotonic()
    state = ""
    while time.monotonic() - began < 120 and state != "done":
        state = person.get(f"/api/songs/{song['id']}")[1]["run"]["state"]
        time.sleep(0.3)
    checks.append(Check("it is listened to when the queue moves", state, "done", state == "done"))
    return checks

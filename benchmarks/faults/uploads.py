"""Recordings and scores brought in on a machine that is kept busy, beside another user."""

from __future__ import annotations

import asyncio
import subprocess
import sys
import threading
import time
from pathlib import Path

from benchmarks.faults.crowd import Readers, sign_up_with_long_song
from benchmarks.faults.hosts import finished, short_song
from benchmarks.faults.stack import Check, Person, Stack, at_most, percentile

LOAD = 10
UPLOADS = 10
IMPORTS = 20
FIRST_SECONDS = 12
"""Of the shortest recording; each further one is a second longer, so that none is a copy."""
PAGE_BOUND_MS = 500.0
UPLOAD_BOUND_SECONDS = 30.0
PATIENCE_SECONDS = 120.0
FINISHED_BOUND_SECONDS = 900.0


def measure(stack: Stack) -> list[Check]:
    """Answer times of the uploads, pages of another user meanwhile, and how the runs ended."""
    owner, base, paths, cookies = sign_up_with_long_song(stack, "reader")
    person = Person(stack.port)
    person.sign_up("uploader")
    _, part = owner.get(f"{base}/files/drums.mid")
    folder = Path(stack.folder)
    recordings = [short_song(folder, FIRST_SECONDS + number) for number in range(UPLOADS)]
    answers: list[float] = []
    songs: list[str] = []
    odd: list[str] = []

    def upload(number: int) -> None:
        began = time.monotonic()
        name = f"take-{number}.ogg"
        while True:
            status, song = person.upload("/api/songs", name, recordings[number], timeout=120.0)
            # Two large requests of one person are taken at a time; the page asks again.
            if status not in (429, 503) or time.monotonic() - began > PATIENCE_SECONDS:
                break
            time.sleep(1.0)
        answers.append(time.monotonic() - began)
        if status == 201:
            songs.append(song["id"])
        else:
            odd.append(f"{name} {status}")

    busy = [
        subprocess.Popen([sys.executable, "-c", "while True: pass"], start_new_session=True)
        for _ in range(LOAD)
    ]
    stop = threading.Event()
    readers = Readers(stack.port, paths, cookies)

    def read() -> None:
        while not stop.is_set():
            asyncio.run(readers.all_read(5, 5.0, 0.3))

    reader = threading.Thread(target=read)
    reader.start()
    began = time.monotonic()
    try:
        senders = [threading.Thread(target=upload, args=(number,)) for number in range(UPLOADS)]
        for sender in senders:
            sender.start()
        for sender in senders:
            sender.join()
        imported = [_import(owner, base, part) for _ in range(IMPORTS)]
        states = finished(person, songs, FINISHED_BOUND_SECONDS)
    finally:
        took = time.monotonic() - began
        stop.set()
        reader.join(30)
        for process in busy:
            process.kill()
    return [
        Check(
            f"{UPLOADS} uploads at once beside {LOAD} busy programs: refused",
            f"{odd}", "[]", not odd,
        ),
        Check(
            f"{IMPORTS} drum parts of another program compared meanwhile: failed",
            f"{[status for status in imported if status != 200]}", "[]",
            all(status == 200 for status in imported),
        ),
        at_most("the slowest answer of them", max(answers), UPLOAD_BOUND_SECONDS, "s"),
        Check("runs of them that did not end well",
              f"{[state for state in states if state != 'done']}", "[]",
              all(state == "done" for state in states)),
        at_most("all ten are charted after", took, FINISHED_BOUND_SECONDS, "s"),
        at_most("pages of another user until then, p95", percentile(readers.took, 0.95),
                PAGE_BOUND_MS, "ms"),
        Check("pages of another user that failed", readers.failures(), "0", not readers.failed),
    ]  # fmt: skip


def _import(person: Person, base: str, part: bytes) -> int:
    """A drum part as MIDI beside a song, until it was read or refused; the status."""
    until = time.monotonic() + PATIENCE_SECONDS
    while True:
        status, _ = person.upload(f"{base}/part-file", "part.mid", part, timeout=60.0)
        if status not in (202, 429, 503) or time.monotonic() > until:
            return status
        time.sleep(0.5)

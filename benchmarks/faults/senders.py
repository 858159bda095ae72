"""Requests that are made to be dear: what they cost, and what everybody else notices of them."""

from __future__ import annotations

import asyncio
import contextlib
import io
import json
import os
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path
from typing import Any

import mido

from benchmarks.faults.crowd import Readers, sign_up_with_long_song
from benchmarks.faults.stack import Check, Person, Stack, at_most, percentile
from benchmarks.listening import SONGS

SENDERS = 4
SECONDS = 12.0
MOST_CPU_SECONDS = 1.0
MOST_WORKER_MB = 300.0
PAGE_BOUND_MS = 500.0
MASTER_KILLS = 6
MASTER_BOUND_SECONDS = 3.0
LISTEN_LOAD = 10
LISTEN_BOUND_SECONDS = 140.0


def measure(stack: Stack) -> list[Check]:
    """All of it."""
    person, base, paths, cookies = sign_up_with_long_song(stack, "sender")
    checks = []
    stroke = {"time": 1.0, "instrument": "snare", "limb": "RH", "velocity": 90}
    many = [{**stroke, "time": round(1 + 1e-5 * i, 5)} for i in range(5000)]
    kinds: dict[str, tuple[str, Any]] = {
        "400,000 words for numbers, anonymous": (
            "/api/latency",
            {"clicks": ["x"] * 400_000, "claps": []},
        ),
        "5,000 strokes at one moment": (
            f"{base}/practice/played",
            {"wanted": many, "struck": many},
        ),
        "20,000 empty edits": (
            f"{base}/edits",
            {"client_id": "6e8bc430-9c3a-11d9-9669-0800200c9a66", "edits": [{}] * 20_000},
        ),
    }
    for name, (path, body) in kinds.items():
        checks += _beside(stack, person, name, path, json.dumps(body).encode(), paths, cookies)
    checks += _files(stack, person, base, paths, cookies)
    checks.append(largest_process(stack))
    checks += _masters(stack, paths, cookies)
    checks.append(_listens(stack, person))
    return checks


def processor_seconds(stack: Stack) -> dict[int, float]:
    """Of each web worker, since it began."""
    found = {}
    ticks = os.sysconf("SC_CLK_TCK")
    for name in ("app", "app-2"):
        for pid in stack.workers_of(name):
            with contextlib.suppress(OSError):
                fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
                found[pid] = (int(fields[11]) + int(fields[12])) / ticks
    return found


def _beside(
    stack: Stack,
    person: Person,
    name: str,
    path: str,
    body: bytes,
    paths: list[str],
    cookies: str,
) -> list[Check]:
    """Four send the same again and again; others look at pages meanwhile."""
    before, alone = processor_seconds(stack), time.monotonic()
    _post(stack, person, path, body)
    alone = time.monotonic() - alone
    spent = sum(after - before.get(pid, after) for pid, after in processor_seconds(stack).items())
    stop = threading.Event()

    def send() -> None:
        while not stop.is_set():
            with contextlib.suppress(OSError):
                _post(stack, person, path, body)

    threads = [threading.Thread(target=send, daemon=True) for _ in range(SENDERS)]
    for thread in threads:
        thread.start()
    readers = Readers(stack.port, paths, cookies)
    asyncio.run(readers.all_read(5, SECONDS, 0.3))
    stop.set()
    for thread in threads:
        thread.join(30)
    return [
        at_most(f"{name}: processor of one request", spent, MOST_CPU_SECONDS, "s"),
        at_most(f"{name}: its answer", alone, 2.0, "s"),
        at_most(
            f"pages beside {SENDERS} who send that, p95",
            percentile(readers.took, 0.95),
            PAGE_BOUND_MS,
            "ms",
        ),
        Check(
            f"pages beside {SENDERS} who send that, failed",
            readers.failures(),
            "0",
            not readers.failed,
        ),
    ]


def _post(stack: Stack, person: Person, path: str, body: bytes) -> int:
    headers = {"Content-Type": "application/json"}
    return int(person.request("POST", path, body=body, headers=headers, timeout=60.0)[0])


def hostile_files() -> dict[str, bytes]:
    """Scores that are made to keep a reader busy."""
    track = mido.MidiTrack()
    for index in range(100_000):
        track.append(mido.MetaMessage("time_signature", numerator=1 + index % 16, time=1))
    track.append(mido.Message("note_on", channel=9, note=38, velocity=90, time=480 * 4000))
    metres = mido.MidiFile(tracks=[track])
    buffer = io.BytesIO()
    metres.save(file=buffer)
    repeats = "".join(
        f'<measure number="{n}"><barline location="left"><repeat direction="forward"/></barline>'
        '<note><unpitched/><duration>1</duration></note><barline location="right">'
        '<repeat direction="backward" times="999999"/></barline></measure>'
        for n in range(1500)
    )
    head = '<?xml version="1.0"?><score-partwise><part-list><score-part id="P1"/></part-list>'
    powers = (
        '<measure number="1"><note><unpitched/><duration>1e999999999</duration></note></measure>'
    )
    return {
        "metres.mid": buffer.getvalue()[:1_900_000],
        "repeats.musicxml": f'{head}<part id="P1">{repeats}</part></score-partwise>'.encode(),
        "powers.musicxml": f'{head}<part id="P1">{powers}</part></score-partwise>'.encode(),
    }


def _files(stack: Stack, person: Person, base: str, paths: list[str], cookies: str) -> list[Check]:
    """Each file beside a song, until it was read or refused; others look at pages meanwhile."""
    ended: list[str] = []

    def send(name: str, data: bytes) -> None:
        until = time.monotonic() + 90
        while time.monotonic() < until:
            status, _ = person.upload(f"{base}/part-file", name, data, timeout=60.0)
            if status not in (202, 429):
                ended.append(f"{name} {status}")
                return
            time.sleep(0.5)

    before = processor_seconds(stack)
    threads = [threading.Thread(target=send, args=item) for item in hostile_files().items()]
    for thread in threads:
        thread.start()
    readers = Readers(stack.port, paths, cookies)
    asyncio.run(readers.all_read(5, SECONDS, 0.3))
    for thread in threads:
        thread.join(100)
    after = processor_seconds(stack)
    spent = max((after[pid] - before.get(pid, after[pid]) for pid in after), default=0.0)
    return [
        Check("scores made to harm: answered", ", ".join(sorted(ended)), "all", len(ended) == 3),
        at_most("scores made to harm: processor of the web process", spent, 4.0, "s"),
        at_most(
            "pages beside scores made to harm, p95",
            percentile(readers.took, 0.95),
            PAGE_BOUND_MS,
            "ms",
        ),
    ]


def largest_process(stack: Stack) -> Check:
    """The most memory that a web worker has had."""
    most = 0.0
    for name in ("app", "app-2"):
        for pid in stack.workers_of(name):
            with contextlib.suppress(OSError, StopIteration):
                lines = Path(f"/proc/{pid}/status").read_text().splitlines()
                peak = next(line for line in lines if line.startswith("VmHWM"))
                most = max(most, int(peak.split()[1]) / 1024)
    return at_most("the largest web process after all that, peak", most, MOST_WORKER_MB, "MB")


def _masters(stack: Stack, paths: list[str], cookies: str) -> list[Check]:
    """A web master is killed, and again; readers go on meanwhile."""
    readers = Readers(stack.port, paths, cookies)
    back: list[float] = []

    def kill() -> None:
        for turn in range(MASTER_KILLS):
            time.sleep(2.0)
            name = ("app", "app-2")[turn % 2]
            pid = stack.pid_of(name)
            if pid is None:
                continue
            os.kill(pid, signal.SIGKILL)
            began = time.monotonic()
            stack.wait_until_it_answers()
            back.append(time.monotonic() - began)
            while stack.pid_of(name) in (None, pid) and time.monotonic() - began < 30:
                time.sleep(0.1)
            time.sleep(4.0)

    killer = threading.Thread(target=kill)
    killer.start()
    asyncio.run(readers.all_read(10, 8.0 * MASTER_KILLS, 0.3))
    killer.join(120)
    return [
        at_most("a killed web master: an answer again after", max(back), MASTER_BOUND_SECONDS, "s"),
        Check(
            "requests that failed meanwhile",
            readers.failures(),
            "0",
            not readers.failed,
        ),
    ]


def _listens(stack: Stack, person: Person) -> Check:
    """A song is listened to although ten other programs keep the machine busy."""
    busy = [
        subprocess.Popen([sys.executable, "-c", "while True: pass"], start_new_session=True)
        for _ in range(LISTEN_LOAD)
    ]
    began = time.monotonic()
    try:
        name = "steps-to-the-market.ogg"
        _, song = person.upload("/api/songs", name, (SONGS / name).read_bytes(), timeout=60.0)
        while time.monotonic() - began < 400:
            _, told = person.get(f"/api/songs/{song['id']}", timeout=30.0)
            if isinstance(told, dict) and told.get("has_score"):
                break
            time.sleep(1.0)
    finally:
        for process in busy:
            process.kill()
    took = time.monotonic() - began
    return at_most(
        f"a recording is charted beside {LISTEN_LOAD} busy programs",
        took,
        LISTEN_BOUND_SECONDS,
        "s",
    )

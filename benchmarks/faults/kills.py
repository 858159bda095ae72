"""Kills at any moment, during edits, listening runs and line-ups: nothing acknowledged is lost."""

from __future__ import annotations

import contextlib
import http.client
import os
import random
import signal
import tempfile
import threading
import time
import uuid
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path
from typing import Any

from benchmarks.faults import hosts
from benchmarks.faults.stack import Check, Person, Stack, at_most, percentile
from benchmarks.listening import SONGS
from benchmarks.long_score import SIXTY_BARS, long_score
from orchesis.music.json import dumps

KILLS = 200
PARTS = (
    "database",
    "queue",
    "app",
    "app-2",
    "web",
    "worker",
    "engraver",
    "renderer",
    "helper",
    "keeper",
)
LAUNCHER_KILLS = 2
MOST_BACK_SECONDS = 10.0
WORK_SECONDS = 240.0
"""So long what was begun may take to end, after the last kill."""


@dataclass
class Editor(threading.Thread):
    """Adds a note after the other to a song; one that was not acknowledged is sent again."""

    port: int
    person: Person
    song: str
    stop: threading.Event
    acknowledged: list[tuple[int, str]] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)

    def __post_init__(self) -> None:
        super().__init__(daemon=True)

    __hash__ = threading.Thread.__hash__

    def run(self) -> None:
        """Edit until told to stop."""
        for number in range(60 * 16):
            bar, cell = 1 + number // 16, number % 16
            place = str(Fraction(cell, 16))
            note = note_at(bar, cell)
            body = {"client_id": str(uuid.uuid4()), "edits": [{"before": None, "after": note}]}
            while True:
                status = 0
                with contextlib.suppress(OSError, http.client.HTTPException, ValueError):
                    status, said = self.person.post(
                        f"/api/songs/{self.song}/edits", body, timeout=10.0
                    )
                if status == 200:
                    self.acknowledged.append((bar, place))
                    break
                if status and status not in (429, 500, 502, 503, 504):
                    self.wrong.append(f"{status} {said}")
                    break
                if self.stop.is_set() and not status:
                    return
                time.sleep(0.1)
            if self.stop.is_set():
                return
            time.sleep(0.05)


def note_at(bar: int, cell: int) -> dict[str, Any]:
    """A cowbell on a sixteenth of a bar, as the API takes it."""
    return {
        "time": round(2.0 * (bar - 1) + 2.0 * cell / 16, 4),
        "instrument": "cowbell",
        "velocity": 90,
        "ghost": False,
        "accent": False,
        "confidence": 1.0,
        "status": "heard",
        "bar": bar,
        "position": str(Fraction(cell, 16)),
        "limb": None,
        "reason": "",
    }


def victims(stack: Stack, part: str, random_numbers: random.Random) -> list[int]:
    """What to kill of a part: itself, or one of the processes that it has started."""
    own = stack.pid_of(part)
    inner = stack.workers_of(part)
    if inner and random_numbers.random() < 0.5:
        return [random_numbers.choice(inner)]
    return [own] if own else []


def measure_two() -> list[Check]:
    """The same over two hosts without a disk in common: pages on one, work on the other."""
    with (
        tempfile.TemporaryDirectory(prefix="orchesis-kills-") as name,
        hosts.between(Path(name) / "between") as environment,
        hosts.host(Path(name) / "pages", environment, "web,keeper,engrave") as pages,
        hosts.host(Path(name) / "work", environment, hosts.WORKING) as work,
    ):
        return [replace(check, name=f"two hosts: {check.name}") for check in measure(pages, work)]


def measure(stack: Stack, *others: Stack) -> list[Check]:
    """Two hundred kills in random order, and what is there afterwards.

    stack : the host of the pages. others : further hosts, whose parts are killed as well.
    """
    rng = random.Random(20)
    stacks = (stack, *others)
    parts = [(one, part) for one in stacks for part in PARTS if one.pid_of(part)]
    people = [Person(stack.port) for _ in range(2)]
    songs = []
    with tempfile.TemporaryDirectory() as name:
        file = Path(name) / "sixty.json"
        file.write_text(dumps(long_score(SIXTY_BARS)))
        for index, person in enumerate(people):
            person.sign_up(f"editor-{'ab'[index]}")
            songs.append(stack.manage("store_score", f"editor-{'ab'[index]}", "Sixty", str(file)))
    stop = threading.Event()
    editors = [
        Editor(stack.port, person, song, stop) for person, song in zip(people, songs, strict=True)
    ]
    for editor in editors:
        editor.start()
    imported = _begin_work(people[0])
    back: list[float] = []
    for number in range(KILLS):
        for pid in victims(*rng.choice(parts), rng):
            with contextlib.suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)
        back.append(stack.wait_until_it_answers())
        if number == KILLS // 2:
            with contextlib.suppress(OSError, http.client.HTTPException):
                people[1].upload("/api/songs", "late.ogg", _short_song())
        time.sleep(rng.uniform(0.1, 1.5))
    restarts = []
    for number in range(LAUNCHER_KILLS):
        one = stacks[number % len(stacks)]
        one.kill_launcher()
        restarts.append(one.start())
        time.sleep(1.0)
    stop.set()
    for editor in editors:
        editor.join(30)
    missing, doubled = _compare(editors)
    ended, words = _wait_for_work(stacks, people[0], imported)
    wrong = [text for editor in editors for text in editor.wrong]
    count = sum(len(editor.acknowledged) for editor in editors)
    return [
        Check(f"edits acknowledged under {KILLS} kills, missing", f"{missing} of {count}", "0",
              missing == 0 and count > 100),
        Check("edits stored twice or refused", f"{doubled + len(wrong)} {wrong[:1] or ''}", "0",
              doubled + len(wrong) == 0),
        at_most("the site is back after a kill, median", percentile(back, 0.5), 2.0, "s"),
        at_most("the site is back after a kill, longest", max(back), MOST_BACK_SECONDS, "s"),
        at_most("started at once after the launcher was killed, longest", max(restarts), 30.0, "s"),
        Check("runs and line-ups that were killed have ended", words, "all", ended),
    ]  # fmt: skip


def _short_song() -> bytes:
    return (SONGS / "steps-to-the-market.ogg").read_bytes()


def _begin_work(person: Person) -> list[str]:
    """A recording to listen to, with a second one to be lined up beside a song that is there."""
    status, song = person.upload("/api/songs", "steps.ogg", _short_song())
    if status != 201:
        raise RuntimeError(f"the import was not taken: {status} {song}")
    return [song["id"]]


def _compare(editors: list[Editor]) -> tuple[int, int]:
    """Acknowledged notes that are not there, and notes that are there more than once."""
    missing = doubled = 0
    for editor in editors:
        status, score = editor.person.get(f"/api/songs/{editor.song}/score")
        if status != 200:
            raise RuntimeError(f"the song cannot be read: {status} {score}")
        there = [
            (bar["number"], hit["position"])
            for bar in score["bars"]
            for hit in bar["hits"]
            if hit["instrument"] == "cowbell"
        ]
        missing += sum(place not in set(there) for place in editor.acknowledged)
        doubled += len(there) - len(set(there))
    return missing, doubled


def _wait_for_work(stacks: Sequence[Stack], person: Person, songs: list[str]) -> tuple[bool, str]:
    """Wait until everything that was begun has ended; try again what was killed too often."""
    began = time.monotonic()
    added = False
    while time.monotonic() - began < WORK_SECONDS:
        state = person.get(f"/api/songs/{songs[0]}")[1]
        run = state["run"]["state"]
        if run in ("interrupted", "failed", "cancelled"):
            person.post(f"/api/songs/{songs[0]}/listening")
        if run == "done" and not added:
            path = f"/api/songs/{songs[0]}/sources"
            added = person.upload(path, "again.ogg", _short_song())[0] == 201
            time.sleep(2.0)
            for pid in [pid for one in stacks for pid in one.workers_of("worker")]:
                with contextlib.suppress(ProcessLookupError):
                    os.kill(pid, signal.SIGKILL)
        if added:
            sources = person.get(f"/api/songs/{songs[0]}/sources")[1]
            if sources and sources[0]["state"] == "failed":
                person.post(f"/api/songs/{songs[0]}/sources/{sources[0]['id']}/line-up")
            if sources and sources[0]["state"] == "ready":
                return True, f"run {run}, line-up ready ({time.monotonic() - began:.0f} s)"
        time.sleep(0.5)
    return False, f"still at work after {WORK_SECONDS:.0f} s"

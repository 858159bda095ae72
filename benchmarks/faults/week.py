"""A week of a school in some minutes: songs come, are worked on, printed, practised, and go again.

Afterwards memory and disk are where they were in the first days: what is kept for ever grows only
with what people keep.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
import time
import uuid
from pathlib import Path

import psutil
import redis

from benchmarks.faults.kills import note_at
from benchmarks.faults.stack import Check, Person, Stack
from benchmarks.listening import SONGS
from benchmarks.long_score import SIXTY_BARS, long_score
from orchesis.music.json import dumps

DAYS = 7
SONGS_A_DAY, EDITS_A_SONG, READERS = 6, 40, 4
COMPARED = 3
"""Days at each end: a process that has just been renewed is small whatever it did before."""

MOST_GROWTH = 1.15
MOST_MORE_MB = 40.0
"""A process may take a little more without losing anything: memory is handed back in pieces."""


def measure(stack: Stack) -> list[Check]:
    """Seven days, and what the last ones took more than the first ones."""
    people = [Person(stack.port) for _ in range(READERS)]
    for index, person in enumerate(people):
        person.sign_up(f"pupil-{index}")
    with tempfile.TemporaryDirectory() as name:
        file = Path(name) / "sixty.json"
        file.write_text(dumps(long_score(SIXTY_BARS)))
        sound = Path(name) / "short.ogg"
        command = ["ffmpeg", "-v", "error", "-i", str(SONGS / "steps-to-the-market.ogg")]
        subprocess.run([*command, "-t", "12", "-c", "copy", str(sound)], check=True)
        days = []
        wrong: list[str] = []
        for day in range(DAYS):
            for person, index in zip(people, range(READERS), strict=True):
                _day(stack, person, f"pupil-{index}", file, sound.read_bytes(), day, wrong)
            stack.manage("tidy")
            days.append(_taken(stack))
            print({what: round(size) for what, size in days[-1].items()}, file=sys.stderr)
    first, last = (
        {what: max(day[what] for day in part) for what in days[0]}
        for part in (days[:COMPARED], days[-COMPARED:])
    )
    return [
        Check(f"{DAYS} days of {READERS} pupils: requests that failed",
              f"{len(wrong)} {wrong[:1] or ''}", "0", not wrong),
        *(
            Check(f"{what}, most of the first and of the last days",
                  f"{first[what]:.0f}, {last[what]:.0f} MB",
                  f"+{100 * (MOST_GROWTH - 1):.0f} % or {MOST_MORE_MB:.0f} MB",
                  last[what] <= max(first[what] * MOST_GROWTH, first[what] + MOST_MORE_MB))
            for what in first
        ),
        Check("folders of songs that are gone", str(_left(stack)), "0", _left(stack) == 0),
    ]  # fmt: skip


def _day(
    stack: Stack, person: Person, name: str, file: Path, sound: bytes, day: int, wrong: list[str]
) -> None:
    """A pupil's day: charts, a recording, edits, pages, prints; in the evening all goes."""

    def ask(method: str, path: str, body: object = None) -> object:
        data = None if body is None else json.dumps(body).encode()
        status, told = person.request(
            method, path, data, headers={"Content-Type": "application/json"}
        )
        if status >= 400:
            wrong.append(f"{method} {path[-40:]}: {status} {str(told)[:60]}")
        return told

    songs = [stack.manage("store_score", name, f"Day {day}", str(file)) for _ in range(2)]
    status, made = person.upload("/api/songs", "short.ogg", sound)
    if status == 201:
        songs.append(made["id"])
        while person.get(f"/api/songs/{made['id']}")[1]["run"]["state"] in ("queued", "running"):
            time.sleep(0.3)
    else:
        wrong.append(f"import: {status} {made}")
    for song in songs[:2]:
        at = f"/api/songs/{song}"
        for number in range(EDITS_A_SONG):
            note = note_at(1 + number % 60, number // 60)
            ask("POST", f"{at}/edits", {"client_id": str(uuid.uuid4()),
                                        "edits": [{"before": None, "after": note}]})  # fmt: skip
            if number % 4 == 0:
                ask("POST", f"{at}/undo", {})
            if number % 10 == 0:
                ask("GET", f"{at}/chart?reading=full")
        for path in ("score", "chart?reading=map", "grooves", "fills", "feel", "practice",
                     "practice/plans/section-1", "files/chart.musicxml"):  # fmt: skip
            ask("GET", f"{at}/{path}")
        for _ in range(100):
            if person.get(f"{at}/files/chart.pdf")[0] != 202:
                break
            time.sleep(0.2)
    for song in songs:
        ask("DELETE", f"/api/songs/{song}")


def _taken(stack: Stack) -> dict[str, float]:
    """Memory of each part and its children, disk below the folder by kind, in MB."""
    found = {}
    for name in ("app", "worker", "engraver", "renderer", "helper", "keeper", "database", "queue"):
        pids = [stack.pid_of(name), *stack.workers_of(name)]
        found[f"memory of {name}"] = sum(_memory(pid) for pid in pids if pid)
    queue = redis.Redis(unix_socket_path=str(stack.folder / "redis.sock"))
    found["what the queue's server holds"] = queue.info("memory")["used_memory"] / 1024**2
    for name in ("media", "uploads", "logs", "nginx"):
        found[f"disk, {name}"] = _disk(stack.folder / name)
    found["disk, tables"] = _disk(stack.folder / "db" / "data" / "orchesis")
    return found


def _memory(pid: int) -> float:
    try:
        # What it has for itself: pages shared with its siblings would count once for each.
        return float(psutil.Process(pid).memory_full_info().uss) / 1024**2
    except psutil.Error:
        return 0.0


def _disk(folder: Path) -> float:
    files = (Path(at) / name for at, _, names in os.walk(folder) for name in names)
    return sum(path.stat().st_size for path in files if path.exists()) / 1024**2


def _left(stack: Stack) -> int:
    kept = stack.manage("shell", "--no-imports", "-c", IDS).split()
    return sum(path.name not in kept for path in (stack.folder / "media").iterdir())


IDS = "from studio.models import Song; print(*Song.objects.values_list('pk', flat=True))"

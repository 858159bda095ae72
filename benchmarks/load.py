"""Many people import at once while others edit: `python -m benchmarks.load [--songs 24]`.

On hosts without a disk in common (see `faults/hosts.py`): one has the pages, one or two listen.
Told is what a song costs in core seconds, bytes and rows, whether that stays the same with a
second host, and how long an edit takes meanwhile: the figures of docs/scaling.md.
"""

from __future__ import annotations

import argparse
import contextlib
import http.client
import itertools
import json
import tempfile
import threading
import time
import uuid
from dataclasses import dataclass, field
from pathlib import Path

import psutil

from benchmarks.faults import hosts
from benchmarks.faults.kills import note_at
from benchmarks.faults.stack import Person, Stack, percentile
from benchmarks.long_score import SIXTY_BARS, long_score
from orchesis.music.json import dumps

PEOPLE = 8
SECONDS_OF_SONG = 36.0
WORK_SECONDS = 3600.0
PLACES = SIXTY_BARS[-1][2] * 16
"""Where a note may be put into the song that is edited."""

COUNTED = """
import json
from django.apps import apps
models = apps.get_app_config('studio').get_models()
print(json.dumps({model._meta.label: model.objects.count() for model in models}))
"""


@dataclass
class Editor(threading.Thread):
    """Adds notes to a song of his and takes them off, and keeps how long each edit took."""

    person: Person
    song: str
    stopped: threading.Event
    waits: list[float] = field(default_factory=list)
    failed: int = 0

    def __post_init__(self) -> None:
        super().__init__(daemon=True)

    __hash__ = threading.Thread.__hash__

    def run(self) -> None:
        """Edit four times a second until told to stop: every place gets a note, then loses it."""
        for number in itertools.count():
            if self.stopped.is_set():
                return
            place = number % PLACES
            note = note_at(1 + place // 16, place % 16)
            is_there = number // PLACES % 2 == 1
            edit = {"before": note, "after": None} if is_there else {"before": None, "after": note}
            body = {"client_id": str(uuid.uuid4()), "edits": [edit]}
            began = time.monotonic()
            with contextlib.suppress(OSError, http.client.HTTPException):
                status, _ = self.person.post(f"/api/songs/{self.song}/edits", body)
                self.failed += status != 200
            self.waits.append(time.monotonic() - began)
            self.stopped.wait(0.25)


@dataclass(frozen=True)
class Load:
    """What was measured with so many hosts that listen.

    songs : finished. seconds : from the first import to the last end. core_seconds : of the hosts
    that listen. edits : seconds of each edit meanwhile.
    """

    hosts: int
    songs: int
    seconds: float
    core_seconds: float
    edits: list[float]
    failed: int
    bytes_a_song: float
    rows_a_song: dict[str, float]

    @property
    def words(self) -> str:
        """A row of a table."""
        return (
            f"| {self.hosts} | {60 * self.songs / self.seconds:.1f} "
            f"| {self.core_seconds / self.songs:.1f} | {1000 * percentile(self.edits, 0.5):.0f} "
            f"| {1000 * percentile(self.edits, 0.95):.0f} | {self.failed} of {len(self.edits)} |"
        )


def measure(count: int, listening: int, many: int, length: float) -> Load:
    """Import songs, with so many hosts that listen.

    count : songs. many : people who import them in turn. length : of a song, seconds.
    """
    temporary = tempfile.TemporaryDirectory(prefix="orchesis-load-")
    with temporary as name, contextlib.ExitStack() as up:
        folder = Path(name)
        environment = up.enter_context(hosts.between(folder / "between"))
        pages = up.enter_context(hosts.host(folder / "pages", environment, "web,keeper,engrave"))
        people = [Person(pages.port) for _ in range(many)]
        for index, person in enumerate(people):
            person.sign_up(f"person-{index}")
        file = folder / "sixty.json"
        file.write_text(dumps(long_score(SIXTY_BARS)))
        stopped = threading.Event()
        editors = [
            Editor(
                person, pages.manage("store_score", f"person-{index}", "Sixty", str(file)), stopped
            )
            for index, person in enumerate(people[:2])
        ]
        before = json.loads(pages.manage("shell", "--no-imports", "-c", COUNTED))
        workers = [
            up.enter_context(hosts.host(folder / f"worker-{number}", environment, hosts.WORKING))
            for number in range(listening)
        ]
        sound = hosts.short_song(folder, length)
        for editor in editors:
            editor.start()
        used, began = sum(map(_core_seconds, workers)), time.monotonic()
        songs: dict[int, list[str]] = {}
        for number in range(count):
            owner = number % many
            status, made = people[owner].upload("/api/songs", f"song-{number}.ogg", sound)
            if status != 201:
                raise RuntimeError(f"the import was not taken: {status} {made}")
            songs.setdefault(owner, []).append(made["id"])
        states = [
            state
            for owner, mine in songs.items()
            for state in hosts.finished(people[owner], mine, WORK_SECONDS)
        ]
        seconds = time.monotonic() - began
        stopped.set()
        for editor in editors:
            editor.join()
        core_seconds = sum(map(_core_seconds, workers)) - used
        after = json.loads(pages.manage("shell", "--no-imports", "-c", COUNTED))
        edited = sum(len(editor.waits) for editor in editors)
        rows = {kind: (after[kind] - before[kind]) / count for kind in after}
        rows["studio.EditEntry"] -= edited / count
        media = [path for path in folder.glob("worker-*/media/*/*") if path.is_file()]
        return Load(
            listening,
            states.count("done"),
            seconds,
            core_seconds,
            [wait for editor in editors for wait in editor.waits],
            sum(editor.failed for editor in editors),
            sum(path.stat().st_size for path in media) / count,
            {kind: share for kind, share in rows.items() if share > 0.01},
        )


def _core_seconds(stack: Stack) -> float:
    """Of a host's workers, those that have ended included as far as their parents know."""
    total = 0.0
    for name in ("worker", "renderer", "helper"):
        for pid in filter(None, (stack.pid_of(name), *stack.workers_of(name))):
            spent = psutil.Process(pid).cpu_times()
            total += spent.user + spent.system + spent.children_user + spent.children_system
    return total


def main() -> None:
    """Print a table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--songs", type=int, default=24)
    parser.add_argument("--people", type=int, default=PEOPLE)
    parser.add_argument("--seconds", type=float, default=SECONDS_OF_SONG, help="of a song")
    parser.add_argument("--hosts", type=int, nargs="+", default=[1, 2], help="that listen")
    asked = parser.parse_args()
    print("| hosts that listen | songs a minute | core s a song | edit p50 ms | p95 | failed |")
    print("|---|---|---|---|---|---|", flush=True)
    for listening in asked.hosts:
        found = measure(asked.songs, listening, asked.people, asked.seconds)
        print(found.words, flush=True)
    size = found.bytes_a_song / 1024**2
    print(f"\nA song of {asked.seconds:.0f} s: {size:.1f} MB of files; rows:")
    for kind, share in sorted(found.rows_a_song.items(), key=lambda one: -one[1]):
        print(f"  {kind}: {share:.1f}")


if __name__ == "__main__":
    main()

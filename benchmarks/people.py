"""Many people at once: `python -m benchmarks.people`.

A shelf of ten thousand songs, looked at in all ways; and a hundred students who open one share link
and read chart and plans for a minute, each at his own pace.

    python -m benchmarks.people [--songs 10000] [--students 100] [--seconds 60]
"""

from __future__ import annotations

import argparse
import http.cookiejar
import json
import random
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from benchmarks.server import Waits, summary
from launcher.scratch import Scratch, scratch_application
from orchesis.music.json import dumps
from tests.composing import ROCK, song

LOOKS: tuple[dict[str, str], ...] = (
    {},
    {"search": "ferry"},
    {"search": "swung 120"},
    {"search": "train beat"},
    {"sort": "title", "page": "120"},
    {"sort": "practised"},
    {"sort": "difficulty", "left": "doubts"},
    {"tag": "set one"},
)
TIMES = 12
PAUSE_SECONDS = (0.5, 3.0)
"""Between two things that a student does."""

FILL = """
import random
from django.contrib.auth.models import User
from studio.models import PracticeEntry, Song
from studio.people import Tag
from studio.actions.accounts import make_account
from django.utils import timezone
import uuid
one = random.Random(1)
ada = make_account("ada", "a-long-pass-word")
words = "slow night bus ferry lantern rain market harbour steps awning winter copper".split()
songs = [
    Song(owner=ada, title=" ".join(one.sample(words, 3)).title(), performer=one.choice(words),
         file_name="a.ogg", suffix=".ogg", tempo_bpm=one.uniform(60, 190), meter="4/4",
         feel=one.choice(["straight", "swung sixteenths 1.4 : 1", "half-time feel"]), revision=1,
         counted_at=1, bar_count=96, doubt_count=one.choice([0, 0, 4, 30]), header={"bars": []},
         difficulty=one.uniform(1, 9), rhythms=one.choice(["", "a train beat", "a waltz"]))
    for _ in range(COUNT)
]
Song.objects.bulk_create(songs, batch_size=500)
Tag.objects.bulk_create([Tag(owner=ada, song=item, name="set one") for item in songs[:60]])
PracticeEntry.objects.bulk_create([
    PracticeEntry(owner=ada, song=item, client_id=uuid.uuid4(), target="section-1", step="a",
                  title="a", played_at=timezone.now(), share=1, bpm=96, loops=4, minutes=3,
                  feeling="work") for item in songs[:2000]])
"""
LINK = """
from studio.models import Song
from studio.people import ShareLink
item = Song.objects.get(pk="SONG")
print(ShareLink.objects.create(song=item, reading="full", level="all").token)
"""


class Visitor:
    """A browser without a window."""

    def __init__(self, address: str) -> None:
        self.address = address
        self.jar = http.cookiejar.CookieJar()
        self.open = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar)).open

    def ask(self, path: str, body: Any = None) -> tuple[float, bytes]:
        """Milliseconds until the whole answer is there, and the answer. Raises HTTPError."""
        request = urllib.request.Request(f"{self.address}{path}")
        if body is not None:
            request.data = json.dumps(body).encode()
            request.add_header("Content-Type", "application/json")
            token = next((c.value for c in self.jar if c.name == "csrftoken"), "")
            request.add_header("X-CSRFToken", token or "")
            request.add_header("Referer", self.address)
        began = time.perf_counter()
        with self.open(request, timeout=30) as answer:
            told = answer.read()
        return 1000 * (time.perf_counter() - began), told


def shelf(application: Scratch, songs: int) -> list[Waits]:
    """Looks at a shelf of so many songs."""
    application.manage("shell", "-c", FILL.replace("COUNT", str(songs)))
    visitor = Visitor(application.address)
    visitor.ask("/api/session")
    credentials = {"username": "ada", "password": "a-long-pass-word"}
    visitor.ask("/api/session/sign-in", credentials)
    took: list[float] = []
    for _ in range(TIMES):
        for look in LOOKS:
            query = urllib.parse.urlencode(look)
            took.append(visitor.ask(f"/api/shelf?{query}")[0])
    return [summary(f"a look at a shelf of {songs} songs", took)]


def link(application: Scratch, students: int, seconds: float) -> list[Waits]:
    """So many students on one link."""
    with tempfile.TemporaryDirectory() as name:
        file = Path(name) / "song.json"
        file.write_text(dumps(song([ROCK] * 64)))
        made = application.manage("store_score", "ada", "Given", str(file))
    token = application.manage("shell", "-c", LINK.replace("SONG", made)).splitlines()[-1]
    took: list[float] = []
    errors: list[str] = []
    lock = threading.Lock()

    def student(number: int) -> None:
        one = random.Random(number)
        time.sleep(one.uniform(0, 5))
        visitor = Visitor(application.address)
        at = f"/api/songs/{made}"
        paths = [
            at,
            f"{at}/score",
            f"{at}/chart?reading=full",
            f"{at}/practice",
            f"{at}/practice/plans/section-1",
            f"{at}/clicks/quarters",
        ]
        try:
            visitor.ask("/api/session")
            visitor.ask("/api/shared", {"token": token})
            until = time.monotonic() + seconds
            while time.monotonic() < until:
                waited, _ = visitor.ask(one.choice(paths))
                with lock:
                    took.append(waited)
                time.sleep(one.uniform(*PAUSE_SECONDS))
        except (urllib.error.URLError, OSError) as error:
            with lock:
                errors.append(repr(error))

    with ThreadPoolExecutor(students) as pool:
        list(pool.map(student, range(students)))
    print(f"{len(took)} requests, {len(errors)} errors {errors[:2]}", flush=True)
    return [summary(f"a request of one of {students} students on a link", took)]


def main() -> int:
    """Print a line a figure."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--songs", type=int, default=10_000)
    asked.add_argument("--students", type=int, default=100)
    asked.add_argument("--seconds", type=float, default=60.0)
    options = asked.parse_args()
    with scratch_application(demo=False) as application:
        found = shelf(application, options.songs)
        found += link(application, options.students, options.seconds)
    for waits in found:
        print(f"{waits.name}: {waits.p50:.0f} (p95 {waits.p95:.0f}) ms", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())

"""Made-up requests on every path by people of four kinds, and a record of twenty minutes.

Schemathesis makes the requests from the schema: such as it allows, and such as it does not. Told
are the dearest one, the largest web process, and how long another user waits meanwhile.
"""

from __future__ import annotations

import asyncio
import http.client
import json
import random
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

import schemathesis
import yaml
from hypothesis import HealthCheck, Phase, given, seed, settings
from schemathesis import GenerationMode

from benchmarks.faults.crowd import Readers, sign_up_with_long_song
from benchmarks.faults.senders import (
    MOST_CPU_SECONDS,
    PAGE_BOUND_MS,
    largest_process,
    processor_seconds,
)
from benchmarks.faults.stack import Check, Person, Stack, at_most, percentile
from benchmarks.listening import SONGS
from benchmarks.long_score import Sections, long_score
from launcher.places import ROOT
from orchesis.music.json import dumps

REQUESTS = 11_096
KINDS = 4
SLOW_ANSWER_SECONDS = 2.0
ENDING = ("/api/account", "/api/session")
"""What ends the session that asks."""

TWENTY_MINUTES: Sections = tuple(
    (f"{'Verse' if index % 2 == 0 else 'Chorus'} {index // 2 + 1}", 1 + 20 * index, 20)
    for index in range(30)
)
STAGES = ("", "/score", "/grooves", "/fills", "/feel", "/chart", "/practice")
Made = tuple[str, str, bytes]
"""Method, path and body."""


def measure(stack: Stack) -> list[Check]:
    """All of it."""
    person, base, paths, cookies = sign_up_with_long_song(stack, "fuzzed")
    return [*_fuzz(stack, person, base, paths, cookies), *_long(stack, person)]


def made_up(song: str) -> Iterator[Made]:
    """Requests of all operations, over and over, in an order that is always the same."""
    schema = yaml.safe_load((ROOT / "studio" / "schema.yaml").read_text())
    api = schemathesis.openapi.from_dict(schema)
    operations: list[Any] = [result.ok() for result in api.get_all_operations()]  # type: ignore[union-attr]
    operations = [one for one in operations if not one.path.startswith(ENDING)]
    each = REQUESTS // KINDS // len(operations) + 1
    cases: list[Made] = []
    for operation in operations:
        modes = [GenerationMode.POSITIVE]
        if operation.body or operation.query:
            modes.append(GenerationMode.NEGATIVE)
        for mode in modes:
            cases += _cases(operation, mode, each // len(modes) + 1, song)
    random.Random(39).shuffle(cases)
    yield from cases


def _cases(operation: Any, mode: GenerationMode, count: int, song: str) -> list[Made]:
    cases: list[Made] = []

    @seed(39)
    @settings(
        max_examples=count,
        phases=[Phase.generate],
        database=None,
        deadline=None,
        suppress_health_check=list(HealthCheck),
    )
    @given(case=operation.as_strategy(generation_mode=mode))
    def collect(case: Any) -> None:
        path = case.path
        for name, value in (case.path_parameters or {}).items():
            text = song if name == "song_id" else str(value)
            path = path.replace(f"{{{name}}}", _in_path(text) or "x")
        query = urlencode(
            {key: str(value) for key, value in (case.query or {}).items()}, errors="ignore"
        )
        body = case.body
        if isinstance(body, schemathesis.core.NotSet) or case.method == "GET":
            data = b""
        else:
            data = body if isinstance(body, bytes) else json.dumps(body, default=str).encode()
        cases.append((case.method, f"{path}?{query}" if query else path, data))

    collect()
    return cases


def _in_path(text: str) -> str:
    return "".join(sign for sign in text if sign.isascii() and (sign.isalnum() or sign in "-_."))


def _fuzz(stack: Stack, person: Person, base: str, paths: list[str], cookies: str) -> list[Check]:
    song = base.rpartition("/")[2]
    stranger, anonymous, other = Person(stack.port), Person(stack.port), Person(stack.port)
    stranger.sign_up("stranger")
    other.sign_up("outsider")
    anonymous.get("/api/session")
    people = {"owner": person, "stranger": stranger, "another": other, "nobody": anonymous}
    sent, failed, dearest = 0, [], (0.0, "")
    longest = (0.0, "")
    stop = threading.Event()
    readers = Readers(stack.port, paths, cookies)

    def read() -> None:
        while not stop.is_set():
            asyncio.run(readers.all_read(5, 5.0, 0.3))

    reader = threading.Thread(target=read, daemon=True)
    reader.start()
    headers = {"Content-Type": "application/json"}
    while sent < REQUESTS:
        for method, path, data in made_up(song):
            for name, who in people.items():
                before, began = processor_seconds(stack), time.monotonic()
                error_words = ""
                try:
                    status, _ = who.request(method, path, data or None, headers, timeout=60.0)
                except (OSError, http.client.HTTPException) as error:
                    status, error_words = 0, repr(error)[:60]
                took = time.monotonic() - began
                after = processor_seconds(stack)
                spent = max((after[pid] - before.get(pid, after[pid]) for pid in after), default=0)
                sent += 1
                words = f"{method} {path[:60]} by {name}"
                dearest, longest = max(dearest, (spent, words)), max(longest, (took, words))
                if status == 0 or (status >= 500 and status != 503):
                    failed.append(f"{status or error_words} {words}")
            if sent >= REQUESTS:
                break
    stop.set()
    reader.join(30)
    return [
        Check(f"{sent} made-up requests by four kinds of people: answered 5xx or not at all",
              f"{len(failed)} {failed[:3] or ''}", "0", not failed),
        Check("processor of the dearest (that of a page read meanwhile is in it)",
              f"{dearest[0]:.2f} s, {dearest[1]}", f"{MOST_CPU_SECONDS} s",
              dearest[0] <= MOST_CPU_SECONDS),
        Check("the longest answer", f"{longest[0]:.2f} s, {longest[1]}", "2 s",
              longest[0] <= SLOW_ANSWER_SECONDS),
        at_most("pages of another user meanwhile, p95", percentile(readers.took, 0.95),
                PAGE_BOUND_MS, "ms"),
        largest_process(stack),
    ]  # fmt: skip


def _long(stack: Stack, person: Person) -> list[Check]:
    """The pages of a song of twenty minutes, each asked for when nothing of it was kept yet."""
    person = Person(stack.port)
    person.sign_up("marathon")
    file = Path(stack.folder) / "twenty.json"
    file.write_text(dumps(long_score(TWENTY_MINUTES)))
    audio = str(SONGS / "steps-to-the-market.ogg")
    song = stack.manage("store_score", "marathon", "Twenty", str(file), "--audio", audio)
    odd, longest = [], (0.0, "")
    for stage in STAGES:
        until = time.monotonic() + 120
        while True:
            began = time.monotonic()
            status, _ = person.get(f"/api/songs/{song}{stage}")
            longest = max(longest, (time.monotonic() - began, stage))
            if status != 202 or time.monotonic() > until:
                break
            time.sleep(0.5)
        if status != 200:
            odd.append(f"{stage} {status}")
    return [
        Check("pages of a song of twenty minutes that did not come", f"{odd}", "[]", not odd),
        Check("the longest answer of them", f"{longest[0]:.1f} s, {longest[1]}", "2 s",
              longest[0] <= SLOW_ANSWER_SECONDS),
    ]  # fmt: skip

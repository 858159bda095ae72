"""A full disk: reading goes on, failures say what they are, edits have room, no litter stays."""

from __future__ import annotations

import contextlib
import os
import subprocess
import tempfile
import time
import uuid
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

from benchmarks.faults.stack import Check, Person, running
from benchmarks.listening import SONGS
from benchmarks.long_score import SIXTY_BARS, long_score
from orchesis.music.json import dumps

SIZE_MB = 700
KEPT_MB = 96
"""Of the small disk, what is left to edits."""


@contextlib.contextmanager
def small_disk() -> Iterator[Path | None]:
    """A file system of its own in memory; None where this machine does not let us make one."""
    folder = Path(tempfile.mkdtemp(prefix="orchesis-disk-"))
    command = ["mount", "-t", "tmpfs", "-o", f"size={SIZE_MB}m,mode=700", "tmpfs", str(folder)]
    mounted = subprocess.run(command, capture_output=True, check=False).returncode == 0
    try:
        yield folder if mounted else None
    finally:
        if mounted:
            subprocess.run(["umount", "-l", str(folder)], check=False)
        folder.rmdir()


def free(folder: Path) -> int:
    """Bytes that can be written."""
    state = os.statvfs(folder)
    return state.f_bavail * state.f_frsize


def fill(path: Path, leaving: int) -> None:
    """Write until so many bytes are left."""
    with path.open("wb") as file:
        while (left := free(path.parent) - leaving) > 0:
            try:
                file.write(bytes(min(left, 4 * 1024**2)))
                file.flush()
            except OSError:
                break
            if left < 4096:
                break


def measure() -> list[Check]:
    """An application on a small disk, filled step by step."""
    with small_disk() as disk:
        if disk is None:
            return [Check("a full disk", "no file system could be mounted here", "-", True)]
        run = disk / "run"
        run.mkdir()
        with running(run, ORCHESIS_ROOM_KEPT_MB=str(KEPT_MB)) as stack:
            person = Person(stack.port)
            person.sign_up("hoarder")
            file = disk / "sixty.json"
            file.write_text(dumps(long_score(SIXTY_BARS)))
            audio = str(SONGS / "steps-to-the-market.ogg")
            song = stack.manage("store_score", "hoarder", "Sixty", str(file), "--audio", audio)
            url = f"/api/songs/{song}"
            ballast = disk / "ballast"
            # Others have filled it as far as our own writers go: there is room for edits only.
            fill(ballast, KEPT_MB * 1024**2 // 2)
            kept = [_edit(person, url, number) for number in range(20)]
            sound = (SONGS / "steps-to-the-market.ogg").read_bytes()
            upload = person.upload("/api/songs", "take.ogg", sound)
            reads = [person.get(f"{url}/{part}")[0] for part in ("score", "grooves", "chart")]
            # To the last byte: now even an edit may fail, but it says why.
            fill(disk / "more", 0)
            full = [person.get(f"{url}/{part}")[0] for part in ("score", "grooves", "chart")]
            page = person.get("/songs")[0]
            last = [_edit(person, url, number) for number in range(20, 60)]
            refused = [body for status, body in last if status != 200]
            honest = all(
                isinstance(body, dict)
                and body.get("code") in ("disk_full", "database_away", "busy")
                for body in refused
            )
            blamed = sum(body.get("code") == "database_away" for body in refused)
            left = _left_behind(run)
            ballast.unlink()
            (disk / "more").unlink()
            stack.wait_until_it_answers()
            time.sleep(2.0)
            acked = [n for n, (status, _) in enumerate([*kept, *last]) if status == 200]
            there = _there(person, url)
            missing = [number for number in acked if number not in there]
            again = _edit(person, url, 70)[0]
    return [
        Check("edits while only their room is left", f"{sum(s == 200 for s, _ in kept)} of 20",
              "20 of 20", all(status == 200 for status, _ in kept)),
        Check("an upload then", f"{upload[0]} {str(upload[1])[:60]}", "disk is full",
              "disk is full" in str(upload[1])),
        Check("reads then, and on a disk full to the last byte", f"{reads} {full} page {page}",
              "all 200", {*reads, *full, page} == {200}),
        Check("edits on a disk full to the last byte",
              f"{40 - len(refused)} stored, {len(refused)} refused, {blamed} blaming the database",
              "each says why", honest),
        Check("half-written files left behind", f"{left}", "0", left == 0),
        Check("acknowledged edits missing afterwards", f"{len(missing)} of {len(acked)}", "0",
              not missing),
        Check("an edit after room was made", str(again), "200", again == 200),
    ]  # fmt: skip


def _edit(person: Person, url: str, number: int) -> tuple[int, Any]:
    bar, cell = 1 + number // 16, number % 16
    note = {
        "time": 2.0 * (bar - 1) + 2.0 * cell / 16, "instrument": "cowbell", "velocity": 90,
        "ghost": False, "accent": False, "confidence": 1.0, "status": "heard", "bar": bar,
        "position": f"{cell}/16", "limb": None, "reason": "",
    }  # fmt: skip
    body = {"client_id": str(uuid.uuid4()), "edits": [{"before": None, "after": note}]}
    try:
        return person.post(f"{url}/edits", body, timeout=30.0)
    except OSError as error:
        return 0, {"code": str(error)}


def _there(person: Person, url: str) -> set[int]:
    score = person.get(f"{url}/score")[1]
    return {
        16 * (bar["number"] - 1) + int(16 * Fraction(hit["position"]))
        for bar in score["bars"]
        for hit in bar["hits"]
        if hit["instrument"] == "cowbell"
    }


def _left_behind(run: Path) -> int:
    """Files of an upload or a cache that were begun and not finished."""
    parts = [*run.glob("media/*/**/*.part*"), *run.glob("uploads/*")]
    return sum(path.is_file() for path in parts)

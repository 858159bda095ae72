"""Requests that ask too much: numbers no song has, ranges of thousands of digits, depths, files."""

from __future__ import annotations

import json
import subprocess
import tempfile
import time
from pathlib import Path
from typing import Any

import psutil

from benchmarks.faults.stack import Answer, Check, Person, Stack, at_most
from benchmarks.listening import SONGS
from benchmarks.long_score import SIXTY_BARS, long_score
from orchesis.music.json import dumps

MOST_SECONDS = 5.0
MOST_MB = 700.0
JSON = {"Content-Type": "application/json"}


def measure(stack: Stack) -> list[Check]:
    """Send them all; each is refused with a sentence, soon, and no worker grows."""
    person = Person(stack.port)
    person.sign_up("stranger")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        file = folder / "sixty.json"
        file.write_text(dumps(long_score(SIXTY_BARS)))
        audio = str(SONGS / "steps-to-the-market.ogg")
        song = stack.manage("store_score", "stranger", "Sixty", str(file), "--audio", audio)
        url = f"/api/songs/{song}"
        waits, odd = [], []
        for what, answer in _requests(person, url):
            began = time.monotonic()
            status, body = answer()
            waits.append(time.monotonic() - began)
            told = isinstance(body, dict) and body.get("detail")
            if not (400 <= status < 500 and told):
                odd.append(f"{what}: {status} {str(body)[:60]}")
        files = _files(person, folder)
    return [
        Check(f"{len(waits)} bodies and addresses refused with a sentence",
              f"{len(odd)} not {odd[:2] or ''}", "0 not", not odd),
        at_most("the longest of them took", max(waits), MOST_SECONDS, "s"),
        at_most("the largest web worker afterwards", _largest_worker(stack), MOST_MB, "MB"),
        *files,
    ]  # fmt: skip


def _requests(person: Person, url: str) -> list[tuple[str, Any]]:
    def raw(path: str, body: str) -> tuple[str, Any]:
        what = f"{path} {body[:30]}"
        return what, lambda: person.request("POST", f"{url}/{path}", body.encode(), headers=JSON)

    def get(path: str, **headers: str) -> tuple[str, Any]:
        return path[:40], lambda: person.get(f"{url}/{path}", headers=headers)

    digits = "9" * 4400
    return [
        raw("taps", '{"taps": [1e308, 1, 2, 3], "beats_a_bar": 4}'),
        raw("taps", '{"taps": [1e6, 1, 2, 3], "beats_a_bar": 4}'),
        raw("taps", json.dumps({"taps": [2.0] * 2000, "beats_a_bar": 4})),
        raw("taps", '{"taps": [1e999, 1, 2, 3], "beats_a_bar": 4}'),
        raw("taps", '{"taps": [1' + "0" * 5000 + ', 1, 2, 3], "beats_a_bar": 4}'),
        raw("taps", '{"taps": ' + "[" * 50_000 + "}"),
        raw("edits", '{"a":' * 5000 + "1" + "}" * 5000),
        raw("edits", "[" * 1_000_000),
        raw("bar-line", '{"bar": 2147483648, "time": 1.0}'),
        raw("bar-line", '{"bar": 1, "time": 1e308}'),
        raw("tempo", '{"bpm": 1e308, "beats_a_bar": 4}'),
        raw("form", '{"kind": "split", "first_bar": 99999999999999999999}'),
        raw("edits", "x" * 3_000_000),
        get(f"evidence/{2**31}"),
        get(f"history/{digits[:400]}"),
        get(f"evidence?first={digits[:400]}&last=4"),
        get("kin/4/chain?to_song=x&to_bar=1e308"),
        get("audio", Range=f"bytes={'9' * 30}-"),
    ]


def _largest_worker(stack: Stack) -> float:
    sizes = [0.0]
    for pid in [*stack.workers_of("app"), *stack.workers_of("app-2")]:
        sizes.append(psutil.Process(pid).memory_info().rss / 1024**2)
    return max(sizes)


def _files(person: Person, folder: Path) -> list[Check]:
    """Files whose length is not what it seems, and those of other kinds."""

    def made(name: str, *options: str) -> bytes:
        path = folder / name
        command = ["ffmpeg", "-v", "error", "-y", "-i", str(SONGS / "steps-to-the-market.ogg")]
        subprocess.run([*command, "-t", "8", *options, str(path)], check=True)
        return path.read_bytes()

    ogg, aac = made("part.ogg"), made("raw.aac")
    answers: dict[str, Answer] = {
        "raw AAC": person.upload("/api/songs", "raw.aac", aac),
        "half an Ogg": person.upload("/api/songs", "half.ogg", ogg[: len(ogg) // 2]),
        "a picture": person.upload("/api/songs", "cover.mp3", b"<svg></svg>\n" * 400),
    }
    words = {name: f"{status} {str(body)[:50]}" for name, (status, body) in answers.items()}
    large = person.request(
        "POST",
        "/api/songs",
        b"",
        headers={"Content-Type": "multipart/form-data; boundary=x", "Content-Length": "0"},
    )
    stranger = Person(person.port)
    stranger.get("/api/session")
    nobody = stranger.upload("/api/songs", "take.ogg", ogg)
    return [
        Check("a sound raw AAC", words["raw AAC"][:3], "201", answers["raw AAC"][0] == 201),
        Check("half an Ogg file", words["half an Ogg"], "400, cut off",
              answers["half an Ogg"][0] == 400 and "cut off" in words["half an Ogg"]),
        Check("a picture", words["a picture"], "400, not audio",
              answers["a picture"][0] == 400 and "audio" in str(answers["a picture"][1])),
        Check("an upload without a file", str(large[0]), "400", large[0] == 400),
        Check("an upload of nobody", f"{nobody[0]} {str(nobody[1])[:40]}", "403 before it is read",
              nobody[0] == 403),
    ]  # fmt: skip

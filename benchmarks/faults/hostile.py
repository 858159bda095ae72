"""Sixty hostile uploads, two hundred files damaged by chance, and what is left of them."""

from __future__ import annotations

import io
import json
import random
import subprocess
import tempfile
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path

from benchmarks.faults.stack import Check, Person, Stack, at_most
from benchmarks.listening import SONGS
from orchesis.chart.midi import to_midi
from orchesis.chart.musicxml import to_musicxml
from orchesis.chart.options import ChartOptions
from orchesis.chart.score import Credits
from tests.composing import ROCK, song

MUTATED = 200
SECONDS_OF_SOUND = 4
MOST_SECONDS = 60.0
WORK_SECONDS = 1200.0
Upload = tuple[str, bytes]


def measure(stack: Stack) -> list[Check]:
    """Send them all, wait for what was taken, remove it, look at what stays."""
    person = Person(stack.port)
    person.sign_up("fuzzer")
    with tempfile.TemporaryDirectory() as name:
        good = _good(Path(name), person)
    hostile = list(_hostile(good))
    waits, odd = [], []
    taken = 0
    for kind, uploads in (("hostile", hostile), ("damaged", list(_damaged(good)))):
        for name, content in uploads:
            began = time.monotonic()
            status, body = person.upload("/api/songs", name, content, timeout=90.0)
            waits.append(time.monotonic() - began)
            told = isinstance(body, dict) and (status == 201 or body.get("detail"))
            taken += status == 201
            if not told or (status != 201 and not 400 <= status < 500):
                odd.append(f"{kind} {name}: {status} {str(body)[:80]}")
    ended, words = _wait(person)
    faults = [
        one["file_name"]
        for one in person.get("/api/songs")[1]
        if one["run"] and "went wrong inside" in one["run"]["message"]
    ]
    pages = _pages(person, odd)
    gone = _remove(stack, person)
    log = (stack.folder / "logs" / "app.log").read_text() + (
        stack.folder / "logs" / "worker.log"
    ).read_text()
    lost = log.count("WorkerLostError") + log.count("WORKER TIMEOUT")
    return [
        Check(f"{len(hostile)} hostile uploads and {MUTATED} damaged files: no sentence",
              f"{len(odd)} {odd[:2] or ''}", "0", not odd),
        at_most("the longest of them took", max(waits), MOST_SECONDS, "s"),
        Check(f"of {taken} that were taken all have ended", words, "all", ended),
        Check("of those that failed, without a reason that helps", f"{faults[:3]}", "[]",
              not faults),
        Check("their pages answered", f"{pages} not", "0 not", pages == 0),
        Check("processes that died of one", str(lost), "0", lost == 0),
        Check("files left after all songs were removed", f"{gone}", "0", not gone),
    ]  # fmt: skip


def _good(folder: Path, person: Person) -> dict[str, bytes]:
    """A sound file of each kind that is taken."""
    found = {}
    for suffix, options in (
        (".ogg", []), (".flac", []), (".wav", []), (".mp3", []), (".m4a", ["-c:a", "aac"]),
    ):  # fmt: skip
        path = folder / f"good{suffix}"
        command = ["ffmpeg", "-v", "error", "-y", "-i", str(SONGS / "steps-to-the-market.ogg")]
        command += ["-t", str(SECONDS_OF_SOUND), *options, str(path)]
        subprocess.run(command, check=True)
        found[suffix] = path.read_bytes()
    piece = song([ROCK] * 8)
    found[".musicxml"] = to_musicxml(piece, ChartOptions(), Credits("Good")).encode()
    found[".mid"] = to_midi(piece)
    # A bundle as this Orchesis makes them.
    status, made = person.upload("/api/songs", "good.ogg", found[".ogg"])
    if status != 201:
        raise RuntimeError(f"a sound file is not taken: {made}")
    while person.get(f"/api/songs/{made['id']}")[1]["run"]["state"] in ("queued", "running"):
        time.sleep(0.5)
    found[".zip"] = person.get(f"/api/songs/{made['id']}/bundle")[1]
    return found


def _zipped(members: dict[str, bytes], good: bytes = b"") -> bytes:
    """A ZIP file with these members, and those of a good one that they do not replace."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        if good:
            with zipfile.ZipFile(io.BytesIO(good)) as from_it:
                for name in from_it.namelist():
                    if name not in members:
                        archive.writestr(name, from_it.read(name))
        for name, content in members.items():
            archive.writestr(name, content)
    return packed.getvalue()


def _hostile(good: dict[str, bytes]) -> Iterator[Upload]:
    """Files that somebody made to do harm."""
    lists = (
        b"#EXTM3U\n#EXTINF:10,\nfile:///etc/passwd\n",
        b"#EXTM3U\n#EXT-X-MEDIA-SEQUENCE:0\n#EXTINF:10.0,\nhttp://127.0.0.1:1/x\n#EXT-X-ENDLIST\n",
        b"ffconcat version 1.0\nfile '/etc/passwd'\n",
        b"<?xml version='1.0'?><MPD><BaseURL>file:///etc/passwd</BaseURL></MPD>",
    )
    for suffix in (".ogg", ".mp3", ".wav", ".flac", ".m4a"):
        for content in lists:
            yield f"list{suffix}", content * 60
    bomb = b"<!DOCTYPE z [<!ENTITY a 'aaaaaaaaaa'>" + b"".join(
        b"<!ENTITY %c '%s'>" % (98 + n, b"&%c;" % (97 + n) * 10) for n in range(12)
    )
    outside = b"<!DOCTYPE s [<!ENTITY x SYSTEM 'file:///etc/passwd'>]>"
    tail = good[".musicxml"].partition(b"<score-partwise")[2]
    for name, start in (("bomb", bomb + b"]>"), ("outside", outside)):
        text = b"<?xml version='1.0'?>" + start + b"<score-partwise" + tail
        for entity in (b"&m;", b"&x;"):
            yield f"{name}.musicxml", text.replace(b"<part-name>", b"<part-name>" + entity)
    yield "deep.musicxml", b"<?xml version='1.0'?>" + b"<a>" * 300_000 + b"</a>" * 300_000
    yield "wide.musicxml", b"<score-partwise>" + b"<part/>" * 1_000_000 + b"</score-partwise>"
    yield "zeroes.musicxml", b"\0" * 4_000_000
    for tempo in (0, 1, 0xFFFFFF):
        track = b"\0\xff\x51\x03" + tempo.to_bytes(3, "big") + b"\xff\xff\xff\x7f\x99\x24\x40" * 400
        head = b"MThd\0\0\0\6\0\0\0\1" + (1).to_bytes(2, "big")
        yield f"tempo-{tempo}.mid", head + b"MTrk" + len(track).to_bytes(4, "big") + track
    yield "tracks.mid", b"MThd\0\0\0\6\0\1\xff\xff\0\x60" + b"MTrk\xff\xff\xff\xff" * 50
    yield "none.mid", b"MThd\0\0\0\6\0\0\0\1\0\0MTrk\0\0\0\4\0\xff\x2f\0"
    nothing = bytes(50 * 1024**2)
    bundle = good[".zip"]
    with zipfile.ZipFile(io.BytesIO(bundle)) as archive:
        members = archive.namelist()
        score = archive.read("transcription.json")
    for name in members:
        yield f"bomb-{Path(name).suffix}.zip", _zipped({name: nothing}, bundle)
    yield "many.zip", _zipped({f"file{n}": b"x" for n in range(20_000)}, bundle)
    yield "outside.zip", _zipped({"../../../evil": b"x", "/etc/evil": b"x"}, bundle)
    yield "empty.zip", _zipped({})
    yield "half.zip", bundle[: len(bundle) // 2]
    for depth in (500, 50_000):
        nested = b"[" * depth + b"]" * depth
        yield f"deep-{depth}.zip", _zipped({"transcription.json": nested}, bundle)
    for number in ("1e999", "NaN", "-1", "1" * 5000):
        told = score.replace(b'"tempo_bpm": ', b'"tempo_bpm": %s, "was": ' % number.encode(), 1)
        yield f"number-{number[:5]}.zip", _zipped({"transcription.json": told}, bundle)
    wav = good[".wav"]
    for name, at, value in (
        ("rate", 24, b"\xff\xff\xff\xff"), ("no-rate", 24, bytes(4)),
        ("channels", 22, b"\xff\xff"), ("no-channels", 22, bytes(2)),
        ("length", 40, b"\xff\xff\xff\xff"), ("bits", 34, b"\xff\xff"),
    ):  # fmt: skip
        yield f"{name}.wav", wav[:at] + value + wav[at + len(value) :]
    for name in ("../../../evil.ogg", "..\\evil.ogg", "a\r\nX-Evil: 1.ogg", ".ogg", "con.ogg"):
        yield name.replace("\r\n", "%0d%0a"), good[".ogg"][:2000]
    yield "x" * 5000 + ".ogg", good[".ogg"][:2000]
    yield "noise.ogg", random.Random(1).randbytes(300_000)


def _damaged(good: dict[str, bytes]) -> Iterator[Upload]:
    """Good files with bytes changed, cut out, doubled or cut off, by chance, always the same."""
    rng = random.Random(22)
    kinds = list(good)
    for number in range(MUTATED):
        suffix = kinds[number % len(kinds)]
        content = bytearray(good[suffix])
        for _ in range(rng.choice((1, 1, 3, 20))):
            at = rng.randrange(max(1, len(content)))
            length = min(rng.choice((1, 4, 64, 2000)), len(content) - at)
            match rng.randrange(4):
                case 0:
                    content[at : at + length] = rng.randbytes(length)
                case 1:
                    del content[at : at + length]
                case 2:
                    content[at:at] = content[at : at + length]
                case _ if content:
                    content[at] ^= 1 << rng.randrange(8)
        if content and rng.random() < 0.2:
            del content[rng.randrange(len(content)) :]
        yield f"damaged-{number}{suffix}", bytes(content)


def _wait(person: Person) -> tuple[bool, str]:
    """Wait until nothing is listened to any more."""
    began = time.monotonic()
    states: dict[str, int] = {}
    while time.monotonic() - began < WORK_SECONDS:
        states = {}
        for one in person.get("/api/songs")[1]:
            state = one["run"]["state"] if one["run"] else "none"
            states[state] = states.get(state, 0) + 1
        if not states.keys() & {"queued", "running"}:
            return True, f"{states} ({time.monotonic() - began:.0f} s)"
        time.sleep(1.0)
    return False, str(states)


def _pages(person: Person, odd: list[str]) -> int:
    """How many of the songs that have a chart do not show it."""
    failed = 0
    for one in person.get("/api/songs")[1]:
        for path in ("score", "chart", "grooves", "practice"):
            status, body = person.get(f"/api/songs/{one['id']}/{path}")
            if status != 200 and not (status == 404 and not one["revision"]):
                failed += 1
                odd.append(f"{one['file_name']}/{path}: {status} {str(body)[:60]}")
    return failed


def _remove(stack: Stack, person: Person) -> list[str]:
    """Remove all songs; what is left of them on the disk."""
    for one in person.get("/api/songs")[1]:
        person.request("DELETE", f"/api/songs/{one['id']}")
    time.sleep(2.0)
    kept = {one["id"] for one in json.loads(stack.manage("shell", "--no-imports", "-c", IDS))}
    folders = [stack.folder / "media", stack.folder / "uploads"]
    left = [path for folder in folders for path in folder.iterdir() if path.name not in kept]
    return [path.name for path in left]


IDS = """
import json
from studio.models import Song
print(json.dumps([{'id': str(pk)} for pk in Song.objects.values_list('pk', flat=True)]))
"""

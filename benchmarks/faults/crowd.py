"""Many at once: slow clients, guesses at passwords, readers of a chart, prints."""

from __future__ import annotations

import asyncio
import contextlib
import tempfile
import threading
import time
from collections.abc import Awaitable, Callable, Iterator
from pathlib import Path

from benchmarks.faults.stack import PASSWORD, Check, Person, Stack, at_most, percentile
from benchmarks.listening import SONGS
from benchmarks.long_score import SIXTY_BARS, long_score
from orchesis.music.json import dumps

SLOW_CLIENTS = 200
READERS = 100
READ_SECONDS = 20.0
THINK_SECONDS = 1.0
PRINTS = 20
GUESSES_AT_ONCE = 16
PAGE_BOUND_MS = 500.0


async def fetch(port: int, path: str, cookies: str) -> tuple[int, int]:
    """One request as a browser would send it; status and bytes that came."""
    reader, writer = await asyncio.open_connection("127.0.0.1", port, limit=2**20)
    try:
        head = f"GET {path} HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nCookie: {cookies}\r\n"
        writer.write((head + "Accept-Encoding: gzip\r\nConnection: close\r\n\r\n").encode())
        await writer.drain()
        data = await reader.read(2**16)
        status, size = int(data[9:12] or 0), len(data)
        while piece := await reader.read(2**18):
            size += len(piece)
        return status, size
    finally:
        writer.close()


class Readers:
    """People who look at pages again and again; how long each answer took, in milliseconds."""

    def __init__(self, port: int, paths: list[str], cookies: str) -> None:
        self.port, self.paths, self.cookies = port, paths, cookies
        self.took: list[float] = []
        self.failed: list[int] = []

    def failures(self) -> str:
        """How many of all failed, and with what: a status, or 0 where no answer came."""
        kinds = ", ".join(str(status) for status in sorted(set(self.failed)))
        return f"{len(self.failed)} of {len(self.took)}" + (f" ({kinds})" if kinds else "")

    async def read(self, number: int, until: float, think: float) -> None:
        """One of them."""
        await asyncio.sleep(think * (number % 50) / 50)
        step = number
        while time.monotonic() < until:
            path = self.paths[step % len(self.paths)]
            step += 1
            began = time.monotonic()
            try:
                status, _ = await asyncio.wait_for(fetch(self.port, path, self.cookies), 30)
            except (OSError, TimeoutError, ValueError):
                status = 0
            self.took.append(1000 * (time.monotonic() - began))
            if status != 200:
                self.failed.append(status)
            await asyncio.sleep(max(0.0, think - (time.monotonic() - began)))

    async def all_read(self, count: int, seconds: float, think: float) -> None:
        """So many of them, for so long."""
        until = time.monotonic() + seconds
        await asyncio.gather(*(self.read(number, until, think) for number in range(count)))


@contextlib.contextmanager
def slow_clients(port: int, audio: str, cookies: str) -> Iterator[None]:
    """Half of them send their request letter by letter, half ask for sound and never read it."""
    loop = asyncio.new_event_loop()
    stop = asyncio.Event()

    async def half_sent() -> None:
        with contextlib.suppress(OSError):
            _, writer = await asyncio.open_connection("127.0.0.1", port)
            writer.write(
                b"POST /api/songs HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 100000\r\n"
            )
            while not stop.is_set():
                writer.write(b"X")
                await writer.drain()
                await asyncio.sleep(1.0)

    async def unread() -> None:
        with contextlib.suppress(OSError):
            _, writer = await asyncio.open_connection("127.0.0.1", port, limit=1024)
            head = f"GET {audio} HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nCookie: {cookies}\r\n\r\n"
            writer.write(head.encode())
            await writer.drain()
            await stop.wait()

    async def all_of_them() -> None:
        kinds: list[Callable[[], Awaitable[None]]] = [half_sent, unread]
        await asyncio.gather(*(kinds[number % 2]() for number in range(SLOW_CLIENTS)))

    thread = threading.Thread(target=lambda: loop.run_until_complete(all_of_them()), daemon=True)
    thread.start()
    time.sleep(2.0)
    try:
        yield
    finally:
        loop.call_soon_threadsafe(stop.set)
        thread.join(10)


def sign_up_with_long_song(stack: Stack, name: str) -> tuple[Person, str, list[str], str]:
    """A new account with a song of sixty bars whose pages are warm.

    Gives back the person, the song's API address, the addresses of four pages, and the cookies.
    """
    person = Person(stack.port)
    person.sign_up(name)
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "sixty.json"
        file.write_text(dumps(long_score(SIXTY_BARS)))
        audio = str(SONGS / "steps-to-the-market.ogg")
        song = stack.manage("store_score", name, "Sixty", str(file), "--audio", audio)
    base = f"/api/songs/{song}"
    paths = [f"/songs/{song}", f"{base}/score", f"{base}/chart", "/api/session"]
    for path in paths:
        person.get(path)
    return person, base, paths, "; ".join(f"{key}={value}" for key, value in person.cookies.items())


def measure(stack: Stack) -> list[Check]:
    """All of it."""
    person, base, paths, cookies = sign_up_with_long_song(stack, "reader")
    checks = []
    with slow_clients(stack.port, f"{base}/audio", cookies):
        readers = Readers(stack.port, paths, cookies)
        asyncio.run(readers.all_read(10, 8.0, 0.3))
    checks += _told(f"pages beside {SLOW_CLIENTS} slow clients", readers)
    checks += _guesses(stack, paths, cookies)
    readers = Readers(stack.port, paths, cookies)
    asyncio.run(readers.all_read(READERS, READ_SECONDS, THINK_SECONDS))
    checks += _told(f"{READERS} readers of page, score and chart, one a second each", readers)
    burst = Readers(stack.port, [f"{base}/chart"], cookies)
    asyncio.run(burst.all_read(READERS, 0.01, 0.0))
    checks.append(
        at_most(
            f"a cached chart asked for by {READERS} at the same moment, p95",
            percentile(burst.took, 0.95),
            2000,
            "ms",
        )
    )
    checks += _prints(stack, person, base.rpartition("/")[2], paths, cookies)
    return checks


def _told(name: str, readers: Readers) -> list[Check]:
    return [
        at_most(f"{name}, p95", percentile(readers.took, 0.95), PAGE_BOUND_MS, "ms"),
        Check(f"{name}, failed", readers.failures(), "0",
              not readers.failed),
    ]  # fmt: skip


def _guesses(stack: Stack, paths: list[str], cookies: str) -> list[Check]:
    """Sixteen guesses at once, again and again, each from an address that it only claims."""
    answers: list[int] = []

    def guess(number: int) -> None:
        stranger = Person(stack.port)
        stranger.get("/api/session")
        for turn in range(4):
            claimed = {"X-Forwarded-For": f"10.{turn}.0.{number}", "X-Real-IP": f"9.9.{turn}.9"}
            body = {"username": "reader", "password": f"guess-{number}-{turn}"}
            with contextlib.suppress(OSError):
                answers.append(stranger.post("/api/session/sign-in", body, headers=claimed)[0])

    threads = [threading.Thread(target=guess, args=(n,)) for n in range(GUESSES_AT_ONCE)]
    readers = Readers(stack.port, paths, cookies)
    for thread in threads:
        thread.start()
    asyncio.run(readers.all_read(10, 10.0, 0.2))
    for thread in threads:
        thread.join(60)
    looked_at = sum(status in (200, 403) for status in answers)
    owner = Person(stack.port)
    owner.cookies = dict(part.split("=", 1) for part in cookies.split("; "))
    known = owner.post("/api/session/sign-in", {"username": "reader", "password": PASSWORD})[0]
    return [
        *_told(f"pages beside {GUESSES_AT_ONCE} guesses at once", readers),
        at_most(
            f"guesses at one account that were looked at, of {len(answers)}", looked_at, 10, ""
        ),
        Check("its owner still gets in from a known browser", str(known), "200", known == 200),
    ]


def _prints(stack: Stack, person: Person, song: str, paths: list[str], cookies: str) -> list[Check]:
    """Twenty prints asked for at once, and the pages meanwhile."""
    began = time.monotonic()
    done: list[float] = []
    titles = iter(range(PRINTS))

    def printed(number: int) -> None:
        name = ("chart.pdf", "chart-letter.pdf")[number % 2]
        while time.monotonic() - began < 60:
            status, _ = person.get(f"/api/songs/{song}/files/{name}")
            if status == 200:
                done.append(time.monotonic() - began)
                return
            time.sleep(0.5)

    threads = [threading.Thread(target=printed, args=(number,)) for number in titles]
    for thread in threads:
        thread.start()
    readers = Readers(stack.port, paths, cookies)
    asyncio.run(readers.all_read(20, 6.0, 0.5))
    for thread in threads:
        thread.join(70)
    return [
        *_told(f"pages beside {PRINTS} prints", readers),
        at_most(f"{PRINTS} people have their print, p95", percentile(done, 0.95), 15, "s"),
        Check("prints that were had", f"{len(done)}", f"{PRINTS}", len(done) == PRINTS),
    ]

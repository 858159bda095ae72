"""Running the programs ffmpeg and ffprobe as limited child processes."""

from __future__ import annotations

import shutil
import subprocess
import threading
from collections.abc import Callable, Sequence
from pathlib import Path

from orchesis.errors import Cancelled, OrchesisError

CPU_SECONDS = 120
"""More than the longest permitted file needs on a slow core."""

MEMORY_BYTES = 3 * 1024**3
POLL_SECONDS = 0.2

INPUT_FORMATS = "wav,w64,aiff,flac,ogg,mp3,mov,aac"
"""The containers that are read. A playlist or a picture is none of them, whatever its name."""


class ProgramFailed(Exception):
    """The child ended with an error; the text is the last line that it said.

    complaints : the last lines that it said, in order.
    """

    def __init__(self, text: str, complaints: Sequence[str] = ()) -> None:
        super().__init__(text)
        self.complaints = tuple(complaints)


def limited(cpu_seconds: int = CPU_SECONDS, memory_bytes: int = MEMORY_BYTES) -> list[str]:
    """How a command begins that gets no more than this (prlimit, from util-linux)."""
    return ["prlimit", f"--cpu={cpu_seconds}", f"--as={memory_bytes}", "--"]


def input_options(path: Path) -> list[str]:
    """The options with which any file from outside is opened: local files, known containers."""
    return [
        "-protocol_whitelist",
        "file,pipe",
        "-format_whitelist",
        INPUT_FORMATS,
        "-i",
        f"file:{path}",
    ]


def run_limited(
    command: list[str],
    *,
    most_bytes: int,
    timeout: float,
    cancelled: Callable[[], bool] = lambda: False,
    warnings: list[str] | None = None,
    cpu_seconds: int = CPU_SECONDS,
    memory_bytes: int = MEMORY_BYTES,
) -> bytes:
    """Run a program and return what it wrote to its standard output.

    Parameters
    ----------
    most_bytes : output beyond this many bytes ends the child and raises ProgramFailed.
    timeout : seconds until the child is ended.
    cancelled : asked several times a second; True ends the child and raises Cancelled.
    cpu_seconds, memory_bytes : what the child may take.
    warnings : gets the last lines that the program complained in.
    """
    if shutil.which(command[0]) is None:
        raise OrchesisError(
            f"the program {command[0]} is missing: install the Debian package ffmpeg"
        )
    child = subprocess.Popen(
        [*limited(cpu_seconds, memory_bytes), *command],
        stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
    )
    chunks: list[bytes] = []
    complaints: list[bytes] = []
    too_much = threading.Event()

    def read() -> None:
        assert child.stdout is not None
        size = 0
        while chunk := child.stdout.read(1 << 20):
            size += len(chunk)
            if size > most_bytes:
                too_much.set()
                child.kill()
                return
            chunks.append(chunk)

    def listen() -> None:
        assert child.stderr is not None
        for text in child.stderr:
            complaints.append(text)
            del complaints[:-5]

    readers = [threading.Thread(target=read), threading.Thread(target=listen)]
    for reader in readers:
        reader.start()
    waited = 0.0
    try:
        while True:
            try:
                child.wait(POLL_SECONDS)
                break
            except subprocess.TimeoutExpired:
                waited += POLL_SECONDS
                if cancelled():
                    raise Cancelled("stopped") from None
                if waited > timeout:
                    raise ProgramFailed(f"took longer than {timeout:.0f} s") from None
    finally:
        if child.poll() is None:
            child.kill()
            child.wait()
        for reader in readers:
            reader.join()
    if too_much.is_set():
        raise ProgramFailed("holds more audio than is permitted")
    lines = [text.decode(errors="replace").strip() for text in complaints]
    if child.returncode != 0:
        last = lines[-1] if lines else ""
        raise ProgramFailed(last or f"ended with code {child.returncode}", lines)
    if warnings is not None:
        warnings += lines
    return b"".join(chunks)

"""Files of other programs, read in a child process that may take only so much of the machine.

A file that is made to harm can keep any reader busy for as long as its writer likes. Here the
child is ended when it has had its share, and the file is refused with a sentence.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

from orchesis.audio.programs import ProgramFailed, run_limited
from orchesis.errors import Missing
from orchesis.exchange.bundle import Bundle, read_bundle
from orchesis.exchange.imported import Imported, Refused
from orchesis.exchange.read import read_part
from orchesis.music.json import dumps, loads

PART, BUNDLE = "part", "bundle"
CPU_SECONDS = 20
"""The longest scores take three."""

MEMORY_BYTES = 2 * 1024**3
WALL_SECONDS = 120.0
MOST_ANSWER_BYTES = 120_000_000
TOO_MUCH = "This file takes more work to read than that of any song: nothing of it was taken."


def read_part_sandboxed(path: Path, name: str) -> Imported:
    """The drum part of a file.

    Parameters
    ----------
    name : what the file is called where it comes from; its ending says of which kind it is.

    Raises
    ------
    Refused : it is none, or takes too much to read.
    """
    answer = _asked(PART, path=str(path), name=name)
    return Imported(loads(answer["song"]), tuple(answer["remarks"]))


def read_bundle_sandboxed(path: Path, recording_to: Path | None = None) -> Bundle:
    """What a bundle holds; its recording is written as `read_bundle` does. Raises Refused."""
    answer = _asked(BUNDLE, path=str(path), name=str(recording_to or ""))
    return Bundle(
        loads(answer["song"]), answer["decisions"], answer["log"], str(answer["recording"])
    )


def _asked(kind: str, *, path: str, name: str) -> dict[str, Any]:
    command = [sys.executable, "-m", "orchesis.exchange.sandbox", kind, path, name]
    try:
        body = run_limited(
            command,
            most_bytes=MOST_ANSWER_BYTES,
            timeout=WALL_SECONDS,
            cpu_seconds=CPU_SECONDS,
            memory_bytes=MEMORY_BYTES,
        )
        answer: dict[str, Any] = json.loads(body)
    except (ProgramFailed, ValueError) as error:
        raise Refused(TOO_MUCH) from error
    if "refused" in answer:
        raise Refused(answer["refused"])
    return answer


def run_in_child(kind: str, *, path: str, name: str) -> dict[str, Any]:
    """What the child does: read, and say what it found or why it refuses."""
    try:
        if kind == PART:
            part = read_part(Path(path).read_bytes(), name)
            return {"song": dumps(part.song), "remarks": list(part.remarks)}
        if kind == BUNDLE:
            with Path(path).open("rb") as file:
                bundle = read_bundle(file, Path(name) if name else None)
            return {
                "song": dumps(bundle.song),
                "decisions": bundle.decisions,
                "log": bundle.log,
                "recording": bundle.recording,
            }
    except Refused as error:
        return {"refused": str(error)}
    except (MemoryError, RecursionError):
        return {"refused": TOO_MUCH}
    raise Missing(f"there is no reader for {kind}")


if __name__ == "__main__":
    _, asked_kind, asked_path, asked_name = sys.argv
    sys.stdout.write(json.dumps(run_in_child(asked_kind, path=asked_path, name=asked_name)))

"""Where things are, and the environment that the children get."""

from __future__ import annotations

import hashlib
import os
import zlib
from collections.abc import Iterable
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
RUN = Path(os.environ.get("ORCHESIS_RUN", ROOT / ".run")).absolute()
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
FRONTEND = ROOT / "frontend"
LOGS = RUN / "logs"
MEDIA = Path(os.environ.get("ORCHESIS_MEDIA", RUN / "media")).absolute()
STAMPS = ROOT / ".run" / "stamps"
"""What is installed belongs to the checkout, whatever run folder is used."""


LONGEST_SOCKET_PATH = 100
"""A socket's path has at most some 107 bytes."""


def short_path(name: str) -> Path:
    """Where a socket of ours goes: in the run folder, unless its path is too long there."""
    path = RUN / name
    if len(str(path)) > LONGEST_SOCKET_PATH:
        short = Path("/tmp") / f"orchesis-{os.getuid()}-{zlib.crc32(str(RUN).encode()):08x}"
        short.mkdir(mode=0o700, exist_ok=True)
        return short / path.name
    return path


class StepFailed(Exception):
    """A step of the set-up or the start failed; the text says what to do."""


def say(text: str) -> None:
    """One line of progress."""
    print(f"  {text}", flush=True)


def digest(paths: Iterable[Path]) -> str:
    """A hash over the contents of files, folders included with all that is in them."""
    total = hashlib.sha256()
    for path in paths:
        members = sorted(path.rglob("*")) if path.is_dir() else [path]
        for member in members:
            if member.is_file():
                total.update(str(member.relative_to(ROOT)).encode())
                total.update(member.read_bytes())
    return total.hexdigest()


def is_done(name: str, state: str) -> bool:
    """True when the step was finished for just this state of its inputs."""
    stamp = STAMPS / name
    return stamp.exists() and stamp.read_text() == state


def mark_done(name: str, state: str) -> None:
    """Remember that a step is finished."""
    STAMPS.mkdir(parents=True, exist_ok=True)
    (STAMPS / name).write_text(state)


def python_environment(**more: str) -> dict[str, str]:
    """The environment of our own Python programs."""
    environment = {
        **os.environ,
        "PYTHONPATH": f"{ROOT}:{ROOT / 'src'}",
        "PYTHONUNBUFFERED": "1",
        "ORCHESIS_RUN": str(RUN),
        "DJANGO_SETTINGS_MODULE": "studio.settings",
        # The sums here are small: more threads than cores only get in each other's way.
        "OMP_NUM_THREADS": os.environ.get("OMP_NUM_THREADS", "2"),
        **more,
    }
    environment.pop("PYTHONHOME", None)
    return environment

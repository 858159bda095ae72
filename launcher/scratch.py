"""A whole Orchesis of its own in a scratch folder: for browser tests, benchmarks and pictures."""

from __future__ import annotations

import contextlib
import json
import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from launcher.places import ROOT
from launcher.running import STEPS_BACK
from launcher.services import Ports, any_free, service_environment

STOP_SECONDS = 40


@dataclass(frozen=True)
class Scratch:
    """A running application: its address, its folder, and the supervisor's process number."""

    address: str
    folder: Path
    pid: int

    def manage(self, *arguments: str) -> str:
        """Run one of Django's commands on its database; gives back what it said."""
        command = [sys.executable, str(ROOT / "studio" / "manage.py"), *arguments]
        done = subprocess.run(
            command, env=self._environment(), cwd=ROOT, check=False, capture_output=True, text=True
        )
        if done.returncode != 0:
            raise RuntimeError(f"'{arguments[0]}' failed: {done.stderr[-1500:]}")
        return done.stdout.strip()

    @contextlib.contextmanager
    def talk(self, *arguments: str) -> Iterator[subprocess.Popen[str]]:
        """One of Django's commands that goes on, to be written to and read from line by line."""
        command = [sys.executable, str(ROOT / "studio" / "manage.py"), *arguments]
        child = subprocess.Popen(
            command,
            env=self._environment(),
            cwd=ROOT,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
        )
        try:
            yield child
        finally:
            child.kill()
            child.communicate()

    def _environment(self) -> dict[str, str]:
        ports = Ports(**json.loads((self.folder / "ports.json").read_text()))
        return {**service_environment(ports, demo=False), "ORCHESIS_RUN": str(self.folder)}


@contextlib.contextmanager
def scratch_application(*, demo: bool, folder: Path | None = None) -> Iterator[Scratch]:
    """Start an application with nothing in it (or the demo songs), and remove it afterwards.

    folder : a run folder that there is already, for one with something in it.
    """
    folder = folder or Path(tempfile.mkdtemp(prefix="orchesis-scratch-"))
    # Beside tests and a browser a worker that stands back behind everything would hardly get on.
    own = {"ORCHESIS_RUN": str(folder), "PYTHONUNBUFFERED": "1", STEPS_BACK: "no"}
    environment = {**os.environ, **own}
    command = [sys.executable, str(ROOT / "orchesis"), "demo" if demo else "start"]
    command += ["--port", str(any_free())]
    child = subprocess.Popen(
        command,
        env=environment,
        cwd=ROOT,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
    )
    try:
        yield Scratch(_address(child, folder), folder, child.pid)
    finally:
        child.send_signal(signal.SIGTERM)
        try:
            child.communicate(timeout=STOP_SECONDS)
        except subprocess.TimeoutExpired:
            child.kill()
            child.communicate()
        shutil.rmtree(folder, ignore_errors=True)


def _address(child: subprocess.Popen[str], folder: Path) -> str:
    assert child.stdout is not None
    said = []
    for text in child.stdout:
        said.append(text)
        if found := re.search(r"Orchesis is at (http://\S+)", text):
            return found[1]
    logs = [path.read_text()[-1500:] for path in sorted((folder / "logs").glob("*.log"))]
    raise RuntimeError("the application did not start:\n" + "".join(said) + "\n".join(logs))

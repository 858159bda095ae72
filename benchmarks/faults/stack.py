"""An application that may be killed and started again, and the people who use it over HTTP."""

from __future__ import annotations

import contextlib
import http.client
import json
import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import uuid
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from launcher.places import ROOT
from launcher.services import Ports, any_free, service_environment
from launcher.supervisor import noted_children, started_at

START_SECONDS = 120.0
PASSWORD = "four-on-the-floor-9"


@dataclass
class Stack:
    """A whole application below a folder of its own, on a port that it keeps."""

    folder: Path
    port: int = field(default_factory=any_free)
    environment: dict[str, str] = field(default_factory=dict)
    process: subprocess.Popen[str] | None = None
    roles: str = ""
    before: list[str] = field(default_factory=list)
    """What its command is put behind, such as one that gives it a network of its own."""

    def start(self) -> float:
        """Start it and wait until it says where it is; gives back the seconds that took."""
        began = time.monotonic()
        command = [*self.before, sys.executable, str(ROOT / "orchesis"), "start"]
        command += ["--port", str(self.port)]
        command += ["--roles", self.roles] if self.roles else []
        self.process = subprocess.Popen(
            command,
            env={
                **os.environ,
                "ORCHESIS_RUN": str(self.folder),
                "PYTHONUNBUFFERED": "1",
                **self.environment,
            },
            cwd=ROOT,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
        )
        assert self.process.stdout is not None
        said = []
        for line in self.process.stdout:
            said.append(line)
            if re.search(r"Orchesis (is at http://|works here)", line):
                # What it says from now on goes nowhere, and must not fill the pipe.
                subprocess.Popen(["cat"], stdin=self.process.stdout, stdout=subprocess.DEVNULL)
                return time.monotonic() - began
        raise RuntimeError("the application did not start:\n" + "".join(said))

    def kill_launcher(self) -> None:
        """Kill the supervisor; the kernel tells its children."""
        assert self.process is not None
        self.process.kill()
        self.process.wait()

    def stop(self) -> None:
        """Stop it as Ctrl-C would."""
        if self.process is not None and self.process.poll() is None:
            self.process.send_signal(signal.SIGTERM)
            with contextlib.suppress(subprocess.TimeoutExpired):
                self.process.wait(60)
            if self.process.poll() is None:
                self.process.kill()

    def pid_of(self, name: str) -> int | None:
        """The process of one of its parts, if it runs."""
        noted = noted_children(self.folder / "children.json")
        if name not in noted:
            return None
        pid, begun = noted[name]
        return pid if started_at(pid) == begun else None

    def workers_of(self, name: str) -> list[int]:
        """The processes that one of its parts has started."""
        parent = self.pid_of(name)
        if parent is None:
            return []
        found = subprocess.run(
            ["pgrep", "-P", str(parent)], capture_output=True, text=True, check=False
        )
        return [int(pid) for pid in found.stdout.split()]

    def manage(self, *arguments: str) -> str:
        """Run one of Django's commands on its database; gives back what it said."""
        ports = Ports(**json.loads((self.folder / "ports.json").read_text()))
        environment = {
            **service_environment(ports, demo=False),
            "ORCHESIS_RUN": str(self.folder),
            "ORCHESIS_REDIS_SOCKET": str(self.folder / "redis.sock"),
            **self.environment,
        }
        command = [sys.executable, str(ROOT / "studio" / "manage.py"), *arguments]
        return subprocess.run(
            command, env=environment, cwd=ROOT, check=True, capture_output=True, text=True
        ).stdout.strip()

    def wait_until_it_answers(self, seconds: float = 60.0) -> float:
        """Wait until a page's data come again; gives back how long that took."""
        began = time.monotonic()
        while time.monotonic() - began < seconds:
            with contextlib.suppress(OSError, http.client.HTTPException):
                if Person(self.port).get("/api/session", timeout=2.0)[0] == 200:
                    return time.monotonic() - began
            time.sleep(0.05)
        raise RuntimeError(f"nothing answers after {seconds:.0f} s")


@contextlib.contextmanager
def running(folder: Path | None = None, **environment: str) -> Any:
    """A started application, removed afterwards."""
    place = folder or Path(tempfile.mkdtemp(prefix="orchesis-faults-"))
    stack = Stack(place, environment=environment)
    try:
        stack.start()
        yield stack
    finally:
        stack.stop()
        if folder is None:
            shutil.rmtree(place, ignore_errors=True)


Answer = tuple[int, Any]
"""Status and body: JSON where it is JSON, else bytes."""


@dataclass
class Person:
    """Somebody with a browser's cookies."""

    port: int
    cookies: dict[str, str] = field(default_factory=dict)

    def request(
        self,
        method: str,
        path: str,
        body: bytes | None = None,
        headers: dict[str, str] | None = None,
        timeout: float = 60.0,
    ) -> Answer:
        """One request; raises OSError or HTTPException where none answers."""
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=timeout)
        sent = {"Cookie": "; ".join(f"{k}={v}" for k, v in self.cookies.items())}
        if method != "GET":
            sent["X-CSRFToken"] = self.cookies.get("csrftoken", "")
        try:
            connection.request(method, path, body, {**sent, **(headers or {})})
            answer = connection.getresponse()
            data = answer.read()
            for name, value in answer.getheaders():
                if name.lower() == "set-cookie":
                    key, _, rest = value.partition("=")
                    self.cookies[key] = rest.partition(";")[0]
            kind = answer.getheader("Content-Type") or ""
            # The proxy tells of a range that is not there under the type of the file.
            is_json = "json" in kind or data.startswith(b'{"code"')
            return answer.status, json.loads(data) if is_json and data else data
        finally:
            connection.close()

    def get(self, path: str, **options: Any) -> Answer:
        """Ask."""
        return self.request("GET", path, **options)

    def post(self, path: str, body: Any = None, **options: Any) -> Answer:
        """Send JSON."""
        data = json.dumps(body if body is not None else {}).encode()
        headers = {"Content-Type": "application/json", **options.pop("headers", {})}
        return self.request("POST", path, data, headers=headers, **options)

    def upload(self, path: str, name: str, content: bytes, **options: Any) -> Answer:
        """Send a file."""
        border = uuid.uuid4().hex
        head = f'--{border}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n'
        data = head.encode() + b"Content-Type: audio/wav\r\n\r\n" + content
        data += f"\r\n--{border}--\r\n".encode()
        headers = {"Content-Type": f"multipart/form-data; boundary={border}"}
        return self.request("POST", path, data, headers=headers, **options)

    def sign_up(self, name: str) -> None:
        """Make an account and be signed in to it."""
        self.get("/api/session")
        status, body = self.post("/api/session/sign-up", {"username": name, "password": PASSWORD})
        if status != 200:
            raise RuntimeError(f"{name} could not be made: {status} {body}")


@dataclass(frozen=True)
class Check:
    """One line of the table: what was measured, the bound, and whether it holds."""

    name: str
    value: str
    bound: str
    holds: bool


def at_most(name: str, value: float, bound: float, unit: str) -> Check:
    """A check that a value is not beyond its bound."""
    digits = 0 if unit in ("", "ms", "MB") else 1
    return Check(name, f"{value:.{digits}f} {unit}", f"{bound:g} {unit}", value <= bound)


def percentile(values: list[float], share: float) -> float:
    """The value that `share` of the values do not exceed; infinite without any."""
    if not values:
        return float("inf")
    return sorted(values)[min(len(values) - 1, round(share * (len(values) - 1)))]

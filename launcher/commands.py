"""The commands of ./orchesis."""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from launcher import audit, backing_up, running, services, setup
from launcher.places import FRONTEND, PYTHON, ROOT, StepFailed, python_environment, say
from launcher.supervisor import CHILDREN, Supervisor, end_leftovers


def main(arguments: list[str]) -> int:
    """Run one command; returns its exit code."""
    options, rest = _parser().parse_known_args(arguments)
    if rest and options.command != "test":
        _parser().error(f"unknown arguments: {' '.join(rest)}")
    try:
        match options.command:
            case "demo" | "start":
                return running.serve(
                    demo=options.command == "demo",
                    port=options.port,
                    backups=options.backups,
                    roles=options.roles,
                )
            case "transcribe":
                return transcribe(options.songs, options.out)
            case "check":
                return check()
            case "test":
                return test(rest, quick=options.quick)
            case "bench":
                return bench(options.what, as_json=options.json)
            case "backup":
                return backing_up.back_up(options.to, daily=options.daily)
            case "restore":
                return backing_up.restore(options.backup)
            case "audit":
                setup.ensure("dev")
                return audit.audit()
            case "tidy":
                return running.on_the_running("tidy")
            case "admin":
                return running.on_the_running("make_admin", options.name)
            case _:
                return in_dev("docs.take_screenshots")
    except StepFailed as error:
        return running.explain(error)
    except KeyboardInterrupt:
        print("\norchesis: stopped", file=sys.stderr)
        return 130


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="./orchesis", description="Drum parts off records.")
    commands = parser.add_subparsers(dest="command", required=True)
    for name, text in (
        ("demo", "set up, load the demo songs, start, and say where"),
        ("start", "the same without demo songs"),
    ):
        command = commands.add_parser(name, help=text)
        command.add_argument("--port", type=int, help="the web server's port on loopback")
        command.add_argument(
            "--roles", type=_roles, default=running.ROLES, help="of several hosts: web,listen,..."
        )
        command.add_argument("--backups", type=Path, help="back up into this folder each day")
    command = commands.add_parser("transcribe", help="write the drum part of recordings as files")
    command.add_argument("songs", nargs="+", metavar="SONG")
    command.add_argument("--out", required=True, metavar="DIR")
    command = commands.add_parser("test", help="every check and test; options go to pytest")
    command.add_argument("--quick", action="store_true", help="checks, front end, core: 2 minutes")
    commands.add_parser("check", help="formatting, lint, types, import rules, generated types")
    commands.add_parser("audit", help="installed versions against lock files and known faults")
    command = commands.add_parser("backup", help="copy database and files, while people work")
    command.add_argument("--to", type=Path, help="the folder of backups (.run/backups)")
    command.add_argument("--daily", action="store_true", help="now and each day from now on")
    command = commands.add_parser("restore", help="put a backup into an empty installation")
    command.add_argument("backup", type=Path, help="its folder")
    commands.add_parser("tidy", help="remove what kills and removed songs left behind")
    command = commands.add_parser("admin", help="let somebody administer this server")
    command.add_argument("name", help="of the account; it is made where there is none")
    command = commands.add_parser("bench", help="measure listening and the server; or: faults")
    command.add_argument("what", nargs="?", choices=("all", "faults"), default="all")
    command.add_argument("--json", action="store_true", help="print the figures as JSON")
    commands.add_parser("screenshots", help="write the pictures in docs/screenshots/ afresh")
    return parser


def _roles(text: str) -> tuple[str, ...]:
    found = tuple(text.split(","))
    if strange := [role for role in found if role not in running.ROLES]:
        raise argparse.ArgumentTypeError(f"no role {strange[0]!r}: {','.join(running.ROLES)}")
    return found


def transcribe(songs: list[str], out: str) -> int:
    """The main job: needs the core's packages only."""
    setup.ensure("core")
    command = [str(PYTHON), "-m", "orchesis.cli", "transcribe", "--out", out, *songs]
    return subprocess.run(command, env=python_environment(), check=False).returncode


def in_dev(module: str, *arguments: str) -> int:
    """Run a module of ours with everything installed."""
    setup.ensure("dev")
    command = [str(PYTHON), "-m", module, *arguments]
    return subprocess.run(command, env=python_environment(), cwd=ROOT, check=False).returncode


def bench(what: str, *, as_json: bool) -> int:
    """Measure: everything, or how the program takes faults."""
    module = "benchmarks.faults" if what == "faults" else "benchmarks.run"
    return in_dev(module, *(["--json"] if as_json else []))


def _checks() -> dict[str, tuple[list[str], Path]]:
    bin_folder = PYTHON.parent
    node = os.pathsep.join([setup.node_folder(), os.environ.get("PATH", "")])
    env = ["env", f"PATH={node}"]
    return {
        "formatting (ruff)": ([str(bin_folder / "ruff"), "format", "--check", "."], ROOT),
        "lint (ruff)": ([str(bin_folder / "ruff"), "check", "."], ROOT),
        "types (mypy)": ([str(bin_folder / "mypy")], ROOT),
        "import rules (import-linter)": ([str(bin_folder / "lint-imports")], ROOT),
        "generated API types": ([*env, str(PYTHON), "-m", "studio.api_types", "--check"], ROOT),
        "lint (oxlint)": ([*env, "npx", "--no-install", "oxlint", "src", "tests"], FRONTEND),
        "types (vue-tsc)": ([*env, "npm", "run", "--silent", "typecheck"], FRONTEND),
    }


def check() -> int:
    """All checks that run nothing; each says whether it passed."""
    setup.ensure("dev")
    return 0 if all(_side_by_side(_checks()).values()) else 1


def _side_by_side(works: dict[str, tuple[list[str], Path]]) -> dict[str, bool]:
    """Run them two at a time: each keeps a core busy at most."""
    with ThreadPoolExecutor(max_workers=2) as pool:
        results = list(pool.map(lambda name: _quietly(name, *works[name]), works))
    return dict(zip(works, results, strict=True))


def _quietly(name: str, command: list[str], folder: Path) -> bool:
    began = time.monotonic()
    done = subprocess.run(
        command,
        cwd=folder,
        env=python_environment(),
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        check=False,
    )
    word = "passed" if done.returncode == 0 else "FAILED"
    say(f"{name}: {word} ({time.monotonic() - began:.1f} s)")
    if done.returncode != 0:
        print(done.stdout[-6000:], flush=True)
    return done.returncode == 0


WITHOUT_DJANGO = [
    "-W",
    "ignore::pytest.PytestConfigWarning",
    "-p",
    "no:django",
    "-o",
    "addopts=-q -n 2 -p no:cacheprovider",
]
QUICK = ["tests/core", *WITHOUT_DJANGO, "-m", "not slow"]
"""What needs no database, no server and no browser."""


def test(pytest_options: list[str], *, quick: bool = False) -> int:
    """Checks, the front end's tests, and pytest with a database of its own; or only the core."""
    print("Orchesis: checks and tests", flush=True)
    setup.ensure("dev")
    node = os.pathsep.join([setup.node_folder(), os.environ.get("PATH", "")])
    vitest = ["env", f"PATH={node}", "npm", "run", "--silent", "test"]
    results = _side_by_side({**_checks(), "front end (vitest)": (vitest, FRONTEND)})
    if quick:
        results["pytest, the core"] = _pytest([*QUICK, *pytest_options], {})
    else:
        results["pytest"] = with_services(lambda extra: _pytest(pytest_options, extra))
    print("\nWhat ran:")
    for name, passed in results.items():
        say(f"{name}: {'passed' if passed else 'FAILED'}")
    failed = [name for name, passed in results.items() if not passed]
    print("\nAll passed." if not failed else f"\nFailed: {', '.join(failed)}", flush=True)
    return 1 if failed else 0


def _pytest(options: list[str], extra: dict[str, str]) -> bool:
    environment = python_environment(**extra, DJANGO_SETTINGS_MODULE="studio.test_settings")
    command = [str(PYTHON), "-m", "pytest", *options]
    return subprocess.run(command, cwd=ROOT, env=environment, check=False).returncode == 0


def with_services(work: Callable[[dict[str, str]], bool]) -> bool:
    """Run `work` while a database and a queue are up; it gets the environment that names them."""
    with running.only_one():
        end_leftovers(CHILDREN)
        supervisor = Supervisor(CHILDREN)
        ports = services.choose_ports()
        try:
            services.start_database(supervisor, ports)
            services.start_redis(supervisor)
            return work(ports.environment())
        finally:
            supervisor.stop()

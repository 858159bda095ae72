"""`./orchesis audit`: what is installed against what is locked, and against known faults.

The advisories of the registries cannot be asked where only packages can be had. What can be done
there: nothing that runs is another version than the lock files say, and no version is in the newest
list of faulty ones that comes as a package. How old that list is, is said.
"""

from __future__ import annotations

import json
import re
import subprocess
import tempfile
import zipfile
from pathlib import Path
from typing import Any

from launcher.places import FRONTEND, PYTHON, ROOT, say

LIST = "safety-db"
"""A list of faulty versions, as a package; read in a folder that goes again, never installed."""

PINNED = re.compile(r"^([A-Za-z0-9._-]+)(?:\[[^]]*\])?==([^\s;\\]+)", re.M)


def audit() -> int:
    """Look, and say what was found; 1 where something is not as it should be."""
    python, node = python_packages(), node_packages()
    faults = drift("Python", locked_python(), python)
    faults += drift("npm", locked_node(), node)
    say(f"{len(python)} Python and {len(node)} npm packages are installed")
    age, listed = known_faults(python)
    say(f"list of faulty versions: {age}" if age else "no list of faulty versions could be had")
    for line in [*faults, *listed]:
        say(line)
    if not faults and not listed:
        say("all of them are as locked, and none is listed as faulty")
    return 1 if faults or listed else 0


def plain(name: str) -> str:
    """A package's name as registries compare it."""
    return re.sub(r"[-_.]+", "-", name).lower()


def python_packages() -> dict[str, str]:
    """What is installed, by name."""
    command = [str(PYTHON), "-m", "pip", "list", "--format", "json", "--disable-pip-version-check"]
    done = subprocess.run(command, capture_output=True, text=True, check=True)
    return {plain(one["name"]): one["version"] for one in json.loads(done.stdout)}


def locked_python() -> dict[str, str]:
    """What the lock files of Python say, by name."""
    files = [ROOT / "requirements" / f"{name}.txt" for name in ("tools", "dev")]
    found = [PINNED.findall(path.read_text()) for path in files]
    return {plain(name): version for pins in found for name, version in pins}


def node_packages() -> dict[str, str]:
    """What lies in the front end's folder, by path."""
    folder = FRONTEND / "node_modules"
    found = {}
    for path in locked_node():
        manifest = folder.parent / path / "package.json"
        if manifest.exists():
            found[path] = str(json.loads(manifest.read_text()).get("version", ""))
    return found


def locked_node() -> dict[str, str]:
    """What the lock file of npm says, by path."""
    lock: dict[str, Any] = json.loads((FRONTEND / "package-lock.json").read_text())
    return {path: one["version"] for path, one in lock["packages"].items() if path}


def drift(kind: str, locked: dict[str, str], installed: dict[str, str]) -> list[str]:
    """What is installed in another version than is locked, in sentences."""
    return [
        f"{kind}: {name} is {installed[name]}, and {version} is locked"
        for name, version in sorted(locked.items())
        if name in installed and installed[name] != version
    ]


def known_faults(installed: dict[str, str]) -> tuple[str, list[str]]:
    """How old the list is, and what of it is installed; empty where it cannot be had."""
    with tempfile.TemporaryDirectory() as folder:
        command = [str(PYTHON), "-m", "pip", "download", "--quiet", "--no-deps", "-d", folder, LIST]
        done = subprocess.run(command, capture_output=True, check=False)
        wheels = list(Path(folder).glob("*.whl"))
        if done.returncode or not wheels:
            return "", []
        with zipfile.ZipFile(wheels[0]) as archive:
            name = next(one for one in archive.namelist() if one.endswith("insecure.json"))
            listed: dict[str, Any] = json.loads(archive.read(name))
        age = f"{LIST} {wheels[0].name.split('-')[1]}"
    specs = {plain(name): ranges for name, ranges in listed.items() if isinstance(ranges, list)}
    return age, [
        f"{name} {version} is listed as faulty ({', '.join(specs[name])})"
        for name, version in sorted(installed.items())
        if name in specs and is_listed(version, specs[name])
    ]


def is_listed(version: str, ranges: list[str]) -> bool:
    """Whether a version is within one of some ranges (as `<2.0,>=1.0`)."""
    code = (
        "import json,sys\n"
        "from packaging.specifiers import SpecifierSet\n"
        "version, ranges = json.load(sys.stdin)\n"
        "print(int(any(SpecifierSet(r).contains(version, prereleases=True) for r in ranges)))\n"
    )
    done = subprocess.run(
        [str(PYTHON), "-c", code],
        input=json.dumps([version, ranges]),
        capture_output=True,
        text=True,
        check=True,
    )
    return done.stdout.strip() == "1"

"""Backup and restore: the database and the files of one moment, while people work.

A backup is a folder: `database.sql.gz`, `files/` (recordings, what was heard, never caches),
`secrets/` and `manifest.json`, which names every file with its size and hash. Files are written
whole or not at all (`studio/storage.py`), so a hard link keeps what was there: they are linked
before the database is read and once more after, and of each the one that was there at that moment
is taken. What the backup before has already is linked to it and takes no room again.

A restore goes into an empty installation only. It compares every file with its hash, and the whole
database, read out again, with what was read in, before this version's migrations are applied.
"""

from __future__ import annotations

import contextlib
import gzip
import hashlib
import json
import os
import shutil
import subprocess
import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from launcher.places import RUN, StepFailed, say
from launcher.services import program

NAME = "backup-%Y-%m-%dT%H-%M-%SZ"
UNFINISHED = ".unfinished"
MANIFEST, DATABASE, FILES, SECRETS = "manifest.json", "database.sql.gz", "files", "secrets"
FORMAT = 1
CACHES = frozenset({"shown", "prints", "mixes"})
"""Folders of a song whose files can all be worked out again."""

LINKS = ".links"
KEPT_SECRETS = ("django",)
DAYS, WEEKS, MONTHS = 7, 4, 12
"""One backup is kept of each of so many days, weeks and months; of today all."""

READ_AT_ONCE = 1024 * 1024


@dataclass(frozen=True)
class Connection:
    """How the database is reached. Its password goes by the environment, never by arguments."""

    host: str
    port: int
    user: str
    password: str
    name: str

    def command(self, tool: str, *more: str) -> list[str]:
        """A client of the database's, as its account."""
        where = [f"--host={self.host}", f"--port={self.port}", f"--user={self.user}"]
        return [program(tool), "--no-defaults", *where, *more]

    @property
    def environment(self) -> dict[str, str]:
        """With the password."""
        return {**os.environ, "MYSQL_PWD": self.password}


def back_up(connection: Connection, media: Path, to: Path, version: str) -> Path:
    """Make a backup in a folder of its own below `to`; gives back which.

    Raises StepFailed: nothing is left behind then, and older backups are untouched.
    """
    to.mkdir(mode=0o700, parents=True, exist_ok=True)
    before = newest(to)
    # They are named by the second.
    while (place := to / time.strftime(NAME, time.gmtime())).exists():
        time.sleep(0.1)
    making = place.with_name(place.name + UNFINISHED)
    # On the disk of the files themselves; what a kill left there goes first.
    links = media / LINKS
    shutil.rmtree(links, ignore_errors=True)
    try:
        making.mkdir(mode=0o700)
        early, late = links / "early", links / "late"
        _link_all(media, early)
        began = time.time()
        digest = _dump(connection, making / DATABASE)
        _link_all(media, late)
        known = _known_files(before)
        files = {
            name: _take(path, making, name, before, known.get(name))
            for name, path in _of_that_moment(early, late, began)
        }
        _keep_secrets(making / SECRETS)
        manifest = {
            "format": FORMAT,
            "version": version,
            "made_at": datetime.fromtimestamp(began, UTC).isoformat(),
            "database": digest,
            "files": files,
        }
        (making / MANIFEST).write_text(json.dumps(manifest, indent=1))
        making.rename(place)
    except OSError as error:
        raise StepFailed(f"the backup could not be written: {error.strerror}") from error
    finally:
        shutil.rmtree(links, ignore_errors=True)
        shutil.rmtree(making, ignore_errors=True)
    return place


def newest(folder: Path) -> Path | None:
    """The newest backup below a folder; None where there is none."""
    return max(backups(folder), default=None)


def backups(folder: Path) -> list[Path]:
    """All that are complete, the oldest first: their names are their times."""
    return sorted(path.parent for path in folder.glob(f"backup-*/{MANIFEST}") if _is_named(path))


def _is_named(manifest: Path) -> bool:
    with contextlib.suppress(ValueError):
        return bool(time.strptime(manifest.parent.name, NAME))
    return False


def prune(folder: Path) -> list[Path]:
    """Remove backups that the rule does not keep; gives back which. The newest always stays."""
    kept: set[Path] = set()
    found = backups(folder)[::-1]
    for form, most in (("%Y-%m-%d", DAYS), ("%G-%V", WEEKS), ("%Y-%m", MONTHS)):
        # Of each day, week and month the first one: the others of it are nearer to a newer one.
        first: dict[str, Path] = {}
        for path in found:
            first[time.strftime(form, _time_of(path))] = path
        kept.update(list(first.values())[:most])
    today = time.strftime("%Y-%m-%d", _time_of(found[0])) if found else ""
    gone = []
    for path in found:
        if path in kept or time.strftime("%Y-%m-%d", _time_of(path)) == today:
            continue
        shutil.rmtree(path)
        gone.append(path)
    return gone


def _time_of(path: Path) -> time.struct_time:
    return time.strptime(path.name, NAME)


def _link_all(media: Path, to: Path) -> None:
    to.mkdir(parents=True)
    for path in _kept_files(media):
        target = to / path.relative_to(media)
        target.parent.mkdir(parents=True, exist_ok=True)
        # Removed, or exchanged for another, since it was seen.
        with contextlib.suppress(FileNotFoundError):
            os.link(path, target)


def _kept_files(media: Path) -> Iterator[Path]:
    """Every file below the media folder that is no cache and is not being written."""
    for folder, folders, names in os.walk(media):
        folders[:] = [name for name in folders if name not in CACHES and name != LINKS]
        for name in names:
            if ".part" not in name:
                yield Path(folder) / name


def _of_that_moment(early: Path, late: Path, moment: float) -> Iterator[tuple[str, Path]]:
    """Of each file the one that was there when the database was read."""
    names = {str(path.relative_to(tree)) for tree in (early, late) for path in _kept_files(tree)}
    for name in sorted(names):
        first, second = early / name, late / name
        is_later = second.exists() and (not first.exists() or second.stat().st_mtime <= moment)
        yield name, second if is_later else first


def _take(
    path: Path, backup: Path, name: str, before: Path | None, known: dict[str, Any] | None
) -> dict[str, Any]:
    """Copy a file into the backup, or link it to the same one of the backup before."""
    to = backup / FILES / name
    to.parent.mkdir(parents=True, exist_ok=True)
    state = path.stat()
    told = {"size": state.st_size, "changed": state.st_mtime_ns}
    if before and known and {key: known[key] for key in told} == told:
        with contextlib.suppress(OSError):
            os.link(before / FILES / name, to)
            return {**told, "sha256": known["sha256"]}
    shutil.copy2(path, to)
    return {**told, "sha256": hash_of(to)}


def _known_files(backup: Path | None) -> dict[str, Any]:
    return dict(read_manifest(backup)["files"]) if backup else {}


def hash_of(path: Path) -> str:
    """SHA-256 of a file's content."""
    total = hashlib.sha256()
    with path.open("rb") as file:
        while block := file.read(READ_AT_ONCE):
            total.update(block)
    return total.hexdigest()


def _keep_secrets(to: Path) -> None:
    to.mkdir(mode=0o700)
    for name in KEPT_SECRETS:
        if (RUN / "secrets" / name).exists():
            shutil.copy2(RUN / "secrets" / name, to / name)


DUMP = (
    "--single-transaction",
    "--quick",
    "--order-by-primary",
    "--skip-comments",
    "--hex-blob",
    "--no-tablespaces",
    "--default-character-set=utf8mb4",
    "--max-allowed-packet=256M",
)


def _dumped(connection: Connection) -> Iterator[bytes]:
    """The database as statements, of one moment. Raises StepFailed."""
    child = subprocess.Popen(
        connection.command("mariadb-dump", *DUMP, connection.name),
        env=connection.environment,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
    )
    assert child.stdout is not None
    assert child.stderr is not None
    with child:
        while block := child.stdout.read(READ_AT_ONCE):
            yield block
        said = child.stderr.read().decode(errors="replace").strip()
    if child.returncode != 0:
        raise StepFailed(f"the database could not be read: {said}")


def _dump(connection: Connection, to: Path) -> str:
    """Write the database; gives back the hash of its statements."""
    total = hashlib.sha256()
    with gzip.open(to, "wb", compresslevel=5) as file:
        for block in _dumped(connection):
            file.write(block)
            total.update(block)
    return total.hexdigest()


def read_manifest(backup: Path) -> dict[str, Any]:
    """What a backup says of itself. Raises StepFailed where it is none."""
    try:
        manifest = json.loads((backup / MANIFEST).read_text())
        if manifest["format"] > FORMAT:
            raise StepFailed(f"{backup} was made by a newer Orchesis: restore it with that one")
        return dict(manifest)
    except (OSError, ValueError, KeyError, TypeError) as error:
        raise StepFailed(f"{backup} is no backup of Orchesis, or it is damaged: {error}") from None


def problems_of(backup: Path) -> list[str]:
    """What is wrong with the files of a backup: missing, or not what was written."""
    manifest = read_manifest(backup)
    found = []
    for name, told in manifest["files"].items():
        path = backup / FILES / name
        if not path.is_file():
            found.append(f"{name} is missing")
        elif path.stat().st_size != told["size"] or hash_of(path) != told["sha256"]:
            found.append(f"{name} is damaged")
    try:
        if _hash_of_packed(backup / DATABASE) != manifest["database"]:
            found.append(f"{DATABASE} is damaged")
    except (OSError, EOFError):
        found.append(f"{DATABASE} is missing or damaged")
    return found


def _hash_of_packed(path: Path) -> str:
    total = hashlib.sha256()
    with gzip.open(path, "rb") as file:
        while block := file.read(READ_AT_ONCE):
            total.update(block)
    return total.hexdigest()


def restore(connection: Connection, media: Path, backup: Path) -> None:
    """Put a backup into an empty installation whose database is up. Raises StepFailed.

    Afterwards database and files are compared with the backup; nothing is migrated yet.
    """
    if problems := problems_of(backup):
        raise StepFailed(f"the backup is damaged, nothing was restored: {'; '.join(problems[:5])}")
    if tables := _tables(connection):
        raise StepFailed(
            f"there is data here already ({len(tables)} tables): restore into a fresh run folder "
            "(ORCHESIS_RUN), or move this one away"
        )
    if media.exists() and any(media.iterdir()):
        raise StepFailed(f"{media} is not empty: move it away first")
    manifest = read_manifest(backup)
    _load(connection, backup / DATABASE)
    for name in manifest["files"]:
        to = media / name
        to.parent.mkdir(parents=True, exist_ok=True)
        shutil.copy2(backup / FILES / name, to)
    for path in (backup / SECRETS).glob("*"):
        target = RUN / "secrets" / path.name
        target.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        shutil.copy2(path, target)
    _compare(connection, media, manifest)


def _tables(connection: Connection) -> list[str]:
    done = subprocess.run(
        connection.command("mariadb", "--batch", "--skip-column-names", connection.name),
        env=connection.environment,
        input="SHOW TABLES;",
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode != 0:
        raise StepFailed(f"the database does not answer: {done.stderr.strip()}")
    return done.stdout.split()


def _load(connection: Connection, path: Path) -> None:
    child = subprocess.Popen(
        connection.command("mariadb", "--max-allowed-packet=256M", connection.name),
        env=connection.environment,
        stdin=subprocess.PIPE,
        stderr=subprocess.PIPE,
    )
    assert child.stdin is not None
    assert child.stderr is not None
    with child, gzip.open(path, "rb") as file:
        with contextlib.suppress(BrokenPipeError):
            shutil.copyfileobj(file, child.stdin, READ_AT_ONCE)
            child.stdin.close()
        said = child.stderr.read().decode(errors="replace").strip()
    if child.returncode != 0:
        raise StepFailed(f"the database could not be loaded: {said}")


def _compare(connection: Connection, media: Path, manifest: dict[str, Any]) -> None:
    total = hashlib.sha256()
    for block in _dumped(connection):
        total.update(block)
    if total.hexdigest() != manifest["database"]:
        raise StepFailed("what was restored is not what was backed up: the database differs")
    files = manifest["files"].items()
    wrong = [name for name, told in files if hash_of(media / name) != told["sha256"]]
    if wrong:
        raise StepFailed(f"what was restored is not what was backed up: {', '.join(wrong[:5])}")


def words_of(backup: Path, removed: Iterable[Path] = ()) -> None:
    """Say what a backup holds and what it takes."""
    files = read_manifest(backup)["files"]
    size = sum(one["size"] for one in files.values()) + (backup / DATABASE).stat().st_size
    say(f"{backup}: {len(files)} files and the database, {size / 1024**2:.1f} MB")
    if gone := [path.name for path in removed]:
        say(f"no longer kept: {', '.join(gone)}")

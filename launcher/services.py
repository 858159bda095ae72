"""Our own MariaDB and Redis, on loopback, with their data in the run folder."""

from __future__ import annotations

import json
import os
import secrets
import socket
import subprocess
import time
import zlib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from launcher.places import RUN, StepFailed, python_environment, say, short_path
from launcher.setup import find_program, run_logged
from launcher.supervisor import Supervisor

PREFERRED_PORTS = {"db": 33077, "web": 8137}
DATABASE_HOST = os.environ.get("ORCHESIS_DB_HOST", "")
"""A database of somebody else's: none is started here then. Its port, name, user and password come
from ORCHESIS_DB_PORT, _NAME, _USER and _PASSWORD."""

QUEUE_URL = os.environ.get("ORCHESIS_REDIS_URL", "")
"""A Redis of somebody else's, likewise."""
START_SECONDS = 60.0


@dataclass(frozen=True)
class Ports:
    """Where our servers listen on loopback. Redis has a socket in the run folder instead."""

    db: int
    web: int

    def environment(self) -> dict[str, str]:
        """As the settings read them."""
        found = {"ORCHESIS_REDIS_SOCKET": str(short_path("redis.sock"))}
        return found if DATABASE_HOST else {**found, "ORCHESIS_DB_PORT": str(self.db)}


def is_free(port: int) -> bool:
    """True when nothing listens on that port of loopback."""
    with socket.socket(socket.AF_INET, socket.SOCK_STREAM) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
        return True


def any_free() -> int:
    """A port that is free now."""
    with socket.socket(socket.AF_INET, socket.SOCK_STREAM) as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def choose_ports(web: int | None = None) -> Ports:
    """Our usual ports where they are free, others where not. A port asked for must be free."""
    chosen = {name: port if is_free(port) else any_free() for name, port in PREFERRED_PORTS.items()}
    if web is not None:
        if not is_free(web):
            raise StepFailed(f"port {web} is in use: give another with --port")
        chosen["web"] = web
    return Ports(**chosen)


def remember(ports: Ports) -> None:
    """Write down where we listen, for other commands of this installation."""
    (RUN / "ports.json").write_text(json.dumps(vars(ports)))


def start_database(supervisor: Supervisor, ports: Ports) -> None:
    """Start MariaDB, making its data folder and our account at the first start.

    Where the environment names another database only its answer is waited for.
    """
    if DATABASE_HOST:
        wait_for("the database", supervisor, lambda: accepts(DATABASE_HOST, database_port(ports)))
        return
    data = RUN / "db" / "data"
    # Of its own: a server that starts removes what others have left, or just made, in theirs.
    scratch = RUN / "db" / "tmp"
    scratch.mkdir(parents=True, exist_ok=True)
    if not (data / "mysql").exists():
        say("making the database")
        command = [program("mariadb-install-db"), "--no-defaults", f"--datadir={data}"]
        command += [f"--tmpdir={scratch}"]
        command += ["--auth-root-authentication-method=socket", "--skip-test-db", *_as_user()]
        run_logged("database", command, advice="Remove .run/db, then try again.")
    socket_path = short_path("db/mariadb.sock")
    command = [
        program("mariadbd"),
        "--no-defaults",
        *_as_user(),
        f"--datadir={data}",
        f"--tmpdir={scratch}",
        f"--socket={socket_path}",
        f"--pid-file={RUN / 'db' / 'mariadbd.pid'}",
        f"--port={ports.db}",
        "--bind-address=127.0.0.1",
        "--skip-name-resolve",
        "--character-set-server=utf8mb4",
        "--collation-server=utf8mb4_unicode_ci",
        "--innodb-flush-log-at-trx-commit=1",
        "--transaction-isolation=READ-COMMITTED",
        "--local-infile=0",
        "--default-time-zone=+00:00",
        "--sql-mode=STRICT_TRANS_TABLES,ERROR_FOR_DIVISION_BY_ZERO,NO_ENGINE_SUBSTITUTION",
        "--max-allowed-packet=64M",
    ]
    supervisor.start("database", command, dict(os.environ))
    # Its own socket too: what still answers at the port may be another that is just ending.
    wait_for_port("the database", ports.db, supervisor)
    wait_for("the database", supervisor, lambda: answers_at(socket_path))
    _make_account(socket_path)


def program(name: str) -> str:
    """Where a program is. Raises StepFailed."""
    found = find_program(name)
    if found is None:
        raise StepFailed(f"the program {name} is missing: run ./orchesis start again")
    return found


def _as_user() -> list[str]:
    return ["--user=root"] if os.geteuid() == 0 else []


def _make_account(socket_path: Path) -> None:
    password = database_password()
    statements = ["CREATE DATABASE IF NOT EXISTS orchesis CHARACTER SET utf8mb4"]
    for host in ("127.0.0.1", "localhost"):
        account = f"'orchesis'@'{host}'"
        statements += [
            f"CREATE USER IF NOT EXISTS {account} IDENTIFIED BY '{password}'",
            f"ALTER USER {account} IDENTIFIED BY '{password}'",
            f"GRANT ALL ON orchesis.* TO {account}",
            # The tests make databases of their own, one for each of their processes.
            f"GRANT ALL ON `test\\_orchesis%`.* TO {account}",
        ]
    client = find_program("mariadb") or program("mysql")
    done = subprocess.run(
        [client, "--no-defaults", f"--socket={socket_path}", "--user=root"],
        input=";\n".join(statements) + ";",
        text=True,
        capture_output=True,
        check=False,
    )
    if done.returncode != 0:
        raise StepFailed(f"the database account could not be made: {done.stderr.strip()}")


def database_password() -> str:
    """The password of our account, made at first use. The same file is read by the settings."""
    if given := os.environ.get("ORCHESIS_DB_PASSWORD"):
        return given
    path = RUN / "secrets" / "database"
    if not path.exists():
        path.parent.mkdir(parents=True, mode=0o700, exist_ok=True)
        with os.fdopen(os.open(path, os.O_CREAT | os.O_WRONLY, 0o600), "w") as file:
            file.write(secrets.token_urlsafe(50))
    return path.read_text()


def start_redis(supervisor: Supervisor) -> None:
    """Start Redis, which carries the job queue, on a socket that nobody else can open."""
    if QUEUE_URL:
        return
    folder = RUN / "redis"
    folder.mkdir(parents=True, exist_ok=True)
    path = short_path("redis.sock")
    path.unlink(missing_ok=True)
    command = [program("redis-server"), "--port", "0", "--unixsocket", str(path)]
    command += ["--unixsocketperm", "700", "--dir", str(folder), "--appendonly", "yes"]
    # What has a time to live (drawings, answers) makes room for the rest; jobs have none.
    command += ["--maxmemory", "384mb", "--maxmemory-policy", "volatile-lru"]
    command += ["--loglevel", "warning"]
    # A full disk stops no jobs: what the queue holds is in the database too.
    command += ["--save", "", "--stop-writes-on-bgsave-error", "no"]
    supervisor.start("queue", command, dict(os.environ))
    wait_for("the queue", supervisor, lambda: answers_at(path))


def answers_at(path: Path) -> bool:
    """Whether something listens on a socket."""
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as probe:
        probe.settimeout(0.5)
        try:
            probe.connect(str(path))
        except OSError:
            return False
        return True


def wait_for(name: str, supervisor: Supervisor, ready: Callable[[], bool]) -> None:
    """Wait until a server answers."""
    deadline = time.monotonic() + START_SECONDS
    while time.monotonic() < deadline:
        supervisor.check()
        if ready():
            return
        time.sleep(0.05)
    raise StepFailed(f"{name} did not start within {START_SECONDS:.0f} s: see {RUN / 'logs'}")


def database_port(ports: Ports) -> int:
    """Where the database listens, ours or another."""
    return int(os.environ.get("ORCHESIS_DB_PORT", "3306")) if DATABASE_HOST else ports.db


def accepts(host: str, port: int) -> bool:
    """Whether something takes connections there."""
    try:
        socket.create_connection((host, port), 0.5).close()
    except OSError:
        return False
    return True


def wait_for_port(name: str, port: int, supervisor: Supervisor) -> None:
    """Wait until something answers on that port of loopback."""
    wait_for(name, supervisor, lambda: accepts("127.0.0.1", port))


def metrics_folder() -> Path:
    """Where counters of all our processes meet: in memory, where there is a place for that.

    They are files that are written through memory maps: on a disk that is full to the last byte the
    system ends whoever touches one.
    """
    memory = Path("/dev/shm")
    if not os.access(memory, os.W_OK):
        return RUN / "metrics"
    return memory / f"orchesis-{os.getuid()}-{zlib.crc32(str(RUN).encode()):08x}-metrics"


def service_environment(ports: Ports, *, demo: bool) -> dict[str, str]:
    """The environment of the web server and the workers."""
    metrics = metrics_folder()
    metrics.mkdir(mode=0o700, exist_ok=True)
    return python_environment(
        **ports.environment(),
        ORCHESIS_DEMO="1" if demo else "0",
        PROMETHEUS_MULTIPROC_DIR=str(metrics),
    )

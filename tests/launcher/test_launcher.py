"""The launcher: what it installs when, which ports it takes, how its servers live and die."""

import gzip
import json
import os
import re
import socket
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest

from launcher import commands, places, services, setup, supervisor, web
from launcher import running as running_module
from launcher.places import StepFailed

ROOT = Path(__file__).resolve().parents[2]


@pytest.fixture(autouse=True)
def own_folders(tmp_path, monkeypatch):
    monkeypatch.setattr(places, "STAMPS", tmp_path / "stamps")
    for module in (supervisor, setup):
        monkeypatch.setattr(module, "LOGS", tmp_path / "logs")


@pytest.fixture
def running():
    watched = supervisor.Supervisor()
    yield watched
    watched.stop()


def _stands_back(pid):
    """How much a process stands back in its session, and its session behind others."""
    session = Path(f"/proc/{pid}/autogroup")
    told = int(session.read_text().split()[-1]) if session.exists() else None
    return os.getpriority(os.PRIO_PROCESS, pid), told


def test_a_worker_stands_back_behind_the_pages_also_after_it_was_killed(running):
    own = os.getpriority(os.PRIO_PROCESS, 0)
    # A session of its own stands back, which a worker may end; else the process does.
    of_itself = supervisor.own_niceness(7)
    session = 7 if Path("/proc/self/autogroup").exists() else None
    stands_back = (min(19, own + of_itself), session)
    running.start("pages", ["sleep", "60"], dict(os.environ))
    running.start("worker", ["sleep", "60"], dict(os.environ), 7)
    pages, worker = running._children
    threading.Thread(target=running.watch, daemon=True).start()
    for _ in range(2):
        deadline = time.monotonic() + 20
        while _stands_back(worker.process.pid) != stands_back:
            assert time.monotonic() < deadline
            time.sleep(0.05)
        assert _stands_back(pages.process.pid)[1] in (0, None)
        before = worker.process.pid
        os.kill(before, 9)
        while worker.process.pid == before or worker.process.poll() is not None:
            assert time.monotonic() < deadline
            time.sleep(0.05)


def test_pages_come_before_listening_unless_the_machine_is_busy_with_something_else(monkeypatch):
    workers = running_module.WORKERS
    monkeypatch.delenv(running_module.STEPS_BACK, raising=False)
    back = {queue: running_module.steps_back(worker) for queue, worker in workers.items()}
    # Who waits for a chart waits for a page; a print is waited for more than a listening run.
    assert back["engrave"] == 0 < back["small"] <= back["render"] < back["listen"]
    monkeypatch.setenv(running_module.STEPS_BACK, "no")
    assert {running_module.steps_back(worker) for worker in workers.values()} == {0}


def test_a_step_is_done_again_only_when_its_inputs_change(tmp_path, monkeypatch):
    monkeypatch.setattr(places, "ROOT", tmp_path)
    source = tmp_path / "requirements.txt"
    source.write_text("one")
    first = places.digest([source])
    places.mark_done("python", first)
    assert places.is_done("python", places.digest([source]))
    source.write_text("two")
    assert not places.is_done("python", places.digest([source]))


def test_a_port_that_is_taken_is_passed_over_but_not_when_asked_for():
    with socket.socket() as other:
        other.bind(("127.0.0.1", 0))
        other.listen()
        port = other.getsockname()[1]
        assert not services.is_free(port)
        with pytest.raises(StepFailed, match=f"port {port} is in use"):
            services.choose_ports(web=port)


def test_missing_programs_are_named_where_they_cannot_be_installed(monkeypatch):
    monkeypatch.setattr(os, "geteuid", lambda: 1000)
    with pytest.raises(StepFailed, match="apt-get install drum-roller"):
        setup.ensure_programs({"no-such-program": "drum-roller"})


def test_a_failing_step_shows_the_end_of_its_log_and_advice():
    command = [sys.executable, "-c", "print('the skin is torn'); raise SystemExit(3)"]
    with pytest.raises(StepFailed, match=r"(?s)the skin is torn.*Change the skin"):
        setup.run_logged("skin", command, advice="Change the skin.")


def wait_until(condition, seconds=10):
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        if condition():
            return
        time.sleep(0.05)
    raise AssertionError("it did not happen in time")


def test_a_child_that_ends_at_once_is_reported_with_its_log(running):
    running.start("web", [sys.executable, "-c", "print('no sticks')"], dict(os.environ))

    def failed():
        try:
            running.check()
        except StepFailed as error:
            assert "no sticks" in str(error)
            return True
        return False

    wait_until(failed)


def test_stopping_ends_every_child_even_one_that_does_not_listen(running, monkeypatch):
    monkeypatch.setattr(supervisor, "DEFAULT_STOP_SECONDS", 0.5)
    stubborn = "import signal, time; signal.signal(15, signal.SIG_IGN); print(1, flush=True);"
    stubborn += "time.sleep(60)"
    running.start("stubborn", [sys.executable, "-c", stubborn], dict(os.environ))
    running.start("good", ["sleep", "60"], dict(os.environ))
    children = [child.process for child in running._children]
    wait_until(lambda: (setup.LOGS / "stubborn.log").read_text().strip() == "1")
    running.stop()
    assert all(child.poll() is not None for child in children)


def orchesis(*arguments):
    return subprocess.run(
        [sys.executable, ROOT / "orchesis", *arguments], capture_output=True, text=True, check=False
    )


def test_transcribe_says_in_one_line_what_is_wrong(tmp_path):
    done = orchesis("transcribe", str(tmp_path / "nowhere.wav"), "--out", str(tmp_path / "out"))
    assert done.returncode == 2
    assert done.stderr.strip().endswith("there is no such file")
    assert not (tmp_path / "out").exists()


@pytest.mark.parametrize("wrong", [["transcribe"], ["drum"], [], ["demo", "--port", "drum"]])
def test_wrong_arguments_end_with_usage(wrong):
    done = orchesis(*wrong)
    assert done.returncode == 2
    assert "usage" in done.stderr


def test_two_starts_cannot_share_a_run_folder(tmp_path, monkeypatch):
    monkeypatch.setattr(running_module, "RUN", tmp_path)
    (tmp_path / "ports.json").write_text('{"web": 8137}')
    with running_module.only_one():
        other = f"import sys; sys.path.insert(0, {str(ROOT)!r})\n"
        other += "from pathlib import Path\nfrom launcher import running\n"
        other += f"running.RUN = Path({str(tmp_path)!r})\n"
        other += "with running.only_one(): pass"
        done = subprocess.run(
            [sys.executable, "-c", other], capture_output=True, text=True, check=False
        )
    assert "running already at http://127.0.0.1:8137" in done.stderr
    with running_module.only_one():
        pass


def watched_for(running, seconds):
    """Watch in this thread, for so long."""
    threading.Timer(seconds, running.stop_watching).start()
    running.watch()


def test_a_part_that_keeps_ending_rests_and_the_others_run_on(running, monkeypatch, capsys):
    monkeypatch.setattr(supervisor, "MANY_RESTARTS", 2)
    monkeypatch.setattr(supervisor, "LOOK_EVERY", 0.02)
    running.start("database", ["sleep", "60"], dict(os.environ))
    running.start("drum", [sys.executable, "-S", "-c", "pass"], dict(os.environ))
    watched_for(running, 2.0)
    said = capsys.readouterr().out
    assert said.count("the drum ended and is started again") == 2
    assert said.count("the drum keeps ending") == 1
    assert running._children[0].process.poll() is None, "the database was not stopped under us"


ORPHAN = """
import os, socket, sys, time
listener = socket.socket()
listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
listener.bind(("127.0.0.1", int(sys.argv[1])))
listener.listen()
print("listening", flush=True)
# The worker holds the port on: as a master's children do that is killed while clients are there.
if os.fork() == 0:
    time.sleep(60)
time.sleep(60)
"""


def test_a_killed_master_s_orphans_do_not_keep_its_port(running, monkeypatch):
    monkeypatch.setattr(supervisor, "LOOK_EVERY", 0.02)
    port = services.any_free()
    running.start("web", [sys.executable, "-S", "-c", ORPHAN, str(port)], dict(os.environ))
    log = setup.LOGS / "web.log"
    wait_until(lambda: log.read_text().count("listening") == 1)
    os.kill(running._children[0].process.pid, 9)
    watched_for(running, 2.0)
    assert log.read_text().count("listening") == 2
    assert "in use" not in log.read_text()
    assert len(running._children[0].restarts) == 1


def test_a_start_after_a_kill_waits_for_the_port_of_the_last_run(tmp_path, monkeypatch):
    monkeypatch.setattr(supervisor, "ENDS_WITH_US", [])
    noted = tmp_path / "children.json"
    killed = supervisor.Supervisor(noted)
    port = services.any_free()
    killed.start("web", [sys.executable, "-S", "-c", ORPHAN, str(port)], dict(os.environ))
    wait_until(lambda: "listening" in (setup.LOGS / "web.log").read_text())
    assert not services.is_free(port)
    # It is gone without a word; whoever starts next finds its note.
    began = time.monotonic()
    assert supervisor.end_leftovers(noted) == 1
    assert services.is_free(port)
    assert time.monotonic() - began < 40
    killed._children[0].process.wait()
    assert supervisor.end_leftovers(noted) == 0


def test_a_number_that_another_process_has_by_now_is_left_alone(tmp_path):
    other = subprocess.Popen(["sleep", "30"], start_new_session=True)
    (tmp_path / "children.json").write_text(
        json.dumps({"web": {"pid": other.pid, "begun": "12345"}})
    )
    assert supervisor.end_leftovers(tmp_path / "children.json") == 0
    assert other.poll() is None
    other.kill()
    other.wait()


@pytest.mark.parametrize("noted", ["", "[", "{}", '{"web": 7}', "[1]"])
def test_a_note_that_cannot_be_read_is_no_hindrance(tmp_path, noted):
    (tmp_path / "children.json").write_text(noted)
    assert supervisor.end_leftovers(tmp_path / "children.json") == 0
    assert supervisor.end_leftovers(tmp_path / "nowhere.json") == 0


def test_logs_that_grow_are_moved_on_and_their_writers_never_notice(tmp_path):
    log = tmp_path / "web.log"
    with log.open("ab", buffering=0) as writer:
        for number in range(6):
            writer.write(bytes([65 + number]) * 100)
            supervisor.rotate_logs(tmp_path, largest=50, kept=3)
        writer.write(b"small")
        supervisor.rotate_logs(tmp_path, largest=50, kept=3)
    assert log.read_bytes() == b"small"
    older = {path.name: path.read_bytes()[:1] for path in tmp_path.glob("web.log.*")}
    assert older == {"web.log.1": b"F", "web.log.2": b"E", "web.log.3": b"D"}


def test_the_run_folder_is_nobody_else_s(tmp_path, monkeypatch):
    folder = tmp_path / "run"
    folder.mkdir(mode=0o755)
    monkeypatch.setattr(running_module, "RUN", folder)
    with running_module.only_one():
        assert folder.stat().st_mode & 0o777 == 0o700


def nginx_says(tmp_path, text):
    path = tmp_path / "nginx.conf"
    path.write_text(text)
    for name in ("incoming", "waiting"):
        (tmp_path / name).mkdir(exist_ok=True)
    command = [setup.find_program("nginx"), "-t", "-p", str(tmp_path), "-c", str(path)]
    return subprocess.run(command, capture_output=True, text=True, check=False)


def test_nginx_takes_our_configuration_and_no_html_of_its_own_is_left_in_it(tmp_path):
    text = web.config_text(port=8137, apps=[tmp_path / "web.sock"], folder=tmp_path)
    done = nginx_says(tmp_path, text)
    assert "test is successful" in done.stderr, done.stderr
    for status in ("400", "413", "502", "504"):
        assert re.search(rf"error_page[^;]*\b{status}\b", text)
    assert 'proxy_set_header X-Forwarded-For ""' in text
    answers = re.findall(r"return \d+ '(.*)';", text)
    assert len(answers) >= 6
    assert all(json.loads(answer)["detail"] for answer in answers)


def test_built_files_get_a_compressed_twin(tmp_path):
    (tmp_path / "page.js").write_text("let x = 1\n" * 500)
    (tmp_path / "kick.ogg").write_bytes(bytes(1000))
    setup.compress_pages(tmp_path)
    assert sorted(path.name for path in tmp_path.iterdir()) == [
        *("kick.ogg", "page.js", "page.js.gz")
    ]
    assert gzip.decompress((tmp_path / "page.js.gz").read_bytes()).startswith(b"let x")


def test_secrets_are_made_once_and_readable_by_their_owner_alone(tmp_path, monkeypatch):
    monkeypatch.setattr(services, "RUN", tmp_path)
    password = services.database_password()
    assert services.database_password() == password
    assert len(password) > 40
    assert (tmp_path / "secrets" / "database").stat().st_mode & 0o077 == 0


def test_a_long_path_gets_a_short_socket(tmp_path, monkeypatch):
    monkeypatch.setattr(places, "RUN", tmp_path / ("deep" * 40))
    path = places.short_path("db/mariadb.sock")
    assert len(str(path)) < places.LONGEST_SOCKET_PATH
    assert places.short_path("db/mariadb.sock") == path
    assert places.short_path("web.sock") != path
    path.parent.rmdir()


def test_the_children_get_our_packages_and_ports():
    environment = services.service_environment(services.Ports(1, 2), demo=True)
    assert environment["ORCHESIS_DB_PORT"] == "1"
    assert environment["ORCHESIS_REDIS_SOCKET"].endswith("redis.sock")
    assert environment["ORCHESIS_DEMO"] == "1"
    assert str(ROOT / "src") in environment["PYTHONPATH"]


@pytest.mark.parametrize(
    ("said", "version"), [("v20.20.2", (20, 20, 2)), ("v18.19.0", (18, 19, 0)), ("", ())]
)
def test_node_s_version_is_read(tmp_path, said, version):
    node = tmp_path / "node"
    node.write_text(f"#!/bin/sh\necho {said}\n")
    node.chmod(0o755)
    assert setup._node_version(str(node)) == version


def test_every_check_that_runs_in_ci_can_be_run_alone():
    names = set(commands._checks())
    assert {"formatting (ruff)", "types (mypy)", "import rules (import-linter)"} <= names
    assert "generated API types" in names


def test_the_lock_files_name_no_download_address():
    for path in [*ROOT.glob("requirements/*.txt"), ROOT / "frontend" / "package-lock.json"]:
        lines = path.read_text().splitlines()
        assert not [line for line in lines if '"resolved"' in line or "index-url" in line]

"""The launcher: what it installs when, which ports it takes, how its servers live and die."""

import os
import socket
import subprocess
import sys
import time
from pathlib import Path

import pytest

from launcher import commands, places, services, setup, supervisor
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


def test_a_server_that_dies_is_started_again_but_not_for_ever(running, monkeypatch):
    monkeypatch.setattr(supervisor, "MOST_RESTARTS", 2)
    monkeypatch.setattr(supervisor.time, "sleep", lambda seconds: None)
    running.start("drum", [sys.executable, "-c", "pass"], dict(os.environ))
    with pytest.raises(StepFailed, match="the drum keeps dying"):
        running.watch()
    assert len(running._children[0].restarts) == 3


def test_secrets_are_made_once_and_readable_by_their_owner_alone(tmp_path, monkeypatch):
    monkeypatch.setattr(services, "RUN", tmp_path)
    password = services.database_password()
    assert services.database_password() == password
    assert len(password) > 40
    assert (tmp_path / "secrets" / "database").stat().st_mode & 0o077 == 0


def test_a_long_path_gets_a_short_socket(tmp_path, monkeypatch):
    monkeypatch.setattr(services, "RUN", tmp_path / ("deep" * 40))
    path = services._socket_path()
    assert len(str(path)) < services.LONGEST_SOCKET_PATH
    assert services._socket_path() == path
    path.parent.rmdir()


def test_the_children_get_our_packages_and_ports():
    environment = services.service_environment(services.Ports(1, 2, 3), demo=True)
    assert environment["ORCHESIS_DB_PORT"] == "1"
    assert environment["ORCHESIS_REDIS_PORT"] == "2"
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

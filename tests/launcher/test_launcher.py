"""The launcher: what it installs when, which ports it takes, how its servers live and die."""

import os
import socket
import subprocess
import sys
import time
from pathlib import Path

import pytest

from launcher import places, services, setup, supervisor
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

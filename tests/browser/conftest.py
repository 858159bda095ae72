"""A whole application of its own, and a page in headless Chromium."""

import subprocess
from pathlib import Path

import pytest
from playwright.sync_api import expect

from benchmarks.browser import WINDOW, browser
from launcher.scratch import scratch_application
from tests.browser.helpers import cloning, hear

SONGS = Path(__file__).resolve().parents[2] / "demo" / "songs"

# These tests ask what happens, not how fast: a machine that runs two of them beside a listening run
# answers late now and then. Waits are measured by `./orchesis bench`.
expect.set_options(timeout=20_000)


@pytest.fixture(scope="session")
def application():
    with scratch_application(demo=False) as running:
        yield running


@pytest.fixture(scope="session")
def take(tmp_path_factory):
    """The first 36 seconds of a demo song: enough to find its beat, and quick to listen to."""
    path = tmp_path_factory.mktemp("take") / "market take.ogg"
    source = SONGS / "steps-to-the-market.ogg"
    subprocess.run(
        ["ffmpeg", "-v", "error", "-i", source, "-t", "36", "-c", "copy", path], check=True
    )
    return path


@pytest.fixture(scope="session")
def clone(application, take):
    """That song, listened to once for all tests: each gets a copy for somebody, by his name."""
    with cloning(application, hear(application, take)) as made:
        yield made


@pytest.fixture
def page(application):
    with browser() as opened:
        context = opened.new_context(viewport=WINDOW, accept_downloads=True)
        shown = context.new_page()
        shown.problems = []
        shown.on("pageerror", lambda error: shown.problems.append(str(error)))
        shown.on(
            "console",
            lambda message: (
                shown.problems.append(message.text)
                if "Content Security Policy" in message.text
                else None
            ),
        )
        yield shown
        assert shown.problems == []

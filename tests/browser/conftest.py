"""A whole application of its own, and a page in headless Chromium."""

import contextlib
import subprocess
from pathlib import Path

import pytest
from playwright.sync_api import Error as PlaywrightError
from playwright.sync_api import Page, expect

from benchmarks.browser import WINDOW, browser
from launcher.scratch import scratch_application
from tests.browser.helpers import PATIENCE_SECONDS, cloning, hear, window_of

SONGS = Path(__file__).resolve().parents[2] / "demo" / "songs"

expect.set_options(timeout=PATIENCE_SECONDS * 1000)


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item):
    """Add what the page showed to the report of a test that failed."""
    report = yield
    shown = next((value for value in item.funcargs.values() if isinstance(value, Page)), None)
    if report.failed and shown is not None and not shown.is_closed():
        with contextlib.suppress(PlaywrightError):
            text = shown.locator("body").inner_text(timeout=5000)
            report.sections.append(("What the page showed", f"{shown.url}\n{text[:3000]}"))
    return report


@pytest.fixture(scope="package")
def application():
    with scratch_application(demo=False) as running:
        yield running


@pytest.fixture(scope="package")
def take(tmp_path_factory):
    """The first 36 seconds of a demo song: enough to find its beat, and quick to listen to."""
    path = tmp_path_factory.mktemp("take") / "market take.ogg"
    source = SONGS / "steps-to-the-market.ogg"
    subprocess.run(
        ["ffmpeg", "-v", "error", "-i", source, "-t", "36", "-c", "copy", path], check=True
    )
    return path


@pytest.fixture(scope="package")
def sound(tmp_path_factory):
    """A recording without music, for songs whose score is composed."""
    path = tmp_path_factory.mktemp("sound") / "noise.ogg"
    make = ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "anoisesrc=d=25:a=0.1", path]
    subprocess.run(make, check=True)
    return path


@pytest.fixture(scope="package")
def clone(application, take):
    """That song, listened to once for all tests: each gets a copy for somebody, by his name."""
    with cloning(application, hear(application, take)) as made:
        yield made


@pytest.fixture(scope="package")
def chromium():
    """One browser for all; nothing of one person's is seen by the next."""
    with browser() as opened:
        yield opened


@pytest.fixture
def page(chromium):
    context = window_of(chromium, viewport=WINDOW, accept_downloads=True)
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
    context.close()
    assert shown.problems == []

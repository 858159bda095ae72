"""A whole application of its own, and a page in headless Chromium."""

import pytest
from playwright.sync_api import expect

from benchmarks.browser import WINDOW, browser
from launcher.scratch import scratch_application

# These tests ask what happens, not how fast: a machine that runs two of them beside a listening run
# answers late now and then. Waits are measured by `./orchesis bench`.
expect.set_options(timeout=20_000)


@pytest.fixture(scope="session")
def application():
    with scratch_application(demo=False) as running:
        yield running


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

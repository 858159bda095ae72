"""Debian's Chromium, driven by Playwright, with all its own chatter to the network off."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator

from playwright.sync_api import Browser, Page, ViewportSize, sync_playwright

CHROMIUM = "/usr/bin/chromium"
ARGUMENTS = [
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--autoplay-policy=no-user-gesture-required",
]
WINDOW: ViewportSize = {"width": 1280, "height": 800}


@contextlib.contextmanager
def browser() -> Iterator[Browser]:
    """A browser; everything it opened is closed at the end."""
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        try:
            yield opened
        finally:
            opened.close()


def enter_demo(page: Page, address: str) -> None:
    """Open the application and enter the demo account; ends on the shelf."""
    page.goto(address)
    page.locator("[data-test=demo]").click()
    page.locator("h1", has_text="Songs").wait_for()


def open_song(page: Page, title: str) -> None:
    """From the shelf to a song's page, waiting for its listening run to end."""
    page.locator("a.title", has_text=title).click(timeout=120_000)
    page.locator(".rows .row").first.wait_for(timeout=30_000)

"""How long people wait: opening a song, an edit until it is redrawn, and until it is stored."""

from __future__ import annotations

import statistics
from dataclasses import dataclass
from typing import Any

from benchmarks.browser import WINDOW, browser, enter_demo, open_song
from launcher.scratch import scratch_application

EDITS = 60
OPENINGS = 7
SONG = "Rain on the Awning"

# Runs in the page: toggles a note by key and waits for the redraw, then for the server's answer.
_EDIT = """async () => {
  const notes = () => document.querySelectorAll('.rows .note').length
  const saved = () => document.querySelector('[data-test=saved]').classList.contains('saved') &&
    document.querySelector('[data-test=saved]').textContent.trim() === 'Every edit saved'
  const before = notes(), began = performance.now()
  document.body.dispatchEvent(new KeyboardEvent('keydown', {key: 'Enter', bubbles: true}))
  const frame = () => new Promise((done) => requestAnimationFrame(done))
  while (notes() === before) await frame()
  await frame()
  const drawn = performance.now() - began
  while (!saved()) await new Promise((done) => setTimeout(done, 2))
  return {drawn, stored: performance.now() - began}
}"""


@dataclass(frozen=True)
class Waits:
    """Milliseconds."""

    name: str
    p50: float
    p95: float


def percentile(values: list[float], share: float) -> float:
    """The value that `share` of the values do not exceed."""
    return sorted(values)[min(len(values) - 1, round(share * (len(values) - 1)))]


def summary(name: str, values: list[float]) -> Waits:
    """Median and 95th percentile."""
    return Waits(name, statistics.median(values), percentile(values, 0.95))


def measure() -> list[Waits]:
    """Start the demo on a scratch database and measure in headless Chromium."""
    with scratch_application(demo=True) as application, browser() as opened:
        page = opened.new_page(viewport=WINDOW)
        enter_demo(page, application.address)
        page.locator("a.title").nth(2).wait_for(timeout=120_000)
        open_song(page, SONG)
        address = page.url
        openings = []
        for _ in range(OPENINGS):
            page.goto("about:blank")
            began: Any = page.evaluate("Date.now()")
            page.goto(address, wait_until="commit")
            page.locator(".rows .row").first.wait_for()
            ended: Any = page.evaluate("Date.now()")
            openings.append(float(ended - began))
        drawn, stored = [], []
        for _ in range(EDITS):
            page.keyboard.press("ArrowRight")
            took: dict[str, float] = page.evaluate(_EDIT)
            drawn.append(took["drawn"])
            stored.append(took["stored"])
    return [
        summary("edit until redrawn", drawn),
        summary("edit until stored and redrawn", stored),
        summary("opening a song", openings),
    ]

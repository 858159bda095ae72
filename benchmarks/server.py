"""How long people wait: opening a song, an edit until it is redrawn, and until it is stored."""

from __future__ import annotations

import statistics
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from benchmarks.browser import WINDOW, browser, enter_demo, open_song
from benchmarks.listening import long_song
from benchmarks.long_score import SIXTY_BARS, USUAL_240, long_score
from launcher.scratch import Scratch, scratch_application
from orchesis.music.json import dumps

EDITS = 60
OPENINGS = 7
CHANGES = 9
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


# The same until all of the page is right: drawn, stored, phrases and facts of that revision shown.
_EDIT_TO_RIGHT = """async () => {
  const frame = () => new Promise((done) => requestAnimationFrame(done))
  const stack = document.querySelector('section.grooves')
  const before = Number(stack.dataset.stored), began = performance.now()
  document.body.dispatchEvent(new KeyboardEvent('keydown', {key: 'Enter', bubbles: true}))
  const isRight = () =>
    Number(stack.dataset.stored) !== before && stack.dataset.stored === stack.dataset.found
  while (!isRight() && performance.now() - began < 15000) await frame()
  await frame()
  return performance.now() - began
}"""
BETWEEN_MS = 150
"""A hand that goes through bars makes an edit, looks, and goes on."""


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


# Takes the first of the other readings and waits until it is the one that is shown.
_READING = """async () => {
  const frame = () => new Promise((done) => requestAnimationFrame(done))
  const taken = () => document.querySelector('.reading.taken strong').textContent
  while (document.querySelector('button.reading').disabled) await frame()
  const before = taken(), began = performance.now()
  document.querySelector('button.reading').click()
  while (taken() === before) await frame()
  return performance.now() - began
}"""
SETTLED_MS = 1500
"""The evidence and the chart have come by then."""
LOOKED_MS = 2500
"""So long one reads the choices before taking one."""


def _reading_changes(page: Any, address: str, folder: Path) -> tuple[list[float], list[float]]:
    """A song of five minutes, counted another way and back again: after a look, and at once."""
    page.goto(f"{address}/songs")
    page.locator("[data-test=file]").set_input_files(long_song(folder, 300))
    link = page.locator("a.title", has_text="300")
    link.wait_for(timeout=180_000)
    link.click()
    page.locator(".rows .row").first.wait_for()
    page.keyboard.press("Alt+1")
    page.locator("button.reading").first.wait_for()
    looked, blind = [], []
    for _ in range(CHANGES):
        page.wait_for_timeout(LOOKED_MS)
        looked.append(float(page.evaluate(_READING)))
        blind.append(float(page.evaluate(_READING)))
    return looked, blind


def _openings(page: Any, address: str, ready: str) -> list[float]:
    """From the address to what is waited for, milliseconds each."""
    found = []
    for _ in range(OPENINGS):
        page.goto("about:blank")
        began: Any = page.evaluate("Date.now()")
        page.goto(address, wait_until="commit")
        page.locator(ready).first.wait_for()
        ended: Any = page.evaluate("Date.now()")
        found.append(float(ended - began))
    return found


def _edits(page: Any) -> tuple[list[float], list[float]]:
    """Edits by key: milliseconds until redrawn, and until stored too."""
    drawn, stored = [], []
    for _ in range(EDITS):
        page.keyboard.press("ArrowRight")
        took: dict[str, float] = page.evaluate(_EDIT)
        drawn.append(took["drawn"])
        stored.append(took["stored"])
    return drawn, stored


# Scrolls the stack from end to end and tells how long each picture took.
_SCROLL = """async () => {
  const list = document.querySelector('.rows')
  const gaps = []
  let last = await new Promise(requestAnimationFrame)
  for (let k = 0; k < 180; k++) {
    list.scrollTop += 24
    const now = await new Promise(requestAnimationFrame)
    gaps.push(now - last)
    last = now
  }
  return gaps
}"""


def _long_stack(page: Any, application: Scratch, folder: Path) -> list[Waits]:
    """Eight minutes, 240 bars, one section of 200: opening, scrolling, editing."""
    file = folder / "long.json"
    file.write_text(dumps(long_score()))
    made = application.manage("store_score", "demo", "Eight minutes", str(file))
    address = f"{application.address}/songs/{made}"
    page.goto(address)
    # A bar of the stack with its evidence and its phrase above it.
    openings = _openings(page, address, ".typical .note")
    page.locator("body").click(position={"x": 5, "y": 600})
    page.keyboard.press("]")
    page.wait_for_timeout(SETTLED_MS)
    scrolled = [float(gap) for gap in page.evaluate(_SCROLL)]
    page.keyboard.press("PageDown")
    drawn, stored = _edits(page)
    return [
        summary("opening the stack of eight minutes, its phrase shown", openings),
        summary(
            "a picture while the stack of 60 bars scrolls", _sixty_bars(page, application, folder)
        ),
        summary("a picture while the stack of 200 bars scrolls", scrolled),
        summary("edit until redrawn, 200 bars in the section", drawn),
        summary("edit until stored and redrawn, 200 bars", stored),
    ]


def _until_right(page: Any, application: Scratch, folder: Path) -> list[float]:
    """240 bars in fifteen sections, edited bar by bar: milliseconds until everything is right."""
    file = folder / "usual.json"
    file.write_text(dumps(long_score(USUAL_240)))
    made = application.manage("store_score", "demo", "Two hundred and forty", str(file))
    page.goto(f"{application.address}/songs/{made}")
    page.locator(".typical .note").first.wait_for()
    page.wait_for_timeout(SETTLED_MS)
    page.locator("body").click(position={"x": 5, "y": 600})
    found = []
    for _ in range(EDITS):
        page.keyboard.press("PageDown")
        page.wait_for_timeout(BETWEEN_MS)
        found.append(float(page.evaluate(_EDIT_TO_RIGHT)))
    return found


def _sixty_bars(page: Any, application: Scratch, folder: Path) -> list[float]:
    """A section of sixty bars, scrolled through: milliseconds a picture."""
    file = folder / "sixty.json"
    file.write_text(dumps(long_score(SIXTY_BARS)))
    made = application.manage("store_score", "demo", "Sixty bars", str(file))
    page.goto(f"{application.address}/songs/{made}")
    page.locator(".typical .note").first.wait_for()
    page.wait_for_timeout(SETTLED_MS)
    return [float(gap) for gap in page.evaluate(_SCROLL)]


def measure() -> list[Waits]:
    """Start the demo on a scratch database and measure in headless Chromium."""
    with (
        scratch_application(demo=True) as application,
        browser() as opened,
        tempfile.TemporaryDirectory() as name,
    ):
        page = opened.new_page(viewport=WINDOW)
        enter_demo(page, application.address)
        page.locator("a.title").nth(2).wait_for(timeout=300_000)
        open_song(page, SONG)
        openings = _openings(page, page.url, ".rows .row")
        drawn, stored = _edits(page)
        long_ones = _long_stack(page, application, Path(name))
        right = _until_right(page, application, Path(name))
        looked, blind = _reading_changes(page, application.address, Path(name))
    return [
        summary("another reading of five minutes until redrawn", looked),
        summary("the same again the moment it is stored", blind),
        summary("edit until redrawn", drawn),
        summary("edit until stored and redrawn", stored),
        summary("opening a song", openings),
        *long_ones,
        summary("edit of one of 240 bars until everything on the page is right", right),
    ]

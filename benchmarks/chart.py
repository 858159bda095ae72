"""The chart's figures: `python -m benchmarks.chart`, and with `--screen` in the browser too."""

from __future__ import annotations

import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from benchmarks.browser import browser, enter_demo
from benchmarks.long_score import long_score
from launcher.scratch import Scratch, scratch_application
from orchesis.chart import engrave
from orchesis.chart.layout import kept_lines
from orchesis.chart.options import ChartOptions, Notation, Reading
from orchesis.chart.pages import kept_blocks
from orchesis.chart.pdf import to_pdf
from orchesis.chart.reading_pages import chart_pages
from orchesis.chart.readings import kept_sections
from orchesis.music.json import dumps
from orchesis.music.values import Transcription
from tests.hard_songs import hard_songs
from tests.overlaps import LOOKS, boxes_apart, heads_apart

BARS_120 = tuple((f"Section {index + 1}", 1 + 12 * index, 12) for index in range(10))
TIMES = 5
EDITS = 24


@dataclass(frozen=True)
class Figure:
    """A figure with its name and unit."""

    name: str
    value: float
    unit: str


def _forgotten() -> None:
    """Engrave all anew, as a process that has just started does."""
    engrave._kept.clear()
    engrave._known.clear()
    for kept in (kept_sections, kept_lines, kept_blocks):
        kept.clear()


def _median_seconds(work: Callable[[], Any], before: Callable[[], None] = lambda: None) -> float:
    found = []
    for _ in range(TIMES):
        before()
        began = time.perf_counter()
        work()
        found.append(time.perf_counter() - began)
    return statistics.median(found)


def _edited(song: Transcription, index: int) -> Transcription:
    """Without one stroke."""
    return replace(song, hits=song.hits[:index] + song.hits[index + 1 :])


def measure() -> list[Figure]:
    """A song of 120 bars, hardly two of them alike."""
    song = long_score(BARS_120)
    cold = _median_seconds(lambda: chart_pages(song, ChartOptions()), _forgotten)
    chart_pages(song, ChartOptions())
    edits = []
    for step in range(EDITS):
        other = _edited(song, 37 + step * 31)
        began = time.perf_counter()
        chart_pages(other, ChartOptions())
        edits.append(time.perf_counter() - began)
    pages = chart_pages(song, ChartOptions())
    pdf = to_pdf(pages)
    figures = [
        Figure("120 bars engraved for the first time", 1e3 * cold, "ms"),
        Figure("the same after an edit of one bar, median", 1e3 * statistics.median(edits), "ms"),
        Figure("the same after an edit, worst", 1e3 * max(edits), "ms"),
        Figure("pages", len(pages.pages), ""),
        Figure("PDF of it, pages there", 1e3 * _median_seconds(lambda: to_pdf(pages)), "ms"),
        Figure("size of the PDF", len(pdf) / 1e3, "kB"),
    ]
    for words, options in (
        ("essence", ChartOptions(reading=Reading.ESSENCE)),
        ("road map", ChartOptions(reading=Reading.ROAD_MAP)),
        ("parts", ChartOptions(reading=Reading.PARTS)),
        ("limb lines", ChartOptions(notation=Notation.LIMBS)),
    ):
        took = _median_seconds(lambda o=options: chart_pages(song, o), _forgotten)  # type: ignore[misc]
        figures.append(Figure(f"{words}, for the first time", 1e3 * took, "ms"))
    return figures


# From the key until the pages are other ones, milliseconds.
_FOLLOW = """async (key) => {
  const sheets = document.querySelector('.sheets')
  const began = performance.now()
  const done = new Promise((tell) => new MutationObserver((_, watcher) => {
    watcher.disconnect()
    // The picture after the next is the one in which it is seen.
    requestAnimationFrame(() => setTimeout(() => tell(performance.now() - began)))
  }).observe(sheets, { childList: true, subtree: true }))
  document.body.dispatchEvent(new KeyboardEvent('keydown', { key, ctrlKey: true, bubbles: true }))
  return await done
}"""

# How long the last requests took, milliseconds.
_REQUESTS = """() => Object.fromEntries(['/undo', '/redo', '/chart'].map((end) => {
  const all = performance.getEntriesByType('resource')
  const mine = all.filter((e) => e.name.split('?')[0].endsWith(end))
  const times = mine.slice(-12).map((e) => e.duration).sort((a, b) => a - b)
  return [end, times[Math.floor(times.length / 2)]]
}))"""


def on_screen() -> list[Figure]:
    """The Chart stage of a song of 120 bars in Chromium: an edit taken back and put back."""
    with (
        scratch_application(demo=True) as application,
        browser() as opened,
        tempfile.TemporaryDirectory() as name,
    ):
        page = opened.new_page(viewport={"width": 1280, "height": 800})
        enter_demo(page, application.address)
        page.locator("a.title").first.wait_for(timeout=300_000)
        return _followed(page, application, Path(name))


def _followed(page: Any, application: Scratch, folder: Path) -> list[Figure]:
    file = folder / "hundred.json"
    file.write_text(dumps(long_score(BARS_120)))
    made = application.manage("store_score", "demo", "A hundred and twenty", str(file))
    page.goto(f"{application.address}/songs/{made}")
    page.locator(".typical .note").first.wait_for()
    page.locator("body").click(position={"x": 5, "y": 600})
    page.keyboard.press("PageDown")
    page.keyboard.press("k")
    page.wait_for_timeout(800)
    began = time.perf_counter()
    page.keyboard.press("Alt+7")
    page.locator(".sheets g.note").first.wait_for(state="attached")
    first = time.perf_counter() - began
    page.wait_for_timeout(800)
    found = []
    for step in range(EDITS):
        found.append(float(page.evaluate(_FOLLOW, "y" if step % 2 else "z")))
        page.wait_for_timeout(250)
    found.sort()
    requests: dict[str, float] = page.evaluate(_REQUESTS)
    return [
        Figure("Chart stage opened until its notes are there", 1e3 * first, "ms"),
        Figure("undo or redo until the pages are right, median", statistics.median(found), "ms"),
        Figure("the same, p95", found[int(0.95 * len(found))], "ms"),
        *(Figure(f"of it the request {name}", took, "ms") for name, took in requests.items()),
    ]


def overlaps() -> Figure:
    """Things that lie on each other, in every look of every hard song."""
    found = 0
    for song in hard_songs().values():
        for look in LOOKS:
            engraving = chart_pages(song, replace(ChartOptions(), **look))
            found += len(boxes_apart(engraving)) + len(heads_apart(engraving))
    return Figure(f"overlaps in {len(hard_songs())} hard songs, {len(LOOKS)} looks each", found, "")


def table(figures: list[Figure]) -> str:
    """As the notes have it."""
    rows = [f"| {figure.name} | {figure.value:.0f} {figure.unit} |" for figure in figures]
    return "\n".join(["| what | |", "|---|---|", *rows])


if __name__ == "__main__":
    print(table([*measure(), overlaps()]))
    if "--screen" in sys.argv:
        print(table(on_screen()))

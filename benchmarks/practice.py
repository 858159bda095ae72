"""Playing along, measured in the browser against its audio clock: `python -m benchmarks.practice`.

What leaves for the loudspeaker is caught inside the page, sample by sample: how even the click is,
whether a long loop drifts, how far the picture is from the sound, how soon a muted limb is silent,
how much of a core the player takes, and whether a slowed record has its strokes once.

    python -m benchmarks.practice [--minutes 10]
"""

from __future__ import annotations

import argparse
import base64
import contextlib
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from benchmarks.browser import WINDOW, browser, enter_demo, open_song
from launcher.places import FRONTEND
from launcher.scratch import scratch_application
from orchesis.music.instruments import Instrument
from orchesis.music.json import dumps
from orchesis.practice.ladder import BEYOND
from tests.composing import song

SONG = "Rain on the Awning"
SPEEDS = (0.5, 0.7, 1.0)
Samples = npt.NDArray[np.float32]

# Runs on the audio thread: hands over what passes, with the frame at which it passed. On a busy
# machine the clock's frame is sometimes that of the round before when it is read: the later of the
# clock and of our own count is the right one.
TAP_PROCESSOR = """
registerProcessor('tap', class extends AudioWorkletProcessor {
  constructor() {
    super()
    this.block = new Float32Array(4096)
    this.start = currentFrame
    this.next = currentFrame
  }
  process([input]) {
    const frame = Math.max(currentFrame, this.next)
    this.next = frame + 128
    if (frame - this.start >= 4096) {
      this.port.postMessage({ start: this.start, block: this.block.slice() })
      this.block.fill(0)
      this.start = frame
    }
    if (input[0]) this.block.set(input[0], frame - this.start)
    return true
  }
})
"""
# Everything that is connected to the loudspeaker also goes there.
TAP = """() => {
  const connect = AudioNode.prototype.connect
  window.tap = { blocks: [], start: null, rate: 0, isOn: false, context: null }
  AudioNode.prototype.connect = function (target, ...rest) {
    if (target instanceof AudioDestinationNode && !(this instanceof AudioWorkletNode)) {
      const { context } = this
      tap.rate = context.sampleRate
      tap.context = context
      void context.audioWorklet.addModule('/static/tap.js').then(() => {
        const listen = new AudioWorkletNode(context, 'tap')
        listen.port.onmessage = ({ data }) => {
          if (!tap.isOn) return
          tap.start ??= data.start
          tap.blocks.push(data)
        }
        connect.call(this, listen)
        // It says nothing, but what leads nowhere is not asked for sound.
        connect.call(listen, target)
      })
    }
    return connect.call(this, target, ...rest)
  }
}"""
TAKE = """() => {
  tap.isOn = false
  const end = tap.blocks.at(-1).start + 4096
  const all = new Float32Array(end - tap.start)
  for (const { start, block } of tap.blocks) all.set(block, start - tap.start)
  const bytes = new Uint8Array(all.buffer)
  let text = ''
  for (let at = 0; at < bytes.length; at += 32768)
    text += String.fromCharCode(...bytes.subarray(at, at + 32768))
  const stamp = tap.context.getOutputTimestamp()
  const found = { data: btoa(text), start: tap.start / tap.rate, rate: tap.rate, stamp }
  tap.blocks = []
  tap.start = null
  return found
}"""
# Where the picture is at each of its frames, on the page's clock.
WATCH = """(seconds) => new Promise((done) => {
  const found = [], began = performance.now()
  const look = () => {
    const output = document.querySelector('[data-test=head]')
    if (output) found.push([performance.now(), Number(output.dataset.seconds)])
    if (performance.now() - began < seconds * 1000) requestAnimationFrame(look)
    else done(found)
  }
  requestAnimationFrame(look)
})"""


@dataclass(frozen=True)
class Found:
    """What was measured, and what is aimed at."""

    name: str
    value: float
    unit: str
    aim: str


SILENCE_BEFORE = 0.01
"""Seconds of silence at its beginning by which a recording tells that nothing sounded yet."""


def onsets(samples: Samples, rate: float, *, quiet: float, apart: float) -> npt.NDArray[np.float64]:
    """Seconds at which sound sets in after silence, to the sample.

    samples : mono. quiet : level below which nothing is heard. apart : least distance in seconds.

    What sounds already when a recording begins has set in before it: when, nobody can tell.
    """
    loud = np.flatnonzero(np.abs(samples) > quiet)
    found: list[float] = []
    for at in loud:
        if not found or at / rate - found[-1] > apart:
            found.append(at / rate)
    return np.array([time for time in found if time > SILENCE_BEFORE])


def _taken(page: Any) -> tuple[Samples, float, float, dict[str, float]]:
    caught: dict[str, Any] = page.evaluate(TAKE)
    samples = np.frombuffer(base64.b64decode(caught["data"]), np.float32)
    return samples, float(caught["start"]), float(caught["rate"]), caught["stamp"]


def _settings(page: Any, **sound: Any) -> None:
    page.evaluate(
        "(more) => localStorage.setItem('orchesis.practice-sound', JSON.stringify({"
        "click: 'quarters', isTested: false, voice: false, record: 'off', kit: false,"
        "countIn: 0, climbs: false, protection: 0, ...more}))",
        sound,
    )


def _open_player(page: Any, address: str, **sound: Any) -> None:
    _settings(page, **sound)
    page.goto(address)
    page.locator("nav.stages button").last.click()
    page.locator("[data-test=practise]").wait_for(timeout=60_000)
    page.keyboard.press("ArrowUp")
    page.keyboard.press("Enter")
    page.locator("[data-test=practice-play]").wait_for()


def _record(page: Any, seconds: float) -> tuple[Samples, float, float, dict[str, float]]:
    page.evaluate("tap.isOn = true")
    page.wait_for_timeout(seconds * 1000)
    return _taken(page)


def _to_speed(page: Any, share: float) -> float:
    """The rung nearest to a share of the tempo; gives back its share."""
    shown = page.locator(".tempo .quiet")
    for _ in range(12):
        page.keyboard.press("ArrowLeft")
    for _ in range(14):
        now = int(shown.inner_text().split("%")[0]) / 100
        if now >= share:
            break
        page.keyboard.press("ArrowRight")
    return float(page.evaluate("""() => Number(document.querySelector('.bpm').textContent)"""))


def click_evenness(page: Any, address: str, minutes: float, beat_seconds: float) -> list[Found]:
    """How even the click is at several tempi, and how far a long loop drifts."""
    worst = 0.0
    _open_player(page, address)
    for share in SPEEDS:
        _to_speed(page, share)
        page.keyboard.press("Space")
        page.wait_for_timeout(1500)
        samples, start, rate, _ = _record(page, 12)
        page.keyboard.press("Space")
        times = start + onsets(samples, rate, quiet=0.01, apart=0.15)
        worst = max(worst, _unevenness(times))
    found = [Found("click, farthest from even", 1000 * worst, "ms", "< 2")]
    found.append(_while_busy(page))
    # The highest rung is the only one whose share is known to every digit.
    for _ in range(14):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("Space")
    page.wait_for_timeout(1500)
    first = _beats_of(page)
    page.wait_for_timeout(minutes * 60_000)
    last = _beats_of(page)
    beat = float(np.median(np.diff(first)))
    # A straight line through the first beats tells where the last ones must be.
    slope, at = np.polyfit(np.arange(len(first)), first, 1)
    number = np.round((last - at) / slope)
    exact = (last[-1] - first[0]) / round((last[-1] - first[0]) / beat)
    drift = float(np.max(np.abs(last - (first[0] + exact * np.round((last - first[0]) / exact)))))
    assert number[-1] > number[0]
    page.keyboard.press("Space")
    found.append(Found(f"drift of a loop of {minutes:g} minutes", 1000 * drift, "ms", "none"))
    tempo = abs(exact * BEYOND / beat_seconds - 1)
    return [*found, Found("its tempo, away from the written one", 100 * tempo, "%", "0")]


# As a garbage collection, a long drawing or another window would: nothing else of the page runs.
BUSY = """() => { window.busy = setInterval(() => {
  const began = performance.now()
  while (performance.now() - began < 600);
}, 1100) }"""


def _while_busy(page: Any) -> Found:
    """How even the click is while the page can do nothing else for 0.6 s at a time."""
    page.keyboard.press("Space")
    page.wait_for_timeout(1500)
    page.evaluate(BUSY)
    samples, start, rate, _ = _record(page, 12)
    page.evaluate("clearInterval(window.busy)")
    page.keyboard.press("Space")
    times = start + onsets(samples, rate, quiet=0.01, apart=0.15)
    return Found("the same, on a page busy for 0.6 s", 1000 * _unevenness(times), "ms", "< 2")


def _beats_of(page: Any) -> npt.NDArray[np.float64]:
    samples, start, rate, _ = _record(page, 8)
    return start + onsets(samples, rate, quiet=0.01, apart=0.15)


def _unevenness(times: npt.NDArray[np.float64]) -> float:
    number = np.arange(len(times))
    slope, at = np.polyfit(number, times, 1)
    return float(np.max(np.abs(times - (slope * number + at))))


def sight_and_sound(page: Any, address: str, start_of_bar: float) -> Found:
    """How far the playhead is from the click that sounds, at each click."""
    _open_player(page, address)
    worst: list[float] = []
    for share in SPEEDS:
        _to_speed(page, share)
        page.keyboard.press("Space")
        page.wait_for_timeout(1500)
        page.evaluate("tap.isOn = true")
        frames = np.array(page.evaluate(WATCH, 8), dtype=float)
        samples, start, rate, stamp = _taken(page)
        page.keyboard.press("Space")
        clicks = start + onsets(samples, rate, quiet=0.01, apart=0.15)
        moments = stamp["performanceTime"] + 1000 * (clicks - stamp["contextTime"])
        for moment in moments:
            if frames[0, 0] < moment < frames[-1, 0]:
                # What is in sight at that moment: the last picture before it.
                seen = frames[np.searchsorted(frames[:, 0], moment) - 1, 1] - start_of_bar
                away = abs((seen + 0.25) % 0.5 - 0.25)
                worst.append(float(away))
    return Found(
        "picture and sound apart, 95 %", 1000 * float(np.quantile(worst, 0.95)), "ms", "< 20"
    )


def muting(page: Any, address: str) -> Found:
    """How long after its key a limb is still heard."""
    _open_player(page, address, click="", kit=True)
    page.keyboard.press("Space")
    page.wait_for_timeout(2500)
    late: list[float] = []
    for _ in range(8):
        page.evaluate("tap.isOn = true")
        page.wait_for_timeout(700)
        pressed: float = page.evaluate(
            """() => { const at = tap.context.currentTime
            document.body.dispatchEvent(new KeyboardEvent('keydown', {key: '1', bubbles: true}))
            return at }"""
        )
        page.wait_for_timeout(700)
        samples, start, rate, _ = _taken(page)
        flux = np.diff(np.abs(samples), prepend=0)
        heard = start + onsets(np.maximum(flux, 0).astype(np.float32), rate, quiet=0.02, apart=0.03)
        after = heard[heard > pressed]
        late.append(float(after.max() - pressed) if after.size else 0.0)
        page.keyboard.press("1")
        page.wait_for_timeout(400)
    page.keyboard.press("Space")
    return Found("a muted limb is still struck for", 1000 * max(late), "ms", "< 50")


def cpu_share(page: Any, address: str) -> Found:
    """How much of a core all of the browser takes while it plays, without what listens here."""
    page.goto("about:blank")
    page = page.context.new_page()
    page.goto(address)
    _open_player(page, address, kit=True, voice=True)
    page.keyboard.press("Space")
    page.wait_for_timeout(4000)
    before, began = _cpu_seconds(), time.monotonic()
    page.wait_for_timeout(15_000)
    share = (_cpu_seconds() - before) / (time.monotonic() - began)
    page.close()
    return Found(
        "of a core while playing, drawing by the processor included", 100 * share, "%", "< 25"
    )


def _cpu_seconds() -> float:
    ticks = 0
    for folder in Path("/proc").iterdir():
        if not folder.name.isdigit():
            continue
        try:
            if b"chromium" not in (folder / "cmdline").read_bytes():
                continue
            fields = (folder / "stat").read_text().rpartition(")")[2].split()
        except OSError:
            continue
        ticks += int(fields[11]) + int(fields[12])
    return ticks / os.sysconf("SC_CLK_TCK")


FROM_SECOND, COUNTED_SECONDS = 4.0, 20.0


def stretched_strokes(page: Any, address: str) -> Found:
    """How many strokes the record has at 60 %, against itself at its own speed."""
    counts = {}
    for share in (1.0, 0.6):
        page.goto(address)
        page.evaluate(
            """(share) => { for (const key of Object.keys(localStorage))
            if (key.startsWith('orchesis.player')) localStorage.removeItem(key) }""",
            share,
        )
        page.reload()
        page.locator(".rows .row").first.wait_for()
        page.wait_for_timeout(500)
        for _ in range(round((1.0 - share) * 20)):
            page.keyboard.press("-")
        page.keyboard.press("Space")
        page.wait_for_timeout(3000)
        page.evaluate("tap.isOn = true")
        began = float(page.locator("[data-test=time]").get_attribute("data-seconds"))
        page.wait_for_timeout(26_000 / share)
        samples, _, rate, _ = _taken(page)
        page.keyboard.press("Space")
        # The same twenty seconds of the song at both speeds.
        first = round((FROM_SECOND - began) / share * rate)
        cut = samples[first : first + round(COUNTED_SECONDS / share * rate)]
        counts[share] = _strokes(cut, rate, share)
    change = 100 * abs(counts[0.6] / counts[1.0] - 1)
    return Found("strokes of a record at 60 % more or fewer", change, "%", "< 3")


def _strokes(samples: Samples, rate: float, share: float) -> int:
    """Peaks of spectral flux; windows are as long in the song's time at every speed."""
    hop = round(0.01 / share * rate)
    size = 4 * hop
    count = 1 + (len(samples) - size) // hop
    frames = np.lib.stride_tricks.sliding_window_view(samples, size)[::hop][:count]
    spectrum = np.log1p(100 * np.abs(np.fft.rfft(frames * np.hanning(size))))
    flux = np.maximum(np.diff(spectrum, axis=0), 0).mean(axis=1)
    peaks = 0
    for at in range(5, len(flux) - 5):
        around = flux[at - 5 : at + 6]
        peaks += bool(
            flux[at] == around.max() and flux[at] > 1.8 * np.median(flux[max(0, at - 40) : at + 40])
        )
    return peaks


@contextlib.contextmanager
def _tap_served() -> Iterator[None]:
    """What listens is a file beside the pages for as long as it is needed: none other is let in."""
    file = FRONTEND / "dist" / "tap.js"
    file.write_text(TAP_PROCESSOR)
    try:
        yield
    finally:
        file.unlink()


def measure(minutes: float) -> Iterator[Found]:
    """All of it, on a scratch application; each figure as soon as it is there."""
    hats = {
        Instrument.HIHAT_CLOSED: "x" * 16,
        Instrument.SNARE: "....X.......X...",
        Instrument.KICK: "x.......x.......",
    }
    piece = song([hats] * 8)
    with (
        scratch_application(demo=True) as application,
        _tap_served(),
        browser() as opened,
        tempfile.TemporaryDirectory() as folder,
    ):
        page = opened.new_context(viewport=WINDOW, service_workers="block").new_page()
        page.add_init_script(f"({TAP})()")
        enter_demo(page, application.address)
        page.locator("a.title").nth(2).wait_for(timeout=300_000)
        file = Path(folder) / "even.json"
        file.write_text(dumps(piece))
        silence = Path(folder) / "silence.ogg"
        quiet = ["-f", "lavfi", "-i", "anullsrc=r=44100:cl=stereo", "-t", str(piece.bars[-1].end)]
        subprocess.run(["ffmpeg", "-v", "error", *quiet, str(silence)], check=True)
        made = application.manage("store_score", "demo", "Even", str(file), "--audio", str(silence))
        even = f"{application.address}/songs/{made}"
        open_song(page, SONG)
        demo = page.url
        beat = (piece.bars[1].start - piece.bars[0].start) / 4
        yield from click_evenness(page, even, minutes, beat)
        yield sight_and_sound(page, even, piece.bars[0].start)
        yield muting(page, even)
        yield cpu_share(page, even)
        yield stretched_strokes(page, demo)


def main() -> int:
    """Print a line a figure."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--minutes", type=float, default=10.0)
    for found in measure(asked.parse_args().minutes):
        print(f"{found.name}: {found.value:.2f} {found.unit} (aim {found.aim})", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())

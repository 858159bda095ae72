"""Planted pocket and swing, found again in sound: `python -m benchmarks.pocket`.

Grooves with voices that sit off the grid by known amounts are put together of the shipped kit's
samples, alone and under a bass and chords; they are listened to as any recording is. What a grid is
late by as a whole nobody can tell, so voices are compared with the kick.
"""

from __future__ import annotations

import subprocess
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from statistics import median
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from scipy.io import wavfile

from orchesis.feel.pocket import pockets
from orchesis.music.instruments import Instrument
from orchesis.music.values import Feel
from orchesis.pipeline import transcribe
from orchesis.rhythm.feel import feel_report
from orchesis.rhythm.swing import warp

KIT = Path(__file__).resolve().parent.parent / "frontend" / "public" / "kit"
RATE = 44_100
BARS = 28
LEAD_IN = 0.8
BEFORE_ATTACK = 0.002
"""Of a shipped sample: see `demo.render_kit`."""

ROWS = {
    Instrument.HIHAT_CLOSED: "x.x.x.x.x.x.x.x.",
    Instrument.SNARE: "....X..g....X..g",
    Instrument.KICK: "x.....x.x.x.....",
}
Sound = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Case:
    """A groove: its tempo, how late hat and snare are in milliseconds, how much it swings."""

    bpm: float
    hat_ms: float
    snare_ms: float
    feel: Feel


class Stroke(NamedTuple):
    """When, on what, and how: x, X for accents, g for ghosts."""

    time: float
    instrument: Instrument
    sign: str


CASES = (
    Case(88, -6, 14, Feel(1.0, 1.0)),
    Case(104, 5, -9, Feel(1.0, 1.0)),
    Case(96, 0, 11, Feel(1.0, 1.5)),
    Case(120, -8, 0, Feel(1.0, 1.0)),
    Case(112, 4, 18, Feel(1.0, 1.35)),
    Case(132, 0, -6, Feel(1.7, None)),
)


@cache
def _sample(instrument: Instrument, layer: str) -> Sound:
    command = ["ffmpeg", "-v", "error", "-i", str(KIT / f"{instrument.value}-{layer}-1.ogg"),
               "-ac", "1", "-ar", str(RATE), "-f", "f32le", "-"]  # fmt: skip
    raw = subprocess.run(command, capture_output=True, check=True).stdout
    sound: Sound = np.frombuffer(raw, dtype="<f4").astype(np.float64)
    return sound


def strokes(case: Case, *, bars: int = BARS, seed: int = 3) -> Iterator[Stroke]:
    """The strokes of a case; each a hair off its due time, as people play."""
    rng = np.random.default_rng(seed)
    beat = 60.0 / case.bpm
    late = {Instrument.HIHAT_CLOSED: case.hat_ms, Instrument.SNARE: case.snare_ms}
    for bar in range(bars):
        for instrument, row in ROWS.items():
            for cell, sign in enumerate(row):
                if sign == ".":
                    continue
                place = warp((cell % 4) / 4, case.feel)
                due = LEAD_IN + (bar * 4 + cell // 4 + place) * beat
                time = due + late.get(instrument, 0.0) / 1000 + rng.normal(0, 0.003)
                yield Stroke(time, instrument, sign)


def render(case: Case, *, with_band: bool, bars: int = BARS) -> Sound:
    """The sound of a case."""
    beat = 60.0 / case.bpm
    out = np.zeros(int((bars * 4 * beat + 3.0) * RATE))
    for stroke in strokes(case, bars=bars):
        sample = _sample(stroke.instrument, "soft" if stroke.sign == "g" else "loud")
        gain = {"x": 0.5, "X": 0.7, "g": 0.4}[stroke.sign]
        start = int((stroke.time - BEFORE_ATTACK) * RATE)
        end = min(len(out), start + len(sample))
        out[start:end] += gain * sample[: end - start]
    if with_band:
        out += _band(case, len(out), beat, bars)
    loudest = float(np.max(np.abs(out)))
    return 0.9 / loudest * out


def _band(case: Case, length: int, beat: float, bars: int) -> Sound:
    """A bass that follows the kick's eighths, and chords held over each bar."""
    time = np.arange(length) / RATE
    out = np.zeros(length)
    roots = (55.0, 65.4, 49.0, 73.4)
    for bar in range(bars):
        root = roots[bar % 4]
        for eighth in range(8):
            place = warp((eighth % 2) / 2, case.feel)
            at = LEAD_IN + (bar * 4 + eighth // 2 + place) * beat
            inside = (time >= at) & (time < at + 0.45 * beat)
            since = time[inside] - at
            tone = sum(np.sin(2 * np.pi * root * n * since) / n for n in range(1, 8))
            out[inside] += 0.16 * tone * np.exp(-3 * since) * np.minimum(1, since / 0.008)
        start = LEAD_IN + bar * 4 * beat
        inside = (time >= start) & (time < start + 4 * beat)
        since = time[inside] - start
        for ratio in (4.0, 5.04, 5.99):
            out[inside] += (
                0.05 * np.sin(2 * np.pi * root * ratio * since) * np.minimum(1, since / 0.05)
            )
    return out


@dataclass(frozen=True)
class Found:
    """A case as it was found: errors of hat and backbeat in ms, and of the swing ratio."""

    case: Case
    with_band: bool
    errors_ms: dict[str, float]
    swing_error: float


def measure(case: Case, *, with_band: bool) -> Found:
    """Render, listen, compare."""
    with tempfile.TemporaryDirectory() as name:
        path = Path(name) / "groove.wav"
        sound = render(case, with_band=with_band)
        wavfile.write(path, RATE, (sound * 32767).astype(np.int16))
        song = transcribe(path).transcription
    found = {pocket.voice: pocket.ms for pocket in pockets(song.bars, song.hits, song.feel)}
    kick = found.get("kick", 0.0)
    planted = {"hat and ride": case.hat_ms, "backbeat": case.snare_ms}
    errors = {voice: found[voice] - kick - planted[voice] for voice in planted if voice in found}
    true = case.feel.swing_16 if case.feel.swing_16 is not None else case.feel.swing_8
    report = feel_report(song.bars, song.hits, half_time=False)
    heard = report.swing_16 if case.feel.swing_16 is not None else report.swing_8
    ratio = heard.value if heard is not None else 1.0
    return Found(case, with_band, errors, abs(ratio - (true or 1.0)))


def table(found: list[Found]) -> str:
    """As the notes have it."""
    rows = ["| tempo | hat, snare planted | swing | in | error of hat, backbeat, ms | of swing |",
            "|---|---|---|---|---|---|"]  # fmt: skip
    for one in found:
        case = one.case
        errors = ", ".join(f"{name} {value:+.1f}" for name, value in one.errors_ms.items())
        swing = case.feel.swing_16 if case.feel.swing_16 is not None else case.feel.swing_8
        where = "mix" if one.with_band else "drums alone"
        rows.append(
            f"| {case.bpm:.0f} | {case.hat_ms:+.0f}, {case.snare_ms:+.0f} | {swing} | {where} "
            f"| {errors} | {one.swing_error:.2f} |"
        )
    for with_band in (False, True):
        mine = [one for one in found if one.with_band is with_band]
        sizes = [abs(error) for one in mine for error in one.errors_ms.values()]
        where = "mixes" if with_band else "drums alone"
        if sizes:
            rows.append(f"\n{where}: median {median(sizes):.1f} ms, worst {max(sizes):.1f} ms")
    return "\n".join(rows)


def main() -> None:
    """Measure all cases."""
    print(table([measure(case, with_band=band) for band in (False, True) for case in CASES]))


if __name__ == "__main__":
    main()

"""Composed bars with known answers, for every test: drum rows as strings, one sign a cell."""

from __future__ import annotations

from fractions import Fraction

import numpy as np

from orchesis.listening.ear import Heard, Onset
from orchesis.music.instruments import Instrument
from orchesis.music.values import Bar, Feel, Hit, Meter, Section, Transcription, in_order

ROCK = {
    Instrument.HIHAT_CLOSED: "x.x.x.x.x.x.x.x.",
    Instrument.SNARE: "....X.......X...",
    Instrument.KICK: "x.......x.......",
}


def grid(bars: int, *, bpm: float = 120.0, beats: int = 4, start: float = 0.5) -> tuple[Bar, ...]:
    """Bars at a steady tempo."""
    beat = 60.0 / bpm
    return tuple(
        Bar(
            number=index + 1,
            start=start + index * beats * beat,
            end=start + (index + 1) * beats * beat,
            meter=Meter(beats, 4),
            beats=tuple(start + (index * beats + step) * beat for step in range(beats)),
            divisions=(4,) * beats,
        )
        for index in range(bars)
    )


def hits(bar: Bar, rows: dict[Instrument, str]) -> list[Hit]:
    """The strokes of drum rows: x normal, X accent, g ghost."""
    return [
        Hit(
            time=bar.time_at(Fraction(cell, len(row))),
            instrument=instrument,
            velocity={"x": 84, "X": 112, "g": 30}[sign],
            bar=bar.number,
            position=Fraction(cell, len(row)),
            ghost=sign == "g",
            accent=sign == "X",
        )
        for instrument, row in rows.items()
        for cell, sign in enumerate(row)
        if sign != "."
    ]


def song(
    bar_rows: list[dict[Instrument, str]], *, beats: int = 4, bpm: float = 120.0, **values: object
) -> Transcription:
    """A song of these bars at a steady tempo."""
    bars = grid(len(bar_rows), beats=beats, bpm=bpm)
    strokes = [hit for bar, rows in zip(bars, bar_rows, strict=True) for hit in hits(bar, rows)]
    return Transcription(
        tempo_bpm=bpm,
        meter=Meter(beats, 4),
        beats=tuple(beat for bar in bars for beat in bar.beats),
        bars=bars,
        sections=(Section("Verse", bars[0].start, bars[-1].end, len(bars), 1),),
        hits=tuple(sorted(strokes, key=in_order)),
        feel=Feel(1.0, 1.0),
        title="Composed",
        duration=bars[-1].end + 1.0,
        **values,  # type: ignore[arg-type]
    )


def heard(onsets: list[tuple[float, Instrument, float]], duration: float) -> Heard:
    """What an ear would report of these strokes: (seconds, instrument, loudness)."""
    frames = int(duration * 100) + 1
    pulse, low = (np.zeros(frames, np.float32) for _ in range(2))
    for time, instrument, loudness in onsets:
        frame = round(time * 100)
        if instrument is Instrument.KICK:
            low[frame] = max(low[frame], loudness)
        pulse[frame] = max(pulse[frame], loudness * (0.5 if "hat" in instrument.value else 1.0))
    return Heard(
        onsets=tuple(
            sorted((Onset(t, i, loud, 0.9) for t, i, loud in onsets), key=lambda o: o.time)
        ),
        frame_rate=100.0,
        pulse=pulse,
        low=low,
        change=np.zeros(frames, np.float32),
        downbeat=np.zeros(frames, np.float32),
    )


def click_track(times: list[float], seconds: float, rate: int = 44_100) -> np.ndarray:
    """Short noise bursts with a low thump: something that any beat tracker hears."""
    rng = np.random.default_rng(3)
    samples = np.zeros(int(seconds * rate), np.float32)
    length = int(0.06 * rate)
    decay = np.exp(-np.arange(length) / (0.012 * rate))
    thump = np.sin(2 * np.pi * 70 * np.arange(length) / rate)
    burst = (0.5 * rng.normal(size=length) + thump) * decay * 0.5
    for time in times:
        at = int(time * rate)
        if at + length < len(samples):
            samples[at : at + length] += burst.astype(np.float32)
    return samples


def kick_and_snare(times: list[float], seconds: float, rate: int = 44_100) -> np.ndarray:
    """A kick and a snare in turn, of our own synthesis: drums, where clicks are none to the ear."""
    rng = np.random.default_rng(3)
    t = np.arange(rate // 3) / rate
    sweep = 50 * t + 3.6 * (1 - np.exp(-t / 0.03))
    beater = 0.15 * rng.normal(size=len(t)) * np.exp(-t / 0.004)
    kick = np.sin(2 * np.pi * sweep) * np.exp(-t / 0.09) + beater
    wires = 0.6 * rng.normal(size=len(t)) * np.exp(-t / 0.07)
    snare = 0.5 * np.sin(2 * np.pi * 190 * t) * np.exp(-t / 0.06) + wires
    samples = np.zeros(int(seconds * rate), np.float32)
    for number, time in enumerate(times):
        at = int(time * rate)
        stroke = 0.6 * (snare if number % 2 else kick)[: len(samples) - at]
        samples[at : at + len(stroke)] += stroke.astype(np.float32)
    return samples

"""A small language for composing the demo songs: bars of drum strings, a band, a tempo curve.

A drum row is a string with one sign a cell: `.` rest, `x` normal, `X` accent, `g` ghost,
`o` open (hat only). The number of cells says how the bar is divided.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property
from itertools import accumulate

import numpy as np

from orchesis.music.instruments import Instrument
from orchesis.music.values import Bar, Feel, Fill, Hit, Meter, Section, Transcription, in_order

DRUM_KEYS: dict[Instrument, int] = {
    Instrument.KICK: 36,
    Instrument.SNARE: 38,
    Instrument.CROSS_STICK: 37,
    Instrument.HIHAT_CLOSED: 42,
    Instrument.HIHAT_OPEN: 46,
    Instrument.HIHAT_FOOT: 44,
    Instrument.RIDE: 51,
    Instrument.CRASH: 49,
    Instrument.TOM_HIGH: 50,
    Instrument.TOM_MID: 47,
    Instrument.TOM_FLOOR: 43,
}

_LOUDNESS = {"x": 84, "X": 112, "g": 34, "o": 92}


@dataclass(frozen=True)
class Note:
    """A note of the band: start and length in beats from the start of its bar."""

    channel: int
    start: float
    length: float
    pitch: int
    velocity: int


@dataclass(frozen=True)
class PlannedBar:
    """One bar as composed: drum rows by instrument, band notes, whether its end is a fill.

    meter : where it is not the song's own.
    """

    drums: dict[Instrument, str]
    band: tuple[Note, ...] = ()
    fill_from: Fraction | None = None
    loudness: float = 1.0
    meter: Meter | None = None


@dataclass
class Song:
    """A composed song. `bpm(beat)` is the tempo at a beat counted from the start."""

    slug: str
    title: str
    meter: Meter
    bpm: Callable[[int], float]
    sections: list[tuple[str, list[PlannedBar]]]
    programs: dict[int, tuple[int, int, int]]
    swing_8: float = 1.0
    swing_16: float = 1.0
    pocket_ms: dict[Instrument, float] = field(default_factory=dict)
    jitter_ms: float = 4.0
    lead_in: float = 0.6
    seed: int = 1

    @property
    def bars(self) -> list[PlannedBar]:
        """All bars, in order."""
        return [bar for _, bars in self.sections for bar in bars]

    @cached_property
    def firsts(self) -> list[int]:
        """The index of each bar's first beat, and the number of beats of the whole."""
        counts = ((bar.meter or self.meter).beats for bar in self.bars)
        return list(accumulate(counts, initial=0))


def beat_times(song: Song) -> np.ndarray:
    """Time of every beat and of the end of the last bar, in seconds.

    `song.bpm` counts quarters; a beat of 7/8 is half as long.
    """
    lengths = [
        240.0 / song.bpm(beat) / (planned.meter or song.meter).unit
        for first, end, planned in zip(song.firsts, song.firsts[1:], song.bars, strict=False)
        for beat in range(first, end)
    ]
    return song.lead_in + np.concatenate([[0.0], np.cumsum(lengths)])


def swung(place: float, swing_8: float, swing_16: float) -> float:
    """Where a place within the beat (0 to 1) sounds under swing.

    The eighth off-beat moves first, then the sixteenths between eighths, each pair in the
    ratio long:short.
    """
    half = swing_8 / (1.0 + swing_8)
    quarter = swing_16 / (1.0 + swing_16)
    knots = [0.0, half * quarter, half, half + (1.0 - half) * quarter, 1.0]
    return float(np.interp(place, [0.0, 0.25, 0.5, 0.75, 1.0], knots))


def sounding_time(song: Song, beats: np.ndarray, bar: int, place: float) -> float:
    """Seconds at which something `place` beats into bar index `bar` is due, swing included."""
    whole = int(place)
    index = min(song.firsts[bar] + whole, len(beats) - 2)
    within = swung(place - whole, song.swing_8, song.swing_16)
    return float(beats[index] + within * (beats[index + 1] - beats[index]))


def divisions_of(bar: PlannedBar, beats: int) -> tuple[int, ...]:
    """Into how many parts each beat is written: the coarsest that holds all its notes."""
    divisions = []
    for beat in range(beats):
        parts = 1
        for row in bar.drums.values():
            for cell, sign in enumerate(row):
                place = Fraction(cell * beats, len(row)) - beat
                if sign != "." and 0 <= place < 1:
                    parts = max(parts, place.denominator)
        divisions.append(parts)
    return tuple(divisions)


def true_score(song: Song, attack_lag: dict[Instrument, float]) -> Transcription:
    """The known answer: every stroke that is rendered, at the time at which it sounds.

    attack_lag : seconds from the note-on to the sound's measured attack, by instrument.
    """
    rng = np.random.default_rng(song.seed)
    beats = beat_times(song)
    bars, hits, fills, sections = [], [], [], []
    for index, planned in enumerate(song.bars):
        meter = planned.meter or song.meter
        a_bar, first_beat = meter.beats, song.firsts[index]
        start, end = beats[first_beat], beats[first_beat + a_bar]
        bars.append(
            Bar(
                number=index + 1,
                start=float(start),
                end=float(end),
                meter=meter,
                beats=tuple(float(t) for t in beats[first_beat : first_beat + a_bar]),
                divisions=divisions_of(planned, a_bar),
            )
        )
        for instrument, row in planned.drums.items():
            for cell, sign in enumerate(row):
                if sign == ".":
                    continue
                played = Instrument.HIHAT_OPEN if sign == "o" else instrument
                position = Fraction(cell, len(row))
                due = sounding_time(song, beats, index, float(position) * a_bar)
                human = rng.normal(0.0, song.jitter_ms) + song.pocket_ms.get(played, 0.0)
                loudness = _LOUDNESS[sign] * planned.loudness * (1.0 + rng.normal(0.0, 0.06))
                hits.append(
                    Hit(
                        time=max(0.0, due + human / 1000.0 + attack_lag.get(played, 0.0)),
                        instrument=played,
                        velocity=int(np.clip(loudness, 8, 127)),
                        bar=index + 1,
                        position=position,
                        ghost=sign == "g",
                        accent=sign == "X",
                    )
                )
        if planned.fill_from is not None:
            fills.append(Fill(bars[-1].time_at(planned.fill_from), float(end), index + 1))
    first = 0
    for label, members in song.sections:
        last = first + len(members)
        sections.append(
            Section(label, bars[first].start, bars[last - 1].end, len(members), first + 1)
        )
        first = last
    ratio_8 = song.swing_8 if any(2 in bar.divisions for bar in bars) else None
    ratio_16 = song.swing_16 if any(4 in bar.divisions for bar in bars) else None
    return Transcription(
        tempo_bpm=float(60.0 / np.median(np.diff(beats))),
        meter=song.meter,
        beats=tuple(float(t) for t in beats[:-1]),
        bars=tuple(bars),
        sections=tuple(sections),
        hits=tuple(sorted(hits, key=in_order)),
        fills=tuple(fills),
        feel=Feel(ratio_8, ratio_16),
        title=song.title,
        duration=float(beats[-1]) + 2.5,
    )

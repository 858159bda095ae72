"""Composed songs with known answers for the grid, the feel and the form: one for each trap.

Each case is a whole song (intro, verses, choruses, a bridge of nine bars) in one metre and feel,
with bass, chords and a lead that follow the form, played by people (7 ms of scatter). They are
rendered with FluidSynth and FluidR3 when the benchmark runs. Thresholds were chosen on `varied`
songs, not on these.
"""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path

import mido
import numpy as np

from demo.render import synthesise, write_midi
from demo.score import DRUM_KEYS, swung
from orchesis.music.instruments import Instrument as I

Rows = dict[I, str]
SIGNS = {"x": 84, "X": 112, "g": 36, "o": 92}
MINOR, MAJOR = (0, 3, 7), (0, 4, 7)
VERSE_CHORDS = ((45, MINOR), (41, MAJOR), (36, MAJOR), (43, MAJOR))
CHORUS_CHORDS = ((41, MAJOR), (43, MAJOR), (45, MINOR), (40, MINOR))
BRIDGE_CHORDS = ((38, MINOR), (46, MAJOR), (39, MAJOR))


@dataclass(frozen=True)
class Groove:
    """What each kind of section plays, one bar each; the number of cells is that of the bar."""

    verse: Rows
    chorus: Rows
    bridge: Rows
    fill: Rows


@dataclass(frozen=True)
class Case:
    """A song. `beats` a bar are felt beats; the groove's cells divide them evenly."""

    name: str
    groove: Groove
    bpm: Callable[[int, int], float]
    beats: int = 4
    form: tuple[tuple[str, int], ...] = (
        ("Intro", 4),
        ("Verse", 8),
        ("Chorus", 8),
        ("Verse", 8),
        ("Chorus", 8),
        ("Bridge", 9),
        ("Chorus", 8),
        ("Outro", 4),
    )
    swing_8: float | None = 1.0
    swing_16: float | None = None
    half_time: bool = False
    odd_bar: int | None = None
    pick_up: bool = False
    stop: tuple[int, int] | None = None
    fade_from: int | None = None
    silent_intro: bool = False
    lead_in: float = 0.7
    readings: tuple[int, ...] = ()
    """Beats a bar that are as good an answer as `beats`."""


@dataclass
class Answer:
    """What is known of a rendered case."""

    beats: list[float] = field(default_factory=list)
    downbeats: list[float] = field(default_factory=list)
    sections: list[tuple[str, float, float, int]] = field(default_factory=list)
    tempo: float = 0.0


ROCK = Groove(
    {I.HIHAT_CLOSED: "XxXxXxXx", I.SNARE: "..X...X.", I.KICK: "x...xx.."},
    {I.RIDE: "XxXxXxXx", I.SNARE: "..X...X.", I.KICK: "x..xx.x."},
    {I.TOM_FLOOR: "x.xxx.xx", I.SNARE: "......X.", I.KICK: "x...x..."},
    {I.SNARE: "X.x.X.xxxxxx....", I.TOM_HIGH: "............xx..", I.TOM_FLOOR: "..............xx"},
)
SWUNG16 = Groove(
    {I.HIHAT_CLOSED: "X.x.X.x.X.x.X.x.", I.SNARE: "....X..g.g..X..g", I.KICK: "x......x..x....."},
    {I.HIHAT_CLOSED: "XxxxXxxxXxxxXxxx", I.SNARE: "....X..g.g..X...", I.KICK: "x..x...x..xx...."},
    {I.RIDE: "X.x.X.x.X.x.X.x.", I.CROSS_STICK: "....x.......x...", I.KICK: "x.........x....."},
    {I.SNARE: "....X..xx.xxX...", I.TOM_HIGH: ".............xx.", I.KICK: "x..............."},
)
SHUFFLE = Groove(
    {I.HIHAT_CLOSED: "X.xX.xX.xX.x", I.SNARE: "...X.....X..", I.KICK: "x.....x....."},
    {I.RIDE: "X.xX.xX.xX.x", I.SNARE: "...X.....X..", I.KICK: "x....xx....x"},
    {I.HIHAT_CLOSED: "X..X..X..X..", I.SNARE: ".........X..", I.KICK: "x.....x....."},
    {I.SNARE: "...X..xxxxxx", I.KICK: "x.....x....."},
)
HALF = Groove(
    {I.HIHAT_CLOSED: "XxXxXxXx", I.SNARE: "....X...", I.KICK: "x..x...."},
    {I.CRASH: "X.X.X.X.", I.SNARE: "....X...", I.KICK: "x.xx..x."},
    {I.RIDE: "X.x.X.x.", I.CROSS_STICK: "....x...", I.KICK: "x......."},
    {I.SNARE: "....X.xx", I.TOM_FLOOR: ".....x..", I.KICK: "x......."},
)
STICKS = Groove(
    {I.HIHAT_CLOSED: "xxxxxxxx", I.CROSS_STICK: "x..x..x.", I.KICK: "x..xx..x"},
    {I.RIDE: "XxxxXxxx", I.CROSS_STICK: ".x..x..x", I.KICK: "x..xx..x", I.HIHAT_FOOT: "..x...x."},
    {I.RIDE: "X.x.X.x.", I.SNARE: "....X...", I.KICK: "x..xx..x"},
    {I.SNARE: "X.xxXxxx", I.KICK: "x...x..."},
)
SIX = Groove(
    {I.HIHAT_CLOSED: "XxxXxx", I.SNARE: "...X..", I.KICK: "x....."},
    {I.RIDE: "XxxXxx", I.SNARE: "...X..", I.KICK: "x.x..x"},
    {I.HIHAT_CLOSED: "X..X..", I.CROSS_STICK: "...x..", I.KICK: "x....."},
    {I.SNARE: "..xXxx", I.KICK: "x....."},
)
WALTZ = Groove(
    {I.HIHAT_CLOSED: ".x.x.x"[:0] + "X.x.x.", I.SNARE: "..x.x.", I.KICK: "x....."},
    {I.RIDE: "X.xxx.", I.SNARE: "..X.X.", I.KICK: "x....x"},
    {I.RIDE: "X.x.x.", I.CROSS_STICK: "....x.", I.KICK: "x....."},
    {I.SNARE: "X.xxxx", I.KICK: "x....."},
)
TWELVE = Groove(
    {I.HIHAT_CLOSED: "XxxXxxXxxXxx", I.SNARE: "...X.....X..", I.KICK: "x.....x....x"},
    {I.RIDE: "XxxXxxXxxXxx", I.SNARE: "...X.....X..", I.KICK: "x..x..x.x..."},
    {I.HIHAT_CLOSED: "X..X..X..X..", I.CROSS_STICK: "...x.....x..", I.KICK: "x.....x....."},
    {I.SNARE: "...X..xxxXxx", I.KICK: "x.....x....."},
)
JAZZ = Groove(
    {
        I.RIDE: "X..X.xX..X.x",
        I.HIHAT_FOOT: "...x.....x..",
        I.SNARE: ".....g......",
        I.KICK: "x...........",
    },
    {
        I.RIDE: "X.xX.xX.xX.x",
        I.HIHAT_FOOT: "...x.....x..",
        I.SNARE: "...x.g...X.g",
        I.KICK: "x.....x.....",
    },
    {I.HIHAT_CLOSED: "X..X.xX..X.x", I.CROSS_STICK: ".........x..", I.KICK: "x..........."},
    {I.SNARE: "...x.xxxxX.x", I.KICK: "x..........."},
)


def steady(tempo: float) -> Callable[[int, int], float]:
    """A click."""
    return lambda beat, of: tempo


def drifting(start: float, end: float) -> Callable[[int, int], float]:
    """A band that speeds up, and breathes."""
    return lambda beat, of: start + (end - start) * beat / of + 0.8 * np.sin(beat / 9)


CASES: tuple[Case, ...] = (
    Case("straight eighths, click", ROCK, steady(120)),
    Case("fast straight", ROCK, steady(176)),
    Case("slow straight", ROCK, steady(68)),
    Case("swung sixteenths", SWUNG16, drifting(86, 89), swing_16=1.6),
    Case("shuffle", SHUFFLE, steady(126), swing_8=2.0),
    Case("half-time", HALF, steady(140), half_time=True),
    Case("cross-stick in two", STICKS, steady(96), beats=2, readings=(4,)),
    Case("six-eight", SIX, steady(58), beats=2, readings=(4,)),
    Case("waltz", WALTZ, drifting(138, 142), beats=3),
    Case("twelve-eight", TWELVE, steady(62)),
    Case("jazz ride", JAZZ, drifting(158, 164), swing_8=2.0),
    Case("drift of eight percent", ROCK, drifting(100, 108)),
    Case("pick-up", ROCK, steady(108), pick_up=True, lead_in=0.4),
    Case("stop of two bars", ROCK, steady(114), stop=(18, 2)),
    Case("an extra two-four bar", ROCK, steady(118), odd_bar=19),
    Case("fade-out", ROCK, steady(104), fade_from=45),
    Case("no drums for fifteen seconds", ROCK, steady(112), silent_intro=True,
         form=(("Intro", 8), ("Verse", 8), ("Chorus", 8), ("Verse", 8), ("Chorus", 8),
               ("Bridge", 9), ("Chorus", 8), ("Outro", 4))),
)  # fmt: skip


def compose(case: Case) -> tuple[list[tuple[float, mido.Message]], Answer]:
    """The notes of a case at absolute seconds, and what is known of it."""
    rng = np.random.default_rng(sum(case.name.encode()))
    plan = [(label, k, count) for label, count in case.form for k in range(count)]
    total = len(plan) * case.beats
    events: list[tuple[float, mido.Message]] = []
    answer = Answer()
    for channel, program, volume in ((0, 33, 100), (1, 4, 84), (2, 29, 58), (3, 65, 72)):
        events.append((0.0, mido.Message("program_change", channel=channel, program=program)))
        events.append(
            (0.0, mido.Message("control_change", channel=channel, control=7, value=volume))
        )

    def note(at: float, length: float, channel: int, key: int, loud: float) -> None:
        time = max(0.0, at + rng.normal(0, 0.007))
        on = mido.Message(
            "note_on",
            channel=channel,
            note=key,
            velocity=int(np.clip(loud + rng.normal(0, 4), 8, 124)),
        )
        events.extend([(time, on), (time + length, on.copy(velocity=0))])

    time, beat = case.lead_in, 0
    if case.pick_up:
        length = 60 / case.bpm(0, total)
        for k, sign in enumerate("xxX"):
            note(time + k * length / 2, 0.1, 9, DRUM_KEYS[I.SNARE], SIGNS[sign])
        time += 1.5 * length
        answer.beats.append(time - length)
    section_start = time
    for index, (label, k, count) in enumerate(plan):
        a_bar = case.beats // 2 if index == case.odd_bar and case.beats > 2 else case.beats
        lengths = [60 / case.bpm(beat + j, total) for j in range(a_bar)]
        edges = time + np.concatenate([[0.0], np.cumsum(lengths)])
        answer.downbeats.append(float(time))
        answer.beats.extend(float(edge) for edge in edges[:-1])

        def at(place: float, edges: np.ndarray = edges, lengths: list[float] = lengths) -> float:
            whole = min(int(place), len(lengths) - 1)
            within = swung(place - whole, 1.0, case.swing_16 or 1.0)
            return float(edges[whole] + within * lengths[whole])

        fade = (
            1.0
            if case.fade_from is None
            else float(np.clip(1 - (index - case.fade_from) / 14, 0.1, 1))
        )
        stopped = case.stop is not None and case.stop[0] <= index < sum(case.stop)
        rows = dict(
            {"Chorus": case.groove.chorus, "Bridge": case.groove.bridge}.get(
                label, case.groove.verse
            )
        )
        if k == count - 1 and label not in ("Intro", "Outro"):
            rows = case.groove.fill
        if label == "Intro":
            rows = {} if case.silent_intro else {i: r for i, r in rows.items() if i is not I.SNARE}
        if label == "Chorus" and k == 0:
            first = len(next(iter(rows.values())))
            rows = {**rows, I.CRASH: "X" + "." * (first - 1)}
        if label == "Outro" and k == count - 1:
            rows = {I.CRASH: "X...", I.KICK: "x..."}
        for instrument, row in ({} if stopped else rows).items():
            for cell, sign in enumerate(row):
                place = cell * case.beats / len(row)
                if sign != "." and place < a_bar:
                    key = DRUM_KEYS[I.HIHAT_OPEN if sign == "o" else instrument]
                    note(at(place), 0.1, 9, key, SIGNS[sign] * fade)
        if not stopped or k % 2 == 0:
            _band(case, label, k, at, a_bar, lengths, note, fade)
        time, beat = float(edges[-1]), beat + a_bar
        if k == count - 1:
            answer.sections.append((label, section_start, time, count))
            section_start = time
    answer.tempo = float(60 / np.median(np.diff(answer.beats)))
    return events, answer


def _band(
    case: Case,
    label: str,
    k: int,
    at: Callable[[float], float],
    a_bar: int,
    lengths: list[float],
    note: Callable[[float, float, int, int, float], None],
    fade: float,
) -> None:
    chords = {"Chorus": CHORUS_CHORDS, "Bridge": BRIDGE_CHORDS}.get(label, VERSE_CHORDS)
    root, kind = chords[k % len(chords)]
    beat = lengths[0]
    for step in range(a_bar * (2 if label == "Chorus" else 1)):
        place = step / 2 if label == "Chorus" else float(step)
        note(at(place), 0.8 * beat, 0, root if step != a_bar - 1 else root + 7, 88 * fade)
    for voice in kind:
        if label == "Chorus":
            for place in (0.0, a_bar / 2):
                note(at(place), beat * 0.9, 2, root + 12 + voice, 80 * fade)
        note(
            at(0.0),
            a_bar * beat * 0.95,
            1,
            root + 24 + voice,
            (66 if label != "Bridge" else 50) * fade,
        )
    if label in ("Verse", "Chorus"):
        tune = (7, 5, 3, 0) if label == "Verse" else (12, 14, 12, 10)
        for place in range(0, a_bar, 2):
            note(at(float(place)), beat, 3, root + 24 + tune[(k + place) % 4], 78 * fade)


def render(case: Case, folder: Path) -> tuple[Path, Answer]:
    """Write the case as a WAV file."""
    events, answer = compose(case)
    path = folder / f"{case.name.replace(' ', '-').replace(',', '')}.wav"
    with tempfile.TemporaryDirectory() as name:
        midi = Path(name) / "song.mid"
        write_midi(events, midi)
        synthesise(midi, path, 0.8)
    return path, answer


def varied(case: Case) -> Case:
    """The same trap in another song: for developing, so that CASES stay unseen.

    Another tempo, verse and chorus exchanged, another order of sections.
    """
    groove = Groove(case.groove.chorus, case.groove.verse, case.groove.bridge, case.groove.fill)
    form = (
        ("Intro", 8 if case.silent_intro else 2),
        ("Verse", 8),
        ("Verse", 8),
        ("Chorus", 4),
        ("Verse", 8),
        ("Bridge", 6),
        ("Chorus", 8),
        ("Chorus", 4),
    )
    return replace(
        case,
        groove=groove,
        form=form,
        bpm=lambda beat, of: 0.93 * case.bpm(beat, of),
        odd_bar=23 if case.odd_bar else None,
        stop=(12, 2) if case.stop else None,
        fade_from=38 if case.fade_from else None,
        swing_16=None if case.swing_16 is None else 1.4,
    )

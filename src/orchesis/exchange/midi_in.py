"""Standard MIDI files, read: the drums of channel 10 on the file's own bars.

Each beat is written in the coarsest parts in which its strokes stand within a hair of where they
were; played timing is put on the nearest.
"""

from __future__ import annotations

import io
import re
from bisect import bisect_left, bisect_right
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from statistics import median

import mido
import numpy as np
from mido.midifiles.meta import KeySignatureError

from orchesis.errors import InvalidTranscription
from orchesis.exchange.imported import (
    GM_KEYS,
    MOST_BARS,
    MOST_HITS,
    BarRead,
    Imported,
    Refused,
    remarks_of,
    song_of,
)
from orchesis.music.values import Feel, Hit, Meter
from orchesis.rhythm.swing import warp

PERCUSSION = 9
LARGEST_MIDI = 2_000_000
"""Bytes: some 500,000 events; whole symphonies have fewer."""

COARSE_FIRST = (1, 2, 3, 4, 6, 8, 12)
BINARY = (1, 2, 4, 8)
SWUNG_FROM = 1.12
"""Below this ratio swing is left alone, as on the chart."""

HAIR = 0.045
"""Of a beat: played strokes stand within this of where they are written."""

EXACT = 0.008
"""Of a beat: strokes that nobody played, but a program wrote, stand within this of a place."""

EARLY_SECONDS = 0.02
USUAL_MICROSECONDS = 500_000
"""A quarter note, where a file says nothing of its tempo."""

Stroke = tuple[int, int, int]
"""Tick, key, velocity."""


def read_midi(data: bytes, title: str = "") -> Imported:
    """The drum part of a Standard MIDI File. Raises Refused."""
    if len(data) > LARGEST_MIDI:
        raise Refused("This file is larger than any MIDI of a song: at most 2 MB are read.")
    try:
        midi = mido.MidiFile(file=io.BytesIO(data), clip=True)
    except (OSError, EOFError, ValueError, LookupError, TypeError, KeySignatureError) as error:
        raise Refused("This is not a MIDI file, or it is damaged.") from error
    if midi.ticks_per_beat <= 0 or midi.type == 2:
        raise Refused("This kind of MIDI file (type 2, or by the clock) cannot be read.")
    strokes, meters, tempi, labels = _events(midi)
    feel = _feel(midi)
    if not strokes:
        raise Refused("There are no drums in this file: nothing is on channel 10.")
    grid = _bars(strokes, meters, midi.ticks_per_beat)
    seconds = _clock(tempi, midi)
    starts = [seconds(start) for start, _ in grid]
    inside: list[list[Stroke]] = [[] for _ in grid]
    for stroke in strokes:
        # Played a hair before a bar line, it is a stroke of the bar that begins there.
        index = bisect_right(starts, seconds(stroke[0]) + EARLY_SECONDS) - 1
        inside[max(0, index)].append(stroke)
    # A first stroke that is early leaves the bar before it empty.
    silent = next((index for index, found in enumerate(inside) if found), 0)
    grid, inside = grid[silent:], inside[silent:]
    unmapped: Counter[str] = Counter()
    bars = []
    for index, (start, meter) in enumerate(grid):
        end = grid[index + 1][0] if index + 1 < len(grid) else start + _ticks(meter, midi)
        first = bisect_left(labels, (start, ""))
        label = labels[first][1] if first < len(labels) and labels[first][0] < end else ""
        bars.append(
            BarRead(meter, _placed(inside[index], start, meter, midi, unmapped, feel), label)
        )
    edges = _edges(grid, seconds, midi)
    tempo = 60.0 / median(after - before for before, after in pairwise(edges))
    name = next((track.name for track in midi.tracks if track.name), "")
    song = song_of(
        bars, title=title or name, tempo_bpm=tempo, swing=feel, edges=edges, by_velocity=True
    )
    return Imported(song, remarks_of(song, unmapped, ()))


def _events(
    midi: mido.MidiFile,
) -> tuple[list[Stroke], list[tuple[int, Meter]], list[tuple[int, int]], list[tuple[int, str]]]:
    strokes: list[Stroke] = []
    meters: list[tuple[int, Meter]] = []
    tempi: list[tuple[int, int]] = []
    labels: list[tuple[int, str]] = []
    for track in midi.tracks:
        now = 0
        for message in track:
            now += message.time
            if message.type == "note_on" and message.channel == PERCUSSION and message.velocity:
                strokes.append((now, message.note, message.velocity))
                if len(strokes) > 4 * MOST_HITS:
                    raise Refused("This file has more strokes than any song.")
            elif message.type == "time_signature":
                try:
                    meters.append((now, Meter(message.numerator, message.denominator)))
                except InvalidTranscription as error:
                    raise Refused(f"This file cannot be read: {error}.") from error
            elif message.type == "set_tempo" and message.tempo > 0:
                tempi.append((now, message.tempo))
            elif message.type == "marker" and message.text.strip():
                labels.append((now, message.text.strip()[:80]))
    return sorted(strokes), sorted(meters, key=lambda m: m[0]), sorted(tempi), sorted(labels)


def _ticks(meter: Meter, midi: mido.MidiFile) -> int:
    return int(Fraction(4 * meter.beats, meter.unit) * midi.ticks_per_beat)


def _bars(
    strokes: Sequence[Stroke], meters: Sequence[tuple[int, Meter]], ticks_per_beat: int
) -> list[tuple[int, Meter]]:
    """Where each bar begins, in ticks; empty bars before the first stroke are left out."""
    changes = list(meters) or [(0, Meter(4, 4))]
    if changes[0][0] > 0:
        changes.insert(0, (0, Meter(4, 4)))
    last = strokes[-1][0]
    found: list[tuple[int, Meter]] = []
    now = 0
    at = [tick for tick, _ in changes]
    while now <= last:
        index = bisect_right(at, now)
        meter = changes[index - 1][1]
        found.append((now, meter))
        length = max(1, int(Fraction(4 * meter.beats, meter.unit) * ticks_per_beat))
        # The next change of metre ends the bar where it falls within it.
        now = at[index] if index < len(at) and at[index] < now + length else now + length
        if len(found) > 4 * MOST_BARS:
            raise Refused(f"This file has more than {MOST_BARS} bars.")
    first = strokes[0][0]
    return [bar for bar, after in zip(found, [*found[1:], (last + 1, found[-1][1])], strict=True)
            if after[0] > first or bar[0] >= first]  # fmt: skip


def _placed(
    strokes: Sequence[Stroke],
    start: int,
    meter: Meter,
    midi: mido.MidiFile,
    unmapped: Counter[str],
    feel: Feel,
) -> tuple[Hit, ...]:
    beat_ticks = float(meter.pulse * 4) * midi.ticks_per_beat
    by_beat: dict[int, list[tuple[float, Stroke]]] = {}
    for stroke in strokes:
        beats = (stroke[0] - start) / beat_ticks
        # A stroke a hair before the beat belongs to it.
        beat = min(meter.pulses - 1, max(0, int(beats + HAIR)))
        by_beat.setdefault(beat, []).append((beats - beat, stroke))
    hits = []
    for beat, inside in by_beat.items():
        inside, parts = _written(inside, feel)
        for within, (_, key, velocity) in inside:
            drum = GM_KEYS.get(key)
            if drum is None:
                unmapped[f"key {key}"] += 1
                continue
            step = min(parts - 1, max(0, round(within * parts)))
            place = (beat + Fraction(step, parts)) / meter.pulses
            hits.append(Hit(0.0, drum, velocity, 1, place))
    return tuple(sorted(hits, key=lambda hit: hit.position))


def _written(
    inside: list[tuple[float, Stroke]], feel: Feel
) -> tuple[list[tuple[float, Stroke]], int]:
    """The strokes of a beat where they are written, and into how many parts it is divided.

    What swings is written straight; thirds stay thirds, which swing does not move.
    """
    readings: list[tuple[list[tuple[float, Stroke]], Sequence[int]]] = [(inside, COARSE_FIRST)]
    if max(feel.swing_8 or 1.0, feel.swing_16 or 1.0) > SWUNG_FROM:
        straight = [(_straight(within, feel), stroke) for within, stroke in inside]
        readings.insert(0, (straight, BINARY))
    # Of what both could be the nearer is taken, of what is equally near the swung.
    found = [(strokes, parts) for strokes, choices in readings
             if (parts := _coarsest(strokes, choices)) is not None]  # fmt: skip
    if not found:
        return inside, COARSE_FIRST[-1]
    return min(found, key=lambda item: round(_error(*item), 2))


def _error(inside: list[tuple[float, Stroke]], parts: int) -> float:
    """How far strokes are from where they would be written, in beats, in the mean."""
    return sum(abs(within - _near(within, parts)) for within, _ in inside) / len(inside)


def _coarsest(inside: list[tuple[float, Stroke]], choices: Sequence[int]) -> int | None:
    for hair in (EXACT, HAIR):
        for parts in choices:
            if all(abs(within - _near(within, parts)) <= hair for within, _ in inside):
                return parts
    return None


def _straight(within: float, feel: Feel) -> float:
    """Where in its beat a swung stroke is written."""
    places = np.linspace(0.0, 1.0, 65)
    return float(np.interp(within, [warp(float(place), feel) for place in places], places))


_SWING = re.compile(r"swung (eighths|sixteenths) ([\d.]+) : 1")


def _feel(midi: mido.MidiFile) -> Feel:
    """How much it swings, where the file says so."""
    feel = Feel()
    for track in midi.tracks:
        for message in track:
            found = _SWING.search(message.text) if message.type == "text" else None
            if found is not None and 0.2 < float(found.group(2)) < 5.0:
                ratio = float(found.group(2))
                eighths = found.group(1) == "eighths"
                feel = replace(feel, **{"swing_8" if eighths else "swing_16": ratio})  # type: ignore[arg-type]
    return feel


def _near(within: float, parts: int) -> float:
    return min(parts - 1, max(0, round(within * parts))) / parts


def _clock(tempi: Sequence[tuple[int, int]], midi: mido.MidiFile) -> Callable[[float], float]:
    """When a tick falls, in seconds from the start of the file."""
    changes = list(tempi) or [(0, USUAL_MICROSECONDS)]
    if changes[0][0] > 0:
        changes.insert(0, (0, USUAL_MICROSECONDS))
    at = [tick for tick, _ in changes]
    passed = [0.0]
    for (tick, tempo), (after, _) in pairwise(changes):
        passed.append(passed[-1] + (after - tick) * tempo / midi.ticks_per_beat / 1e6)

    def seconds(tick: float) -> float:
        index = max(0, bisect_right(at, tick) - 1)
        since = (tick - at[index]) * changes[index][1] / midi.ticks_per_beat / 1e6
        return float(passed[index] + since)

    return seconds


def _edges(
    grid: Sequence[tuple[int, Meter]], seconds: Callable[[float], float], midi: mido.MidiFile
) -> list[float]:
    """When each felt beat falls, and the end of the last, in seconds from the first bar."""
    ticks = [
        start + float(meter.pulse * 4) * midi.ticks_per_beat * beat
        for start, meter in grid
        for beat in range(meter.pulses)
    ]
    ticks.append(grid[-1][0] + _ticks(grid[-1][1], midi))
    zero = seconds(ticks[0])
    found = [seconds(tick) - zero for tick in ticks]
    # Two beats never fall together, whatever a file says of its tempo.
    for index in range(1, len(found)):
        found[index] = max(found[index], found[index - 1] + 1e-3)
    return found

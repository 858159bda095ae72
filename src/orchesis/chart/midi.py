"""Standard MIDI Files: GM percussion on channel 10, a tempo map that follows the recording.

Played timing keeps each stroke where it sounded; quantised timing puts it on the grid. Either way
the beats of the file fall where the beats of the recording fall. Sections are markers; how much
eighths and sixteenths swing is said in texts, so that a reader can tell swing from triplets.
"""

from __future__ import annotations

import io
from typing import NamedTuple

import mido
import numpy as np

from orchesis.chart.notation import STAFF
from orchesis.chart.ornaments import strokes_beside
from orchesis.music.values import Transcription, written
from orchesis.rhythm.due import written_time
from orchesis.rhythm.grid import all_edges

TICKS_PER_BEAT = 960
NOTE_TICKS = 120
PERCUSSION_CHANNEL = 9
"""Channel 10, counted from 0."""

SLOWEST_MICROSECONDS = 0xFFFFFF


def to_midi(song: Transcription, *, quantised: bool = False) -> bytes:
    """The bytes of a type 1 file: a tempo track and a drum track."""
    # A felt beat of 6/8 lasts a quarter and a half, and the file counts quarters.
    midi = mido.MidiFile(type=1, ticks_per_beat=int(TICKS_PER_BEAT / 4 / song.meter.pulse))
    grid = _grid(song)
    midi.tracks.append(_tempo_track(song, grid))
    midi.tracks.append(_drum_track(song, grid, quantised))
    buffer = io.BytesIO()
    midi.save(file=buffer)
    return buffer.getvalue()


def _latin(text: str) -> str:
    """MIDI text is Latin-1; what it lacks becomes a question mark."""
    return text.encode("latin-1", "replace").decode("latin-1")


class _Grid(NamedTuple):
    """The beats in seconds, and where they stand in the file, in beats of the song's own metre."""

    edges: np.ndarray
    places: np.ndarray


def _grid(song: Transcription) -> _Grid:
    edges = all_edges(song.bars)
    # A beat of 7/8 is half of one of 4/4.
    lengths = [float(bar.meter.pulse / song.meter.pulse) for bar in song.bars for _ in bar.beats]
    return _Grid(edges, np.concatenate([[0.0], np.cumsum(lengths)])[: len(edges)])


def _lead(song: Transcription, edges: np.ndarray) -> int:
    """Beats of silence before the first bar: whole bars, so that bar lines are where bars begin."""
    if len(edges) < 2 or edges[0] <= 0:
        return 0
    beats = edges[0] / (edges[1] - edges[0])
    return int(song.meter.pulses * max(1, round(beats / song.meter.pulses)))


def _ticks(lead: int, grid: _Grid, time: float) -> int:
    """Ticks from the start of the recording at which `time` (seconds) falls."""
    edges, places = grid
    beats = float(np.interp(time, edges, places))
    if time < edges[0]:
        # The silence lasts as long as it does, at whatever tempo its bars then have.
        beats = lead * (time / edges[0] - 1.0) if lead else 0.0
    elif time > edges[-1]:
        last = (places[-1] - places[-2]) / (edges[-1] - edges[-2])
        beats = float(places[-1] + (time - edges[-1]) * last)
    return max(0, round((lead + beats) * TICKS_PER_BEAT))


def _tempo_track(song: Transcription, grid: _Grid) -> mido.MidiTrack:
    track = mido.MidiTrack()
    track.append(mido.MetaMessage("track_name", name=_latin(song.title or "Drums"), time=0))
    events: list[tuple[int, mido.MetaMessage]] = []
    for ratio, name in ((song.feel.swing_8, "eighths"), (song.feel.swing_16, "sixteenths")):
        if ratio is not None:
            events.append((0, mido.MetaMessage("text", text=f"swung {name} {ratio:.3f} : 1")))
    lead = _lead(song, grid.edges)
    if lead:
        quarter = float(grid.edges[0]) / lead / float(4 * song.meter.pulse)
        tempo = max(1, min(SLOWEST_MICROSECONDS, round(quarter * 1e6)))
        events.append((0, mido.MetaMessage("set_tempo", tempo=tempo)))
    steps = np.diff(grid.edges) / np.diff(grid.places)
    for start, length in zip(grid.edges, steps, strict=False):
        tick = _ticks(lead, grid, float(start))
        quarter = float(length) / float(4 * song.meter.pulse)
        tempo = min(SLOWEST_MICROSECONDS, round(quarter * 1e6))
        events.append((tick, mido.MetaMessage("set_tempo", tempo=tempo)))
    before = None
    for bar in song.bars:
        if bar.meter != before:
            signature = mido.MetaMessage(
                "time_signature", numerator=bar.meter.beats, denominator=bar.meter.unit
            )
            events.append((0 if before is None else _ticks(lead, grid, bar.start), signature))
            before = bar.meter
    for section in song.sections:
        marker = mido.MetaMessage("marker", text=_latin(section.label))
        events.append((_ticks(lead, grid, section.start), marker))
    return _timed(track, events)


def _drum_track(song: Transcription, grid: _Grid, quantised: bool) -> mido.MidiTrack:
    track = mido.MidiTrack()
    track.append(mido.MetaMessage("track_name", name="Drums", time=0))
    events: list[tuple[int, mido.Message]] = []
    lead = _lead(song, grid.edges)
    for hit in written(song.hits):
        time = written_time(song, hit.bar, hit.position) if quantised else hit.time
        note = STAFF[hit.instrument].midi_key
        for away, velocity in [(0.0, hit.velocity), *strokes_beside(hit)]:
            tick = _ticks(lead, grid, max(0.0, time + away))
            on = mido.Message("note_on", channel=PERCUSSION_CHANNEL, note=note, velocity=velocity)
            off = mido.Message("note_off", channel=PERCUSSION_CHANNEL, note=note, velocity=0)
            events += [(tick, on), (tick + NOTE_TICKS, off)]
    return _timed(track, events)


def _timed(track: mido.MidiTrack, events: list[tuple[int, mido.Message]]) -> mido.MidiTrack:
    now = 0
    for tick, message in sorted(events, key=lambda event: (event[0], event[1].type != "note_off")):
        track.append(message.copy(time=tick - now))
        now = tick
    return track

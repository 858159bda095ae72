"""What a song can mean: the bounds that every transcription from outside is held to.

A transcription that this program wrote is within them. One from elsewhere may say anything that
JSON can hold; whatever is beyond is refused with the place where it stands.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

from orchesis.errors import InvalidTranscription
from orchesis.music.values import Bar, Hit, Transcription

LATEST_SECONDS = 1260.0
"""The longest recording has twenty minutes; a grid may run on a little beyond it."""

MOST_BARS = 10_000
"""More than twenty minutes of 2/4 at 300 have."""

MOST_HITS = 100_000
MOST_SECTIONS = 500
MOST_ENTRIES = 2_000
"""Of each shorter list: fills, decisions, cues, findings."""

MOST_BEATS = 20_000
FINEST_DIVISION = 48
FINEST_POSITION = 9_999
SLOWEST_BPM, FASTEST_BPM = 5.0, 1000.0
WIDEST_SWING = 10.0
LONGEST_NAME = 200
LONGEST_TEXT = 2_000


def check_bounds(song: Transcription) -> None:
    """Raise InvalidTranscription for what no song can mean; its text names the place."""
    _check_count(song.bars, MOST_BARS, "bars")
    _check_count(song.hits, MOST_HITS, "hits")
    _check_count(song.beats, MOST_BEATS, "beats")
    _check_count(song.tracked_beats, MOST_BEATS, "tracked beats")
    _check_count(song.sections, MOST_SECTIONS, "sections")
    for name, items in (
        ("fills", song.fills),
        ("fill decisions", song.fill_decisions),
        ("part decisions", song.part_decisions),
        ("cues", song.cues),
        ("findings", song.findings),
        ("readings", song.readings),
    ):
        _check_count(items, MOST_ENTRIES, name)
    # 0: a song without a beat.
    _check_range(song.tempo_bpm, 0.0, FASTEST_BPM, "the tempo")
    _check_range(song.duration, 0.0, LATEST_SECONDS, "the duration")
    _check_length(song.title, LONGEST_NAME, "the title")
    for name, ratio in (("swing_8", song.feel.swing_8), ("swing_16", song.feel.swing_16)):
        if ratio is not None:
            _check_range(ratio, 1 / WIDEST_SWING, WIDEST_SWING, name)
    for name, beats in (("beats", song.beats), ("tracked_beats", song.tracked_beats)):
        for index, beat in enumerate(beats):
            _check_range(beat, 0.0, LATEST_SECONDS, f"{name}, number {index + 1}")
    for bar in song.bars:
        _check_bar(bar)
    for hit in song.hits:
        _check_hit(hit)
    _check_lists(song)


def _check_bar(bar: Bar) -> None:
    place = f"bar {bar.number}"
    if abs(bar.number) > MOST_BARS:
        raise InvalidTranscription(f"{place}: bars are numbered up to {MOST_BARS}")
    _check_range(bar.start, 0.0, LATEST_SECONDS, f"{place}, start")
    _check_range(bar.end, 0.0, LATEST_SECONDS, f"{place}, end")
    before = -math.inf
    for beat in bar.beats:
        _check_range(beat, 0.0, LATEST_SECONDS, f"{place}, beats")
        if not before < beat < bar.end:
            raise InvalidTranscription(f"{place}: its beats are not in order within it")
        before = beat
    for division in bar.divisions:
        if not 1 <= division <= FINEST_DIVISION:
            raise InvalidTranscription(
                f"{place}: a beat in {division} parts (1 to {FINEST_DIVISION} can be written)"
            )


def _check_hit(hit: Hit) -> None:
    place = f"bar {hit.bar}, a {hit.instrument.value} hit"
    _check_range(hit.time, 0.0, LATEST_SECONDS, f"{place}, time")
    if hit.position.denominator > FINEST_POSITION:
        raise InvalidTranscription(f"{place}: no place of a bar is as fine as {hit.position}")
    _check_length(hit.reason, LONGEST_TEXT, f"{place}, reason")
    _check_length(hit.source, LONGEST_NAME, f"{place}, source")


def _check_lists(song: Transcription) -> None:
    for section in song.sections:
        place = f"section {section.label[:40]!r}"
        _check_range(section.start, 0.0, LATEST_SECONDS, f"{place}, start")
        _check_range(section.end, 0.0, LATEST_SECONDS, f"{place}, end")
        _check_length(section.label, LONGEST_NAME, f"{place}, label")
        if not 0 <= section.bars <= MOST_BARS or abs(section.first_bar) > MOST_BARS:
            raise InvalidTranscription(f"{place}: {section.bars} bars from {section.first_bar}")
    spans = [("a fill", fill.start, fill.end) for fill in song.fills]
    spans += [("a decided fill", one.start, one.end) for one in song.fill_decisions]
    spans += [("a decided part", one.start, one.end) for one in song.part_decisions]
    for name, start, end in spans:
        _check_range(start, 0.0, LATEST_SECONDS, f"{name}, start")
        _check_range(end, 0.0, LATEST_SECONDS, f"{name}, end")
    for fill in song.fills:
        if max(fill.at.denominator, fill.until.denominator) > FINEST_POSITION:
            raise InvalidTranscription(f"the fill in bar {fill.bar} begins or ends nowhere")
    for cue in song.cues:
        _check_range(cue.time, 0.0, LATEST_SECONDS, "a cue, time")
        _check_length(cue.words, LONGEST_NAME, "a cue")
    for text in song.findings:
        _check_length(text, LONGEST_TEXT, "a finding")
    for reading in song.readings:
        _check_range(reading.tempo_bpm, SLOWEST_BPM, FASTEST_BPM, "the tempo of a reading")
        _check_count(reading.evidence, MOST_ENTRIES, "lines of evidence")
        _check_count(reading.downbeats, MOST_BEATS, "downbeats of a reading")
        for text in (reading.key, reading.words, *reading.evidence):
            _check_length(text, LONGEST_TEXT, "a reading")
        if any(not 0 <= index < MOST_BEATS for index in reading.downbeats):
            raise InvalidTranscription("a reading has a downbeat that is no beat")


def _check_count(items: Iterable[object] | tuple[object, ...], most: int, name: str) -> None:
    count = len(tuple(items))
    if count > most:
        raise InvalidTranscription(f"it has {count} {name}: at most {most} can be read")


def _check_range(value: float, low: float, high: float, place: str) -> None:
    if not (math.isfinite(value) and low <= value <= high):
        raise InvalidTranscription(f"{place} is {value:g}: {low:g} to {high:g} can be read")


def _check_length(text: str, longest: int, place: str) -> None:
    if len(text) > longest:
        raise InvalidTranscription(f"{place} has {len(text)} letters: at most {longest} are read")
    try:
        text.encode()
    except UnicodeEncodeError as error:
        raise InvalidTranscription(f"{place} holds half a letter") from error
    if "\x00" in text:
        raise InvalidTranscription(f"{place} holds a letter that no text has")

"""`transcription.json`: the open format, written and read.

The JSON Schema that ships beside this module is the definition; this module writes what the
schema describes and refuses what it cannot read with a sentence that names the place.
"""

from __future__ import annotations

import json
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise
from pathlib import Path
from typing import Any

from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import Instrument, Limb, Ornament, Status
from orchesis.music.values import (
    Bar,
    Cue,
    Feel,
    Fill,
    FillDecision,
    Hit,
    Meter,
    PartDecision,
    ReadingSummary,
    Section,
    Transcription,
    in_order,
)

FORMAT = "orchesis-transcription"
VERSION = 1
SCHEMA_PATH = Path(__file__).with_name("transcription.schema.json")

_TIME_DIGITS = 4
"""A tenth of a millisecond: finer than any onset can be measured."""


def _seconds(time: float) -> float:
    return round(float(time), _TIME_DIGITS)


def hit_to_json(hit: Hit) -> dict[str, Any]:
    """One hit as the format has it."""
    return {
        "time": _seconds(hit.time),
        "instrument": hit.instrument.value,
        "velocity": hit.velocity,
        "ghost": hit.ghost,
        "accent": hit.accent,
        "confidence": round(hit.confidence, 3),
        "status": hit.status.value,
        "bar": hit.bar,
        "position": str(hit.position),
        "limb": hit.limb.value if hit.limb else None,
        "reason": hit.reason,
        "ornament": hit.ornament.value if hit.ornament else None,
        "settled": hit.settled,
        "source": hit.source,
        "opening": None if hit.opening is None else round(hit.opening, 2),
    }


LONGEST_FRACTION = 24


@lru_cache(maxsize=2048)
def _fraction(text: str) -> Fraction:
    """Kept, since a song's strokes fall on few places, and reading a fraction is slow."""
    if len(text) > LONGEST_FRACTION:
        # "1e999999999" is a fraction too, of a billion digits.
        raise ValueError(f"{text[:20]!r} ... is no place of a bar")
    return Fraction(text)


_INSTRUMENTS = {item.value: item for item in Instrument}
_STATUSES = {item.value: item for item in Status}
_LIMBS = {item.value: item for item in Limb}
"""Looked up thousands of times a song: calling the class for each takes three times as long."""


def hit_from_json(data: dict[str, Any]) -> Hit:
    """Read one hit. Raises InvalidTranscription and says what is wrong with it."""
    try:
        limb, ornament, opening = data.get("limb"), data.get("ornament"), data.get("opening")
        return Hit(
            time=float(data["time"]),
            instrument=_INSTRUMENTS[data["instrument"]],
            velocity=int(data["velocity"]),
            bar=int(data["bar"]),
            position=_fraction(str(data["position"])),
            ghost=bool(data.get("ghost", False)),
            accent=bool(data.get("accent", False)),
            confidence=float(data.get("confidence", 1.0)),
            status=_STATUSES[data.get("status", "heard")],
            limb=_LIMBS[limb] if limb else None,
            reason=str(data.get("reason", "")),
            ornament=Ornament(ornament) if ornament else None,
            settled=bool(data.get("settled", False)),
            source=str(data.get("source", "")),
            opening=None if opening is None else float(opening),
        )
    except (KeyError, TypeError, ValueError, ZeroDivisionError, OverflowError) as error:
        raise InvalidTranscription(f"a hit cannot be read: {error!r}") from error


def bar_to_json(bar: Bar) -> dict[str, Any]:
    """One bar of the grid as the format has it."""
    return {
        "number": bar.number,
        "start": _seconds(bar.start),
        "end": _seconds(bar.end),
        "meter": [bar.meter.beats, bar.meter.unit],
        "beats": [_seconds(beat) for beat in bar.beats],
        "divisions": list(bar.divisions),
    }


def bar_from_json(data: dict[str, Any]) -> Bar:
    """Read one bar. Raises InvalidTranscription."""
    try:
        beats, unit = data["meter"]
        return Bar(
            number=int(data["number"]),
            start=float(data["start"]),
            end=float(data["end"]),
            meter=Meter(int(beats), int(unit)),
            beats=tuple(float(beat) for beat in data["beats"]),
            divisions=tuple(int(division) for division in data["divisions"]),
        )
    except (KeyError, TypeError, ValueError, OverflowError) as error:
        raise InvalidTranscription(f"a bar cannot be read: {error!r}") from error


def to_json(song: Transcription) -> dict[str, Any]:
    """The whole transcription as plain JSON values."""
    return {
        "format": FORMAT,
        "version": VERSION,
        "title": song.title,
        "duration": _seconds(song.duration),
        "tempo_bpm": round(song.tempo_bpm, 2),
        "meter": [song.meter.beats, song.meter.unit],
        "beats": [_seconds(beat) for beat in song.beats],
        "downbeats": [_seconds(beat) for beat in song.downbeats],
        "bars": [bar_to_json(bar) for bar in song.bars],
        "sections": [
            {
                "label": section.label,
                "start": _seconds(section.start),
                "end": _seconds(section.end),
                "bars": section.bars,
                "first_bar": section.first_bar,
                "mark": section.mark,
                "confirmed": section.confirmed,
            }
            for section in song.sections
        ],
        "hits": [hit_to_json(hit) for hit in song.hits],
        "fills": [_fill_to_json(fill) for fill in song.fills],
        "fill_decisions": [
            {
                "start": _seconds(decision.start),
                "end": _seconds(decision.end),
                "is_fill": decision.is_fill,
            }
            for decision in song.fill_decisions
        ],
        "cues": [{"time": _seconds(cue.time), "words": cue.words} for cue in song.cues],
        "part_decisions": [
            {
                "start": _seconds(decision.start),
                "end": _seconds(decision.end),
                "wanted": decision.wanted,
            }
            for decision in song.part_decisions
        ],
        "feel": {
            "swing_8": _ratio(song.feel.swing_8),
            "swing_16": _ratio(song.feel.swing_16),
            "half_time": song.feel.half_time,
        },
        "findings": list(song.findings),
        "readings": [
            {
                "key": reading.key,
                "words": reading.words,
                "tempo_bpm": round(reading.tempo_bpm, 2),
                "meter": [reading.meter.beats, reading.meter.unit],
                "evidence": list(reading.evidence),
                "downbeats": list(reading.downbeats),
                "half_time": reading.half_time,
            }
            for reading in song.readings
        ],
        "tracked_beats": [_seconds(beat) for beat in song.tracked_beats],
    }


def _fill_to_json(fill: Fill) -> dict[str, Any]:
    return {
        "start": _seconds(fill.start),
        "end": _seconds(fill.end),
        "bar": fill.bar,
        "first_bar": fill.begins_in,
        "at": str(fill.at),
        "until": str(fill.until),
        "settled": fill.settled,
    }


def _fill_from_json(item: dict[str, Any]) -> Fill:
    return Fill(
        start=float(item["start"]),
        end=float(item["end"]),
        bar=int(item["bar"]),
        first_bar=int(item.get("first_bar", 0)),
        at=_fraction(str(item.get("at", "0"))),
        until=_fraction(str(item.get("until", "1"))),
        settled=bool(item.get("settled", False)),
    )


def _ratio(value: float | None) -> float | None:
    return None if value is None else round(value, 3)


def from_json(data: Any) -> Transcription:
    """Read a transcription. Raises InvalidTranscription and names what is wrong.

    Hits are put in order; two hits at one place, or a hit in a bar that is not there, are refused.
    """
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise InvalidTranscription(f'this is not a transcription: "format" must be "{FORMAT}"')
    if data.get("version") != VERSION:
        raise InvalidTranscription(
            f"transcription version {data.get('version')!r} cannot be read, only {VERSION}"
        )
    try:
        beats_a_bar, unit = data["meter"]
        feel = data.get("feel") or {}
        song = Transcription(
            tempo_bpm=float(data["tempo_bpm"]),
            meter=Meter(int(beats_a_bar), int(unit)),
            beats=tuple(float(beat) for beat in data["beats"]),
            bars=tuple(bar_from_json(bar) for bar in data["bars"]),
            sections=tuple(
                Section(
                    label=str(item["label"]),
                    start=float(item["start"]),
                    end=float(item["end"]),
                    bars=int(item["bars"]),
                    first_bar=int(item["first_bar"]),
                    mark=str(item.get("mark", "")),
                    confirmed=bool(item.get("confirmed", False)),
                )
                for item in data.get("sections", [])
            ),
            hits=tuple(sorted((hit_from_json(item) for item in data["hits"]), key=in_order)),
            fills=tuple(_fill_from_json(item) for item in data.get("fills", [])),
            fill_decisions=tuple(
                FillDecision(float(item["start"]), float(item["end"]), bool(item["is_fill"]))
                for item in data.get("fill_decisions", [])
            ),
            cues=tuple(
                Cue(float(item["time"]), str(item["words"])) for item in data.get("cues", [])
            ),
            part_decisions=tuple(
                PartDecision(float(item["start"]), float(item["end"]), bool(item["wanted"]))
                for item in data.get("part_decisions", [])
            ),
            feel=Feel(
                swing_8=feel.get("swing_8"),
                swing_16=feel.get("swing_16"),
                half_time=bool(feel.get("half_time", False)),
            ),
            title=str(data.get("title", "")),
            duration=float(data.get("duration", 0.0)),
            findings=tuple(str(text) for text in data.get("findings", [])),
            readings=tuple(
                ReadingSummary(
                    key=str(item["key"]),
                    words=str(item["words"]),
                    tempo_bpm=float(item["tempo_bpm"]),
                    meter=Meter(int(item["meter"][0]), int(item["meter"][1])),
                    evidence=tuple(str(text) for text in item.get("evidence", [])),
                    downbeats=tuple(int(index) for index in item.get("downbeats", [])),
                    half_time=bool(item.get("half_time", False)),
                )
                for item in data.get("readings", [])
            ),
            tracked_beats=tuple(float(beat) for beat in data.get("tracked_beats", [])),
        )
    except (KeyError, TypeError, ValueError, ZeroDivisionError, OverflowError) as error:
        raise InvalidTranscription(f"the transcription cannot be read: {error!r}") from error
    _validate(song)
    return song


def _validate(song: Transcription) -> None:
    for before, after in zip(song.bars, song.bars[1:], strict=False):
        if after.number != before.number + 1:
            raise InvalidTranscription(f"bar {before.number + 1} is missing")
    for number in {hit.bar for hit in song.hits}:
        song.bar(number)
    # The hits are in order: two at one place are neighbours.
    for one, other in pairwise(song.hits):
        if one.instrument is other.instrument and one.place == other.place:
            raise InvalidTranscription(
                f"bar {one.bar} has two {one.instrument.value} hits at {one.position}"
            )


def dumps(song: Transcription) -> str:
    """The text of `transcription.json`, one line a hit so that differences can be read."""
    data = to_json(song)
    rows = {key: data.pop(key) for key in ("bars", "hits")}
    text = json.dumps(data, indent=1, ensure_ascii=False)
    for key, items in rows.items():
        lines = ",\n  ".join(json.dumps(item, ensure_ascii=False) for item in items)
        text = text.removesuffix("\n}") + f',\n "{key}": [\n  {lines}\n ]\n}}'
    return text + "\n"


def loads(text: str) -> Transcription:
    """Read the text of a `transcription.json`. Raises InvalidTranscription."""
    try:
        return from_json(json.loads(text))
    except json.JSONDecodeError as error:
        raise InvalidTranscription(f"this is not JSON: {error}") from error

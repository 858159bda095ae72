"""From stored songs to the plain values that the serializers describe."""

from __future__ import annotations

from collections import defaultdict
from functools import lru_cache
from typing import Any

from django.contrib.auth.models import AnonymousUser, User
from django.utils import timezone

from orchesis.chart.readings import feel_words
from orchesis.form.compare import compare_sections, form_notes, phrase_lengths
from orchesis.groove.count import ruler
from orchesis.listening.parts import Part
from orchesis.music.instruments import TIMEKEEPERS, Instrument, Status
from orchesis.music.json import bar_to_json, from_json, hit_to_json
from orchesis.music.values import Bar, Feel, Hit, Meter, Transcription
from orchesis.rhythm.beat_notation import beat_notation
from orchesis.rhythm.due import swung_place
from orchesis.rhythm.feel import Ratio, feel_report, places_in_beat
from orchesis.rhythm.tempo import tempo_report
from studio.artefacts import is_there
from studio.models import OPEN_STATES, Job, JobKind, RunState, Song
from studio.queueing import latest_run
from studio.values.access import ROLE_NAMES, Role
from studio.values.heard import heard_path
from studio.values.undoable import can_redo, can_undo

FINEST_BINARY = 4
"""Bars are shown on sixteenths at least, so that a sixteenth can be added where none was heard."""


def song_values(song: Song, role: Role) -> dict[str, Any]:
    """A song on the shelf of somebody who has that role at it."""
    run = latest_run(song)
    header = song.header or {}
    feel = ""
    if song.header is not None:
        feel = feel_words(from_json({**song.header, "hits": []})) or "straight"
    return {
        "id": song.id,
        "title": song.title,
        "file_name": song.file_name,
        "duration": song.duration,
        "tempo_bpm": song.tempo_bpm,
        "meter": song.meter,
        "feel": feel if song.tempo_bpm else "",
        "has_score": song.header is not None,
        "has_recording": bool(song.suffix),
        "doubts": song.doubt_count,
        "bars": len(header.get("bars", [])),
        "revision": song.revision,
        "role": ROLE_NAMES[role],
        "owner": song.owner.get_username(),
        "edition": _edition_of(song),
        "is_shared": role is not Role.OWNER or _is_shared(song),
        "open_comments": song.comments.filter(answers=None, settled_at=None).count(),
        "run": run_values(run) if run else None,
    }


def _edition_of(song: Song) -> dict[str, Any] | None:
    """The newest edition, and whether the song has been changed since."""
    newest = song.editions.first()
    if newest is None:
        return None
    return {
        "number": newest.number,
        "published_at": newest.created_at,
        "words": newest.words,
        "changed": newest.changed,
        "is_current": newest.revision == song.revision,
    }


def _is_shared(song: Song) -> bool:
    return bool(
        song.seats.exists()
        or song.groups.exists()
        or song.assignments.filter(withdrawn_at=None).exists()
    )


def run_values(run: Job) -> dict[str, Any]:
    """A run with the time it will still take, judged by the pace so far."""
    left = None
    if run.state == RunState.RUNNING and run.started_at and run.progress > 0.05:
        spent = (timezone.now() - run.started_at).total_seconds()
        left = round(spent * (1 - run.progress) / run.progress, 1)
    return {
        "state": run.state,
        "stage": run.stage,
        "progress": run.progress,
        "message": run.message,
        "seconds_left": left,
    }


def mine_values(
    song: Song, viewer: User | AnonymousUser, *, may_hear: bool = True
) -> dict[str, Any]:
    """What depends on who looks, and on files that come later."""
    edits = isinstance(viewer, User)
    return {
        "parts": [p.value for p in Part if may_hear and is_there(song.part_path(p.value))],
        "parts_coming": may_hear and parts_are_coming(song),
        "can_undo": isinstance(viewer, User) and can_undo(song, viewer),
        "can_redo": isinstance(viewer, User) and can_redo(song, viewer),
        "heard_again": edits and is_there(heard_path(song)),
    }


def parts_are_coming(song: Song) -> bool:
    """Whether the record is about to be taken apart, or is just now."""
    kinds = (JobKind.PARTS, JobKind.LISTEN)
    return bool(song.suffix) and song.jobs.filter(kind__in=kinds, state__in=OPEN_STATES).exists()


def written_values(song: Song, score: Transcription) -> dict[str, Any]:
    """What one revision of the song is, for everybody who may see it."""
    revisions = dict(song.bars.values_list("number", "revision"))
    by_bar: dict[int, list[Hit]] = {}
    for hit in score.hits:
        by_bar.setdefault(hit.bar, []).append(hit)
    return {
        "revision": song.revision,
        "duration": score.duration,
        "tempo_bpm": score.tempo_bpm,
        "meter": [score.meter.beats, score.meter.unit],
        "feel": feel_words(score) or "straight",
        "findings": list(score.findings),
        "listening": listening_values(song, score),
        "sections": form_values(score),
        "fills": [
            {"start": fill.start, "end": fill.end, "bar": fill.bar, "settled": fill.settled}
            for fill in score.fills
        ],
        "bars": [
            {
                **bar_to_json(bar),
                "cells": cell_values(score, bar),
                "hits": [hit_to_json(hit) for hit in by_bar.get(bar.number, [])],
                "revision": revisions.get(bar.number, 0),
            }
            for bar in score.bars
        ],
        "loudness": song.loudness,
    }


LINES = {
    "Hat and ride": frozenset(TIMEKEEPERS),
    "Snare": frozenset({Instrument.SNARE, Instrument.CROSS_STICK}),
    "Kick": frozenset({Instrument.KICK}),
}
"""The lines of the picture of where notes fall between two beats."""


def listening_values(song: Song, score: Transcription) -> dict[str, Any]:
    """The findings about the grid and the feel, with what speaks for them."""
    tempo = tempo_report(score.bars)
    feel = feel_report(score.bars, score.hits, half_time=score.feel.half_time)
    return {
        "confirmed": list((song.header or {}).get("confirmed", [])),
        "tempo": {
            "median": tempo.median,
            "slowest": tempo.slowest,
            "fastest": tempo.fastest,
            "click": tempo.click,
            "words": tempo.words,
            "curve": [[round(time, 3), round(value, 2)] for time, value in tempo.curve],
        },
        "feel": {
            "words": feel.words,
            "subdivision": feel.subdivision,
            "swing_8": ratio_values(feel.swing_8),
            "swing_16": ratio_values(feel.swing_16),
            "half_time": feel.half_time,
            "sections": [
                {
                    "label": section.label,
                    "words": feel_report(
                        score.bars_in(section),
                        score.hits_in(section),
                        half_time=score.feel.half_time,
                    ).words,
                }
                for section in score.sections
                if section.mark
            ],
            "lines": [
                {"name": name, "counts": list(places_in_beat(score.bars, score.hits, drums))}
                for name, drums in LINES.items()
            ],
        },
        "beat_notation": notation.value if (notation := beat_notation(score)) else None,
        "readings": [
            {
                "key": reading.key,
                "words": reading.words,
                "tempo_bpm": reading.tempo_bpm,
                "meter": [reading.meter.beats, reading.meter.unit],
                "evidence": list(reading.evidence),
            }
            for reading in score.readings
        ],
    }


def ratio_values(ratio: Ratio | None) -> dict[str, Any] | None:
    """A swing ratio with its interval."""
    if ratio is None:
        return None
    return {"value": ratio.value, "low": ratio.low, "high": ratio.high, "pairs": ratio.pairs}


def form_values(score: Transcription) -> list[dict[str, Any]]:
    """The sections with what they are made of, and what they have apart."""
    compared = {item.section: item for item in compare_sections(
        score.sections, score.hits, score.fills
    )}  # fmt: skip
    notes = form_notes(score.bars, score.sections, score.hits)
    crashes = {
        hit.bar for hit in score.hits if hit.instrument is Instrument.CRASH and hit.position == 0
    }
    density: dict[int, float] = defaultdict(float)
    for hit in score.hits:
        if hit.status is not Status.LEFT_OUT:
            density[hit.bar] += hit.velocity / 127
    top = max(density.values(), default=1.0)
    fills = {fill.bar for fill in score.fills}
    values = []
    for index, section in enumerate(score.sections):
        last = section.first_bar + section.bars
        like = compared.get(index)
        values.append(
            {
                "label": section.label,
                "mark": section.mark,
                "start": section.start,
                "end": section.end,
                "bars": section.bars,
                "first_bar": section.first_bar,
                "confirmed": section.confirmed,
                "phrases": list(phrase_lengths(section, score.fills)),
                "like": score.sections[like.like].label if like else None,
                "differing": list(like.differing) if like else [],
                "words": like.words if like else "",
                "notes": [
                    {"bar": note.bar, "kind": note.kind, "words": note.words}
                    for note in notes
                    if section.first_bar <= note.bar < last
                ],
                "cells": [
                    {
                        "number": bar.number,
                        "density": round(density[bar.number] / top, 3),
                        "fill": bar.number in fills,
                        "crash": bar.number in crashes,
                        "meter": str(bar.meter) if bar.meter != score.meter else None,
                    }
                    for bar in score.bars_in(section)
                ],
            }
        )
    return values


def cell_values(score: Transcription, bar: Bar) -> list[dict[str, Any]]:
    """The places where a note of this bar can be written."""
    return [
        {"position": position, "word": word, "time": round(bar.time_at(place), 4)}
        for position, word, place in _places(bar.divisions, bar.meter, score.feel)
    ]


@lru_cache(maxsize=512)
def _places(
    divisions: tuple[int, ...], meter: Meter, feel: Feel
) -> tuple[tuple[str, str, float], ...]:
    """Position, word and swung place of each cell; kept, since bars are divided in few ways."""
    shown = tuple(FINEST_BINARY if FINEST_BINARY % parts == 0 else parts for parts in divisions)
    return tuple(
        (str(position), word, swung_place(position, meter.pulses, feel))
        for position, word in ruler(shown, meter)
    )

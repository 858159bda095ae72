"""From stored songs to the plain values that the serializers describe."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django.contrib.auth.models import User
from django.utils import timezone

from orchesis.chart.musicxml import feel_words
from orchesis.groove.count import count_ruler
from orchesis.groove.typical import typical_bar
from orchesis.music.json import bar_to_json, from_json, hit_to_json
from orchesis.music.values import Bar, Hit, Transcription
from orchesis.practice.click import SUBDIVISIONS, clicks
from orchesis.rhythm.due import written_time
from studio.actions.editing import Edited, can_redo, can_undo
from studio.actions.runs import latest_run
from studio.actions.store import load_transcription
from studio.models import ListeningRun, RunState, Song

FINEST_BINARY = 4
"""Bars are shown on sixteenths at least, so that a sixteenth can be added where none was heard."""


def song_values(song: Song) -> dict[str, Any]:
    """A song on the shelf."""
    run = latest_run(song)
    header = song.header or {}
    feel = ""
    if song.header is not None:
        feel = feel_words(from_json({**song.header, "hits": []})) or "straight"
    doubts = 0
    if song.header is not None:
        doubts = sum(hit["status"] == "doubtful" for bar in song.bars.all() for hit in bar.hits)
    return {
        "id": song.id,
        "title": song.title,
        "file_name": song.file_name,
        "duration": song.duration,
        "tempo_bpm": song.tempo_bpm,
        "meter": song.meter,
        "feel": feel if song.tempo_bpm else "",
        "has_score": song.header is not None,
        "doubts": doubts,
        "bars": len(header.get("bars", [])),
        "revision": song.revision,
        "run": run_values(run) if run else None,
    }


def run_values(run: ListeningRun) -> dict[str, Any]:
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


def score_values(song: Song, viewer: User) -> dict[str, Any]:
    """All that the song page shows."""
    score = load_transcription(song)
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
        "sections": [
            {
                "label": section.label,
                "start": section.start,
                "end": section.end,
                "bars": section.bars,
                "first_bar": section.first_bar,
            }
            for section in score.sections
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
        "typical": typical_values(score),
        "clicks": {
            name: [
                {"time": round(click.time, 4), "strength": click.strength}
                for click in clicks(score, name)
            ]
            for name in SUBDIVISIONS
        },
        "loudness": song.loudness,
        "can_undo": can_undo(song, viewer),
        "can_redo": can_redo(song, viewer),
    }


def cell_values(score: Transcription, bar: Bar) -> list[dict[str, Any]]:
    """The places where a note of this bar can be written."""
    shown = replace(
        bar,
        divisions=tuple(
            FINEST_BINARY if FINEST_BINARY % parts == 0 else parts for parts in bar.divisions
        ),
    )
    return [
        {
            "position": str(position),
            "word": word,
            "time": round(written_time(score, bar.number, position), 4),
        }
        for position, word in count_ruler(shown)
    ]


def typical_values(score: Transcription) -> list[dict[str, Any]]:
    """The typical bar of the whole song, with limbs."""
    return [
        {
            "position": str(note.position),
            "instrument": note.instrument.value,
            "standing": note.standing.value,
            "share": round(note.share, 3),
            "velocity": note.velocity,
            "ghost": note.ghost,
            "accent": note.accent,
            "limb": note.limb.value if note.limb else None,
        }
        for note in typical_bar(score.hits, [bar.number for bar in score.bars])
    ]


def edited_values(edited: Edited, author: User) -> dict[str, Any]:
    """The bar as it is after an edit."""
    return {
        "words": edited.words,
        "revision": edited.song.revision,
        "bar": edited.bar.number,
        "bar_revision": edited.bar.revision,
        "hits": edited.bar.hits,
        "can_undo": can_undo(edited.song, author),
        "can_redo": can_redo(edited.song, author),
    }

"""The engraved chart as plain values: pages of systems, where each measure is, which bars it is."""

from __future__ import annotations

import hashlib
import json
from dataclasses import fields
from enum import StrEnum
from typing import Any

from orchesis.chart.mei import measure_id
from orchesis.chart.options import (
    Beside,
    ChartOptions,
    CrossStick,
    Doubts,
    Ghosts,
    HatFoot,
    Level,
    Notation,
    PageSize,
    Reading,
    Swing,
    Voices,
)
from orchesis.chart.pages import Block, Engraving, Page, measure_boxes
from orchesis.chart.parts import chosen_parts, proposed_parts
from orchesis.chart.reading_pages import chart_pages
from orchesis.chart.score import Credits
from orchesis.errors import InvalidTranscription
from orchesis.limbs.playable import folded
from orchesis.music.instruments import Limb
from orchesis.music.values import Transcription
from studio.models import Song
from studio.values.kits import song_player, stamp_of
from studio.values.shown import code_stamp
from studio.values.stored import load_transcription

CHOICES: dict[str, type[StrEnum]] = {
    "reading": Reading,
    "notation": Notation,
    "level": Level,
    "doubts": Doubts,
    "voices": Voices,
    "sticking": Beside,
    "ghosts": Ghosts,
    "cross_stick": CrossStick,
    "hat_foot": HatFoot,
    "swing": Swing,
    "size": PageSize,
}
"""The options that are one of several, by name."""


def options_to_json(options: ChartOptions) -> dict[str, Any]:
    """Options as they are stored with a job."""
    values = {field.name: getattr(options, field.name) for field in fields(options)}
    return {**values, "limbs": sorted(options.limbs)}


def options_from_json(data: dict[str, Any]) -> ChartOptions:
    """Options as they were stored. Raises InvalidTranscription for what is no option."""
    known = {field.name for field in fields(ChartOptions)}
    try:
        values = {name: value for name, value in data.items() if name in known}
        for name, kind in CHOICES.items():
            if name in values:
                values[name] = kind(values[name])
        values["limbs"] = frozenset(Limb(limb) for limb in values.get("limbs", ()))
        return ChartOptions(**values)
    except (TypeError, ValueError) as error:
        raise InvalidTranscription(f"this is no way to write a chart: {error}") from error


def options_name(options: ChartOptions) -> str:
    """A short name, another for every choice."""
    told = json.dumps(options_to_json(options), sort_keys=True)
    return hashlib.sha256(told.encode()).hexdigest()[:10]


def signature(song: Song) -> Credits:
    """Who took the song off, its version, its day."""
    day = song.updated_at
    return Credits(
        transcriber=song.owner.get_username(),
        version=song.revision,
        date=f"{day.day} {day:%B %Y}",
    )


def charted(song: Song, options: ChartOptions) -> tuple[Transcription, tuple[str, ...]]:
    """The song as it is charted, and what was done to it for the player's kit, in sentences.

    The stored song stays as it is.
    """
    score = load_transcription(song)
    if not options.for_kit:
        return score, ()
    hits, words = folded(score.hits, song_player(song))
    return score.with_hits(hits), words


def chart_stamp(song: Song, options: ChartOptions) -> str:
    """Another whenever the chart is another."""
    kit = stamp_of(song_player(song)) if options.for_kit else ""
    owner = song.owner.get_username()
    return f"{song.revision} {song.title} {owner} {song.updated_at} {kit} {code_stamp()}"


def chart_values(song: Song, options: ChartOptions, known: frozenset[str]) -> dict[str, Any]:
    """The chart on its pages. Of systems whose names are `known` only the names are told."""
    score, remarks = charted(song, options)
    engraving = chart_pages(score, options, signature(song))
    return {
        "revision": song.revision,
        "glyphs": _glyphs(engraving),
        "pages": [_page_values(page, known) for page in engraving.pages],
        "measures": [
            {
                "name": measure_id(measure),
                "page": number,
                "bars": list(measure.plays),
                "span": measure.span,
                "left": round(box.left),
                "top": round(box.top),
                "right": round(box.right),
                "bottom": round(box.bottom),
            }
            for number, page in enumerate(engraving.pages)
            for measure, box in measure_boxes(page)
        ],
        "parts": _part_values(score) if options.reading is Reading.PARTS else [],
        "remarks": list(remarks),
        "cues": [{"time": cue.time, "words": cue.words} for cue in score.cues],
    }


def _glyphs(engraving: Engraving) -> dict[str, str]:
    found: dict[str, str] = {}
    for page in engraving.pages:
        found |= page.glyphs
    return found


def _page_values(page: Page, known: frozenset[str]) -> dict[str, Any]:
    return {
        "width": page.width,
        "height": page.height,
        "texts": "".join(text.svg() for text in page.texts),
        "systems": [
            {
                "name": placed.block.name,
                "transform": placed.transform,
                "svg": _drawn(placed.block, known),
            }
            for placed in page.placed
        ],
    }


def _drawn(block: Block, known: frozenset[str]) -> str | None:
    return None if block.name in known else block.dressed.svg


def _part_values(score: Transcription) -> list[dict[str, Any]]:
    """The parts as they are now, and what was proposed and is not among them."""
    chosen = chosen_parts(score)
    here = {(part.first_bar, part.bars) for part in chosen}
    dropped = [p for p in proposed_parts(score) if (p.first_bar, p.bars) not in here]
    return [
        {
            "first_bar": part.first_bar,
            "bars": part.bars,
            "places": list(part.places),
            "share": round(part.share, 3),
            "words": part.words,
            "kept": (part.first_bar, part.bars) in here,
            "wanted": part.wanted,
        }
        for part in (*chosen, *dropped)
    ]

"""The large answers of the song page, as JSON: worked out once a revision (`actions.shown`)."""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from rest_framework.renderers import JSONRenderer

from orchesis.chart.engrave import PageSize, engrave
from orchesis.chart.musicxml import to_musicxml
from orchesis.rhythm.rewrite import take_reading
from studio.actions.shown import shown, shown_path
from studio.actions.store import load_transcription
from studio.api.groove_values import groove_values
from studio.api.presenting import viewer_values, written_values
from studio.models import Song


def score_page(song: Song, viewer: User) -> bytes:
    """All that the song page shows of the written part."""
    written = shown(song, "score", lambda: written_values(song, load_transcription(song)))
    return _seen_by(viewer, song, written)


def reading_page(song: Song, viewer: User, key: str) -> bytes:
    """The same of the song as it would be in one of its readings. `key` must be one of theirs."""
    name = "reading-" + key.replace("/", "-")
    written = shown(
        song, name, lambda: written_values(song, take_reading(load_transcription(song), key))
    )
    return _seen_by(viewer, song, written)


def _seen_by(viewer: User, song: Song, written: bytes) -> bytes:
    of_viewer: bytes = JSONRenderer().render(viewer_values(song, viewer))
    return of_viewer[:-1] + b"," + written[1:]


def score_tag(song: Song, viewer: User) -> str:
    """What names this state of `score_page` for this viewer."""
    of_viewer = hashlib.sha256(repr(viewer_values(song, viewer)).encode()).hexdigest()[:12]
    return f'"{shown_path(song, "score").stem}-{of_viewer}"'


def grooves_page(song: Song) -> tuple[Path, bytes]:
    """All that is found about the grooves: where it is kept, and the JSON."""
    body = shown(
        song,
        "grooves",
        lambda: {"revision": song.revision, **groove_values(song, load_transcription(song))},
    )
    return shown_path(song, "grooves"), body


def engraving_page(song: Song, size: PageSize) -> tuple[Path, bytes]:
    """The chart as pages of SVG: where it is kept, and the JSON."""
    name = f"engraving-{size.value}"

    def made() -> dict[str, Any]:
        text = to_musicxml(load_transcription(song))
        return {"revision": song.revision, "pages": list(engrave(text, size).pages)}

    return shown_path(song, name), shown(song, name, made)


def prepare_page(song: Song) -> None:
    """Work both out before anybody opens the song."""
    score_page(song, song.owner)
    grooves_page(song)

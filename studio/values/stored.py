"""A stored song as an object of the core."""

from __future__ import annotations

from orchesis.music.json import from_json
from orchesis.music.values import Transcription
from studio.models import Song


def load_transcription(song: Song) -> Transcription:
    """The transcription as it stands now, edits included. The song must have one."""
    assert song.header is not None
    hits = [hit for bar in song.bars.all() for hit in bar.hits]
    return from_json({**song.header, "title": song.title, "hits": hits})

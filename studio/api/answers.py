"""What is answered to a change of a song."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User
from django.http import HttpResponse

from studio.actions.action import Action, Done, perform
from studio.models import Song
from studio.values.presenting import written_values
from studio.values.stored import load_transcription
from studio.values.undoable import can_redo, can_undo


def as_json(body: bytes) -> HttpResponse:
    """What is JSON already, as an answer."""
    return HttpResponse(body, content_type="application/json")


def performed(song: Song, author: User, action: Action) -> dict[str, Any]:
    """Make a change and say what came of it."""
    return edited_values(perform(song, author, action), author)


def edited_values(done: Done, author: User) -> dict[str, Any]:
    """The bars as they are after edits; the whole score where all of the song changed."""
    song = done.song
    return {
        "words": done.words,
        "revision": song.revision,
        "bars": [
            {"number": bar.number, "revision": bar.revision, "hits": bar.hits} for bar in done.bars
        ],
        "score": (
            written_values(song, done.score or load_transcription(song)) if done.is_whole else None
        ),
        "can_undo": can_undo(song, author),
        "can_redo": can_redo(song, author),
    }

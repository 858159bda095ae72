"""What is answered to a change of a song."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User

from studio.actions.changing import Changed
from studio.actions.editing import Edited
from studio.values.presenting import written_values
from studio.values.stored import load_transcription
from studio.values.undoable import can_redo, can_undo


def edited_values(edited: Edited | Changed, author: User) -> dict[str, Any]:
    """The bars as they are after a gesture; the whole score where all of the song changed."""
    bars = edited.bars if isinstance(edited, Edited) else ()
    return {
        "words": edited.words,
        "revision": edited.song.revision,
        "bars": [
            {"number": bar.number, "revision": bar.revision, "hits": bar.hits} for bar in bars
        ],
        "score": (
            written_values(edited.song, edited.score or load_transcription(edited.song))
            if isinstance(edited, Changed)
            else None
        ),
        "can_undo": can_undo(edited.song, author),
        "can_redo": can_redo(edited.song, author),
    }

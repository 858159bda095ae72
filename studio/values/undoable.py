"""Whether somebody has something to take back, or to put back."""

from __future__ import annotations

from django.contrib.auth.models import User

from studio.models import EditEntry, Song, SongChange


def can_undo(song: Song, author: User) -> bool:
    """True when the author has an edit that stands."""
    mine = {"song": song, "author": author, "undone": False}
    changes = SongChange.objects.filter(**mine)
    return EditEntry.objects.filter(**mine).exists() or changes.exists()


def can_redo(song: Song, author: User) -> bool:
    """True when the author has taken back an edit and made none since."""
    mine = {"song": song, "author": author, "redoable": True}
    changes = SongChange.objects.filter(**mine)
    return EditEntry.objects.filter(**mine).exists() or changes.exists()

"""Comments at bars: written, answered, settled, taken back."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.utils import timezone

from orchesis.errors import Missing
from studio.actions.action import NotYours
from studio.models import Song
from studio.people import Comment
from studio.queueing import NotNow
from studio.values.access import Role, role_of

MOST_COMMENTS = 2000


def comment(song: Song, author: User, *, bar: int, words: str, answers: int | None) -> Comment:
    """Write at a bar, or answer what stands there; an answer opens a settled thread again.

    Raises Missing for a bar or a comment that is not there, NotNow where there are too many.
    """
    if song.comments.count() >= MOST_COMMENTS:
        raise NotNow("this song has as many comments as it holds: take some away")
    first = None
    if answers is not None:
        first = song.comments.filter(pk=answers, answers=None).first()
        if first is None:
            raise Missing("what you answer is not there any more")
        song.comments.filter(pk=first.pk).update(settled_at=None)
        bar = first.bar
    elif not song.bars.filter(number=bar).exists():
        raise Missing(f"this song has no bar {bar}")
    return Comment.objects.create(song=song, author=author, bar=bar, words=words, answers=first)


def settle(song: Song, comment_id: int, *, settled: bool) -> None:
    """Say that a thread is settled, or that it is not."""
    found = song.comments.filter(pk=comment_id, answers=None)
    if not found.exists():
        raise Missing("this comment is not there any more")
    found.update(settled_at=timezone.now() if settled else None)


def take_back(song: Song, author: User, comment_id: int) -> None:
    """Take a comment away, with its answers: one's own, or any of one's own song."""
    found = song.comments.filter(pk=comment_id).first()
    if found is None:
        raise Missing("this comment is not there any more")
    if found.author_id != author.pk and role_of(song, author) < Role.OWNER:
        raise NotYours("only its author may take it back")
    found.delete()

"""What somebody wants to practise of a song."""

from __future__ import annotations

from django.contrib.auth.models import User

from studio.models import PracticeItem, Song
from studio.queueing import NotNow

MOST_ITEMS = 100


def put_on_list(song: Song, owner: User, *, bar: int, key: str, title: str) -> PracticeItem:
    """Put an exercise on the list; what is on it already stays where it is.

    Raises NotNow where the list is full.
    """
    mine = PracticeItem.objects.filter(song=song, owner=owner)
    known = mine.filter(bar=bar, key=key).first()
    if known is not None:
        return known
    if mine.count() >= MOST_ITEMS:
        raise NotNow(f"{MOST_ITEMS} exercises are on the list of this song: take some off first.")
    return PracticeItem.objects.create(song=song, owner=owner, bar=bar, key=key, title=title[:120])

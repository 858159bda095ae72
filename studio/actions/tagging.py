"""Tags: words by which somebody sorts his shelf."""

from __future__ import annotations

from collections.abc import Sequence

from django.contrib.auth.models import User
from django.db import transaction

from studio.models import Song
from studio.people import Tag


def tag_song(song: Song, owner: User, names: Sequence[str]) -> list[str]:
    """Let a song have these tags of somebody's and no others; gives them back in order."""
    wanted = sorted({" ".join(name.split()) for name in names} - {""})
    with transaction.atomic():
        mine = Tag.objects.filter(song=song, owner=owner)
        mine.exclude(name__in=wanted).delete()
        there = set(mine.values_list("name", flat=True))
        Tag.objects.bulk_create(
            [Tag(song=song, owner=owner, name=name) for name in wanted if name not in there],
            ignore_conflicts=True,
        )
    return wanted

"""How much of the machine one person may take: songs, bytes of recordings, minutes of listening.

A school's box has room for all of its pupils only where one of them cannot fill it. The limits come
from the environment (`ORCHESIS_MOST_SONGS` and so on); 0 means that there is none.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from django.conf import settings
from django.contrib.auth.models import User
from django.db.models import Count, Sum
from django.utils import timezone

from studio.models import Job, JobKind, Song, Source
from studio.queueing import NotNow

LISTENED_WITHIN = timedelta(hours=24)


@dataclass(frozen=True)
class Used:
    """What somebody has taken. bytes : of recordings. minutes : listened to within a day."""

    songs: int
    bytes: int
    minutes: float


def used_by(user: User) -> Used:
    """What somebody has taken: three statements, whatever he has."""
    # Editions are copies of charts: no recording lies twice for them.
    shelf = Song.objects.filter(owner=user, is_copy_for=None)
    own = shelf.aggregate(count=Count("pk"), size=Sum("source_bytes"))
    more = Source.objects.filter(song__owner=user).aggregate(size=Sum("source_bytes"))
    heard = Job.objects.filter(
        song__owner=user,
        kind=JobKind.LISTEN,
        created_at__gt=timezone.now() - LISTENED_WITHIN,
    ).aggregate(seconds=Sum("song__duration"))
    return Used(
        own["count"], (own["size"] or 0) + (more["size"] or 0), (heard["seconds"] or 0.0) / 60
    )


def hold_quota(user: User) -> None:
    """Let nobody else count this person's songs until the transaction is over."""
    User.objects.select_for_update().only("pk").get(pk=user.pk)


def need_quota(user: User, *, songs: int = 0, size: int = 0, minutes: float = 0.0) -> None:
    """Raise NotNow where this much more would be too much. size : bytes of a recording."""
    now = used_by(user)
    most = settings.MOST_SONGS
    if songs and most and now.songs + songs > most:
        raise NotNow(
            f"you have {now.songs} songs, and {most} are kept for one person here: remove one "
            "first, or ask whoever runs this Orchesis"
        )
    most = settings.MOST_MEGABYTES
    if size and most and now.bytes + size > most * 1024**2:
        raise NotNow(
            f"your recordings take {now.bytes / 1024**2:.0f} MB, and {most} MB are kept for one "
            f"person here: this one has {max(0.1, size / 1024**2):.1f} MB more. Remove a song first"
        )
    most = settings.MOST_MINUTES_A_DAY
    if minutes and most and now.minutes + minutes > most:
        raise NotNow(
            f"{now.minutes:.0f} minutes were listened to for you within a day, and {most} are the "
            "most: come back tomorrow"
        )

"""Sharing a song: seats for people who have an account, links for those who have none."""

from __future__ import annotations

import uuid
from datetime import datetime
from typing import Any

from django.contrib.auth.models import User
from django.db.models import F
from django.utils import timezone

from orchesis.errors import Missing
from studio.models import Account, Song
from studio.names import skeleton
from studio.people import Group, Seat, SeatRole, ShareLink
from studio.queueing import NotNow

MOST_SEATS = 60
MOST_LINKS = 100


def give_seat(song: Song, name: str, role: SeatRole) -> Seat:
    """Let somebody in, or change what he may do.

    Raises Missing for a name that nobody has, NotNow where it is the owner's or the seats are full.
    """
    user = person(name)
    if user.pk == song.owner_id:
        raise NotNow("this song is yours already")
    if song.seats.exclude(user=user).count() >= MOST_SEATS:
        raise NotNow(f"a song has {MOST_SEATS} seats: send a link")
    seat, _ = Seat.objects.update_or_create(song=song, user=user, defaults={"role": SeatRole(role)})
    return seat


def person(name: str) -> User:
    """Whoever has that name, or one that looks like it. Raises Missing."""
    account = Account.objects.filter(skeleton=skeleton(name)).select_related("user").first()
    user = account.user if account else User.objects.filter(username=name).first()
    if user is None:
        raise Missing(f"nobody here is called {name!r}: names are those with which people sign in")
    return user


def take_seat(song: Song, seat_id: int) -> None:
    """Somebody sees the song no longer; what he wrote in it stays."""
    if not song.seats.filter(pk=seat_id).delete()[0]:
        raise Missing("nobody sits there any more")


def leave_seat(song: Song, user: User) -> None:
    """Give one's own seat back."""
    song.seats.filter(user=user).delete()


def make_link(to: Song | Group, *, expires_at: datetime | None = None, **wish: Any) -> ShareLink:
    """A new address for a song, or for the list of a group.

    Raises NotNow where there are too many, or its time is over.
    """
    if to.links.filter(revoked_at=None).count() >= MOST_LINKS:
        raise NotNow(f"{MOST_LINKS} links are out: take those back that are done with")
    if expires_at is not None and expires_at <= timezone.now():
        raise NotNow("a link must expire later than now")
    where = {"song": to} if isinstance(to, Song) else {"group": to}
    return ShareLink.objects.create(expires_at=expires_at, **where, **wish)


def sender_of(link: ShareLink) -> str:
    """Who sent it: whom to ask for another."""
    owner = link.song.owner if link.song else link.group.owner if link.group else None
    return owner.get_username() if owner else ""


def songs_of(link: ShareLink) -> list[Song]:
    """The songs that it opens, in order."""
    if link.song is not None:
        return [link.song]
    puts = link.group.songs.select_related("song") if link.group else ()
    return [put.song for put in puts if put.song.has_score]


def revoke_link(to: Song | Group, link_id: uuid.UUID) -> None:
    """From now on it opens nothing. Revoked twice it is revoked."""
    found = to.links.filter(pk=link_id)
    if not found.exists():
        raise Missing("there is no such link")
    found.filter(revoked_at=None).update(revoked_at=timezone.now())


def open_shared(token: str) -> ShareLink:
    """Count that it was opened. Raises Missing in a sentence that says whom to ask."""
    found = ShareLink.objects.filter(token=token).select_related("song__owner", "group__owner")
    link = found.first()
    if link is None:
        raise Missing("this address opens nothing: it was cut off on its way, or its song is gone")
    sender = sender_of(link)
    if link.revoked_at is not None:
        raise Missing(f"this link was taken back: ask {sender} for a new one")
    if link.is_expired:
        day = timezone.localtime(link.expires_at).strftime("%-d %B %Y")
        raise Missing(f"this link was good until {day}: ask {sender} for a new one")
    ShareLink.objects.filter(pk=link.pk).update(
        opened=F("opened") + 1, last_opened_at=timezone.now()
    )
    return link

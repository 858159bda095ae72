"""Who may do what with a song: its owner, whoever has a seat at it, whoever holds a link to it."""

from __future__ import annotations

from enum import IntEnum
from uuid import UUID

from django.contrib.auth.models import AnonymousUser, User
from django.db.models import Q, QuerySet

from studio.models import Song
from studio.people import Assignment, GroupSong, Seat, SeatRole, ShareLink


class Role(IntEnum):
    """What somebody is to a song; each may do what those below it may."""

    STRANGER = 0
    LINK = 1
    """Has an address that opens its chart and its player."""

    READER = 2
    EDITOR = 3
    OWNER = 4


ROLE_NAMES = {
    Role.STRANGER: "stranger",
    Role.LINK: "link",
    Role.READER: "reader",
    Role.EDITOR: "editor",
    Role.OWNER: "owner",
}
SEAT_ROLES = {SeatRole.READER: Role.READER, SeatRole.EDITOR: Role.EDITOR}


def role_of(song: Song, user: User | AnonymousUser) -> Role:
    """What a person is to a song, links aside."""
    if not user.is_authenticated:
        return Role.STRANGER
    if song.owner_id == user.pk:
        return Role.OWNER
    seats = Seat.objects.filter(song=song, user=user).values_list("role", flat=True)
    groups = GroupSong.objects.filter(song=song, group__members__user=user)
    found = [
        SEAT_ROLES[SeatRole(role)] for role in (*seats, *groups.values_list("role", flat=True))
    ]
    if not found and given_to(user).filter(song=song).exists():
        found = [Role.READER]
    return max(found, default=Role.STRANGER)


def given_to(user: User) -> QuerySet[Assignment]:
    """What teachers ask of somebody now: of him alone, or of a class that he is in."""
    mine = Q(student=None) & ~Q(group__owner=user) | Q(student=user)
    return Assignment.objects.filter(mine, withdrawn_at=None, group__members__user=user).distinct()


def shared_with(user: User) -> dict[UUID, Role]:
    """Every song of somebody else's that a person has, and what he may do with it."""
    found: dict[UUID, Role] = {}
    rows = [
        *Seat.objects.filter(user=user).values_list("song_id", "role"),
        *GroupSong.objects.filter(group__members__user=user)
        .exclude(song__owner=user)
        .values_list("song_id", "role"),
        *((song, SeatRole.READER) for song in given_to(user).values_list("song_id", flat=True)),
    ]
    for song, role in rows:
        found[song] = max(found.get(song, Role.STRANGER), SEAT_ROLES[SeatRole(role)])
    return found


def open_link(song: Song, token: str | None) -> ShareLink | None:
    """The link of that secret, where it is one to this song and still opens it."""
    if not token:
        return None
    to_it = Q(song=song) | Q(group__songs__song=song)
    link = ShareLink.objects.filter(to_it, token=token).first()
    return link if link is not None and link.is_open else None


def edition_of(song: Song) -> Song:
    """What readers see of a song: its newest edition, or the song itself where none is out."""
    newest = song.editions.select_related("copy").exclude(copy=None).first()
    if newest is None or newest.copy is None:
        return song
    return newest.copy

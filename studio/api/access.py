"""Who asks, and which song he may have for what: here every view of a song begins."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass

from django.contrib.auth.models import User
from rest_framework.exceptions import NotAuthenticated, NotFound
from rest_framework.permissions import SAFE_METHODS, AllowAny
from rest_framework.request import Request
from rest_framework.views import APIView

from studio.actions.action import NotYours
from studio.models import Song
from studio.people import ShareLink
from studio.values.access import Role, edition_of, open_link, role_of

MOST_LINKS_KEPT = 200
"""Songs that one browser without an account has open by links."""

LINKS = "links"
NOT_YOURS = {
    Role.EDITOR: "you may read this song, not change it: ask its owner to let you work on it",
    Role.OWNER: "only the one whose song this is may do that",
}


class ForLinks(APIView):
    """A view of a song that a link opens too: who asks is looked at by `access`."""

    permission_classes = [AllowAny]


@dataclass(frozen=True)
class Access:
    """A song, and what the asker is to it. `link`: by which he came, if by nothing better."""

    song: Song
    role: Role
    link: ShareLink | None = None

    @property
    def seen(self) -> Song:
        """What the asker sees of it: those who work on it what it is now, others its edition."""
        return self.song if self.role >= Role.EDITOR else edition_of(self.song)

    @property
    def may_hear(self) -> bool:
        """Whether the recording is open to him, not only the chart."""
        if self.role > Role.LINK:
            return True
        if self.link is None or not self.link.with_audio:
            return False
        # Who made a link to a list said so of his own recordings, not of those that came later.
        group = self.link.group
        return group is None or group.owner_id == self.song.owner_id


def own_user(request: Request) -> User:
    """Who asks; the permission classes have made sure that somebody is signed in."""
    assert isinstance(request.user, User)
    return request.user


def access(request: Request, song_id: uuid.UUID, need: Role) -> Access:
    """The song, where the asker may have it. To a stranger it does not exist.

    Its header, which is long, is fetched when it is first asked for.
    """
    song = Song.objects.filter(pk=song_id).defer("header", "loudness").first()
    role = role_of(song, request.user) if song is not None else Role.STRANGER
    link = None
    if song is not None and role is Role.STRANGER and need is Role.LINK:
        link = open_link(song, request.session.get(LINKS, {}).get(str(song_id)))
        role = Role.LINK if link else role
    if song is None or role is Role.STRANGER:
        if not request.user.is_authenticated:
            raise NotAuthenticated("Sign in, or open the link that you were sent once more.")
        raise NotFound("There is no such song on your shelf.")
    if role < need:
        raise NotYours(NOT_YOURS[need])
    return Access(song, role, link)


def own_song(request: Request, song_id: uuid.UUID, need: Role | None = None) -> Song:
    """The song alone. Unless a view says otherwise, readers read and co-transcribers change."""
    return access(request, song_id, _need(request, need)).song


def _need(request: Request, need: Role | None) -> Role:
    if need is not None:
        return need
    return Role.READER if request.method in SAFE_METHODS else Role.EDITOR


def scored_song(request: Request, song_id: uuid.UUID, need: Role | None = None) -> Song:
    """The song as the asker sees it, which must have been transcribed."""
    song = access(request, song_id, _need(request, need)).seen
    if not song.has_score:
        raise NotFound("This song has not been transcribed yet.")
    return song


def scored_access(request: Request, song_id: uuid.UUID, need: Role) -> Access:
    """Both: the song that is called so, and what the asker sees of it, which has a chart."""
    found = access(request, song_id, need)
    if not found.seen.has_score:
        raise NotFound("This song has not been transcribed yet.")
    return found


def heard_song(request: Request, song_id: uuid.UUID) -> Song:
    """A song whose recording the asker may hear, also by a link that says so."""
    found = access(request, song_id, Role.LINK)
    if not found.may_hear:
        raise NotFound("This link is without the recording: the kit plays.")
    return found.seen


def keep_link(request: Request, link: ShareLink, songs: Sequence[uuid.UUID]) -> None:
    """This browser has these songs open from now on, for as long as the link does."""
    kept = dict(request.session.get(LINKS, {}))
    for song in songs:
        kept.pop(str(song), None)
        kept[str(song)] = link.token
    request.session[LINKS] = dict(list(kept.items())[-MOST_LINKS_KEPT:])

"""Sharing a song: people with seats, links for people without an account."""

from __future__ import annotations

import uuid
from typing import Any

from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect
from drf_spectacular.utils import extend_schema
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from studio.actions.sharing import (
    give_seat,
    leave_seat,
    make_link,
    open_shared,
    revoke_link,
    take_seat,
)
from studio.api.access import access, keep_link, own_song, own_user
from studio.api.sharing_serializers import (
    GiveSeatSerializer,
    LinkSerializer,
    MakeLinkSerializer,
    PeopleSerializer,
    SharedSerializer,
    TokenSerializer,
)
from studio.api.validation import validated_body
from studio.people import SeatRole, ShareLink
from studio.values.access import ROLE_NAMES, Role

PAGE = "/shared/"
"""Where a link leads: the secret comes after it."""


class PeopleView(APIView):
    """Who sees a song."""

    @extend_schema(responses=PeopleSerializer, operation_id="songs_people")
    def get(self, request: Request, song_id: uuid.UUID) -> Response:
        """Its owner and everybody who has a seat at it."""
        return _people(request, song_id)

    @extend_schema(request=GiveSeatSerializer, responses=PeopleSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Let somebody in, or change what he may do."""
        song = own_song(request, song_id, Role.OWNER)
        wish = validated_body(request, GiveSeatSerializer)
        give_seat(song, wish["name"], SeatRole(wish["role"]))
        return _people(request, song_id)

    @extend_schema(responses={204: None}, operation_id="songs_people_leave")
    def delete(self, request: Request, song_id: uuid.UUID) -> Response:
        """Give one's own seat back."""
        leave_seat(own_song(request, song_id, Role.READER), own_user(request))
        return Response(status=204)


class SeatView(APIView):
    """One seat."""

    @extend_schema(responses={204: None})
    def delete(self, request: Request, song_id: uuid.UUID, seat_id: int) -> Response:
        """Take it away."""
        take_seat(own_song(request, song_id, Role.OWNER), seat_id)
        return Response(status=204)


class LinksView(APIView):
    """The links to a song."""

    @extend_schema(responses=LinkSerializer(many=True), operation_id="songs_links_list")
    def get(self, request: Request, song_id: uuid.UUID) -> Response:
        """All of them, those that open nothing any more too."""
        song = own_song(request, song_id, Role.OWNER)
        return Response([link_values(link) for link in song.links.all()])

    @extend_schema(request=MakeLinkSerializer, responses={201: LinkSerializer})
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Make one."""
        song = own_song(request, song_id, Role.OWNER)
        link = make_link(song, **validated_body(request, MakeLinkSerializer))
        return Response(link_values(link), status=201)


class LinkView(APIView):
    """One link."""

    @extend_schema(responses={204: None})
    def delete(self, request: Request, song_id: uuid.UUID, link_id: uuid.UUID) -> Response:
        """Take it back: from now on it opens nothing."""
        revoke_link(own_song(request, song_id, Role.OWNER), link_id)
        return Response(status=204)


@method_decorator(csrf_protect, name="dispatch")
class SharedView(APIView):
    """What a link opens: for anybody who has it."""

    permission_classes = [AllowAny]

    @extend_schema(request=TokenSerializer, responses=SharedSerializer)
    def post(self, request: Request) -> Response:
        """Open it: this browser may read the song from now on, as long as the link stands."""
        link = open_shared(validated_body(request, TokenSerializer)["token"])
        keep_link(request, link)
        return Response(
            {
                "song": link.song_id,
                "title": link.song.title,
                "sender": link.song.owner.get_username(),
                "words": link.words,
                "with_audio": link.with_audio,
                "reading": link.reading,
                "level": link.level,
            }
        )


def link_values(link: ShareLink) -> dict[str, Any]:
    """A link as its owner sees it."""
    state = "revoked" if link.revoked_at else "expired" if link.is_expired else "open"
    return {
        "id": link.id,
        "path": f"{PAGE}{link.token}",
        "words": link.words,
        "with_audio": link.with_audio,
        "reading": link.reading,
        "level": link.level,
        "expires_at": link.expires_at,
        "state": state,
        "opened": link.opened,
        "last_opened_at": link.last_opened_at,
    }


def _people(request: Request, song_id: uuid.UUID) -> Response:
    found = access(request, song_id, Role.READER)
    user = own_user(request)
    return Response(
        {
            "owner": found.song.owner.get_username(),
            "role": ROLE_NAMES[found.role],
            "seats": [
                {
                    "id": seat.pk,
                    "name": seat.user.get_username(),
                    "role": seat.role,
                    "is_me": seat.user_id == user.pk,
                }
                for seat in found.song.seats.select_related("user")
            ],
        }
    )

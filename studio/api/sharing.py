"""Sharing a song: people with seats, links for people without an account."""

from __future__ import annotations

import uuid
from typing import Any

from django.http.response import HttpResponseBase
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from studio.actions.prints import FOLDER, printed
from studio.actions.publishing import publish, withdraw_editions
from studio.actions.sharing import (
    give_seat,
    leave_seat,
    make_link,
    open_shared,
    revoke_link,
    sender_of,
    songs_of,
    take_seat,
)
from studio.api.access import Access, access, keep_link, own_song, own_user, scored_song
from studio.api.chart_serializers import ChartOptionsSerializer, chart_options
from studio.api.downloads import MAYBE_LATER, being_made, saved_as
from studio.api.ranges import stored_file
from studio.api.serializers import EditionSerializer
from studio.api.sharing_serializers import (
    GiveSeatSerializer,
    LinkSerializer,
    MakeLinkSerializer,
    PeopleSerializer,
    PublishSerializer,
    SharedSerializer,
    TokenSerializer,
)
from studio.api.validation import validated_body, validated_query
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


class EditionsView(APIView):
    """Publishing."""

    @extend_schema(request=PublishSerializer, responses={201: EditionSerializer})
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Publish the song as it is now: readers and links see that until the next time."""
        song = own_song(request, song_id, Role.OWNER)
        made = publish(song, validated_body(request, PublishSerializer)["words"])
        values = {
            "number": made.number,
            "published_at": made.created_at,
            "words": made.words,
            "changed": made.changed,
            "is_current": True,
        }
        return Response(values, status=201)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, song_id: uuid.UUID) -> Response:
        """Publish nothing any more: readers and links see the song as it is now."""
        withdraw_editions(own_song(request, song_id, Role.OWNER))
        return Response(status=204)


class StaticView(APIView):
    """The chart and its player as a folder."""

    @extend_schema(
        responses={200: OpenApiTypes.BINARY, **MAYBE_LATER},
        parameters=[ChartOptionsSerializer],
        operation_id="songs_static",
    )
    def get(self, request: Request, song_id: uuid.UUID) -> HttpResponseBase:
        """Pages that open from a disk and on any web server, in a ZIP file; 202 until made."""
        song = scored_song(request, song_id)
        path = printed(
            song, FOLDER, chart_options(validated_query(request, ChartOptionsSerializer))
        )
        if path is None:
            return being_made()
        response = stored_file(request._request, path, "application/zip")
        saved_as(response, song.title, " pages.zip")
        return response


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
        songs = songs_of(link)
        keep_link(request, link, [song.pk for song in songs])
        return Response(
            {
                "song": link.song_id,
                "title": link.group.name if link.group else songs[0].title,
                "songs": [
                    {
                        "song": one.pk,
                        "title": one.title,
                        "tempo_bpm": one.tempo_bpm,
                        "with_audio": Access(one, Role.LINK, link).may_hear,
                    }
                    for one in songs
                ],
                "sender": sender_of(link),
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
    groups = found.song.groups.select_related("group")
    if found.role < Role.OWNER:
        # Others learn of those that they are in themselves.
        groups = groups.filter(group__members__user=user)
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
            "groups": [
                {
                    "id": put.group_id,
                    "name": put.group.name,
                    "kind": put.group.kind,
                    "role": put.role,
                }
                for put in groups.order_by("group__name")
            ],
        }
    )

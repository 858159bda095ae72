"""Comments at bars, and who is here."""

from __future__ import annotations

import uuid
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from studio.actions.commenting import comment, settle, take_back
from studio.api.access import own_song, own_user
from studio.api.fields import BarField
from studio.api.validation import validated_body
from studio.models import Song
from studio.people import name_of
from studio.presence import HERE_SECONDS, be_here
from studio.values.access import Role


class WriteSerializer(serializers.Serializer[Any]):
    """Words at a bar."""

    bar = BarField()
    words = serializers.CharField(max_length=600)
    answers = serializers.IntegerField(allow_null=True, default=None)


class SettleSerializer(serializers.Serializer[Any]):
    """Whether a thread is settled."""

    settled = serializers.BooleanField()


class CommentSerializer(serializers.Serializer[Any]):
    """A comment."""

    id = serializers.IntegerField()
    bar = serializers.IntegerField()
    author = serializers.CharField()
    is_mine = serializers.BooleanField()
    words = serializers.CharField()
    answers = serializers.IntegerField(allow_null=True)
    created_at = serializers.DateTimeField()
    settled = serializers.BooleanField()


class HereSerializer(serializers.Serializer[Any]):
    """At which bar the asker is."""

    bar = BarField()


class PresentSerializer(serializers.Serializer[Any]):
    """Somebody else who is here."""

    name = serializers.CharField()
    bar = serializers.IntegerField()


class CommentsView(APIView):
    """The comments of a song."""

    @extend_schema(responses=CommentSerializer(many=True), operation_id="songs_comments")
    def get(self, request: Request, song_id: uuid.UUID) -> Response:
        """All of them, oldest first."""
        return Response(comment_values(own_song(request, song_id), request))

    @extend_schema(request=WriteSerializer, responses={201: CommentSerializer(many=True)})
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Write one, or answer one: readers too."""
        song = own_song(request, song_id, Role.READER)
        comment(song, own_user(request), **validated_body(request, WriteSerializer))
        return Response(comment_values(song, request), status=201)


class CommentView(APIView):
    """One comment."""

    @extend_schema(request=SettleSerializer, responses=CommentSerializer(many=True))
    def patch(self, request: Request, song_id: uuid.UUID, comment_id: int) -> Response:
        """Settle its thread, or open it again."""
        song = own_song(request, song_id, Role.READER)
        settle(song, comment_id, **validated_body(request, SettleSerializer))
        return Response(comment_values(song, request))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, song_id: uuid.UUID, comment_id: int) -> Response:
        """Take it away, with its answers."""
        take_back(own_song(request, song_id, Role.READER), own_user(request), comment_id)
        return Response(status=204)


class HereView(APIView):
    """Presence."""

    @extend_schema(request=HereSerializer, responses=PresentSerializer(many=True))
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Say at which bar one is, and hear who else is here."""
        song = own_song(request, song_id, Role.READER)
        user = own_user(request)
        bar = validated_body(request, HereSerializer)["bar"]
        found = be_here(str(song.pk), user.get_username(), bar)
        return Response(
            [{"name": name, "bar": at} for name, at in found],
            headers={"X-Every": str(HERE_SECONDS)},
        )


def comment_values(song: Song, request: Request) -> list[dict[str, Any]]:
    """The comments of a song as the asker sees them."""
    user = own_user(request)
    return [
        {
            "id": one.pk,
            "bar": one.bar,
            "author": name_of(one.author),
            "is_mine": one.author_id == user.pk,
            "words": one.words,
            "answers": one.answers_id,
            "created_at": one.created_at,
            "settled": one.settled_at is not None,
        }
        for one in song.comments.select_related("author")
    ]

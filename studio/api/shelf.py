"""The shelf: a page of it, and the tags by which somebody sorts it."""

from __future__ import annotations

import uuid
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from studio.actions.counting import count_changed
from studio.actions.tagging import tag_song
from studio.api.access import own_song, own_user
from studio.api.fields import ListOf
from studio.api.serializers import SONG_ROLES, RunSerializer
from studio.api.validation import validated_body, validated_query
from studio.values.access import Role
from studio.values.shelf import LEFT, SORTS, ShelfWish, shelf_values

LONGEST_SEARCH = 100
LONGEST_TAG = 40
MOST_TAGS = 20


class ShelfWishSerializer(serializers.Serializer[Any]):
    """What is looked for."""

    search = serializers.CharField(max_length=LONGEST_SEARCH, allow_blank=True, default="")
    sort = serializers.ChoiceField(list(SORTS), default="newest")
    tag = serializers.CharField(max_length=LONGEST_TAG, allow_blank=True, default="")
    left = serializers.ChoiceField(["", *LEFT], default="", allow_blank=True)
    page = serializers.IntegerField(min_value=1, max_value=100_000, default=1)


class ShelfSongSerializer(serializers.Serializer[Any]):
    """A song as the shelf shows it."""

    id = serializers.UUIDField()
    title = serializers.CharField()
    performer = serializers.CharField()
    file_name = serializers.CharField()
    duration = serializers.FloatField()
    tempo_bpm = serializers.FloatField()
    meter = serializers.CharField()
    feel = serializers.CharField()
    has_score = serializers.BooleanField()
    bars = serializers.IntegerField()
    doubts = serializers.IntegerField()
    difficulty = serializers.FloatField()
    rhythms = serializers.CharField()
    role = serializers.ChoiceField(SONG_ROLES)
    owner = serializers.CharField()
    is_shared = serializers.BooleanField()
    tags = serializers.ListField(child=serializers.CharField())
    practised_at = serializers.DateTimeField(allow_null=True)
    next_step = serializers.CharField()
    run = RunSerializer(allow_null=True)


class TagSerializer(serializers.Serializer[Any]):
    """A tag, and how many songs have it."""

    name = serializers.CharField()
    count = serializers.IntegerField()


class ShelfSerializer(serializers.Serializer[Any]):
    """A page of the shelf."""

    songs = ShelfSongSerializer(many=True)
    count = serializers.IntegerField()
    page = serializers.IntegerField()
    pages = serializers.IntegerField()
    tags = TagSerializer(many=True)


class TagsSerializer(serializers.Serializer[Any]):
    """The tags that a song shall have."""

    tags = ListOf(child=serializers.CharField(max_length=LONGEST_TAG), max_length=MOST_TAGS)


class ShelfPageView(APIView):
    """A page of the shelf."""

    @extend_schema(
        responses=ShelfSerializer, parameters=[ShelfWishSerializer], operation_id="shelf_page"
    )
    def get(self, request: Request) -> Response:
        """What is looked for, of the asker's own songs and those that others let him see."""
        user = own_user(request)
        wish = ShelfWish(**validated_query(request, ShelfWishSerializer))
        count_changed(user)
        return Response(shelf_values(user, wish))


class TagsView(APIView):
    """The asker's tags of a song."""

    @extend_schema(request=TagsSerializer, responses=TagsSerializer)
    def put(self, request: Request, song_id: uuid.UUID) -> Response:
        """These, and no others."""
        song = own_song(request, song_id, Role.READER)
        names = tag_song(song, own_user(request), validated_body(request, TagsSerializer)["tags"])
        return Response({"tags": names})

"""Second recordings of a song: for its owner only."""

from __future__ import annotations

import uuid
from typing import Any

from django.http.response import HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from studio.actions.sources import (
    add_source,
    follow_source,
    line_up_again,
    remove_source,
    state_of,
)
from studio.api.access import own_song, scored_song
from studio.api.ranges import stored_file
from studio.api.serializers import ImportSerializer, SourceSerializer
from studio.api.uploads import need_file
from studio.artefacts import have
from studio.models import Source, SourceState


def source_values(source: Source) -> dict[str, Any]:
    """A source as the Listen stage shows it."""
    state, words = state_of(source)
    return {
        "id": source.pk,
        "title": source.title,
        "state": state,
        "words": words,
        "offset": source.offset,
        "speed": source.speed,
        "error": source.error,
    }


class SourcesView(APIView):
    """The sources of a song."""

    parser_classes = [MultiPartParser]

    @extend_schema(responses=SourceSerializer(many=True), operation_id="sources_list")
    def get(self, request: Request, song_id: uuid.UUID) -> Response:
        """All of them, with how well they fit."""
        song = own_song(request, song_id)
        return Response([source_values(source) for source in song.sources.all()])

    @extend_schema(request=ImportSerializer, responses={201: SourceSerializer})
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Add one; it is lined up in the background."""
        song = scored_song(request, song_id)
        need_file(request)
        data = ImportSerializer(data=request.data)
        data.is_valid(raise_exception=True)
        source = add_source(song, data.validated_data["file"], data.validated_data.get("title", ""))
        return Response(source_values(source), status=201)


def own_source(request: Request, song_id: uuid.UUID, source_id: int) -> Source:
    """A source of the asker's song."""
    source = own_song(request, song_id).sources.filter(pk=source_id).first()
    if source is None:
        raise NotFound("This song has no such recording beside it.")
    return source


class SourceView(APIView):
    """One source."""

    @extend_schema(responses={204: None})
    def delete(self, request: Request, song_id: uuid.UUID, source_id: int) -> Response:
        """Take it away."""
        remove_source(own_source(request, song_id, source_id))
        return Response(status=204)


class FollowView(APIView):
    """Another performance."""

    @extend_schema(request=None, responses={202: SourceSerializer})
    def post(self, request: Request, song_id: uuid.UUID, source_id: int) -> Response:
        """Follow a recording that was refused, from place to place, as another take of the song."""
        source = own_source(request, song_id, source_id)
        follow_source(source)
        source.refresh_from_db()
        return Response(source_values(source), status=202)


class LineUpView(APIView):
    """Lining up, once more."""

    @extend_schema(request=None, responses={202: SourceSerializer})
    def post(self, request: Request, song_id: uuid.UUID, source_id: int) -> Response:
        """Try again where it failed or was interrupted."""
        source = own_source(request, song_id, source_id)
        line_up_again(source)
        source.refresh_from_db()
        return Response(source_values(source), status=202)


class SourceAudioView(APIView):
    """The sound of a source, on the song's own time."""

    @extend_schema(responses={200: OpenApiTypes.BINARY})
    def get(self, request: Request, song_id: uuid.UUID, source_id: int) -> HttpResponseBase:
        """The copy that was lined up, whole or in ranges."""
        source = own_source(request, song_id, source_id)
        if source.state != SourceState.READY or not have(source.aligned_path):
            raise NotFound("This recording is not lined up with the song.")
        return stored_file(request._request, source.aligned_path, "audio/ogg")

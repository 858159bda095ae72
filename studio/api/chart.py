"""The chart: its pages, its files, and what a person says over it."""

from __future__ import annotations

import uuid

from django.http import FileResponse, HttpResponse
from django.http.response import HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from orchesis.chart.files import WRITERS, write_file
from studio.actions.charting import DecidePart, SetCue
from studio.actions.exchange import TakePart, bundle_of, find_comparison, lined_up
from studio.actions.prints import MADE_BY_WORKER, printed
from studio.api.access import ForLinks, own_user, scored_song
from studio.api.answers import as_json, performed
from studio.api.chart_serializers import (
    ChartOptionsSerializer,
    ChartQuerySerializer,
    ChartSerializer,
    ComparedSerializer,
    DecidePartSerializer,
    PartFileSerializer,
    SetCueSerializer,
    chart_options,
)
from studio.api.concurrency import ConcurrencyLimited
from studio.api.downloads import MAYBE_LATER, being_made, saved_as
from studio.api.ranges import stored_file
from studio.api.serializers import EditedSerializer
from studio.api.uploads import need_file
from studio.api.validation import validated_body, validated_query
from studio.engravers import engraved
from studio.values.access import Role
from studio.values.charts import chart_stamp, charted, options_to_json, signature
from studio.values.stored import load_transcription


class ChartView(ForLinks):
    """The chart on its pages."""

    @extend_schema(responses=ChartSerializer, parameters=[ChartQuerySerializer])
    def get(self, request: Request, song_id: uuid.UUID) -> HttpResponse:
        """The chart in the reading and with the signs that are asked for.

        After an edit only the systems that the asker lacks are sent.
        """
        song = scored_song(request, song_id, Role.LINK)
        asked = validated_query(request, ChartQuerySerializer)
        known = sorted(set(filter(None, asked.pop("have").split(","))))
        options = chart_options(asked)
        wanted = {"options": options_to_json(options), "known": known}
        # These values are our own and typed: see ScoreView.
        return as_json(engraved("chart", str(song.pk), wanted, chart_stamp(song, options)))


class CuesView(APIView):
    """Words over bars."""

    @extend_schema(request=SetCueSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Put words over a bar, or take them away."""
        song = scored_song(request, song_id)
        asked = validated_body(request, SetCueSerializer)
        action = SetCue(asked["bar"], asked["words"].strip())
        return Response(performed(song, own_user(request), action))


class PartsView(APIView):
    """Parts to learn."""

    @extend_schema(request=DecidePartSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Say that bars are a part, that they are none, or leave it to the tool again."""
        song = scored_song(request, song_id)
        asked = validated_body(request, DecidePartSerializer)
        action = DecidePart(asked["first_bar"], asked["bars"], asked["wanted"])
        return Response(performed(song, own_user(request), action))


class PartFileView(ConcurrencyLimited, APIView):
    """A drum part of another program."""

    parser_classes = [MultiPartParser]

    @extend_schema(request=PartFileSerializer, responses={200: ComparedSerializer, **MAYBE_LATER})
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Compare it with the song, lined up with its bars; take it over where that is wished.

        202 while a worker reads it: the same again in a second.
        """
        song = scored_song(request, song_id)
        need_file(request)
        asked = validated_body(request, PartFileSerializer)
        part = find_comparison(song, asked["file"])
        if part is None:
            return being_made()
        source = (asked["file"].name or "part")[:80]
        found = lined_up(load_transcription(song), part.song, source)
        edited = None
        if asked["take"]:
            edited = performed(song, own_user(request), TakePart(part.song, source))
        return Response(
            {
                "title": part.song.title,
                "shift": found.shift,
                "same": list(found.same),
                "differing": list(found.differing),
                "beyond": found.beyond,
                "agreement": round(found.agreement, 3),
                "remarks": list(part.remarks),
                "edited": edited,
            }
        )


class BundleView(APIView):
    """The song as a bundle."""

    @extend_schema(responses={200: OpenApiTypes.BINARY}, operation_id="songs_bundle_retrieve")
    def get(self, request: Request, song_id: uuid.UUID) -> FileResponse:
        """Recording, transcription, decisions and log in one ZIP file."""
        song = scored_song(request, song_id)
        response = FileResponse(bundle_of(song), content_type="application/zip")
        saved_as(response, song.title, ".zip")
        return response


class FileView(ForLinks):
    """Files to download."""

    @extend_schema(
        responses={200: OpenApiTypes.BINARY, **MAYBE_LATER}, parameters=[ChartOptionsSerializer]
    )
    def get(self, request: Request, song_id: uuid.UUID, name: str) -> HttpResponseBase:
        """One of the chart's files; 202 while a print is being made: ask again in a second."""
        song = scored_song(request, song_id, Role.LINK)
        if name not in WRITERS:
            raise NotFound("There is no such file.")
        options = chart_options(validated_query(request, ChartOptionsSerializer))
        response: HttpResponseBase
        media_type = WRITERS[name][0]
        ending = ""
        if name in MADE_BY_WORKER:
            path = printed(song, name, options)
            if path is None:
                return being_made()
            with path.open("rb") as file:
                # Pictures of several pages come together.
                is_zip = file.read(2) == b"PK"
            if is_zip:
                media_type, ending = "application/zip", ".zip"
            response = stored_file(request._request, path, media_type)
        else:
            body = write_file(charted(song, options)[0], name, options, signature(song))
            response = HttpResponse(body, content_type=media_type)
        saved_as(response, song.title, f" {name}{ending}")
        return response

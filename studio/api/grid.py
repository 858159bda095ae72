"""The grid and the form of a song: readings, taps, bar lines, findings confirmed, sections."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from typing import Any

from django.http.response import HttpResponseBase
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.serializers import Serializer
from rest_framework.views import APIView

from orchesis.form.edit import FormChange
from orchesis.rhythm.beat_notation import BeatNotation
from studio.actions.action import Action
from studio.actions.grid import (
    ChangeForm,
    ConfirmFinding,
    DivideBeats,
    DrawBarLine,
    EvenOutBar,
    LayTaps,
    LayTempo,
    RewriteBeats,
    ShiftDownbeats,
    TakeReading,
)
from studio.api.access import own_user, scored_song
from studio.api.answers import as_json, performed
from studio.api.ranges import kept_answer
from studio.api.serializers import (
    BarLineSerializer,
    BeatNotationSerializer,
    ConfirmSerializer,
    DivisionSerializer,
    EditedSerializer,
    FormChangeSerializer,
    ReadingChoiceSerializer,
    ScoreSerializer,
    ShiftSerializer,
    StrayBarSerializer,
    TapsSerializer,
    TypedTempoSerializer,
)
from studio.api.validation import validated_body, validated_query
from studio.engravers import engraved
from studio.values.page import reading_path
from studio.values.shown import code_stamp


def change(
    request: Request, song_id: uuid.UUID, shape: type[Serializer[Any]], make: Callable[..., Action]
) -> Response:
    """Change a song, by what the body asks for, and answer with all of it. Who asks comes first."""
    song = scored_song(request, song_id)
    return Response(performed(song, own_user(request), make(**validated_body(request, shape))))


class ReadingView(APIView):
    """Which way the song is counted."""

    @extend_schema(responses=ScoreSerializer, parameters=[ReadingChoiceSerializer])
    def get(self, request: Request, song_id: uuid.UUID) -> HttpResponseBase:
        """The song as it would be in one of its readings; nothing is changed by asking."""
        song = scored_song(request, song_id)
        key = validated_query(request, ReadingChoiceSerializer)["key"]
        assert song.header is not None
        if key not in [reading["key"] for reading in song.header.get("readings", [])]:
            raise NotFound("This song has no such reading.")
        path = reading_path(song, key)
        if path.exists():
            return kept_answer(request._request, path, path.read_bytes())
        stamp = f"{song.revision} {song.title} {code_stamp()}"
        return as_json(engraved("reading", str(song.pk), {"key": key}, stamp))

    @extend_schema(request=ReadingChoiceSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Take another of the song's readings."""
        return change(request, song_id, ReadingChoiceSerializer, TakeReading)


class TapsView(APIView):
    """Tapping along."""

    @extend_schema(request=TapsSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Lay the grid by tapped beats."""
        return change(request, song_id, TapsSerializer, LayTaps)


class TempoView(APIView):
    """A typed tempo."""

    @extend_schema(request=TypedTempoSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Lay the grid near a tempo, through the strokes; confirmed sections keep their beats."""
        return change(request, song_id, TypedTempoSerializer, LayTempo)


class BarLineView(APIView):
    """Bar lines."""

    @extend_schema(request=BarLineSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Draw a bar line to where it belongs; the ends of confirmed sections stay."""
        return change(request, song_id, BarLineSerializer, DrawBarLine)


class ShiftView(APIView):
    """Where the one is."""

    @extend_schema(request=ShiftSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Begin every bar some beats later, whatever the grid was laid by."""
        return change(request, song_id, ShiftSerializer, ShiftDownbeats)


class EvenOutView(APIView):
    """Stray bars."""

    @extend_schema(request=StrayBarSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Mend a bar that has more or fewer beats than the others."""
        return change(request, song_id, StrayBarSerializer, EvenOutBar)


class BeatNotationView(APIView):
    """How beats that fall in three are written."""

    @extend_schema(request=BeatNotationSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Write them in compound time, in triplets, or as swung eighths."""
        return change(
            request,
            song_id,
            BeatNotationSerializer,
            lambda notation: RewriteBeats(BeatNotation(notation)),
        )


class DivisionView(APIView):
    """Into how many parts beats are divided."""

    @extend_schema(request=DivisionSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Divide beats otherwise; each stroke goes to the nearest part."""
        return change(
            request,
            song_id,
            DivisionSerializer,
            lambda bars, **asked: DivideBeats(bars_meant=bars, **asked),
        )


class ConfirmView(APIView):
    """Findings."""

    @extend_schema(request=ConfirmSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Settle a finding, or open it again."""
        return change(request, song_id, ConfirmSerializer, ConfirmFinding)


class FormView(APIView):
    """The form."""

    @extend_schema(request=FormChangeSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Split, merge, move, rename, say what is the same, confirm."""
        return change(
            request, song_id, FormChangeSerializer, lambda **asked: ChangeForm(FormChange(**asked))
        )

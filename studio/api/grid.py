"""The grid and the form of a song: readings, taps, bar lines, findings confirmed, sections."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import replace

from django.http.response import HttpResponseBase
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from orchesis.form.edit import FormChange, changed
from orchesis.listening.judge import load_judge
from orchesis.music.values import Transcription
from orchesis.pipeline import on_tapped_grid
from orchesis.rhythm.rewrite import move_downbeat, on_taps, take_reading
from orchesis.rhythm.typed import on_tempo
from studio.actions.changing import change_song, confirm_finding
from studio.api.answers import edited_values
from studio.api.ranges import kept_answer
from studio.api.serializers import (
    BarLineSerializer,
    ConfirmSerializer,
    EditedSerializer,
    FormChangeSerializer,
    ReadingChoiceSerializer,
    ScoreSerializer,
    TapsSerializer,
    TypedTempoSerializer,
)
from studio.api.songs import own_user, scored_song
from studio.api.validation import validated_body, validated_query
from studio.values.evidence import own_evidence
from studio.values.page import reading_page


def change(
    request: Request, song_id: uuid.UUID, words: str, how: Callable[[Transcription], Transcription]
) -> Response:
    """Change the asker's song and answer with all of it."""
    author = own_user(request)
    changed = change_song(scored_song(request, song_id), author, words, how)
    return Response(edited_values(changed, author))


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
        return kept_answer(request._request, *reading_page(song, key))

    @extend_schema(request=ReadingChoiceSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Take another of the song's readings."""
        key = validated_body(request, ReadingChoiceSerializer)["key"]
        return change(
            request, song_id, "Counted another way", lambda score: take_reading(score, key)
        )


class TapsView(APIView):
    """Tapping along."""

    @extend_schema(request=TapsSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Lay the grid by tapped beats."""
        wish = validated_body(request, TapsSerializer)
        taps, beats_a_bar = wish["taps"], wish["beats_a_bar"]
        evidence = own_evidence(scored_song(request, song_id))

        def tapped(score: Transcription) -> Transcription:
            if score.bars or evidence is None:
                return on_taps(score, taps, beats_a_bar)
            # No beat was found, so nothing could be written: what was heard is written now.
            return on_tapped_grid(score, evidence, load_judge(), taps, beats_a_bar)

        return change(request, song_id, "Grid laid by tapping", tapped)


class TempoView(APIView):
    """A typed tempo."""

    @extend_schema(request=TypedTempoSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Lay the grid near a tempo, through the strokes; confirmed sections keep their beats."""
        wish = validated_body(request, TypedTempoSerializer)
        return change(
            request,
            song_id,
            f"Grid laid near {wish['bpm']:g} beats a minute",
            lambda score: on_tempo(score, wish["bpm"], wish["beats_a_bar"], score.confirmed_spans),
        )


class BarLineView(APIView):
    """Bar lines."""

    @extend_schema(request=BarLineSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Draw a bar line to where it belongs; the ends of confirmed sections stay."""
        wish = validated_body(request, BarLineSerializer)
        bar, time = wish["bar"], wish["time"]

        def drawn(score: Transcription) -> Transcription:
            fixed = [time for span in score.confirmed_spans for time in span]
            return move_downbeat(score, bar, time, fixed)

        return change(request, song_id, f"Bar {bar} drawn to {time:.2f} s", drawn)


class ConfirmView(APIView):
    """Findings."""

    @extend_schema(request=ConfirmSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Settle a finding, or open it again."""
        wish = validated_body(request, ConfirmSerializer)
        author = own_user(request)
        changed = confirm_finding(scored_song(request, song_id), author, **wish)
        return Response(edited_values(changed, author))


class FormView(APIView):
    """The form."""

    @extend_schema(request=FormChangeSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Split, merge, move, rename, say what is the same, confirm."""
        asked = FormChange(**validated_body(request, FormChangeSerializer))
        return change(
            request,
            song_id,
            asked.words(),
            lambda score: replace(score, sections=changed(score.sections, score.bars, asked)),
        )

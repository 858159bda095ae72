"""The Feel stage: how a song is played, measured."""

from __future__ import annotations

import uuid
from typing import Any

from django.http.response import HttpResponseBase
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.views import APIView

from studio.actions.preparing import is_being_prepared
from studio.api.access import scored_song
from studio.api.downloads import MAYBE_LATER, being_made
from studio.api.ranges import kept_answer
from studio.api.serializers import INSTRUMENTS
from studio.values.page import feel_page


class PocketVoiceSerializer(serializers.Serializer[Any]):
    """How far one voice is from the grid, in ms; behind is positive."""

    voice = serializers.CharField()
    ms = serializers.FloatField()
    low = serializers.FloatField()
    high = serializers.FloatField()
    spread = serializers.FloatField()
    strokes = serializers.IntegerField()
    trend = serializers.FloatField(allow_null=True)
    words = serializers.CharField()
    points = serializers.ListField(
        child=serializers.ListField(child=serializers.FloatField()), help_text="seconds, ms"
    )


class PocketSerializer(serializers.Serializer[Any]):
    """Who waits for whom."""

    voices = PocketVoiceSerializer(many=True)
    advice = serializers.CharField()
    reach = serializers.FloatField(help_text="ms to either side of the picture")


class MeasuredRatioSerializer(serializers.Serializer[Any]):
    """Long:short with its 95 % interval."""

    value = serializers.FloatField()
    low = serializers.FloatField()
    high = serializers.FloatField()
    pairs = serializers.IntegerField()


class SwingSerializer(serializers.Serializer[Any]):
    """The swing of a section."""

    label = serializers.CharField()  # type: ignore[assignment]
    first_bar = serializers.IntegerField()
    subdivision = serializers.CharField()
    eighths = MeasuredRatioSerializer(allow_null=True)
    sixteenths = MeasuredRatioSerializer(allow_null=True)
    words = serializers.CharField()


class SectionPaceSerializer(serializers.Serializer[Any]):
    """The tempo of a section."""

    label = serializers.CharField()  # type: ignore[assignment]
    bpm = serializers.FloatField()
    spread = serializers.FloatField()


class PaceSerializer(serializers.Serializer[Any]):
    """How steady the song is."""

    words = serializers.CharField()
    sections = SectionPaceSerializer(many=True)


class DecibelsSerializer(serializers.Serializer[Any]):
    """A median in dB with its 95 % interval."""

    db = serializers.FloatField()
    low = serializers.FloatField()
    high = serializers.FloatField()
    strokes = serializers.IntegerField()


class HatPlaceSerializer(serializers.Serializer[Any]):
    """A place of the bar, and how loud the steady hand is there against its mean."""

    place = serializers.CharField()
    db = serializers.FloatField()


class DynamicsSerializer(serializers.Serializer[Any]):
    """How loud what is played."""

    ghosts = DecibelsSerializer(allow_null=True)
    ghost_words = serializers.CharField()
    hat = HatPlaceSerializer(many=True)
    hat_words = serializers.CharField()
    backbeat = DecibelsSerializer(allow_null=True)
    backbeat_words = serializers.CharField()
    swell_words = serializers.CharField()


class RingSerializer(serializers.Serializer[Any]):
    """In how many seconds a drum falls by 20 dB."""

    instrument = serializers.ChoiceField(choices=INSTRUMENTS)
    seconds = serializers.FloatField()
    low = serializers.FloatField()
    high = serializers.FloatField()
    strokes = serializers.IntegerField()
    words = serializers.CharField()


class MeasuredFeelSerializer(serializers.Serializer[Any]):
    """How a song is played. missing: why some of it is not told."""

    revision = serializers.IntegerField()
    pocket = PocketSerializer()
    swing = SwingSerializer(many=True)
    pace = PaceSerializer()
    dynamics = DynamicsSerializer(allow_null=True)
    sound = RingSerializer(many=True)
    missing = serializers.CharField()


class FeelView(APIView):
    """How a song is played."""

    @extend_schema(responses={200: MeasuredFeelSerializer, **MAYBE_LATER})
    def get(self, request: Request, song_id: uuid.UUID) -> HttpResponseBase:
        """Pocket, swing, pace, dynamics and sound, each with how sure it is."""
        song = scored_song(request, song_id)
        if is_being_prepared(song, "feel"):
            return being_made()
        return kept_answer(request._request, *feel_page(song))

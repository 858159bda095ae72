"""The Fills stage: every fill with its ways to play, exercises, kits, what to practise."""

from __future__ import annotations

import uuid
from fractions import Fraction
from typing import Any

from django.http import HttpResponse
from django.http.response import HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from orchesis.fills.decide import FillAsked, decision_words
from studio.actions.grid import DecideFill, GiveHands
from studio.actions.kits import choose_kit, save_kit
from studio.actions.practice_list import put_on_list
from studio.actions.preparing import is_being_prepared
from studio.api.access import own_song, own_user, scored_access, scored_song
from studio.api.answers import performed
from studio.api.downloads import MAYBE_LATER, being_made
from studio.api.fill_serializers import (
    ExerciseSerializer,
    FillAskedSerializer,
    FillElsewhereSerializer,
    FillsOfSerializer,
    FillsSerializer,
    HandsSerializer,
    KitChoiceSerializer,
    KitSerializer,
    PracticeItemSerializer,
    PracticeWishSerializer,
    WayOfSerializer,
)
from studio.api.ranges import kept_answer
from studio.api.serializers import EditedSerializer
from studio.api.validation import validated_body, validated_query
from studio.models import Kit, PracticeItem
from studio.values.access import Role
from studio.values.fills import exercise_values, fills_elsewhere, staff_svg
from studio.values.kits import STANDARD_VALUES, kit_values, song_player
from studio.values.page import fills_page
from studio.values.stored import load_transcription


class FillsView(APIView):
    """The fills of a song."""

    @extend_schema(responses={200: FillsSerializer, **MAYBE_LATER}, parameters=[FillsOfSerializer])
    def get(self, request: Request, song_id: uuid.UUID) -> HttpResponseBase:
        """Every fill in words, its family, its stickings and what each costs."""
        song = scored_song(request, song_id)
        school = validated_query(request, FillsOfSerializer)["school"]
        if is_being_prepared(song, "fills", school):
            return being_made()
        return kept_answer(request._request, *fills_page(song, school))

    @extend_schema(request=FillAskedSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Say that a stretch is a fill, or that it is none."""
        song = scored_song(request, song_id)
        wish = validated_body(request, FillAskedSerializer)
        asked = FillAsked(
            wish["first_bar"],
            Fraction(wish["at"]),
            wish["last_bar"],
            Fraction(wish["until"]),
            wish["is_fill"],
        )
        words = decision_words(load_transcription(song), asked)
        return Response(performed(song, own_user(request), DecideFill(asked, words)))


class ExercisesView(APIView):
    """Variations of a fill."""

    @extend_schema(responses=ExerciseSerializer(many=True), operation_id="songs_fill_exercises")
    def get(self, request: Request, song_id: uuid.UUID, bar: int) -> Response:
        """The variations of the fill that ends in a bar, and its loops with the groove."""
        song = scored_song(request, song_id)
        return Response(exercise_values(load_transcription(song), bar, song_player(song)))


class StaffView(APIView):
    """A fill on the staff."""

    @extend_schema(
        responses={(200, "image/svg+xml"): OpenApiTypes.STR},
        parameters=[WayOfSerializer],
        operation_id="songs_fill_staff",
    )
    def get(self, request: Request, song_id: uuid.UUID, bar: int) -> HttpResponse:
        """The bars of the fill that ends in a bar, with the hands of one of its ways below."""
        song = scored_song(request, song_id)
        way = validated_query(request, WayOfSerializer)["way"]
        drawn = staff_svg(load_transcription(song), bar, way, song_player(song))
        return HttpResponse(drawn, content_type="image/svg+xml")


class ElsewhereView(APIView):
    """The same fill in other songs."""

    @extend_schema(
        responses=FillElsewhereSerializer(many=True), operation_id="songs_fill_elsewhere"
    )
    def get(self, request: Request, song_id: uuid.UUID, bar: int) -> Response:
        """Fills of the asker's other songs that are kin to the one that ends in a bar."""
        song = scored_song(request, song_id)
        return Response(fills_elsewhere(song, load_transcription(song), bar))


class PracticeListView(APIView):
    """What somebody wants to practise of a song."""

    @extend_schema(responses=PracticeItemSerializer(many=True), operation_id="songs_practice_list")
    def get(self, request: Request, song_id: uuid.UUID) -> Response:
        """The asker's list."""
        song = own_song(request, song_id)
        mine = PracticeItem.objects.filter(song=song, owner=own_user(request))
        return Response([item_values(item) for item in mine])

    @extend_schema(request=PracticeWishSerializer, responses={201: PracticeItemSerializer})
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Put an exercise on it."""
        found = scored_access(request, song_id, Role.READER)
        wish = validated_body(request, PracticeWishSerializer)
        item = put_on_list(found.song, own_user(request), **wish)
        return Response(item_values(item), status=201)


class PracticeItemView(APIView):
    """One thing on the list."""

    @extend_schema(responses={204: None})
    def delete(self, request: Request, song_id: uuid.UUID, item_id: int) -> Response:
        """Take it off."""
        mine = PracticeItem.objects.filter(
            pk=item_id, song=own_song(request, song_id, Role.READER), owner=own_user(request)
        )
        if not mine.delete()[0]:
            raise NotFound("This is not on your list.")
        return Response(status=204)


def item_values(item: PracticeItem) -> dict[str, Any]:
    """What is on a list."""
    return {"id": item.pk, "bar": item.bar, "key": item.key, "title": item.title}


class KitsView(APIView):
    """The asker's kits."""

    @extend_schema(responses=KitSerializer(many=True), operation_id="kits_list")
    def get(self, request: Request) -> Response:
        """All of them; the standard kit, which everybody has, comes first."""
        own = [kit_values(kit) for kit in Kit.objects.filter(owner=own_user(request))]
        return Response([{"id": None, "name": "Standard kit", **STANDARD_VALUES}, *own])

    @extend_schema(request=KitSerializer, responses={201: KitSerializer})
    def post(self, request: Request) -> Response:
        """Make one."""
        values = validated_body(request, KitSerializer)
        kit = save_kit(own_user(request), values.pop("name"), _stored(values))
        return Response(kit_values(kit), status=201)


class KitView(APIView):
    """One kit."""

    @extend_schema(request=KitSerializer, responses=KitSerializer)
    def put(self, request: Request, kit_id: int) -> Response:
        """Change it."""
        kit = own_kit(request, kit_id)
        values = validated_body(request, KitSerializer)
        return Response(
            kit_values(save_kit(own_user(request), values.pop("name"), _stored(values), kit))
        )

    @extend_schema(responses={204: None})
    def delete(self, request: Request, kit_id: int) -> Response:
        """Remove it; songs on it are played on the standard kit again."""
        own_kit(request, kit_id).delete()
        return Response(status=204)


class SongKitView(APIView):
    """The kit that a song is played on."""

    @extend_schema(responses=KitChoiceSerializer, operation_id="songs_kit")
    def get(self, request: Request, song_id: uuid.UUID) -> Response:
        """Which it is; null: the standard one."""
        return Response({"kit": own_song(request, song_id).kit_id})

    @extend_schema(request=KitChoiceSerializer, responses=KitChoiceSerializer)
    def put(self, request: Request, song_id: uuid.UUID) -> Response:
        """Choose one of the asker's."""
        song = own_song(request, song_id)
        wanted = validated_body(request, KitChoiceSerializer)["kit"]
        choose_kit(song, own_kit(request, wanted) if wanted is not None else None)
        return Response({"kit": wanted})


class HandsView(APIView):
    """Who plays what."""

    @extend_schema(request=HandsSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Find hands and feet anew for the kit of the song, sixteenths by one school if wished."""
        song = scored_song(request, song_id)
        action = GiveHands(validated_body(request, HandsSerializer)["sixteenths"])
        return Response(performed(song, own_user(request), action))


def own_kit(request: Request, kit_id: int) -> Kit:
    """The kit, if it is the asker's."""
    kit = Kit.objects.filter(pk=kit_id, owner=own_user(request)).first()
    if kit is None:
        raise NotFound("You have no such kit.")
    return kit


def _stored(values: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in values.items() if name in STANDARD_VALUES}

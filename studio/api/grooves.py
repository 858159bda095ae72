"""The Grooves stage: phrases, evidence, gestures, relistening, kinship, the spoken count."""

from __future__ import annotations

import struct
import uuid
from collections.abc import Callable
from typing import Any

from django.http import HttpResponse
from django.http.response import HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from orchesis.edits.edit import edit_from_json
from orchesis.edits.gesture import gesture_from_json
from orchesis.edits.voice import Scope
from orchesis.music.instruments import Instrument
from studio.actions.lexicon import name_rhythm
from studio.actions.notes import (
    AnswerQuestion,
    AsPhrase,
    ChangeVoice,
    ConfirmBars,
    CopyBars,
    Gestured,
    LikeBars,
    ReopenBars,
    StickFill,
)
from studio.actions.preparing import is_being_prepared
from studio.api.access import own_user, scored_song
from studio.api.answers import as_json, performed
from studio.api.downloads import MAYBE_LATER, being_made
from studio.api.groove_serializers import (
    ChainOfSerializer,
    ChainSerializer,
    EvidenceSerializer,
    GestureSerializer,
    GroovesSerializer,
    HistoryEntrySerializer,
    KinSerializer,
    OwnRhythmSerializer,
    RelistenSerializer,
    RhythmNameSerializer,
    SayingOfSerializer,
    SayingSerializer,
    ShadeSerializer,
    ShadesOfSerializer,
)
from studio.api.ranges import kept_answer
from studio.api.serializers import EditedSerializer
from studio.api.validation import validated_body, validated_query
from studio.engravers import engraved
from studio.models import OwnRhythm, Song
from studio.people import name_of
from studio.values.grooves import (
    bar_svg,
    evidence_values,
    saying_values,
    shade_values,
)
from studio.values.kin import library_of
from studio.values.page import grooves_page
from studio.values.shown import code_stamp
from studio.values.stored import load_transcription


class GroovesView(APIView):
    """What is found about the grooves."""

    @extend_schema(responses={200: GroovesSerializer, **MAYBE_LATER})
    def get(self, request: Request, song_id: uuid.UUID) -> HttpResponseBase:
        """Phrases, changes, like bars, variants, echo suspects, what may be inferred."""
        song = scored_song(request, song_id)
        if is_being_prepared(song, "grooves"):
            return being_made()
        return kept_answer(request._request, *grooves_page(song))


class EvidenceView(APIView):
    """What was heard in a bar."""

    @extend_schema(responses=EvidenceSerializer, operation_id="songs_evidence_of_bar")
    def get(self, request: Request, song_id: uuid.UUID, bar: int) -> Response:
        """How strongly each recording says, per drum and cell, that something sounded."""
        song = scored_song(request, song_id)
        return Response(evidence_values(song, load_transcription(song), bar))


class BarStaffView(APIView):
    """A bar on the staff."""

    @extend_schema(
        responses={(200, "image/svg+xml"): OpenApiTypes.STR}, operation_id="songs_bar_staff"
    )
    def get(self, request: Request, song_id: uuid.UUID, bar: int) -> HttpResponse:
        """One bar, every note written out."""
        song = scored_song(request, song_id)
        drawn = bar_svg(load_transcription(song), bar)
        return HttpResponse(drawn, content_type="image/svg+xml")


class ShadesView(APIView):
    """What was heard in many bars, in short."""

    @extend_schema(responses=ShadeSerializer(many=True), parameters=[ShadesOfSerializer])
    def get(self, request: Request, song_id: uuid.UUID) -> Response:
        """For each bar and limb a digit a cell, 0 nothing to 9 certain."""
        song = scored_song(request, song_id)
        wish = validated_query(request, ShadesOfSerializer)
        return Response(shade_values(song, load_transcription(song), **wish))


class SayingView(APIView):
    """Bars in words."""

    @extend_schema(responses=SayingSerializer, parameters=[SayingOfSerializer])
    def get(self, request: Request, song_id: uuid.UUID) -> Response:
        """The spoken count, and what falls together and between."""
        song = scored_song(request, song_id)
        return Response(
            saying_values(load_transcription(song), **validated_query(request, SayingOfSerializer))
        )


class RhythmsView(APIView):
    """The asker's own lexicon."""

    @extend_schema(responses=OwnRhythmSerializer(many=True), operation_id="rhythms_list")
    def get(self, request: Request) -> Response:
        """The rhythms that the asker has named."""
        mine = OwnRhythm.objects.filter(owner=own_user(request))
        return Response([{"id": one.pk, "name": one.name} for one in mine])


class RhythmView(APIView):
    """One of them."""

    @extend_schema(responses={204: None})
    def delete(self, request: Request, rhythm_id: int) -> Response:
        """Forget it."""
        if not OwnRhythm.objects.filter(pk=rhythm_id, owner=own_user(request)).delete()[0]:
            raise NotFound("You have named no such rhythm.")
        return Response(status=204)


class NameRhythmView(APIView):
    """Naming what a section plays."""

    @extend_schema(request=RhythmNameSerializer, responses={201: OwnRhythmSerializer})
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Give the typical phrase of a section a name, by which it is found from now on."""
        song = scored_song(request, song_id)
        made = name_rhythm(song, own_user(request), **validated_body(request, RhythmNameSerializer))
        return Response({"id": made.pk, "name": made.name}, status=201)


class RelistenView(APIView):
    """Listening again with what was settled."""

    @extend_schema(responses=RelistenSerializer)
    def get(self, request: Request, song_id: uuid.UUID) -> HttpResponse:
        """What would change in the other bars; nothing is changed by asking."""
        song = scored_song(request, song_id)
        stamp = f"{song.revision} {song.heard} {code_stamp()}"
        return as_json(engraved("relisten", str(song.pk), {}, stamp))


class GesturesView(APIView):
    """Gestures that the tool works out."""

    @extend_schema(request=GestureSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """An edit in like bars, bars as the phrase, a copied bar, bars confirmed or opened."""
        song = scored_song(request, song_id)
        asked = gesture_of(validated_body(request, GestureSerializer))
        return Response(performed(song, own_user(request), asked.on(song)))


def gesture_of(wish: dict[str, Any]) -> Gestured:
    """What is asked for, as the change that it is."""
    make = GESTURES_BY_KIND[wish["kind"]]
    return make(wish["client_id"], wish)


GESTURES_BY_KIND: dict[str, Callable[[uuid.UUID, dict[str, Any]], Gestured]] = {
    "like": lambda pk, wish: LikeBars(
        pk, edits=tuple(edit_from_json(edit) for edit in wish.get("edits") or ())
    ),
    "phrase": lambda pk, wish: AsPhrase(pk, numbers=_bars(wish)),
    "copy": lambda pk, wish: CopyBars(
        pk, numbers=_bars(wish), sources=tuple(wish.get("source_bars") or ())
    ),
    "confirm": lambda pk, wish: ConfirmBars(pk, numbers=_bars(wish)),
    "reopen": lambda pk, wish: ReopenBars(pk, numbers=_bars(wish)),
    "voice": lambda pk, wish: ChangeVoice(
        pk,
        instrument=Instrument(wish["instrument"]),
        bar=next(iter(_bars(wish)), 0),
        scope=Scope(wish["scope"]),
        to=Instrument(wish["to"]) if wish.get("to") else None,
    ),
    "answer": lambda pk, wish: AnswerQuestion(
        pk, question=wish.get("question", ""), answer=wish.get("answer", "")
    ),
    "stick": lambda pk, wish: StickFill(
        pk,
        bar=next(iter(_bars(wish)), 0),
        letters=wish.get("letters", ""),
        also_kin=wish.get("also_kin", False),
    ),
}


def _bars(wish: dict[str, Any]) -> tuple[int, ...]:
    return tuple(wish.get("bars") or ())


MOST_LOOKED_AT, MOST_TOLD = 200, 50


class HistoryView(APIView):
    """What was decided in a bar."""

    @extend_schema(responses=HistoryEntrySerializer(many=True))
    def get(self, request: Request, song_id: uuid.UUID, bar: int) -> Response:
        """Who decided what, and when, the latest first."""
        song = scored_song(request, song_id)
        latest = song.edits.select_related("author").order_by("-id")[:MOST_LOOKED_AT]
        # A gesture over many bars was made in each of them.
        entries = [e for e in latest if bar in gesture_from_json(e.edit).bars][:MOST_TOLD]
        return Response(
            [
                {
                    "words": entry.words,
                    "author": name_of(entry.author),
                    "at": entry.created_at,
                    "undone": entry.undone,
                }
                for entry in entries
            ]
        )


class KinView(APIView):
    """Where a groove is elsewhere."""

    @extend_schema(responses=KinSerializer)
    def get(self, request: Request, song_id: uuid.UUID, bar: int) -> Response:
        """Its relatives in all of the asker's songs, one of each song, section and kind."""
        song = scored_song(request, song_id)
        library, values = library_of(own_user(request), _pulses(song, bar))
        value = values.get((song.pk, bar))
        if value is None:
            return Response({"compared": len(values), "relatives": []})
        titles = _titles(request)
        places: dict[tuple[Any, str, str], dict[str, Any]] = {}
        for relative in library.relatives(value):
            pk, number = _place(relative.key)
            if (pk, number) == (song.pk, bar):
                continue
            title, sections = titles[pk]
            section = _label_at(sections, number)
            key = (pk, section, relative.kin.value)
            if key in places:
                places[key]["more"] += 1
                continue
            places[key] = {
                "song": pk,
                "title": title,
                "bar": number,
                "section": section,
                "kin": relative.kin.value,
                "distance": relative.distance,
                "more": 0,
            }
        return Response({"compared": len(values), "relatives": list(places.values())})


class ChainView(APIView):
    """How one groove becomes another."""

    @extend_schema(responses=ChainSerializer, parameters=[ChainOfSerializer])
    def get(self, request: Request, song_id: uuid.UUID, bar: int) -> Response:
        """The stages, each a note or two from the last; played ones name their bar."""
        song = scored_song(request, song_id)
        wish = validated_query(request, ChainOfSerializer)
        library, values = library_of(own_user(request), _pulses(song, bar))
        start, goal = (
            values.get((song.pk, bar)),
            values.get((wish["to_song"], wish["to_bar"])),
        )
        if start is None or goal is None:
            raise NotFound("One of the two bars plays nothing, or has another number of beats.")
        titles = _titles(request)
        stages = []
        for stage in library.chain(start, goal):
            pk, number = _place(stage.key) if stage.key else (None, None)
            stages.append(
                {
                    "words": stage.words,
                    "notes": stage.notes,
                    "song": pk,
                    "title": titles[pk][0] if pk else "",
                    "bar": number,
                }
            )
        return Response({"stages": stages})


def _place(key: object) -> tuple[uuid.UUID, int]:
    """The song and the bar that a key of the library names."""
    assert isinstance(key, tuple)
    song, number = key
    return song, number


def _pulses(song: Song, number: int) -> int:
    return load_transcription(song).bar(number).meter.pulses


def _titles(request: Request) -> dict[Any, tuple[str, list[dict[str, Any]]]]:
    songs = Song.objects.filter(owner=own_user(request), header__isnull=False, is_copy_for=None)
    return {s.pk: (s.title, (s.header or {}).get("sections", [])) for s in songs}


def _label_at(sections: list[dict[str, Any]], number: int) -> str:
    for section in sections:
        if section["first_bar"] <= number < section["first_bar"] + section["bars"]:
            return str(section["label"])
    return ""


class PictureView(APIView):
    """The sound of a bar as a picture."""

    @extend_schema(responses={200: OpenApiTypes.BINARY}, operation_id="songs_picture_retrieve")
    def get(self, request: Request, song_id: uuid.UUID, bar: int) -> HttpResponse:
        """Rows of bytes from low to high, a byte a band and hundredth: see the headers."""
        song = scored_song(request, song_id)
        stamp = f"{song.revision} {song.heard} {code_stamp()}"
        picture = engraved("picture", str(song.pk), {"bar": bar}, stamp)
        bands, frames = struct.unpack_from("<II", picture)
        return HttpResponse(
            picture[8:],
            content_type="application/octet-stream",
            headers={"X-Bands": str(bands), "X-Frames": str(frames)},
        )

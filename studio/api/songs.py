"""Songs: the shelf, importing, the score, edits, the chart, the sound: for their owner only."""

from __future__ import annotations

import uuid
from typing import Any

from django.http import HttpResponse
from django.http.response import HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from orchesis.edits.gesture import gesture_from_json
from orchesis.listening.parts import Part
from orchesis.practice.click import SUBDIVISIONS, clicks
from studio.actions.exchange import import_any
from studio.actions.history import redo, undo
from studio.actions.importing import delete_song
from studio.actions.listening import listen_again
from studio.actions.notes import EditBars
from studio.actions.preparing import is_being_prepared
from studio.api.access import Access, ForLinks, access, heard_song, own_song, own_user, scored_song
from studio.api.answers import edited_values, performed
from studio.api.downloads import MAYBE_LATER, being_made
from studio.api.ranges import kept_answer, stored_file
from studio.api.serializers import (
    ClickSerializer,
    EditedSerializer,
    EditsSerializer,
    ImportSerializer,
    MineSerializer,
    RenameSerializer,
    RunSerializer,
    ScoreSerializer,
    SongSerializer,
)
from studio.api.uploads import need_file
from studio.artefacts import have
from studio.models import Song
from studio.queueing import cancel_run, looked_at
from studio.values.access import Role, shared_with
from studio.values.page import score_page
from studio.values.presenting import mine_values, run_values, song_values
from studio.values.stored import load_transcription


class ShelfView(APIView):
    """The shelf."""

    parser_classes = [MultiPartParser]

    @extend_schema(responses=SongSerializer(many=True), operation_id="songs_list")
    def get(self, request: Request) -> Response:
        """All songs of the asker, newest first."""
        user = own_user(request)
        own = Song.objects.filter(owner=user, is_copy_for=None).select_related("owner")
        seats = shared_with(user)
        others = Song.objects.filter(pk__in=seats).select_related("owner")
        values = [song_values(song, Role.OWNER) for song in own]
        values += [song_values(song, seats[song.pk]) for song in others]
        return Response(SongSerializer(values, many=True).data)

    @extend_schema(request=ImportSerializer, responses={201: SongSerializer})
    def post(self, request: Request) -> Response:
        """Import a recording, a part that another program wrote, or a bundle."""
        need_file(request)
        data = ImportSerializer(data=request.data)
        data.is_valid(raise_exception=True)
        song = import_any(
            own_user(request),
            data.validated_data["file"],
            data.validated_data.get("title", ""),
            again=data.validated_data["again"],
        )
        return Response(SongSerializer(song_values(song, Role.OWNER)).data, status=201)


class SongView(ForLinks):
    """One song."""

    @extend_schema(responses=SongSerializer)
    def get(self, request: Request, song_id: uuid.UUID) -> Response:
        """The song and the state of its run."""
        found = access(request, song_id, Role.LINK)
        looked_at(found.song)
        values = song_values(found.seen, found.role)
        # It is called as it always was, whichever edition is seen.
        values |= {"id": found.song.pk, **_of_people(found)}
        if not found.may_hear:
            values |= {"has_recording": False, "file_name": ""}
        return Response(SongSerializer(values).data)

    @extend_schema(request=RenameSerializer, responses=SongSerializer)
    def patch(self, request: Request, song_id: uuid.UUID) -> Response:
        """Rename it."""
        song = own_song(request, song_id, Role.OWNER)
        data = RenameSerializer(data=request.data)
        data.is_valid(raise_exception=True)
        for name, value in data.validated_data.items():
            setattr(song, name, value)
        song.save(update_fields=[*data.validated_data, "updated_at"])
        return Response(SongSerializer(song_values(song, Role.OWNER)).data)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, song_id: uuid.UUID) -> Response:
        """Remove it with all that belongs to it."""
        delete_song(own_song(request, song_id, Role.OWNER))
        return Response(status=204)


def _of_people(found: Access) -> dict[str, Any]:
    """What of a song is not in its edition: who sees it, what is said of it."""
    told = song_values(found.song, found.role)
    return {name: told[name] for name in ("is_shared", "open_comments", "run", "edition")}


class ListenView(APIView):
    """The listening run of a song."""

    @extend_schema(request=None, responses={202: RunSerializer})
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Listen again; what people decided stays."""
        run = listen_again(own_song(request, song_id))
        run.refresh_from_db()
        return Response(RunSerializer(run_values(run)).data, status=202)

    @extend_schema(responses={200: RunSerializer})
    def delete(self, request: Request, song_id: uuid.UUID) -> Response:
        """Cancel."""
        return Response(RunSerializer(run_values(cancel_run(own_song(request, song_id)))).data)


class ScoreView(ForLinks):
    """The written part."""

    @extend_schema(responses={200: ScoreSerializer, **MAYBE_LATER})
    def get(self, request: Request, song_id: uuid.UUID) -> HttpResponseBase:
        """All that the song page shows, the same for everybody who may see it."""
        song = scored_song(request, song_id, Role.LINK)
        # These values are our own and typed: passing them through the serializer again would
        # only cost time on a long song. The schema is still generated from it.
        if is_being_prepared(song, "score"):
            return being_made()
        return kept_answer(request._request, *score_page(song))


class MineView(ForLinks):
    """What of a song is the asker's own."""

    @extend_schema(responses=MineSerializer, operation_id="songs_mine_retrieve")
    def get(self, request: Request, song_id: uuid.UUID) -> Response:
        """Whether there is something to take back, and which parts of the record can be heard."""
        found = access(request, song_id, Role.LINK)
        if not found.song.has_score:
            raise NotFound("This song has not been transcribed yet.")
        looked_at(found.song)
        return Response(mine_values(found.seen, request.user, may_hear=found.may_hear))


class ClicksView(ForLinks):
    """The metronome."""

    @extend_schema(responses=ClickSerializer(many=True))
    def get(self, request: Request, song_id: uuid.UUID, subdivision: str) -> Response:
        """Every click of the song: on the beats as they were played, leaning as the song swings."""
        song = scored_song(request, song_id, Role.LINK)
        if subdivision not in SUBDIVISIONS:
            raise NotFound("There is no such click.")
        points = clicks(load_transcription(song), subdivision)
        return Response(
            [{"time": round(point.time, 4), "strength": point.strength} for point in points]
        )


class EditsView(APIView):
    """Edits."""

    @extend_schema(request=EditsSerializer, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Apply edits at one stroke; sending the same ones again changes nothing."""
        song = scored_song(request, song_id)
        data = EditsSerializer(data=request.data)
        data.is_valid(raise_exception=True)
        gesture = gesture_from_json(data.validated_data)
        action = EditBars(data.validated_data["client_id"], gesture)
        return Response(performed(song, own_user(request), action))


class UndoView(APIView):
    """Undo."""

    @extend_schema(request=None, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Take back the asker's last edit."""
        author = own_user(request)
        return Response(edited_values(undo(scored_song(request, song_id), author), author))


class RedoView(APIView):
    """Redo."""

    @extend_schema(request=None, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Put back what was taken back last."""
        author = own_user(request)
        return Response(edited_values(redo(scored_song(request, song_id), author), author))


class AudioView(ForLinks):
    """The sound."""

    @extend_schema(responses={200: OpenApiTypes.BINARY})
    def get(self, request: Request, song_id: uuid.UUID) -> HttpResponseBase:
        """The listening copy, whole or in ranges."""
        song = heard_song(request, song_id)
        if not have(song.listening_path):
            raise NotFound("This recording cannot be played yet.")
        return stored_file(request._request, song.listening_path, "audio/ogg")


class PartView(ForLinks):
    """The record taken apart."""

    @extend_schema(responses={200: OpenApiTypes.BINARY}, operation_id="songs_part_retrieve")
    def get(self, request: Request, song_id: uuid.UUID, part: str) -> HttpResponseBase:
        """Drums forward, drums down or bass forward, whole or in ranges."""
        song = heard_song(request, song_id)
        if part not in list(Part) or not have(song.part_path(part)):
            raise NotFound("This recording has not been taken apart that way.")
        return stored_file(request._request, song.part_path(part), "audio/ogg")


class PeaksView(ForLinks):
    """The waveform."""

    @extend_schema(responses={200: OpenApiTypes.BINARY}, operation_id="songs_peaks_retrieve")
    def get(self, request: Request, song_id: uuid.UUID) -> HttpResponseBase:
        """The largest amplitude of each hundredth of a second, a byte each."""
        song = heard_song(request, song_id)
        if not have(song.peaks_path):
            raise NotFound("No waveform is kept for this song: listen to it again.")
        return HttpResponse(song.peaks_path.read_bytes(), content_type="application/octet-stream")

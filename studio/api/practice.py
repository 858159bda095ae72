"""Practice: plans, what was played, mixes."""

from __future__ import annotations

import csv
import io
import uuid
from typing import Any

from django.http import HttpResponse
from django.http.response import HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound, ValidationError
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from orchesis.groove.count import SCHOOLS
from orchesis.music.instruments import Instrument, Limb
from orchesis.practice.compare import Struck, Wanted, compare, latency_ms
from orchesis.practice.stand_in import Errors, play
from orchesis.practice.variation import by_chance, on_call
from studio.actions.practising import (
    ask_for_mix,
    cancel_mix,
    enter_log,
    keep_plan,
    latest_mix,
    mix_path,
)
from studio.api.access import ForLinks, own_song, own_user, scored_access, scored_song
from studio.api.concurrency import ConcurrencyLimited
from studio.api.downloads import saved_as
from studio.api.fill_serializers import FillsOfSerializer
from studio.api.practice_serializers import (
    ClapsSerializer,
    ComparisonSerializer,
    KeepPlanSerializer,
    KeptPlanSerializer,
    LatencySerializer,
    LogSerializer,
    MixAskedSerializer,
    MixStateSerializer,
    OverviewSerializer,
    PassSerializer,
    PlanSerializer,
    PlayedSerializer,
    StandInSerializer,
    StrokesSerializer,
    VariationAskedSerializer,
)
from studio.api.ranges import kept_answer, stored_file
from studio.api.validation import validated_body, validated_query
from studio.artefacts import have
from studio.models import PracticeEntry, PracticePlan
from studio.spreadsheets import plain_cell
from studio.values.access import Role
from studio.values.kits import song_player, stamp_of
from studio.values.practice import (
    entry_values,
    goal_of,
    material_of,
    overview_values,
    pass_values,
    plan_values,
)
from studio.values.shown import shown, shown_path
from studio.values.stored import load_transcription


class PracticeView(ForLinks):
    """The stage as it opens."""

    @extend_schema(responses=OverviewSerializer, operation_id="songs_practice")
    def get(self, request: Request, song_id: uuid.UUID) -> Response:
        """What can be practised, what was, what is next; the asker's own."""
        found = scored_access(request, song_id, Role.LINK)
        score = load_transcription(found.seen)
        return Response(overview_values(found.song, score, request.user))


class PlanView(ForLinks):
    """The plan of a groove or a fill."""

    @extend_schema(
        responses=PlanSerializer, parameters=[FillsOfSerializer], operation_id="songs_practice_plan"
    )
    def get(self, request: Request, song_id: uuid.UUID, target: str) -> HttpResponseBase:
        """Every step of every method, up to the tempo that the asker was given."""
        found = scored_access(request, song_id, Role.LINK)
        song = found.seen
        school = validated_query(request, FillsOfSerializer)["school"]
        goal = goal_of(found.song, request.user, target)
        player = song_player(song)
        to = "" if goal is None else f"-to-{goal:g}"
        name = f"plan-{target}-{school}-{stamp_of(player)}{to}"

        def made() -> dict[str, Any]:
            return plan_values(load_transcription(song), target, player, school, goal)

        # Unknown targets raise before anything is kept.
        body = shown(song, name, made)
        return kept_answer(request._request, shown_path(song, name), body)

    @extend_schema(request=KeepPlanSerializer, responses=KeptPlanSerializer)
    def put(self, request: Request, song_id: uuid.UUID, target: str) -> Response:
        """Keep which of them are practised, in which order, and where one is."""
        found = scored_access(request, song_id, Role.READER)
        wish = validated_body(request, KeepPlanSerializer)
        plan = keep_plan(found.song, own_user(request), target=target, seen=found.seen, **wish)
        return Response(
            {
                "target": plan.target,
                "name": target,
                "is_there": True,
                "steps": plan.steps,
                "at": plan.at,
            }
        )

    @extend_schema(responses={204: None})
    def delete(self, request: Request, song_id: uuid.UUID, target: str) -> Response:
        """Keep it no longer; the log stays."""
        mine = PracticePlan.objects.filter(
            song=own_song(request, song_id, Role.READER), owner=own_user(request), target=target
        )
        if not mine.delete()[0]:
            raise NotFound("You keep no such plan.")
        return Response(status=204)


class VariationView(ForLinks):
    """Free variation."""

    @extend_schema(request=VariationAskedSerializer, responses=PassSerializer)
    def post(self, request: Request, song_id: uuid.UUID, target: str) -> Response:
        """One pass: the core, and what chance or a call adds."""
        song = scored_song(request, song_id, Role.LINK)
        wish = validated_body(request, VariationAskedSerializer)
        score, player = load_transcription(song), song_player(song)
        material = material_of(score, target, player)
        called = {
            (one["bar"], one["position"], one["instrument"]) for one in wish.get("called", [])
        }
        hits = (
            on_call(material, called, player)
            if "called" in wish
            else by_chance(material, wish.get("seed", 0), player)
        )
        return Response(pass_values(score, hits, material, SCHOOLS[wish["school"]]))


class LogView(APIView):
    """What was practised."""

    @extend_schema(request=LogSerializer, responses=OverviewSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Enter it; what was sent before is not entered again. Answers with what is next."""
        found, user = scored_access(request, song_id, Role.READER), own_user(request)
        enter_log(found.song, user, validated_body(request, LogSerializer)["entries"])
        score = load_transcription(found.seen)
        return Response(overview_values(found.song, score, user))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, song_id: uuid.UUID) -> Response:
        """Clear the asker's log of this song."""
        song = own_song(request, song_id, Role.READER)
        PracticeEntry.objects.filter(song=song, owner=own_user(request)).delete()
        return Response(status=204)


COLUMNS = (
    "played_at",
    "target",
    "step",
    "title",
    "share",
    "bpm",
    "loops",
    "minutes",
    "feeling",
    "level_db",
    "told",
)


class LogFileView(APIView):
    """The log as a file."""

    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR})
    def get(self, request: Request, song_id: uuid.UUID) -> HttpResponse:
        """All of the asker's entries, as CSV."""
        song = own_song(request, song_id)
        text = io.StringIO()
        rows = csv.writer(text)
        rows.writerow(COLUMNS)
        for entry in PracticeEntry.objects.filter(song=song, owner=own_user(request)):
            values = {**entry_values(entry), "told": " ".join(entry.told)}
            rows.writerow([_cell(values[name]) for name in COLUMNS])
        response = HttpResponse(text.getvalue(), content_type="text/csv; charset=utf-8")
        saved_as(response, song.title, " practice.csv")
        return response


def _cell(value: Any) -> Any:
    if isinstance(value, str):
        return plain_cell(value)
    return "" if value is None else value


def _limb(value: str | None) -> Limb | None:
    return Limb(value) if value else None


def _wanted(items: list[dict[str, Any]]) -> list[Wanted]:
    return [
        Wanted(
            item["time"],
            Instrument(item["instrument"]),
            _limb(item["limb"]),
            item["velocity"],
            item["ghost"],
            item["accent"],
        )
        for item in items
    ]


class PlayedView(ConcurrencyLimited, ForLinks):
    """What was played beside what is written."""

    @extend_schema(request=PlayedSerializer, responses=ComparisonSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Compare; nothing is kept of it but what the log is told."""
        scored_song(request, song_id, Role.LINK)
        sent = validated_body(request, PlayedSerializer)
        struck = [
            Struck(
                item["time"], Instrument(item["instrument"]), item["velocity"], _limb(item["limb"])
            )
            for item in sent["struck"]
        ]
        try:
            found = compare(_wanted(sent["wanted"]), struck)
        except ValueError as error:
            raise ValidationError(f"These are {error}.") from error
        return Response(
            {
                "is_clean": found.is_clean,
                "ladder_step": found.ladder_step,
                "words": found.words,
                "limbs": [
                    {
                        "limb": one.limb.value,
                        "late_ms": one.late_ms,
                        "give_or_take_ms": one.give_or_take_ms,
                        "spread_ms": one.spread_ms,
                        "count": one.count,
                        "words": one.words,
                    }
                    for one in found.limbs
                ],
                "pairs": found.pairs,
                "missed": found.missed,
                "extra": found.extra,
            }
        )


class StandInView(ConcurrencyLimited, ForLinks):
    """A player that stands in for a real one."""

    @extend_schema(request=StandInSerializer, responses=StrokesSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """The strokes of a stand-in with these errors."""
        scored_song(request, song_id, Role.LINK)
        sent = validated_body(request, StandInSerializer)
        errors = Errors(
            {Limb(name): late for name, late in sent["late_ms"].items()},
            sent["spread_ms"],
            sent["missed"],
            sent["extra"],
            sent["seed"],
        )
        struck, _, _ = play(_wanted(sent["wanted"]), errors)
        return Response(
            {
                "struck": [
                    {
                        "time": round(one.time, 5),
                        "instrument": one.instrument.value,
                        "velocity": one.velocity,
                        "limb": one.limb.value if one.limb else None,
                    }
                    for one in struck
                ]
            }
        )


class LatencyView(ConcurrencyLimited, ForLinks):
    """The clap test."""

    @extend_schema(request=ClapsSerializer, responses=LatencySerializer)
    def post(self, request: Request) -> Response:
        """How much later than heard a stroke arrives here."""
        sent = validated_body(request, ClapsSerializer)
        try:
            late = latency_ms(sent["clicks"], sent["claps"])
        except ValueError as error:
            raise ValidationError(
                "Clap with at least four of the clicks, and try again."
            ) from error
        return Response({"latency_ms": round(late, 1)})


class MixesView(APIView):
    """Practice mixes."""

    @extend_schema(request=MixAskedSerializer, responses=MixStateSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Ask for a mix, and how far it is: the same again until it is done."""
        # A mix has the record in it: links that are without it have no mixes either.
        song = scored_song(request, song_id, Role.READER)
        asked = validated_body(request, MixAskedSerializer)
        job = latest_mix(song, asked)
        if job is None or job.state == "done":
            job = ask_for_mix(song, asked)
        if job is None:
            name = mix_path(song, asked).stem
            return Response({"state": "done", "progress": 1.0, "message": "", "name": name})
        return Response(
            {"state": job.state, "progress": job.progress, "message": job.message, "name": ""}
        )


class MixCancelView(APIView):
    """Rendering that is not wanted any more."""

    @extend_schema(request=MixAskedSerializer, responses={204: None})
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Stop rendering it."""
        song = scored_song(request, song_id, Role.READER)
        cancel_mix(song, validated_body(request, MixAskedSerializer))
        return Response(status=204)


class MixFileView(APIView):
    """A mix that is done."""

    @extend_schema(responses={(200, "audio/mpeg"): OpenApiTypes.BINARY})
    def get(self, request: Request, song_id: uuid.UUID, name: str) -> HttpResponseBase:
        """The file."""
        song = scored_song(request, song_id)
        path = song.folder / "mixes" / f"{name}.mp3"
        if not name.isalnum() or not have(path):
            raise NotFound("This mix is no longer there: ask for it again.")
        response = stored_file(request._request, path, "audio/mpeg")
        saved_as(response, song.title, " practice.mp3")
        return response

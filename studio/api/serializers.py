"""The shapes of what goes over the wire; the front end's types are generated from these."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from orchesis.chart.engrave import PageSize
from orchesis.groove.typical import Standing
from orchesis.music.instruments import Instrument, Limb, Status
from studio.models import RunState

INSTRUMENTS = [(item.value, item.value) for item in Instrument]
STATUSES = [(item.value, item.value) for item in Status]
LIMBS = [(item.value, item.value) for item in Limb]
STANDINGS = [(item.value, item.value) for item in Standing]


class SessionSerializer(serializers.Serializer[Any]):
    """Who is signed in."""

    username = serializers.CharField(allow_null=True)
    demo_available = serializers.BooleanField()
    limits = serializers.CharField()
    suffixes = serializers.ListField(child=serializers.CharField())


class CredentialsSerializer(serializers.Serializer[Any]):
    """A name and a password."""

    username = serializers.CharField(max_length=150)
    password = serializers.CharField(max_length=200, trim_whitespace=False)


class ProblemSerializer(serializers.Serializer[Any]):
    """What went wrong."""

    code = serializers.CharField()
    detail = serializers.CharField()


class RunSerializer(serializers.Serializer[Any]):
    """A listening run."""

    state = serializers.ChoiceField(choices=RunState.choices)
    stage = serializers.CharField()
    progress = serializers.FloatField()
    message = serializers.CharField()
    seconds_left = serializers.FloatField(allow_null=True)


class SongSerializer(serializers.Serializer[Any]):
    """A song on the shelf."""

    id = serializers.UUIDField()
    title = serializers.CharField()
    file_name = serializers.CharField()
    duration = serializers.FloatField()
    tempo_bpm = serializers.FloatField()
    meter = serializers.CharField()
    feel = serializers.CharField()
    has_score = serializers.BooleanField()
    doubts = serializers.IntegerField()
    bars = serializers.IntegerField()
    revision = serializers.IntegerField()
    run = RunSerializer(allow_null=True)


class ImportSerializer(serializers.Serializer[Any]):
    """A recording to import."""

    file = serializers.FileField(allow_empty_file=True, max_length=255)
    title = serializers.CharField(required=False, allow_blank=True, max_length=200)


class RenameSerializer(serializers.Serializer[Any]):
    """A new title."""

    title = serializers.CharField(max_length=200)


class HitSerializer(serializers.Serializer[Any]):
    """A hit as in transcription.json."""

    time = serializers.FloatField(min_value=0)
    instrument = serializers.ChoiceField(choices=INSTRUMENTS)
    velocity = serializers.IntegerField(min_value=1, max_value=127)
    ghost = serializers.BooleanField()
    accent = serializers.BooleanField()
    confidence = serializers.FloatField(min_value=0, max_value=1)
    status = serializers.ChoiceField(choices=STATUSES)
    bar = serializers.IntegerField()
    position = serializers.RegexField(r"^\d{1,4}(/[1-9]\d{0,3})?$")
    limb = serializers.ChoiceField(choices=LIMBS, allow_null=True)
    reason = serializers.CharField(allow_blank=True, max_length=300)


class CellSerializer(serializers.Serializer[Any]):
    """A place of a bar's grid: its fraction, its spoken count, when it is due."""

    position = serializers.CharField()
    word = serializers.CharField(allow_blank=True)
    time = serializers.FloatField()


class BarSerializer(serializers.Serializer[Any]):
    """A bar with its hits."""

    number = serializers.IntegerField()
    start = serializers.FloatField()
    end = serializers.FloatField()
    meter = serializers.ListField(child=serializers.IntegerField(), min_length=2, max_length=2)
    beats = serializers.ListField(child=serializers.FloatField())
    cells = CellSerializer(many=True)
    hits = HitSerializer(many=True)
    revision = serializers.IntegerField()


class SectionSerializer(serializers.Serializer[Any]):
    """A section of the form."""

    label = serializers.CharField()  # type: ignore[assignment]
    start = serializers.FloatField()
    end = serializers.FloatField()
    bars = serializers.IntegerField()
    first_bar = serializers.IntegerField()


class TypicalNoteSerializer(serializers.Serializer[Any]):
    """A note of the typical bar."""

    position = serializers.CharField()
    instrument = serializers.ChoiceField(choices=INSTRUMENTS)
    standing = serializers.ChoiceField(choices=STANDINGS)
    share = serializers.FloatField()
    velocity = serializers.IntegerField()
    ghost = serializers.BooleanField()
    accent = serializers.BooleanField()
    limb = serializers.ChoiceField(choices=LIMBS, allow_null=True)


class ClickSerializer(serializers.Serializer[Any]):
    """A click of the metronome: 2 downbeat, 1 beat, 0 between."""

    time = serializers.FloatField()
    strength = serializers.IntegerField()


class ClicksSerializer(serializers.Serializer[Any]):
    """Clicks by subdivision, over the whole song."""

    quarters = ClickSerializer(many=True)
    eighths = ClickSerializer(many=True)
    sixteenths = ClickSerializer(many=True)
    triplets = ClickSerializer(many=True)


class ScoreSerializer(serializers.Serializer[Any]):
    """All that the song page shows."""

    revision = serializers.IntegerField()
    duration = serializers.FloatField()
    tempo_bpm = serializers.FloatField()
    meter = serializers.ListField(child=serializers.IntegerField(), min_length=2, max_length=2)
    feel = serializers.CharField()
    findings = serializers.ListField(child=serializers.CharField())
    sections = SectionSerializer(many=True)
    bars = BarSerializer(many=True)
    typical = TypicalNoteSerializer(many=True)
    clicks = ClicksSerializer()
    loudness = serializers.ListField(child=serializers.FloatField())
    can_undo = serializers.BooleanField()
    can_redo = serializers.BooleanField()


class EditSerializer(serializers.Serializer[Any]):
    """An edit as a value: what was there (null: nothing) and what shall be there."""

    client_id = serializers.UUIDField()
    before = HitSerializer(allow_null=True)
    after = HitSerializer(allow_null=True)


class EditedSerializer(serializers.Serializer[Any]):
    """The edited bar as it is now."""

    words = serializers.CharField()
    revision = serializers.IntegerField()
    bar = serializers.IntegerField()
    bar_revision = serializers.IntegerField()
    hits = HitSerializer(many=True)
    can_undo = serializers.BooleanField()
    can_redo = serializers.BooleanField()


class LayoutSerializer(serializers.Serializer[Any]):
    """How the chart is laid out: on paper, or as one narrow sheet."""

    layout = serializers.ChoiceField(
        choices=[(size.value, size.value) for size in PageSize], default=PageSize.A4.value
    )


class EngravingSerializer(serializers.Serializer[Any]):
    """The chart as pages of SVG."""

    revision = serializers.IntegerField()
    pages = serializers.ListField(child=serializers.CharField())

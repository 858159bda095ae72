"""What the chart's endpoints take and give."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from orchesis.chart.options import ChartOptions
from orchesis.groove.count import SCHOOLS
from orchesis.music.instruments import Limb
from studio.api.serializers import EditedSerializer
from studio.values.charts import CHOICES, options_from_json

LONGEST_CUE = 80
MOST_PART_BARS = 8


def _choice(name: str) -> serializers.ChoiceField:
    kind = CHOICES[name]
    default = getattr(ChartOptions(), name)
    return serializers.ChoiceField([item.value for item in kind], default=default.value)


class ChartOptionsSerializer(serializers.Serializer[Any]):
    """All that one chooses of a chart: see `orchesis.chart.options`."""

    reading = _choice("reading")
    notation = _choice("notation")
    level = _choice("level")
    limbs = serializers.CharField(
        default="", allow_blank=True, max_length=20, help_text="of RH, LH, RF, LF; blank: all"
    )
    doubts = _choice("doubts")
    voices = _choice("voices")
    sticking = _choice("sticking")
    count = serializers.BooleanField(default=False)
    ghosts = _choice("ghosts")
    cross_stick = _choice("cross_stick")
    hat_foot = _choice("hat_foot")
    closing_sign = serializers.BooleanField(default=True)
    swing = _choice("swing")
    facts = serializers.BooleanField(default=False)
    for_kit = serializers.BooleanField(default=False)
    times = serializers.BooleanField(default=True)
    key = serializers.BooleanField(default=True)
    school = serializers.ChoiceField(list(SCHOOLS), default=ChartOptions().school)
    size = _choice("size")

    def validate_limbs(self, value: str) -> str:
        """Limbs by their letters, divided by commas."""
        for limb in filter(None, value.split(",")):
            if limb not in list(Limb):
                raise serializers.ValidationError(f"{limb} is no limb: RH, LH, RF or LF.")
        return value


def chart_options(data: dict[str, Any]) -> ChartOptions:
    """Validated options as the core has them."""
    limbs = [limb for limb in data.get("limbs", "").split(",") if limb]
    return options_from_json({**data, "limbs": limbs})


class ChartQuerySerializer(ChartOptionsSerializer):
    """The same, and which systems the asker has already."""

    have = serializers.CharField(
        default="",
        allow_blank=True,
        max_length=8000,
        help_text="names of systems that need not be sent again, divided by commas",
    )


class SystemSerializer(serializers.Serializer[Any]):
    """A line of the chart on its page; svg is null where the asker has it."""

    name = serializers.CharField()
    transform = serializers.CharField()
    svg = serializers.CharField(allow_null=True)


class ChartPageSerializer(serializers.Serializer[Any]):
    """A page: its size in hundredths of a millimetre, its words, its systems."""

    width = serializers.FloatField()
    height = serializers.FloatField()
    texts = serializers.CharField()
    systems = SystemSerializer(many=True)


class MeasureSerializer(serializers.Serializer[Any]):
    """Where a measure is, and for each pass the first of the bars that it stands for."""

    name = serializers.CharField(help_text="the identity of its element in the drawing")
    page = serializers.IntegerField()
    bars = serializers.ListField(child=serializers.IntegerField())
    span = serializers.IntegerField()
    left = serializers.IntegerField()
    top = serializers.IntegerField()
    right = serializers.IntegerField()
    bottom = serializers.IntegerField()


class PartSerializer(serializers.Serializer[Any]):
    """A stretch to learn, and whether it is on the chart."""

    first_bar = serializers.IntegerField()
    bars = serializers.IntegerField()
    places = serializers.ListField(child=serializers.IntegerField())
    share = serializers.FloatField()
    words = serializers.CharField()
    kept = serializers.BooleanField()
    wanted = serializers.BooleanField()


class CueSerializer(serializers.Serializer[Any]):
    """Words over a place of the song."""

    time = serializers.FloatField()
    words = serializers.CharField()


class ChartSerializer(serializers.Serializer[Any]):
    """The chart on its pages."""

    revision = serializers.IntegerField()
    glyphs = serializers.DictField(child=serializers.CharField())
    pages = ChartPageSerializer(many=True)
    measures = MeasureSerializer(many=True)
    parts = PartSerializer(many=True)
    remarks = serializers.ListField(child=serializers.CharField())
    cues = CueSerializer(many=True)


class PartFileSerializer(serializers.Serializer[Any]):
    """A drum part of another program: MusicXML or MIDI."""

    file = serializers.FileField(allow_empty_file=True, max_length=255)
    take = serializers.BooleanField(default=False, help_text="take it over; else only compare")


class ComparedSerializer(serializers.Serializer[Any]):
    """A part from elsewhere beside the song: which bars say the same, and what was not taken."""

    title = serializers.CharField()
    shift = serializers.IntegerField()
    same = serializers.ListField(child=serializers.IntegerField())
    differing = serializers.ListField(child=serializers.IntegerField())
    beyond = serializers.IntegerField()
    agreement = serializers.FloatField()
    remarks = serializers.ListField(child=serializers.CharField())
    edited = EditedSerializer(allow_null=True)


class SetCueSerializer(serializers.Serializer[Any]):
    """Words for a bar; blank: none."""

    bar = serializers.IntegerField(min_value=1)
    words = serializers.CharField(allow_blank=True, max_length=LONGEST_CUE)


class DecidePartSerializer(serializers.Serializer[Any]):
    """Whether bars are a part to learn; null: as the tool proposes."""

    first_bar = serializers.IntegerField(min_value=1)
    bars = serializers.IntegerField(min_value=1, max_value=MOST_PART_BARS)
    wanted = serializers.BooleanField(allow_null=True)

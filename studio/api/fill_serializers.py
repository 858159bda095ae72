"""What the Fills stage asks and answers."""

from __future__ import annotations

import re
from typing import Any

from rest_framework import serializers

from orchesis.fills.families import Kinship
from orchesis.groove.count import DEFAULT_SCHOOL, SCHOOLS
from orchesis.limbs.kit import MOST_TOMS, SIXTEENTHS
from orchesis.limbs.playable import Kind
from orchesis.music.instruments import Instrument
from studio.api.fields import BarField, FiniteField, ListOf
from studio.api.serializers import BarSerializer

PLACE = re.compile(r"^\d{1,4}(/[1-9]\d{0,3})?$")
PADS = (Instrument.CLAP, Instrument.SHAKER, Instrument.TAMBOURINE)


class FillsOfSerializer(serializers.Serializer[Any]):
    """The school in whose words fills are counted."""

    school = serializers.ChoiceField(
        choices=[(key, words.name) for key, words in SCHOOLS.items()], default=DEFAULT_SCHOOL
    )


class FillAskedSerializer(serializers.Serializer[Any]):
    """A stretch from one place to another, and whether it is a fill."""

    first_bar = BarField()
    at = serializers.RegexField(PLACE, help_text="share of the first bar, such as 3/4")
    last_bar = BarField()
    until = serializers.RegexField(PLACE, help_text="share of the last bar; 1: to its end")
    is_fill = serializers.BooleanField()


class StruckSerializer(serializers.Serializer[Any]):
    """A place and the hand that plays there: R, L, or B for both."""

    bar = serializers.IntegerField()
    position = serializers.CharField()
    letter = serializers.CharField()


class WaySerializer(serializers.Serializer[Any]):
    """A way of sticking a fill, with what it costs and whether it repeats."""

    name = serializers.CharField()
    is_current = serializers.BooleanField(help_text="whether the score has it")
    reason = serializers.CharField(help_text="why it comes first although it is no singles")
    hands = StruckSerializer(many=True)
    cost = serializers.FloatField()
    costs = serializers.CharField()
    closes = serializers.BooleanField()
    closing = serializers.CharField()
    changed = serializers.CharField(help_text="hands of the nearest sticking that closes")
    rudiment = serializers.CharField()


class PlayabilityProblemSerializer(serializers.Serializer[Any]):
    """What one player cannot play, and what he plays instead."""

    kind = serializers.ChoiceField(choices=[(kind.value, kind.value) for kind in Kind])
    bar = serializers.IntegerField()
    position = serializers.CharField()
    words = serializers.CharField()
    remedy = serializers.CharField()


class DividedSerializer(serializers.Serializer[Any]):
    """From which beat on the beat is divided how."""

    name = serializers.CharField()
    at = serializers.CharField()


class ToldFillSerializer(serializers.Serializer[Any]):
    """A fill and all that is said of it."""

    bar = serializers.IntegerField()
    first_bar = serializers.IntegerField()
    at = serializers.CharField()
    until = serializers.CharField()
    start = serializers.FloatField()
    end = serializers.FloatField()
    settled = serializers.BooleanField()
    words = serializers.CharField()
    where = serializers.CharField()
    beats = serializers.FloatField()
    subdivisions = DividedSerializer(many=True)
    grouping = serializers.CharField()
    path = serializers.CharField()
    hands_and_feet = serializers.CharField()
    accents = serializers.CharField()
    lead_in = serializers.CharField()
    landing = serializers.CharField()
    count = serializers.CharField()
    is_linear = serializers.BooleanField()
    form = serializers.CharField()
    family = serializers.CharField()
    kinship = serializers.ChoiceField(choices=[(kind.value, kind.value) for kind in Kinship])
    kinship_words = serializers.CharField()
    ways = WaySerializer(many=True)
    problems = PlayabilityProblemSerializer(many=True)


class FillFamilySerializer(serializers.Serializer[Any]):
    """Fills that belong together."""

    name = serializers.CharField()
    words = serializers.CharField()


class OnKitSerializer(serializers.Serializer[Any]):
    """What the whole song asks of one player on the kit that it is for."""

    words = serializers.ListField(child=serializers.CharField())
    problems = PlayabilityProblemSerializer(many=True)


class FillsSerializer(serializers.Serializer[Any]):
    """All fills of a song."""

    revision = serializers.IntegerField()
    fills = ToldFillSerializer(many=True)
    families = FillFamilySerializer(many=True)
    on_this_kit = OnKitSerializer()


class ExerciseSerializer(serializers.Serializer[Any]):
    """A variation of a fill, as bars."""

    key = serializers.CharField()
    name = serializers.CharField()
    words = serializers.CharField()
    bars = BarSerializer(many=True)


class WayOfSerializer(serializers.Serializer[Any]):
    """Which of the ways of a fill, from 0."""

    way = serializers.IntegerField(min_value=0, max_value=50, default=0)


class FillElsewhereSerializer(serializers.Serializer[Any]):
    """A fill of another song, and how it is kin."""

    song = serializers.UUIDField()
    title = serializers.CharField()
    bar = serializers.IntegerField()
    words = serializers.CharField()


class PracticeWishSerializer(serializers.Serializer[Any]):
    """What is put on a practice list."""

    bar = BarField()
    key = serializers.SlugField(max_length=20)
    title = serializers.CharField(max_length=120)


class PracticeItemSerializer(serializers.Serializer[Any]):
    """What is on a practice list."""

    id = serializers.IntegerField()
    bar = serializers.IntegerField()
    key = serializers.CharField()
    title = serializers.CharField()


class HandsSerializer(serializers.Serializer[Any]):
    """With how many hands sixteenths on a cymbal are played; blank: as the kit's player has it."""

    sixteenths = serializers.ChoiceField(
        choices=[(name, name) for name in SIXTEENTHS], default="", allow_blank=True
    )


class KitSerializer(serializers.Serializer[Any]):
    """A player and his kit. The standard one has no number and cannot be changed."""

    id = serializers.IntegerField(read_only=True, allow_null=True)
    name = serializers.CharField(max_length=60)
    left_handed = serializers.BooleanField(default=False)
    open_handed = serializers.BooleanField(default=False)
    toms = serializers.IntegerField(min_value=1, max_value=MOST_TOMS, default=3)
    double_pedal = serializers.BooleanField(default=False)
    pads = ListOf(
        child=serializers.ChoiceField(choices=[(pad.value, pad.value) for pad in PADS]),
        max_length=len(PADS),
        default=list,
    )
    brushes = serializers.BooleanField(default=False)
    sixteenths = serializers.ChoiceField(
        choices=[(name, name) for name in SIXTEENTHS], default=SIXTEENTHS[0]
    )
    comfortable_hz = FiniteField(min_value=3, max_value=15, default=7.5)
    pedal_hz = FiniteField(min_value=2, max_value=15, default=6.5)


class KitChoiceSerializer(serializers.Serializer[Any]):
    """Which kit; null: the standard one."""

    kit = serializers.IntegerField(allow_null=True)

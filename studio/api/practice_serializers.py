"""What the Practice stage asks and answers."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from orchesis.chart.options import Level
from orchesis.music.instruments import Instrument, Limb
from orchesis.practice.click import mixture
from orchesis.practice.schedule import Feeling
from studio.api.fields import BarField, FiniteField, ListOf, SecondsField, SparseMap
from studio.api.fill_serializers import PLACE, FillsOfSerializer
from studio.values.practice import EXERCISE, FILL, GROOVE

TARGET = r"^((section|fill)-[0-9]{1,5}(--[a-z_]{1,12})?|exercise-[0-9]{1,5}-[-a-z0-9_]{1,20})$"
STEP = r"^[a-z_]{1,30}-[0-9]{1,3}$"
INSTRUMENTS = [(one.value, one.value) for one in Instrument]
LIMBS = [(one.value, one.value) for one in Limb]
LEVELS = [(one.value, one.value) for one in Level]
FEELINGS = [(one.value, one.value) for one in Feeling]
MOST_STEPS = 200
MOST_STROKES = 5_000
"""Pages send some passes at a time: eight minutes of fast playing."""

MOST_ENTRIES = 1000
MOST_CALLED = 200
SLOWEST_SHARE, FASTEST_SHARE = 0.2, 1.5
MOST_LOOPS = 200


class TargetSerializer(serializers.Serializer[Any]):
    """Something that can be practised."""

    key = serializers.CharField()
    name = serializers.CharField()
    kind = serializers.ChoiceField(choices=[(kind, kind) for kind in (GROOVE, FILL, EXERCISE)])


class KeptPlanSerializer(serializers.Serializer[Any]):
    """A plan that somebody keeps; `is_there`: the song still has what it practises."""

    target = serializers.CharField()
    name = serializers.CharField()
    is_there = serializers.BooleanField()
    steps = serializers.ListField(child=serializers.CharField())
    at = serializers.IntegerField()


class DueSerializer(serializers.Serializer[Any]):
    """A step that is due today; `share` 0: it is new."""

    target = serializers.CharField()
    step = serializers.CharField()
    share = serializers.FloatField()
    minutes = serializers.FloatField()
    words = serializers.CharField()


class EntrySerializer(serializers.Serializer[Any]):
    """An entry of the log."""

    client_id = serializers.UUIDField()
    target = serializers.RegexField(TARGET)
    step = serializers.RegexField(STEP)
    title = serializers.CharField(max_length=200)
    played_at = serializers.DateTimeField()
    share = FiniteField(min_value=0, max_value=2)
    bpm = FiniteField(min_value=0, max_value=1000)
    loops = serializers.IntegerField(min_value=0, max_value=100_000)
    minutes = FiniteField(min_value=0, max_value=24 * 60)
    feeling = serializers.ChoiceField(choices=FEELINGS)
    level_db = FiniteField(min_value=30, max_value=140, allow_null=True, default=None)
    told = ListOf(child=serializers.CharField(max_length=200), max_length=30, default=list)


class LogSerializer(serializers.Serializer[Any]):
    """Entries, as many as waited."""

    entries = ListOf(EntrySerializer(), max_length=MOST_ENTRIES)


class BodySerializer(serializers.Serializer[Any]):
    """What ears have had today, and what to take care of."""

    dose = serializers.FloatField(help_text="share of a day's limit")
    minutes_today = serializers.FloatField()
    level_db = serializers.FloatField(help_text="dB(A) that is reckoned with where none is known")
    minutes_left = serializers.FloatField()
    break_after = serializers.FloatField()
    stop_words = serializers.CharField()
    warm_up_words = serializers.CharField()
    rule_words = serializers.CharField()


class GivenHereSerializer(serializers.Serializer[Any]):
    """What a teacher asks for in this song."""

    id = serializers.IntegerField()
    target = serializers.CharField()
    level = serializers.ChoiceField(choices=LEVELS)
    name = serializers.CharField()
    bpm = serializers.FloatField()
    due = serializers.DateField(allow_null=True)
    words = serializers.CharField(allow_blank=True)
    group = serializers.CharField()


class OverviewSerializer(serializers.Serializer[Any]):
    """What can be practised, what was, what is next."""

    targets = TargetSerializer(many=True)
    plans = KeptPlanSerializer(many=True)
    session = DueSerializer(many=True)
    log = EntrySerializer(many=True)
    given = GivenHereSerializer(many=True)
    body = BodySerializer()


class CountPlaceSerializer(serializers.Serializer[Any]):
    """A place of the count ruler."""

    time = serializers.FloatField()
    word = serializers.CharField(allow_blank=True)
    is_beat = serializers.BooleanField()


class PracticeBarSerializer(serializers.Serializer[Any]):
    """A bar of the loop."""

    number = serializers.IntegerField()
    start = serializers.FloatField()
    end = serializers.FloatField()
    places = CountPlaceSerializer(many=True)


class PracticeNoteSerializer(serializers.Serializer[Any]):
    """A note; `late`: how far its voice sits behind in this song, in seconds."""

    time = serializers.FloatField()
    late = serializers.FloatField()
    bar = serializers.IntegerField()
    position = serializers.CharField()
    instrument = serializers.ChoiceField(choices=INSTRUMENTS)
    limb = serializers.ChoiceField(choices=LIMBS, allow_null=True)
    velocity = serializers.IntegerField()
    ghost = serializers.BooleanField()
    accent = serializers.BooleanField()
    half = serializers.BooleanField()


class RungSerializer(serializers.Serializer[Any]):
    """A rung of the ladder."""

    share = serializers.FloatField()
    bpm = serializers.IntegerField()
    is_asked = serializers.BooleanField(help_text="the tempo that a teacher asks for")


class SpokenSerializer(serializers.Serializer[Any]):
    """A counted word."""

    time = serializers.FloatField()
    word = serializers.CharField()
    sample = serializers.CharField()


class WindowSerializer(serializers.Serializer[Any]):
    """A part of the loop."""

    start = serializers.FloatField()
    end = serializers.FloatField()
    words = serializers.CharField()


class StepSerializer(serializers.Serializer[Any]):
    """A step of a plan."""

    key = serializers.CharField()
    title = serializers.CharField()
    with_dynamics = serializers.BooleanField()
    start = serializers.FloatField()
    end = serializers.FloatField()
    count = serializers.CharField()
    sticking = serializers.CharField()
    trap = serializers.CharField()
    difficulty = serializers.FloatField()
    rungs = RungSerializer(many=True)
    loops = serializers.IntegerField()
    ladder_words = serializers.CharField()
    minutes = serializers.FloatField()
    level_db = serializers.IntegerField(help_text="dB(A) at the ear, estimated")
    notes = PracticeNoteSerializer(many=True)
    voice = SpokenSerializer(many=True)
    windows = WindowSerializer(many=True)


class MethodSerializer(serializers.Serializer[Any]):
    """A method, and its steps in order."""

    value = serializers.CharField()
    words = serializers.CharField()
    steps = serializers.ListField(child=serializers.CharField())


class ChoiceSerializer(serializers.Serializer[Any]):
    """A note that may come or go."""

    name = serializers.CharField()
    standing = serializers.CharField()
    bar = serializers.IntegerField()
    position = serializers.CharField()
    instrument = serializers.ChoiceField(choices=INSTRUMENTS)


class PlanSerializer(serializers.Serializer[Any]):
    """All ways to practise a groove or a fill."""

    target = serializers.CharField()
    name = serializers.CharField()
    is_fill = serializers.BooleanField()
    bpm = serializers.FloatField()
    difficulty = serializers.FloatField()
    difficulty_words = serializers.CharField()
    farthest_late = serializers.FloatField()
    overdub_words = serializers.ListField(child=serializers.CharField())
    bars = PracticeBarSerializer(many=True)
    methods = MethodSerializer(many=True)
    steps = StepSerializer(many=True)
    variation = ChoiceSerializer(many=True)


class KeepPlanSerializer(FillsOfSerializer):
    """Which steps, in which order, and where one is."""

    steps = ListOf(child=serializers.RegexField(STEP), max_length=MOST_STEPS, allow_empty=True)
    at = serializers.IntegerField(min_value=0, max_value=MOST_STEPS, default=0)


class CalledSerializer(serializers.Serializer[Any]):
    """A note that is called."""

    bar = BarField()
    position = serializers.RegexField(PLACE)
    instrument = serializers.ChoiceField(choices=INSTRUMENTS)


class VariationAskedSerializer(FillsOfSerializer):
    """A pass by chance, or with just the notes that are called."""

    seed = serializers.IntegerField(min_value=0, max_value=2**31, required=False)
    called = ListOf(CalledSerializer(), max_length=MOST_CALLED, required=False)


class PassSerializer(serializers.Serializer[Any]):
    """The notes of a pass; `taken`: of those that come and go the ones that are there, by name."""

    notes = PracticeNoteSerializer(many=True)
    taken = serializers.ListField(child=serializers.CharField())


class WantedSerializer(serializers.Serializer[Any]):
    """A stroke that is asked for: seconds since playing began."""

    time = SecondsField()
    instrument = serializers.ChoiceField(choices=INSTRUMENTS)
    limb = serializers.ChoiceField(choices=LIMBS, allow_null=True)
    velocity = serializers.IntegerField(min_value=1, max_value=127)
    ghost = serializers.BooleanField(default=False)
    accent = serializers.BooleanField(default=False)


class StruckPadSerializer(serializers.Serializer[Any]):
    """A stroke that was played."""

    time = FiniteField(min_value=-60, max_value=36000)
    instrument = serializers.ChoiceField(choices=INSTRUMENTS)
    velocity = serializers.IntegerField(min_value=1, max_value=127)
    limb = serializers.ChoiceField(choices=LIMBS, allow_null=True, default=None)


class PlayedSerializer(serializers.Serializer[Any]):
    """What was written in the passes that were played, and what was played."""

    wanted = ListOf(child=WantedSerializer(), max_length=MOST_STROKES)
    struck = ListOf(child=StruckPadSerializer(), max_length=MOST_STROKES)


class LimbTimingSerializer(serializers.Serializer[Any]):
    """Where a limb falls: milliseconds, late is positive."""

    limb = serializers.ChoiceField(choices=LIMBS)
    late_ms = serializers.FloatField()
    give_or_take_ms = serializers.FloatField()
    spread_ms = serializers.FloatField()
    count = serializers.IntegerField()
    words = serializers.CharField()


class ComparisonSerializer(serializers.Serializer[Any]):
    """What came of it; lists of indices into what was sent."""

    is_clean = serializers.BooleanField()
    ladder_step = serializers.IntegerField()
    words = serializers.ListField(child=serializers.CharField())
    limbs = LimbTimingSerializer(many=True)
    pairs = serializers.ListField(child=serializers.ListField(child=serializers.IntegerField()))
    missed = serializers.ListField(child=serializers.IntegerField())
    extra = serializers.ListField(child=serializers.IntegerField())


class StandInSerializer(serializers.Serializer[Any]):
    """What a stand-in shall play, and how it errs."""

    wanted = ListOf(child=WantedSerializer(), max_length=MOST_STROKES)
    late_ms = SparseMap(
        FiniteField(min_value=-100, max_value=100), max_length=len(Limb), default=dict
    )
    spread_ms = FiniteField(min_value=0, max_value=40, default=6)
    missed = FiniteField(min_value=0, max_value=0.5, default=0)
    extra = FiniteField(min_value=0, max_value=0.5, default=0)
    seed = serializers.IntegerField(min_value=0, max_value=2**31, default=1)

    def validate_late_ms(self, value: dict[str, float]) -> dict[str, float]:
        """Of limbs only."""
        strange = set(value) - {limb.value for limb in Limb}
        if strange:
            raise serializers.ValidationError(f"There is no limb {sorted(strange)[0]!r}.")
        return value


class StrokesSerializer(serializers.Serializer[Any]):
    """Strokes as they were played."""

    struck = StruckPadSerializer(many=True)


class ClapsSerializer(serializers.Serializer[Any]):
    """Clicks that were heard and claps that came, in seconds on one clock."""

    clicks = ListOf(child=FiniteField(), max_length=200)
    claps = ListOf(child=FiniteField(), max_length=400)


class LatencySerializer(serializers.Serializer[Any]):
    """How much later than heard a stroke arrives."""

    latency_ms = serializers.FloatField()


class MixAskedSerializer(FillsOfSerializer):
    """A practice mix."""

    target = serializers.RegexField(TARGET)
    step = serializers.RegexField(STEP)
    shares = ListOf(
        child=FiniteField(min_value=SLOWEST_SHARE, max_value=FASTEST_SHARE),
        min_length=1,
        max_length=40,
    )
    loops = serializers.IntegerField(min_value=1, max_value=MOST_LOOPS)
    click = serializers.CharField(max_length=60, allow_blank=True, default="quarters")
    voice = serializers.BooleanField(default=False)
    record = serializers.BooleanField(default=False)
    kit = serializers.BooleanField(default=True)
    sides = serializers.BooleanField(default=False)

    def validate_click(self, value: str) -> str:
        """A mix of subdivisions, or none."""
        if value:
            try:
                mixture(value)
            except KeyError as error:
                raise serializers.ValidationError("There is no such click.") from error
        return value


class MixStateSerializer(serializers.Serializer[Any]):
    """How far a mix is; `name` is its file's once it is done."""

    state = serializers.CharField()
    progress = serializers.FloatField()
    message = serializers.CharField(allow_blank=True)
    name = serializers.CharField(allow_blank=True)

"""The shapes of what goes over the wire; the front end's types are generated from these."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from orchesis.edits.gesture import MOST_EDITS
from orchesis.listening.parts import Part
from orchesis.music.instruments import Instrument, Limb, Ornament, Status
from orchesis.rhythm.beat_notation import BeatNotation
from orchesis.rhythm.divide import DIVISIONS
from orchesis.rhythm.tapped import MOST_TAPS
from studio.api.fields import MOST_BARS_OF_A_SONG, BarField, FiniteField, ListOf, SecondsField
from studio.models import RunState, SourceState

INSTRUMENTS = [(item.value, item.value) for item in Instrument]
STATUSES = [(item.value, item.value) for item in Status]
LIMBS = [(item.value, item.value) for item in Limb]
PARTS = [(item.value, item.value) for item in Part]
BEAT_NOTATIONS = [(item.value, item.value) for item in BeatNotation]
ORNAMENTS = [(item.value, item.value) for item in Ornament]


class SessionSerializer(serializers.Serializer[Any]):
    """Who is signed in."""

    username = serializers.CharField(allow_null=True)
    is_demo = serializers.BooleanField()
    demo_available = serializers.BooleanField()
    registration = serializers.CharField(help_text="open, invitation or closed")


class CredentialsSerializer(serializers.Serializer[Any]):
    """A name and a password."""

    username = serializers.CharField(max_length=150)
    password = serializers.CharField(max_length=200, trim_whitespace=False)


class SignUpSerializer(CredentialsSerializer):
    """The same, and where mails go; the secret of an invitation where one needs it."""

    email = serializers.EmailField(max_length=200, allow_blank=True, default="")
    invitation = serializers.CharField(max_length=64, allow_blank=True, default="")


class ProblemSerializer(serializers.Serializer[Any]):
    """What went wrong, and what to do.

    bars: a conflict is about these. song: it is the same recording as that of this song.
    """

    code = serializers.CharField()
    detail = serializers.CharField()
    bars = serializers.ListField(child=serializers.IntegerField(), required=False)
    song = serializers.UUIDField(required=False)


class BeingMadeSerializer(serializers.Serializer[Any]):
    """A worker makes it now: ask again in a second."""

    state = serializers.ChoiceField(choices=[("making", "making")])


class RunSerializer(serializers.Serializer[Any]):
    """A listening run."""

    state = serializers.ChoiceField(choices=RunState.choices)
    stage = serializers.CharField()
    progress = serializers.FloatField()
    message = serializers.CharField()
    seconds_left = serializers.FloatField(allow_null=True)


SONG_ROLES = ("owner", "editor", "reader", "link")


class EditionSerializer(serializers.Serializer[Any]):
    """A version that was published."""

    number = serializers.IntegerField()
    published_at = serializers.DateTimeField()
    words = serializers.CharField()
    changed = serializers.ListField(child=serializers.CharField())
    is_current = serializers.BooleanField(help_text="whether nothing was changed since")


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
    has_recording = serializers.BooleanField()
    doubts = serializers.IntegerField()
    bars = serializers.IntegerField()
    revision = serializers.IntegerField()
    role = serializers.ChoiceField(SONG_ROLES, help_text="what the asker is to the song")
    owner = serializers.CharField()
    edition = EditionSerializer(allow_null=True)
    is_shared = serializers.BooleanField(help_text="whether others see it")
    open_comments = serializers.IntegerField()
    run = RunSerializer(allow_null=True)


class ImportSerializer(serializers.Serializer[Any]):
    """A recording to import."""

    file = serializers.FileField(allow_empty_file=True, max_length=255)
    title = serializers.CharField(required=False, allow_blank=True, max_length=200)
    again = serializers.BooleanField(
        default=False, help_text="also where the same recording is on the shelf already"
    )


class RenameSerializer(serializers.Serializer[Any]):
    """A new title, who plays it, or both."""

    title = serializers.CharField(max_length=200, required=False)
    performer = serializers.CharField(max_length=200, required=False, allow_blank=True)


class HitSerializer(serializers.Serializer[Any]):
    """A hit as in transcription.json."""

    time = SecondsField()
    instrument = serializers.ChoiceField(choices=INSTRUMENTS)
    velocity = serializers.IntegerField(min_value=1, max_value=127)
    ghost = serializers.BooleanField()
    accent = serializers.BooleanField()
    confidence = FiniteField(min_value=0, max_value=1)
    status = serializers.ChoiceField(choices=STATUSES)
    bar = BarField()
    position = serializers.RegexField(r"^\d{1,4}(/[1-9]\d{0,3})?$")
    limb = serializers.ChoiceField(choices=LIMBS, allow_null=True)
    reason = serializers.CharField(allow_blank=True, max_length=300)
    ornament = serializers.ChoiceField(choices=ORNAMENTS, allow_null=True, required=False)
    settled = serializers.BooleanField(required=False)
    source = serializers.CharField(  # type: ignore[assignment]
        allow_blank=True, max_length=200, required=False
    )
    opening = FiniteField(min_value=0, max_value=1, allow_null=True, required=False)


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
    divisions = serializers.ListField(child=serializers.IntegerField())
    cells = CellSerializer(many=True)
    hits = HitSerializer(many=True)
    revision = serializers.IntegerField()


class FormNoteSerializer(serializers.Serializer[Any]):
    """Something about the form that gets people lost."""

    bar = serializers.IntegerField()
    kind = serializers.CharField()
    words = serializers.CharField()


class FormCellSerializer(serializers.Serializer[Any]):
    """A bar in the picture of the form."""

    number = serializers.IntegerField()
    density = serializers.FloatField()
    fill = serializers.BooleanField()
    crash = serializers.BooleanField()
    meter = serializers.CharField(allow_null=True)


class SectionSerializer(serializers.Serializer[Any]):
    """A section of the form: sections with one mark are the same music."""

    label = serializers.CharField()  # type: ignore[assignment]
    mark = serializers.CharField()
    start = serializers.FloatField()
    end = serializers.FloatField()
    bars = serializers.IntegerField()
    first_bar = serializers.IntegerField()
    confirmed = serializers.BooleanField()
    phrases = serializers.ListField(child=serializers.IntegerField())
    like = serializers.CharField(allow_null=True)
    differing = serializers.ListField(child=serializers.IntegerField())
    words = serializers.CharField()
    notes = FormNoteSerializer(many=True)
    cells = FormCellSerializer(many=True)


class TempoSerializer(serializers.Serializer[Any]):
    """The tempo report; the curve has [seconds, beats a minute] for each bar."""

    median = serializers.FloatField()
    slowest = serializers.FloatField()
    fastest = serializers.FloatField()
    click = serializers.BooleanField(allow_null=True)
    words = serializers.CharField()
    curve = serializers.ListField(child=serializers.ListField(child=serializers.FloatField()))


class RatioSerializer(serializers.Serializer[Any]):
    """Long:short with its 95 % interval."""

    value = serializers.FloatField()
    low = serializers.FloatField()
    high = serializers.FloatField()
    pairs = serializers.IntegerField()


class FeelLineSerializer(serializers.Serializer[Any]):
    """How many strokes fall in each part of a beat."""

    name = serializers.CharField()
    counts = serializers.ListField(child=serializers.IntegerField())


class SectionFeelSerializer(serializers.Serializer[Any]):
    """The feel of one section."""

    label = serializers.CharField()  # type: ignore[assignment]
    words = serializers.CharField()


class FeelSerializer(serializers.Serializer[Any]):
    """The feel, with where the notes fall."""

    words = serializers.CharField()
    subdivision = serializers.CharField()
    swing_8 = RatioSerializer(allow_null=True)
    swing_16 = RatioSerializer(allow_null=True)
    half_time = serializers.BooleanField()
    sections = SectionFeelSerializer(many=True)
    lines = FeelLineSerializer(many=True)


class ReadingSerializer(serializers.Serializer[Any]):
    """A way to count the song; the one taken comes first."""

    key = serializers.CharField()
    words = serializers.CharField()
    tempo_bpm = serializers.FloatField()
    meter = serializers.ListField(child=serializers.IntegerField(), min_length=2, max_length=2)
    evidence = serializers.ListField(child=serializers.CharField())


class ListeningSerializer(serializers.Serializer[Any]):
    """The findings about grid and feel."""

    confirmed = serializers.ListField(child=serializers.CharField())
    tempo = TempoSerializer()
    feel = FeelSerializer()
    beat_notation = serializers.ChoiceField(
        choices=BEAT_NOTATIONS,
        allow_null=True,
        help_text="how beats that fall in three are written; null: they do not",
    )
    readings = ReadingSerializer(many=True)


class FillSerializer(serializers.Serializer[Any]):
    """A fill. settled: somebody said where it is."""

    start = serializers.FloatField()
    end = serializers.FloatField()
    bar = serializers.IntegerField()
    settled = serializers.BooleanField()


FINDINGS = ("tempo", "meter", "first beat", "feel")


class ReadingChoiceSerializer(serializers.Serializer[Any]):
    """The reading to take."""

    key = serializers.CharField(max_length=60)


class TapsSerializer(serializers.Serializer[Any]):
    """Tapped beats, seconds of the recording; the first is a one."""

    taps = ListOf(child=SecondsField(), min_length=1, max_length=MOST_TAPS)
    beats_a_bar = serializers.IntegerField(min_value=2, max_value=7)


class TypedTempoSerializer(serializers.Serializer[Any]):
    """A tempo in beats a minute, and how they are counted."""

    bpm = FiniteField(min_value=1, max_value=1000)
    beats_a_bar = serializers.IntegerField(min_value=2, max_value=7)


class BarLineSerializer(serializers.Serializer[Any]):
    """A bar line and where it belongs."""

    bar = BarField()
    time = SecondsField()


class ShiftSerializer(serializers.Serializer[Any]):
    """By how many felt beats every bar begins later."""

    beats = serializers.IntegerField(min_value=1, max_value=31)


class StrayBarSerializer(serializers.Serializer[Any]):
    """A bar that has more or fewer beats than the others."""

    bar = BarField()


class BeatNotationSerializer(serializers.Serializer[Any]):
    """How beats that fall in three are written."""

    notation = serializers.ChoiceField(choices=BEAT_NOTATIONS)


class DivisionSerializer(serializers.Serializer[Any]):
    """Beats, and into how many parts they are divided."""

    bars = ListOf(child=BarField(), min_length=1, max_length=MOST_BARS_OF_A_SONG)
    parts = serializers.ChoiceField(choices=[(parts, str(parts)) for parts in DIVISIONS])
    beat = serializers.IntegerField(
        required=False, allow_null=True, min_value=0, max_value=31, help_text="from 0; null: all"
    )
    like = serializers.BooleanField(default=False, help_text="in all bars that play the same, too")


class ConfirmSerializer(serializers.Serializer[Any]):
    """A finding that the user settles or opens again."""

    finding = serializers.ChoiceField(choices=[(name, name) for name in FINDINGS])
    confirmed = serializers.BooleanField()


FORM_CHANGES = ("split", "merge", "move", "rename", "same_as", "confirm")


class FormChangeSerializer(serializers.Serializer[Any]):
    """A change of the form. Which of the fields it needs depends on its kind."""

    kind = serializers.ChoiceField(choices=[(name, name) for name in FORM_CHANGES])
    first_bar = BarField(help_text="first bar of the section; of the new, to split")
    to = BarField(required=False, allow_null=True, help_text="move, same_as")
    label = serializers.CharField(  # type: ignore[assignment]
        required=False, allow_blank=True, max_length=80
    )
    confirmed = serializers.BooleanField(required=False)
    twins = serializers.BooleanField(
        required=False, help_text="rename: all sections with the same letter"
    )


class ClickSerializer(serializers.Serializer[Any]):
    """A click of the metronome: 2 downbeat, 1 beat, 0 between."""

    time = serializers.FloatField()
    strength = serializers.IntegerField()


class ScoreSerializer(serializers.Serializer[Any]):
    """All that the song page shows."""

    revision = serializers.IntegerField()
    duration = serializers.FloatField()
    tempo_bpm = serializers.FloatField()
    meter = serializers.ListField(child=serializers.IntegerField(), min_length=2, max_length=2)
    feel = serializers.CharField()
    findings = serializers.ListField(child=serializers.CharField())
    listening = ListeningSerializer()
    sections = SectionSerializer(many=True)
    fills = FillSerializer(many=True)
    bars = BarSerializer(many=True)
    loudness = serializers.ListField(child=serializers.FloatField())


class MineSerializer(serializers.Serializer[Any]):
    """What of a song depends on who asks, and on files that come later."""

    parts = serializers.ListField(child=serializers.ChoiceField(choices=PARTS))
    parts_coming = serializers.BooleanField(help_text="the record is about to be taken apart")
    can_undo = serializers.BooleanField()
    can_redo = serializers.BooleanField()
    heard_again = serializers.BooleanField(help_text="something heard anew waits to be looked at")


class EditSerializer(serializers.Serializer[Any]):
    """An edit as a value: what was there (null: nothing) and what shall be there."""

    before = HitSerializer(allow_null=True)
    after = HitSerializer(allow_null=True)


class EditsSerializer(serializers.Serializer[Any]):
    """Edits that are made, and undone, at one stroke."""

    client_id = serializers.UUIDField()
    edits = ListOf(child=EditSerializer(), min_length=1, max_length=MOST_EDITS)
    words = serializers.CharField(allow_blank=True, max_length=200, required=False)


class EditedBarSerializer(serializers.Serializer[Any]):
    """An edited bar as it is now."""

    number = serializers.IntegerField()
    revision = serializers.IntegerField()
    hits = HitSerializer(many=True)


class EditedSerializer(serializers.Serializer[Any]):
    """The edited bars as they are now; the whole score where all of it has changed."""

    words = serializers.CharField()
    revision = serializers.IntegerField()
    bars = EditedBarSerializer(many=True)
    score = ScoreSerializer(allow_null=True)
    can_undo = serializers.BooleanField()
    can_redo = serializers.BooleanField()


class SourceSerializer(serializers.Serializer[Any]):
    """A second recording of a song, and how well it fits."""

    id = serializers.IntegerField()
    title = serializers.CharField()
    state = serializers.ChoiceField(choices=SourceState.choices)
    words = serializers.CharField()
    offset = serializers.FloatField()
    speed = serializers.FloatField()
    error = serializers.FloatField()

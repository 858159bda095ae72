"""The shapes of what the Grooves stage gets and sends."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from orchesis.edits.review_queue import Kind
from orchesis.edits.voice import Scope
from orchesis.groove.count import DEFAULT_SCHOOL, SCHOOLS
from orchesis.groove.kinship import Kin
from orchesis.groove.phrase import Standing
from studio.api.fields import BarField, ListOf
from studio.api.serializers import INSTRUMENTS, LIMBS, ORNAMENTS, EditSerializer, HitSerializer

STANDINGS = [(item.value, item.value) for item in Standing]
KINS = [(item.value, item.value) for item in Kin]
MOST_BARS = 500
MOST_LIKE_EDITS = 200


class PhraseNoteSerializer(serializers.Serializer[Any]):
    """A note of a phrase: in its bar from 0, and how many of how many bars have it."""

    bar = serializers.IntegerField()
    position = serializers.CharField()
    instrument = serializers.ChoiceField(choices=INSTRUMENTS)
    standing = serializers.ChoiceField(choices=STANDINGS)
    share = serializers.FloatField()
    count = serializers.IntegerField()
    asked = serializers.IntegerField()
    velocity = serializers.IntegerField()
    ghost = serializers.BooleanField()
    accent = serializers.BooleanField()
    limb = serializers.ChoiceField(choices=LIMBS, allow_null=True)
    ornament = serializers.ChoiceField(choices=ORNAMENTS, allow_null=True)
    opening = serializers.FloatField(allow_null=True)


class PhraseSerializer(serializers.Serializer[Any]):
    """What a stretch of bars plays."""

    first_bar = serializers.IntegerField()
    bars = serializers.IntegerField()
    length = serializers.IntegerField()
    words = serializers.CharField()
    odds = serializers.FloatField()
    notes = PhraseNoteSerializer(many=True)


class ChangeSerializer(serializers.Serializer[Any]):
    """A change in mid-section, with the figures it rests on."""

    bar = serializers.IntegerField()
    words = serializers.CharField()
    evidence = serializers.CharField(allow_blank=True)


class ProposalSerializer(serializers.Serializer[Any]):
    """Notes that are inferred, not heard: offered, not written."""

    kind = serializers.CharField()
    words = serializers.CharField()
    hits = HitSerializer(many=True)


class StrokePlaceSerializer(serializers.Serializer[Any]):
    """Where a stroke is that may be an echo."""

    bar = serializers.IntegerField()
    position = serializers.CharField()
    instrument = serializers.ChoiceField(choices=INSTRUMENTS)


class RhythmNameSerializer(serializers.Serializer[Any]):
    """A name for what a section plays."""

    first_bar = BarField(help_text="with which the section begins")
    name = serializers.CharField(max_length=60)


class OwnRhythmSerializer(serializers.Serializer[Any]):
    """A rhythm that somebody named."""

    id = serializers.IntegerField()
    name = serializers.CharField()


class NamedRhythmSerializer(serializers.Serializer[Any]):
    """A traditional rhythm that the phrase is, or has in one voice."""

    words = serializers.CharField()
    tradition = serializers.CharField()


class GrooveFactSerializer(serializers.Serializer[Any]):
    """Something that is so in the phrase, and the notes that it is about; bars from 0."""

    words = serializers.CharField()
    notes = StrokePlaceSerializer(many=True)


class SpotSerializer(serializers.Serializer[Any]):
    """A place that resists, and why."""

    bar = serializers.IntegerField()
    position = serializers.CharField()
    words = serializers.CharField()


class DifficultySerializer(serializers.Serializer[Any]):
    """From 1 to 10, what makes it so, and where it resists."""

    value = serializers.FloatField()
    words = serializers.CharField()
    spots = SpotSerializer(many=True)


class SectionGrooveSerializer(serializers.Serializer[Any]):
    """The grooves of a section. `kinds`: bars that play the same, the commonest kind first."""

    stamp = serializers.CharField(help_text="another one whenever something of the section is")
    first_bar = serializers.IntegerField()
    label = serializers.CharField()  # type: ignore[assignment]
    phrases = PhraseSerializer(many=True)
    changes = ChangeSerializer(many=True)
    names = NamedRhythmSerializer(many=True)
    facts = GrooveFactSerializer(many=True)
    difficulty = DifficultySerializer(allow_null=True)
    unplayable = SpotSerializer(
        many=True, help_text="what one player on the song's kit cannot play"
    )
    kinds = serializers.ListField(child=serializers.ListField(child=serializers.IntegerField()))
    proposals = ProposalSerializer(many=True)


class VariantSerializer(serializers.Serializer[Any]):
    """Which forms a layer has, and what they have to do with loudness."""

    layer = serializers.CharField()
    words = serializers.CharField()


class AnswerSerializer(serializers.Serializer[Any]):
    """One answer that a question takes."""

    value = serializers.CharField()
    words = serializers.CharField()


class ReviewQuestionSerializer(serializers.Serializer[Any]):
    """What is uncertain, as one question; a missing note is given as it would be written.

    How the song is counted is answered by taking one of its readings, all others by a gesture.
    """

    key = serializers.CharField(help_text="the same as long as the notes in question are")
    kind = serializers.ChoiceField(choices=[(kind, kind) for kind in ("counting", *Kind)])
    words = serializers.CharField()
    bars = serializers.ListField(child=serializers.IntegerField())
    places = StrokePlaceSerializer(many=True)
    examples = HitSerializer(many=True, help_text="which to listen to, the most telling first")
    is_missing = serializers.BooleanField()
    answers = AnswerSerializer(many=True)


class GroovesSerializer(serializers.Serializer[Any]):
    """All that is found about a song's grooves."""

    revision = serializers.IntegerField()
    sections = SectionGrooveSerializer(many=True)
    variants = VariantSerializer(many=True)
    review = ReviewQuestionSerializer(many=True, help_text="the costliest first")
    settled_bars = serializers.ListField(child=serializers.IntegerField())
    lessons = serializers.ListField(
        child=serializers.IntegerField(), help_text="bars that would teach most if settled next"
    )


class EvidenceRowSerializer(serializers.Serializer[Any]):
    """One drum: how strongly it is heard in each cell of the bar, 0 to 1."""

    instrument = serializers.ChoiceField(choices=INSTRUMENTS)
    strength = serializers.ListField(child=serializers.FloatField())


class EvidenceOfSourceSerializer(serializers.Serializer[Any]):
    """The same in a second recording."""

    id = serializers.IntegerField()
    title = serializers.CharField()
    rows = EvidenceRowSerializer(many=True)


class EvidenceSerializer(serializers.Serializer[Any]):
    """What was heard in a bar, cell by cell, also where nothing is written; in each recording."""

    bar = serializers.IntegerField()
    rows = EvidenceRowSerializer(many=True)
    sources = EvidenceOfSourceSerializer(many=True)


class ShadeSerializer(serializers.Serializer[Any]):
    """A bar's evidence: for each limb a digit a cell, 0 nothing to 9 certain."""

    bar = serializers.IntegerField()
    RH = serializers.CharField()
    LH = serializers.CharField()
    RF = serializers.CharField()
    LF = serializers.CharField()


class BarsSerializer(serializers.Serializer[Any]):
    """A run of bars."""

    first = BarField()
    last = BarField()

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """The last is not before the first, and they are not too many."""
        if not 0 <= attrs["last"] - attrs["first"] < MOST_BARS:
            raise serializers.ValidationError(f"ask for 1 to {MOST_BARS} bars, in order")
        return attrs


class ShadesOfSerializer(BarsSerializer):
    """Bars, and the second recording whose evidence is asked for; the song's own without."""

    source = serializers.IntegerField(  # type: ignore[assignment]
        min_value=1, max_value=2**62, required=False, allow_null=True, default=None
    )


class SayingOfSerializer(BarsSerializer):
    """Bars, and the school in whose words they are counted."""

    school = serializers.ChoiceField(
        choices=[(key, words.name) for key, words in SCHOOLS.items()], default=DEFAULT_SCHOOL
    )


class SayingSerializer(serializers.Serializer[Any]):
    """The spoken count, and what falls together and between."""

    count = serializers.CharField(allow_blank=True)
    sentences = serializers.ListField(child=serializers.CharField())


class BarProposalSerializer(serializers.Serializer[Any]):
    """What would change in a bar."""

    bar = serializers.IntegerField()
    edits = EditSerializer(many=True)


class ContradictionSerializer(serializers.Serializer[Any]):
    """A confirmed bar that contradicts the other confirmed bars like it."""

    bar = serializers.IntegerField()
    words = serializers.CharField()


class RelistenSerializer(serializers.Serializer[Any]):
    """What the tool would write otherwise, now that some bars are settled."""

    settled = serializers.IntegerField()
    added = serializers.IntegerField()
    removed = serializers.IntegerField()
    surer = serializers.IntegerField()
    contradictions = ContradictionSerializer(many=True)
    bars = BarProposalSerializer(many=True)


class HeardAgainSerializer(serializers.Serializer[Any]):
    """What taking a new listening run would change: of the whole song in words, and of bars."""

    facts = serializers.ListField(child=serializers.CharField())
    bars = BarProposalSerializer(many=True)


GESTURES = ("like", "phrase", "copy", "confirm", "reopen", "stick", "voice", "answer")


class GestureSerializer(serializers.Serializer[Any]):
    """A gesture that the tool works out. Which of the fields it needs depends on its kind."""

    client_id = serializers.UUIDField()
    kind = serializers.ChoiceField(choices=[(name, name) for name in GESTURES])
    bars = ListOf(child=BarField(), max_length=MOST_BARS, required=False)
    source_bars = ListOf(
        child=BarField(),
        max_length=MOST_BARS,
        required=False,
        help_text="copy: the bars to copy, each over one of `bars`; a single one over all",
    )
    edits = ListOf(
        child=EditSerializer(),
        max_length=MOST_LIKE_EDITS,
        required=False,
        help_text="like: the edits, made together, that the others shall get too",
    )
    letters = serializers.RegexField(
        r"^[RLB]{1,200}$",
        required=False,
        help_text="stick: the hands of the fill that ends in the one of `bars`",
    )
    instrument = serializers.ChoiceField(
        choices=INSTRUMENTS, required=False, help_text="voice: the drum whose strokes change"
    )
    scope = serializers.ChoiceField(
        choices=[(one.value, one.value) for one in Scope],
        required=False,
        help_text="voice: in the section of the one of `bars`, in all like it, or in the song",
    )
    to = serializers.ChoiceField(
        choices=INSTRUMENTS,
        required=False,
        allow_null=True,
        help_text="voice: what they are; null: not played",
    )
    question = serializers.RegexField(
        r"^[a-z]{1,12}-[0-9a-f]{10}$", required=False, help_text="answer: the key of the question"
    )
    answer = serializers.RegexField(
        r"^[a-z_]{1,24}$", required=False, help_text="answer: one of those that it takes"
    )
    also_kin = serializers.BooleanField(
        required=False, help_text="stick: also in fills that are the same again"
    )

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """A voice is named, and where it changes."""
        if attrs["kind"] == "voice" and not {"instrument", "scope"} <= attrs.keys():
            raise serializers.ValidationError("Say which drum changes, and where.")
        return attrs


class HistoryEntrySerializer(serializers.Serializer[Any]):
    """Who decided what, and when."""

    words = serializers.CharField()
    author = serializers.CharField()
    at = serializers.DateTimeField()
    undone = serializers.BooleanField()


class RelativeSerializer(serializers.Serializer[Any]):
    """A bar that is kin to the one asked about."""

    song = serializers.UUIDField()
    title = serializers.CharField()
    bar = serializers.IntegerField()
    section = serializers.CharField(allow_blank=True)
    kin = serializers.ChoiceField(choices=KINS)
    distance = serializers.IntegerField()
    more = serializers.IntegerField()


class StageSerializer(serializers.Serializer[Any]):
    """A stage on the way from one groove to another; the bar that plays it, where one does."""

    words = serializers.CharField()
    notes = serializers.IntegerField()
    song = serializers.UUIDField(allow_null=True)
    title = serializers.CharField(allow_blank=True)
    bar = serializers.IntegerField(allow_null=True)


class KinSerializer(serializers.Serializer[Any]):
    """The bars that are kin to a bar, and how many were compared."""

    compared = serializers.IntegerField()
    relatives = RelativeSerializer(many=True)


class ChainOfSerializer(serializers.Serializer[Any]):
    """Where a chain of stages shall lead."""

    to_song = serializers.UUIDField()
    to_bar = BarField()


class ChainSerializer(serializers.Serializer[Any]):
    """The stages by which one groove becomes another."""

    stages = StageSerializer(many=True)

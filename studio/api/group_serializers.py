"""What the endpoints of bands and classes take and give."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from orchesis.chart.options import Level
from orchesis.practice.progress import Standing
from studio.api.fields import FiniteField, ListOf
from studio.api.practice_serializers import GivenHereSerializer
from studio.people import GroupKind, SeatRole, WishState

MOST_SEATS = 200
STANDINGS = tuple(one.value for one in Standing)
LONGEST_NAME = 80
MOST_SONGS_ORDERED = 500


class MakeGroupSerializer(serializers.Serializer[Any]):
    """A band or a class that is wished for."""

    name = serializers.CharField(max_length=LONGEST_NAME)
    kind = serializers.ChoiceField(GroupKind.choices)


class RenameGroupSerializer(serializers.Serializer[Any]):
    """Its new name."""

    name = serializers.CharField(max_length=LONGEST_NAME)


class MemberSerializer(serializers.Serializer[Any]):
    """Somebody in it."""

    id = serializers.IntegerField()
    user = serializers.IntegerField()
    name = serializers.CharField()
    leads = serializers.BooleanField()
    is_me = serializers.BooleanField()


class LeadSerializer(serializers.Serializer[Any]):
    """Whether somebody leads it too."""

    leads = serializers.BooleanField()


class InvitationSerializer(serializers.Serializer[Any]):
    """An invitation as those who lead see it."""

    id = serializers.IntegerField()
    path = serializers.CharField(help_text="of the page by which one joins")
    seats = serializers.IntegerField()
    taken = serializers.IntegerField()
    expires_at = serializers.DateTimeField(allow_null=True)
    state = serializers.CharField(help_text="open, full, expired or revoked")


class InviteSerializer(serializers.Serializer[Any]):
    """How many may join, and until when."""

    seats = serializers.IntegerField(min_value=1, max_value=MOST_SEATS)
    expires_at = serializers.DateTimeField(allow_null=True, default=None)


class JoinSerializer(serializers.Serializer[Any]):
    """The secret of an invitation."""

    token = serializers.CharField(max_length=64)


class GroupSongSerializer(serializers.Serializer[Any]):
    """A song in its list."""

    song = serializers.UUIDField()
    title = serializers.CharField()
    role = serializers.ChoiceField(SeatRole.choices)
    tempo_bpm = serializers.FloatField()
    is_mine = serializers.BooleanField()


class PutSongSerializer(serializers.Serializer[Any]):
    """A song to put there, and what they may do with it."""

    song = serializers.UUIDField()
    role = serializers.ChoiceField(SeatRole.choices, default=SeatRole.READER)


class SongOrderSerializer(serializers.Serializer[Any]):
    """The list in another order."""

    songs = ListOf(child=serializers.UUIDField(), max_length=MOST_SONGS_ORDERED)


class GroupSerializer(serializers.Serializer[Any]):
    """A band or a class."""

    id = serializers.IntegerField()
    name = serializers.CharField()
    kind = serializers.ChoiceField(GroupKind.choices)
    leads = serializers.BooleanField(help_text="whether the asker leads it")
    owner = serializers.CharField()
    members = MemberSerializer(many=True)
    invitations = InvitationSerializer(many=True)
    songs = GroupSongSerializer(many=True)


class GiveSerializer(serializers.Serializer[Any]):
    """What a teacher gives."""

    song = serializers.UUIDField()
    target = serializers.SlugField(max_length=40)
    level = serializers.ChoiceField([one.value for one in Level], default=Level.ALL.value)
    bpm = FiniteField(min_value=20, max_value=400)
    due = serializers.DateField(allow_null=True, default=None)
    words = serializers.CharField(max_length=400, allow_blank=True, default="")
    student = serializers.IntegerField(allow_null=True, default=None)


class AssignmentSerializer(GivenHereSerializer):
    """Something that was given, wherever it is told of."""

    student = serializers.CharField(allow_null=True)
    song = serializers.UUIDField()
    title = serializers.CharField()


class ProgressSerializer(serializers.Serializer[Any]):
    """How far somebody is."""

    standing = serializers.ChoiceField(STANDINGS)
    best_bpm = serializers.FloatField()
    minutes = serializers.FloatField()
    days = serializers.IntegerField()
    last = serializers.DateField(allow_null=True)
    words = serializers.CharField()


class MineToPractiseSerializer(AssignmentSerializer):
    """What the asker was given."""

    progress = ProgressSerializer()


class StudentSerializer(ProgressSerializer):
    """How far one of the class is."""

    user = serializers.IntegerField()
    name = serializers.CharField()
    told = serializers.ListField(child=serializers.CharField())


class ClassAssignmentSerializer(AssignmentSerializer):
    """Something that was given, and how far each is."""

    students = StudentSerializer(many=True)


class MakeWishSerializer(serializers.Serializer[Any]):
    """A song that is wished for."""

    title = serializers.CharField(max_length=200)
    performer = serializers.CharField(max_length=200, allow_blank=True, default="")


class SettleWishSerializer(serializers.Serializer[Any]):
    """Where a wish stands now."""

    state = serializers.ChoiceField(WishState.choices)
    reason = serializers.CharField(max_length=200, allow_blank=True, default="")
    song = serializers.UUIDField(allow_null=True, default=None)


class WishSerializer(MakeWishSerializer):
    """A wish on the list."""

    id = serializers.IntegerField()
    wisher = serializers.CharField()
    state = serializers.ChoiceField(WishState.choices)
    reason = serializers.CharField(allow_blank=True)
    song = serializers.UUIDField(allow_null=True)
    votes = serializers.IntegerField()
    is_mine = serializers.BooleanField(help_text="whether the asker is for it")

"""What the endpoints of sharing take and give."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from orchesis.chart.options import Level, Reading
from studio.people import GroupKind, SeatRole

LONGEST_WORDS = 120
LONGEST_NAME = 150
LINK_STATES = ("open", "expired", "revoked")


class SeatSerializer(serializers.Serializer[Any]):
    """Somebody who sees the song."""

    id = serializers.IntegerField()
    name = serializers.CharField()
    role = serializers.ChoiceField(SeatRole.choices)
    is_me = serializers.BooleanField()


class SongGroupSerializer(serializers.Serializer[Any]):
    """A band or a class that sees the song."""

    id = serializers.IntegerField()
    name = serializers.CharField()
    kind = serializers.ChoiceField(GroupKind.choices)
    role = serializers.ChoiceField(SeatRole.choices)


class PeopleSerializer(serializers.Serializer[Any]):
    """Who sees a song."""

    owner = serializers.CharField()
    role = serializers.CharField(help_text="of the asker: owner, editor or reader")
    seats = SeatSerializer(many=True)
    groups = SongGroupSerializer(many=True)


class GiveSeatSerializer(serializers.Serializer[Any]):
    """Whom to let in, and to do what."""

    name = serializers.CharField(max_length=LONGEST_NAME)
    role = serializers.ChoiceField(SeatRole.choices)


class MakeLinkSerializer(serializers.Serializer[Any]):
    """A link that is wished for."""

    words = serializers.CharField(max_length=LONGEST_WORDS, allow_blank=True, default="")
    with_audio = serializers.BooleanField(default=False)
    reading = serializers.ChoiceField([one.value for one in Reading], default=Reading.ESSENCE.value)
    level = serializers.ChoiceField([one.value for one in Level], default=Level.ALL.value)
    expires_at = serializers.DateTimeField(allow_null=True, default=None)


class LinkSerializer(MakeLinkSerializer):
    """A link as its owner sees it."""

    id = serializers.UUIDField()
    path = serializers.CharField(help_text="of the page that it opens")
    state = serializers.ChoiceField(LINK_STATES)
    opened = serializers.IntegerField()
    last_opened_at = serializers.DateTimeField(allow_null=True)


class TokenSerializer(serializers.Serializer[Any]):
    """The secret of a link."""

    token = serializers.CharField(max_length=64)


class PublishSerializer(serializers.Serializer[Any]):
    """What is said of a new edition."""

    words = serializers.CharField(max_length=300, allow_blank=True, default="")


class SharedSongSerializer(serializers.Serializer[Any]):
    """A song that a link opens, and whether its recording goes along."""

    song = serializers.UUIDField()
    title = serializers.CharField()
    with_audio = serializers.BooleanField()
    tempo_bpm = serializers.FloatField()


class SharedSerializer(serializers.Serializer[Any]):
    """What a link opens: a song, or the songs of a band's list."""

    song = serializers.UUIDField(allow_null=True)
    songs = SharedSongSerializer(many=True)
    title = serializers.CharField()
    sender = serializers.CharField()
    words = serializers.CharField()
    with_audio = serializers.BooleanField()
    reading = serializers.CharField()
    level = serializers.CharField()

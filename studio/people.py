"""What is stored of who may see what: seats at a song, share links."""

from __future__ import annotations

import secrets
import uuid

from django.conf import settings
from django.contrib.auth.models import User
from django.db import models
from django.utils import timezone

FORMER_MEMBER = "a former member"
"""What stands for somebody whose account has ended, where what they did stays."""

TOKEN_BYTES = 24
"""Of a link's secret: nobody finds one by trying."""


def name_of(user: User | None) -> str:
    """What somebody is called; those whose account has ended are called so."""
    return user.get_username() if user is not None else FORMER_MEMBER


def new_token() -> str:
    """A secret for an address."""
    return secrets.token_urlsafe(TOKEN_BYTES)


class SeatRole(models.TextChoices):
    """What somebody may do with a song of somebody else's."""

    EDITOR = "editor", "co-transcriber"
    READER = "reader", "reader"


class Seat(models.Model):
    """Somebody beside its owner who sees a song, or works on it too."""

    song = models.ForeignKey("studio.Song", models.CASCADE, related_name="seats")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="seats")
    role = models.CharField(max_length=8, choices=SeatRole.choices)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(fields=["song", "user"], name="one_seat_each_at_a_song")
        ]


class ShareLink(models.Model):
    """An address that opens a song's chart and player for whoever has it, without an account.

    Or those of all songs in a band's list, where it is one to a group.

    The token is the secret in the address. `with_audio`: its owner says that the recording may be
    handed on; otherwise the kit plays. `reading`, `level`: what the one who sent it chose.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    song = models.ForeignKey("studio.Song", models.CASCADE, null=True, related_name="links")
    group = models.ForeignKey("studio.Group", models.CASCADE, null=True, related_name="links")
    token = models.CharField(max_length=64, unique=True, default=new_token)
    words = models.CharField(max_length=120, blank=True)
    with_audio = models.BooleanField(default=False)
    reading = models.CharField(max_length=12)
    level = models.CharField(max_length=12)
    created_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField(null=True)
    revoked_at = models.DateTimeField(null=True)
    opened = models.PositiveIntegerField(default=0)
    last_opened_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-created_at"]

    @property
    def is_expired(self) -> bool:
        """Whether its time is over."""
        return self.expires_at is not None and self.expires_at <= timezone.now()

    @property
    def is_open(self) -> bool:
        """Whether it opens anything."""
        return self.revoked_at is None and not self.is_expired


class GroupKind(models.TextChoices):
    """What people are together."""

    BAND = "band", "band"
    CLASS = "class", "class"


class Group(models.Model):
    """A band or a class. Its owner leads it; others may lead it too (`Member.leads`)."""

    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=8, choices=GroupKind.choices)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="own_groups")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name", "id"]


class Member(models.Model):
    """Somebody in a band or a class; its owner has a row too."""

    group = models.ForeignKey(Group, models.CASCADE, related_name="members")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="memberships")
    leads = models.BooleanField(default=False)
    joined_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(fields=["group", "user"], name="once_a_member_of_a_group")
        ]


class Invitation(models.Model):
    """An address by which so many people may join. Taken seats are counted in one statement."""

    group = models.ForeignKey(Group, models.CASCADE, related_name="invitations")
    token = models.CharField(max_length=64, unique=True, default=new_token)
    seats = models.PositiveIntegerField()
    taken = models.PositiveIntegerField(default=0)
    created_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField(null=True)
    revoked_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]

    @property
    def is_expired(self) -> bool:
        """Whether its time is over."""
        return self.expires_at is not None and self.expires_at <= timezone.now()


class GroupSong(models.Model):
    """A song that a whole band or class sees, or works on, in the order of its list."""

    group = models.ForeignKey(Group, models.CASCADE, related_name="songs")
    song = models.ForeignKey("studio.Song", models.CASCADE, related_name="groups")
    role = models.CharField(max_length=8, choices=SeatRole.choices, default=SeatRole.READER)
    place = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["place", "id"]
        constraints = [
            models.UniqueConstraint(fields=["group", "song"], name="a_song_once_in_a_group")
        ]


class Assignment(models.Model):
    """What a teacher gives to a class, or to one of it: a groove or a fill, a tempo, a day.

    `target`: as addresses of practice name it. The song cannot be removed while it is given.
    """

    group = models.ForeignKey(Group, models.CASCADE, related_name="assignments")
    student = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.CASCADE, null=True, related_name="given"
    )
    song = models.ForeignKey("studio.Song", models.CASCADE, related_name="assignments")
    target = models.CharField(max_length=40)
    name = models.CharField(max_length=200)
    level = models.CharField(max_length=12)
    bpm = models.FloatField()
    due = models.DateField(null=True)
    words = models.CharField(max_length=400, blank=True)
    created_at = models.DateTimeField(auto_now_add=True)
    withdrawn_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["song", "withdrawn_at"], name="given_by_song")]


class WishState(models.TextChoices):
    """Where a wish stands."""

    WISHED = "wished", "wished for"
    BEGUN = "begun", "begun"
    DONE = "done", "done"
    DECLINED = "declined", "declined"


class Wish(models.Model):
    """A song that a band or a class would like to play."""

    group = models.ForeignKey(Group, models.CASCADE, related_name="wishes")
    title = models.CharField(max_length=200)
    performer = models.CharField(max_length=200, blank=True)
    wisher = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="wishes"
    )
    state = models.CharField(max_length=8, choices=WishState.choices, default=WishState.WISHED)
    reason = models.CharField(max_length=200, blank=True)
    song = models.ForeignKey("studio.Song", models.SET_NULL, null=True, related_name="wishes")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]


class Vote(models.Model):
    """One person is for one wish."""

    wish = models.ForeignKey(Wish, models.CASCADE, related_name="votes")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="votes")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["wish", "user"], name="one_vote_a_person")]


class Comment(models.Model):
    """Words at a bar, answered by others until somebody settles it."""

    song = models.ForeignKey("studio.Song", models.CASCADE, related_name="comments")
    bar = models.IntegerField()
    author = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="comments"
    )
    answers = models.ForeignKey("self", models.CASCADE, null=True, related_name="thread")
    words = models.CharField(max_length=600)
    created_at = models.DateTimeField(auto_now_add=True)
    settled_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["id"]


class Tag(models.Model):
    """A word by which somebody sorts his shelf; each has his own."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="tags")
    song = models.ForeignKey("studio.Song", models.CASCADE, related_name="tags")
    name = models.CharField(max_length=40)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["owner", "song", "name"], name="a_tag_once_a_song")
        ]


class OpenSession(models.Model):
    """A browser in which somebody is signed in: it can be signed out from elsewhere."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="open_sessions")
    key = models.CharField(max_length=40, unique=True)
    browser = models.CharField(max_length=120, blank=True)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-id"]


class Edition(models.Model):
    """A version of a song that was published: what readers and links show while work goes on.

    `copy` is a song of its own that nobody sees on a shelf; only the newest edition has one.
    """

    song = models.ForeignKey("studio.Song", models.CASCADE, related_name="editions")
    copy = models.OneToOneField(
        "studio.Song", models.SET_NULL, null=True, related_name="is_copy_for"
    )
    number = models.PositiveIntegerField()
    words = models.CharField(max_length=300, blank=True)
    changed = models.JSONField(default=list)
    """What is otherwise than in the edition before, in sentences."""

    revision = models.PositiveIntegerField()
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-number"]
        constraints = [
            models.UniqueConstraint(fields=["song", "number"], name="an_edition_of_a_number")
        ]

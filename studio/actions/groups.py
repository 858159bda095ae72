"""Bands and classes: made, joined, left; their songs, what is given to them, what they wish for."""

from __future__ import annotations

import uuid
from datetime import date, datetime

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import F, Max
from django.utils import timezone

from orchesis.errors import Missing
from studio.actions.action import NotYours
from studio.models import Song
from studio.people import (
    Assignment,
    Group,
    GroupKind,
    GroupSong,
    Invitation,
    Member,
    SeatRole,
    Vote,
    Wish,
    WishState,
)
from studio.queueing import NotNow
from studio.values.access import Role, role_of
from studio.values.kits import song_player
from studio.values.practice import material_of, target_at
from studio.values.stored import load_transcription

MOST_GROUPS = 60
MOST_MEMBERS = 400
MOST_SONGS = 500
MOST_GIVEN = 200
MOST_WISHES = 500


def make_group(owner: User, name: str, kind: str) -> Group:
    """Make a band or a class; who makes it leads it. Raises NotNow where he has too many."""
    if owner.own_groups.count() >= MOST_GROUPS:
        raise NotNow(f"you lead {MOST_GROUPS} bands and classes: remove some first")
    with transaction.atomic():
        group = Group.objects.create(owner=owner, name=name, kind=GroupKind(kind))
        Member.objects.create(group=group, user=owner, leads=True)
    return group


def invite(group: Group, seats: int, expires_at: datetime | None = None) -> Invitation:
    """An address by which so many people may join.

    Raises NotNow where they would be more than a group holds, or its time is over.
    """
    if group.members.count() + seats > MOST_MEMBERS:
        raise NotNow(f"a {group.kind} has {MOST_MEMBERS} members at most: make two of it")
    if expires_at is not None and expires_at <= timezone.now():
        raise NotNow("an invitation must expire later than now")
    return Invitation.objects.create(group=group, seats=seats, expires_at=expires_at)


def revoke_invitation(group: Group, invitation_id: int) -> None:
    """From now on nobody joins by it."""
    if not group.invitations.filter(pk=invitation_id).update(revoked_at=timezone.now()):
        raise Missing("there is no such invitation")


def join(user: User, token: str) -> Group:
    """Join by an invitation; who is a member already takes no seat.

    Of two people who take the last seat at one moment one gets it: seats are counted by the
    database, in one statement. Raises Missing in a sentence that says whom to ask.
    """
    found = Invitation.objects.filter(token=token).select_related("group__owner").first()
    if found is None:
        raise Missing(
            "this invitation leads nowhere: it was cut off on its way, or the group is gone"
        )
    leader = found.group.owner.get_username()
    if Member.objects.filter(group=found.group, user=user).exists():
        return found.group
    if found.revoked_at is not None or found.is_expired:
        what = "was taken back" if found.revoked_at is not None else "has run out"
        raise Missing(f"this invitation {what}: ask {leader} for a new one")
    with transaction.atomic():
        free = Invitation.objects.filter(pk=found.pk, taken__lt=F("seats"), revoked_at=None)
        if not free.update(taken=F("taken") + 1):
            raise NotNow(
                f"all {found.seats} seats of this invitation are taken: ask {leader} for one"
            )
        _, is_new = Member.objects.get_or_create(group=found.group, user=user)
        if not is_new:
            # Joined in two windows at once: one seat is given back.
            Invitation.objects.filter(pk=found.pk).update(taken=F("taken") - 1)
    return found.group


def leave(group: Group, member: Member) -> None:
    """Somebody is a member no longer; their log stays theirs, their songs go with them.

    What was given of those songs is withdrawn. Raises NotNow for the one who leads.
    """
    if member.user_id == group.owner_id:
        raise NotNow(f"you lead this {group.kind}: remove it, or make somebody else lead it")
    with transaction.atomic():
        group.songs.filter(song__owner=member.user_id).delete()
        given = group.assignments.filter(song__owner=member.user_id, withdrawn_at=None)
        given.update(withdrawn_at=timezone.now())
        member.delete()


def take_song_off(group: Group, song: Song) -> None:
    """A song leaves a list, and what was given of it is withdrawn."""
    with transaction.atomic():
        group.songs.filter(song=song).delete()
        group.assignments.filter(song=song, withdrawn_at=None).update(withdrawn_at=timezone.now())


def put_song(group: Group, user: User, song_id: uuid.UUID, role: SeatRole) -> GroupSong:
    """Let a group see one of one's own songs, last in its list.

    Raises Missing for a song that is not there, NotYours for somebody else's, NotNow where there
    are too many.
    """
    song = Song.objects.filter(pk=song_id).defer("header", "loudness").first()
    if song is None or role_of(song, user) is Role.STRANGER:
        raise Missing("there is no such song on your shelf")
    if role_of(song, user) < Role.OWNER:
        raise NotYours("only the one whose song this is may share it")
    if group.songs.count() >= MOST_SONGS:
        raise NotNow(f"{MOST_SONGS} songs are in this list: take some off first")
    last = group.songs.aggregate(last=Max("place"))["last"] or 0
    put, is_new = GroupSong.objects.get_or_create(
        group=group, song=song, defaults={"role": role, "place": last + 1}
    )
    if not is_new and put.role != role:
        put.role = role
        put.save(update_fields=["role"])
    return put


def order_songs(group: Group, songs: list[uuid.UUID]) -> None:
    """The list in another order; those that are not named come after the others, as they were."""
    known = {put.song_id: put for put in group.songs.all()}
    strange = [song for song in songs if song not in known]
    if strange:
        raise Missing("one of these songs is not in the list any more: read it anew")
    rest = [song for song in known if song not in songs]
    with transaction.atomic():
        for place, song in enumerate([*songs, *rest]):
            GroupSong.objects.filter(pk=known[song].pk).update(place=place)


def give(
    group: Group,
    user: User,
    *,
    song: uuid.UUID,
    target: str,
    level: str,
    bpm: float,
    due: date | None = None,
    words: str = "",
    student: int | None = None,
) -> Assignment:
    """Give a class, or one of it, something to practise.

    Raises Missing for a song, a target or a student that is not there; NotYours for a song that is
    somebody else's, NotNow where too much is given already.
    """
    found = Song.objects.filter(pk=song).first()
    if found is None or role_of(found, user) is Role.STRANGER:
        raise Missing("there is no such song on your shelf")
    if role_of(found, user) < Role.OWNER:
        raise NotYours("only the one whose song this is may give it to others")
    if not found.has_score:
        raise NotNow("this song has no chart yet: let it be heard first")
    named = material_of(
        load_transcription(found), target_at(target, level), song_player(found)
    ).name
    member = None
    if student is not None:
        member = group.members.filter(user_id=student).first()
        if member is None:
            raise Missing("this student is not in the class any more")
    if group.assignments.filter(withdrawn_at=None).count() >= MOST_GIVEN:
        raise NotNow(f"{MOST_GIVEN} things are given to this {group.kind}: withdraw some first")
    return Assignment.objects.create(
        group=group,
        song=found,
        student=member.user if member else None,
        target=target,
        name=named,
        level=level,
        bpm=bpm,
        due=due,
        words=words,
    )


def withdraw(group: Group, assignment_id: int) -> None:
    """It is asked for no longer; what was practised stays in each log."""
    found = group.assignments.filter(pk=assignment_id, withdrawn_at=None)
    if not found.update(withdrawn_at=timezone.now()):
        raise Missing("this is not given any more")


def wish(group: Group, user: User, title: str, performer: str = "") -> Wish:
    """Wish for a song; who wishes for it is for it. Raises NotNow where there are too many."""
    if group.wishes.count() >= MOST_WISHES:
        raise NotNow("the wish list is full: decline or remove some first")
    with transaction.atomic():
        made = Wish.objects.create(group=group, wisher=user, title=title, performer=performer)
        Vote.objects.create(wish=made, user=user)
    return made


def vote(wish: Wish, user: User, *, is_for: bool) -> None:
    """Be for a wish, once; or no longer."""
    if is_for:
        Vote.objects.get_or_create(wish=wish, user=user)
    else:
        Vote.objects.filter(wish=wish, user=user).delete()


def settle_wish(
    wish: Wish, user: User, *, state: str, reason: str = "", song: uuid.UUID | None = None
) -> None:
    """Say where a wish stands; declined needs a reason, begun may name the song that it became.

    Raises NotNow without a reason, Missing for a song that is not the asker's.
    """
    if state == WishState.DECLINED and not reason.strip():
        raise NotNow("say why: whoever wished for it would like to know")
    wish.state = WishState(state)
    wish.reason = reason.strip()
    if song is not None:
        wish.song = Song.objects.filter(pk=song, owner=user, is_copy_for=None).first()
        if wish.song is None:
            raise Missing("there is no such song on your shelf")
    wish.save(update_fields=["state", "reason", "song"])


def remove_group(group: Group) -> None:
    """Remove it with its list, its wishes and what it was given; songs and logs stay."""
    group.delete()


def given_words(song: Song) -> str:
    """To whom a song is given now, in words; empty where to nobody."""
    given = song.assignments.filter(withdrawn_at=None).select_related("group", "student")
    names = sorted({one.student.get_username() if one.student else one.group.name for one in given})
    return ", ".join(names)


def is_invited(token: str) -> bool:
    """Whether an invitation lets somebody in now."""
    found = Invitation.objects.filter(token=token, revoked_at=None, taken__lt=F("seats")).first()
    return found is not None and not found.is_expired

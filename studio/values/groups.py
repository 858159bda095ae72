"""What the pages of bands and classes show, as plain values."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from datetime import date
from typing import Any

from django.contrib.auth.models import User
from django.db.models import Count
from django.utils import timezone

from orchesis.practice.progress import Effort, Progress, progress
from orchesis.practice.schedule import Feeling
from studio.models import PracticeEntry
from studio.people import Assignment, Group, Invitation, Member, Wish, name_of
from studio.values.access import given_to
from studio.values.practice import given_values, target_at

JOIN_PAGE = "/join/"
"""Where an invitation leads: its secret comes after it."""


def leads(group: Group, user: User) -> bool:
    """Whether somebody leads a group."""
    return group.members.filter(user=user, leads=True).exists()


def group_values(group: Group, user: User) -> dict[str, Any]:
    """A group as one of its members sees it."""
    members = list(group.members.select_related("user"))
    leading = any(member.leads and member.user_id == user.pk for member in members)
    return {
        "id": group.pk,
        "name": group.name,
        "kind": group.kind,
        "leads": leading,
        "owner": group.owner.get_username(),
        "members": [member_values(member, user) for member in members],
        "invitations": [invitation_values(one) for one in group.invitations.all()]
        if leading
        else [],
        "songs": [
            {
                "song": put.song_id,
                "title": put.song.title,
                "role": put.role,
                "tempo_bpm": put.song.tempo_bpm,
                "is_mine": put.song.owner_id == user.pk,
            }
            for put in group.songs.select_related("song").defer("song__header", "song__loudness")
        ],
    }


def member_values(member: Member, user: User) -> dict[str, Any]:
    """Somebody in a group."""
    return {
        "id": member.pk,
        "user": member.user_id,
        "name": member.user.get_username(),
        "leads": member.leads,
        "is_me": member.user_id == user.pk,
    }


def invitation_values(one: Invitation) -> dict[str, Any]:
    """An invitation as those who lead see it."""
    full = one.taken >= one.seats
    state = (
        "revoked" if one.revoked_at else "expired" if one.is_expired else "full" if full else "open"
    )
    return {
        "id": one.pk,
        "path": f"{JOIN_PAGE}{one.token}",
        "seats": one.seats,
        "taken": one.taken,
        "expires_at": one.expires_at,
        "state": state,
    }


def assignment_values(given: Assignment) -> dict[str, Any]:
    """Something that was given."""
    return {
        **given_values(given),
        "student": given.student.get_username() if given.student else None,
        "song": given.song_id,
        "title": given.song.title,
    }


def mine_to_practise(user: User) -> list[dict[str, Any]]:
    """What somebody was given, what is due first; each with how far he is."""
    given = list(given_to(user).select_related("group", "song", "student"))
    log = _efforts(given, [user.pk])
    values = [
        {
            **assignment_values(one),
            "progress": progress_values(_progress(one, log, user.pk, one.due)),
        }
        for one in given
    ]
    return sorted(values, key=lambda one: (one["due"] is None, one["due"], one["id"]))


def class_values(group: Group) -> list[dict[str, Any]]:
    """What was given to a class, and how far each student is: read at a glance.

    Whoever is stuck comes first. Two statements for all of them: a class has thirty.
    """
    given = list(
        group.assignments.filter(withdrawn_at=None).select_related("song", "student", "group")
    )
    members = list(group.members.filter(leads=False).select_related("user"))
    log = _efforts(given, [member.user_id for member in members])
    order = ["stuck", "not begun", "at it", "there"]
    values = []
    for one in given:
        asked = [m for m in members if one.student_id in (None, m.user_id)]
        students = [
            {
                "user": member.user_id,
                "name": member.user.get_username(),
                "told": _told(log, one, member.user_id),
                **progress_values(_progress(one, log, member.user_id)),
            }
            for member in asked
        ]
        students.sort(key=lambda s: (order.index(s["standing"]), s["name"]))
        values.append({**assignment_values(one), "students": students})
    return values


def progress_values(found: Progress) -> dict[str, Any]:
    """How far somebody is."""
    return {
        "standing": found.standing.value,
        "best_bpm": round(found.best_bpm, 1),
        "minutes": round(found.minutes, 1),
        "days": found.days,
        "last": found.last,
        "words": found.words,
    }


def wish_values(group: Group, user: User) -> list[dict[str, Any]]:
    """The wish list, what most are for first; what is done or declined last."""
    wishes = group.wishes.select_related("wisher").annotate(count=Count("votes"))
    mine = set(Wish.objects.filter(group=group, votes__user=user).values_list("pk", flat=True))
    open_first = {"begun": 0, "wished": 1, "done": 2, "declined": 3}
    return [
        {
            "id": one.pk,
            "title": one.title,
            "performer": one.performer,
            "wisher": name_of(one.wisher),
            "state": one.state,
            "reason": one.reason,
            "song": one.song_id,
            "votes": one.count,
            "is_mine": one.pk in mine,
        }
        for one in sorted(wishes, key=lambda one: (open_first[one.state], -one.count, one.pk))
    ]


Log = dict[tuple[int, Any, str], list[PracticeEntry]]


def _efforts(given: Iterable[Assignment], users: list[int]) -> Log:
    """The entries of these people for these things: one statement."""
    found: Log = defaultdict(list)
    songs = {one.song_id for one in given}
    if not songs or not users:
        return found
    for entry in PracticeEntry.objects.filter(song__in=songs, owner__in=users):
        found[entry.owner_id, entry.song_id, entry.target].append(entry)
    return found


def _entries(log: Log, given: Assignment, user: int) -> list[PracticeEntry]:
    """What he played of it: at the level that was asked for, or all of it, which is more."""
    keys = {given.target, target_at(given.target, given.level)}
    found = [entry for key in keys for entry in log[user, given.song_id, key]]
    return sorted(found, key=lambda entry: entry.played_at)


def _progress(given: Assignment, log: Log, user: int, due: date | None = None) -> Progress:
    """How far; with a day to remind of. A class is told that once, beside what was given."""
    efforts = [
        Effort(
            timezone.localtime(entry.played_at).date(),
            entry.bpm,
            entry.loops,
            entry.minutes,
            Feeling(entry.feeling),
        )
        for entry in _entries(log, given, user)
    ]
    return progress(efforts, given.bpm, timezone.localdate(), due)


def _told(log: Log, given: Assignment, user: int) -> list[str]:
    """What a kit said of the playing, last time that one answered."""
    for entry in reversed(_entries(log, given, user)):
        if entry.told:
            return list(entry.told)
    return []

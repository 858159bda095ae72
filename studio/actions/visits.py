"""Visits of the demo: each visitor has copies of its songs for a day, and sees nobody else's edits.

The demo's own account, which holds the songs that are copied, is entered by nobody.
"""

from __future__ import annotations

import logging
import secrets
import shutil
from datetime import timedelta

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from studio import artefacts
from studio.actions.copying import COPIED_FIELDS, copy_bars, copy_song, link_files
from studio.actions.importing import delete_song
from studio.actions.locking import lock_song
from studio.models import OPEN_STATES, Account, JobKind, Song
from studio.names import skeleton
from studio.people import OpenSession
from studio.queueing import queue_job
from studio.storage import told_when_full

log = logging.getLogger(__name__)

VISIT = timedelta(days=1)
MOST_VISITS = 500
"""More at once, and the oldest one ends."""

NAME = "demo-visitor-"
FULL = "the demo songs were not copied"


def begin_visit() -> User | None:
    """An account for a visitor, with a copy of each demo song; None where there is no demo."""
    host = User.objects.filter(account__is_demo=True, account__visit_ends_at=None).first()
    if host is None:
        return None
    end_visits(visits().order_by("-pk")[MOST_VISITS - 1 :])
    name = f"{NAME}{secrets.token_hex(4)}"
    with transaction.atomic():
        visitor = User(username=name)
        visitor.set_unusable_password()
        visitor.save()
        Account.objects.create(
            user=visitor,
            skeleton=skeleton(name),
            is_demo=True,
            visit_ends_at=timezone.now() + VISIT,
        )
    for song in Song.objects.filter(owner=host, is_copy_for=None).order_by("created_at"):
        copy_for_visitor(song, visitor)
    return visitor


def copy_for_visitor(song: Song, visitor: User) -> Song:
    """A demo song for a visitor; one that has not been transcribed yet is listened to for them."""
    made: list[Song] = []
    try:
        with told_when_full(FULL), transaction.atomic():
            locked, rows = lock_song(song)
            if locked.has_score:
                made.append(copy_song(locked, rows.values(), visitor))
                _queue_separation(locked, made[0])
            else:
                copy = Song(
                    owner=visitor,
                    title=locked.title,
                    file_name=locked.file_name,
                    suffix=locked.suffix,
                    source_bytes=locked.source_bytes,
                    duration=locked.duration,
                )
                made.append(copy)
                copy.folder.mkdir(parents=True)
                link_files(locked, copy)
                copy.save()
                artefacts.publish(copy)
                queue_job(copy, JobKind.COPY)
                queue_job(copy, JobKind.LISTEN)
    except BaseException:
        for copy in made:
            shutil.rmtree(copy.folder, ignore_errors=True)
        raise
    return made[0]


def _queue_separation(song: Song, copy: Song) -> None:
    """Have the record of a copy taken apart, where that of the song is about to be."""
    open_jobs = song.jobs.filter(kind=JobKind.PARTS, state__in=OPEN_STATES)
    for job in open_jobs[:1]:
        if artefacts.have(copy.masks_path(int(job.options["run"]))):
            queue_job(copy, JobKind.PARTS, options=job.options)


def adopt_transcription(copy: Song) -> bool:
    """Take over what was heard in a demo song meanwhile, instead of listening to it once more.

    False where the copy is no visitor's, has a chart, or the song has none yet.
    """
    if copy.has_score or not visits().filter(pk=copy.owner_id).exists():
        return False
    hosts = Song.objects.filter(
        owner__account__is_demo=True,
        owner__account__visit_ends_at=None,
        file_name=copy.file_name,
        is_copy_for=None,
        revision__gt=0,
    )
    song = hosts.first()
    if song is None:
        return False
    with told_when_full(FULL), transaction.atomic():
        locked, rows = lock_song(song)
        own = Song.objects.select_for_update().get(pk=copy.pk)
        if own.has_score:
            return False
        link_files(locked, own)
        for name in COPIED_FIELDS:
            setattr(own, name, getattr(locked, name))
        own.save()
        artefacts.publish(own)
        copy_bars(rows.values(), own)
        _queue_separation(locked, own)
    return True


def visits() -> QuerySet[User]:
    """The accounts of visitors."""
    return User.objects.filter(account__is_demo=True, account__visit_ends_at__isnull=False)


def visitor_of(number: int) -> User | None:
    """The visitor with that number, as long as the visit lasts."""
    return visits().filter(pk=number, account__visit_ends_at__gt=timezone.now()).first()


def end_old_visits() -> int:
    """Remove visitors whose day is over, with all that is theirs; gives back how many."""
    return end_visits(visits().filter(account__visit_ends_at__lt=timezone.now()))


def end_visits(old: QuerySet[User]) -> int:
    """Remove these visitors with all that is theirs."""
    ended = 0
    for visitor in list(old):
        try:
            with transaction.atomic():
                visitor.own_groups.all().delete()
                for song in list(Song.objects.filter(owner=visitor, is_copy_for=None)):
                    song.assignments.all().delete()
                    delete_song(song)
                OpenSession.objects.filter(user=visitor).delete()
                visitor.delete()
            ended += 1
        except Exception:
            log.exception("the visit of %s could not be ended", visitor)
    return ended

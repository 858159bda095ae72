"""Publishing: a version of a song that stays as it is while work on it goes on."""

from __future__ import annotations

import shutil

from django.db import transaction
from django.db.models import Max

from orchesis.edits.editions import told_changes
from studio.actions.copying import copy_song
from studio.actions.importing import delete_song
from studio.actions.locking import lock_song
from studio.models import Song
from studio.people import Edition
from studio.queueing import NotNow
from studio.storage import told_when_full
from studio.values.access import edition_of
from studio.values.stored import load_transcription

FULL = "the version was not published"


def publish(song: Song, words: str = "") -> Edition:
    """Publish the song as it is now. Raises NotNow where that is published already, DiskFull."""
    before = song.editions.first()
    if not song.has_score:
        raise NotNow("this song has no chart yet")
    if before is not None and before.copy is not None and before.revision == song.revision:
        raise NotNow(f"edition {before.number} is the song as it is now")
    changed = _changed(song, before)
    old = before.copy if before is not None else None
    made = None
    try:
        with told_when_full(FULL), transaction.atomic():
            locked, rows = lock_song(song)
            made = copy_song(locked, rows.values(), locked.owner, kit=locked.kit)
            last = locked.editions.aggregate(last=Max("number"))["last"] or 0
            edition = Edition.objects.create(
                song=locked,
                copy=made,
                number=last + 1,
                words=words,
                changed=changed,
                revision=locked.revision,
            )
            Edition.objects.filter(song=locked, number__lte=last).update(copy=None)
    except BaseException:
        if made is not None:
            shutil.rmtree(made.folder, ignore_errors=True)
        raise
    if old is not None:
        delete_song(old)
    return edition


def withdraw_editions(song: Song) -> None:
    """Publish nothing any more: readers see the song as it is now."""
    copies = [one.copy for one in song.editions.exclude(copy=None).select_related("copy")]
    song.editions.all().delete()
    for copy in copies:
        if copy is not None:
            delete_song(copy)


def _changed(song: Song, before: Edition | None) -> list[str]:
    """What is otherwise than in the edition before, in sentences."""
    if before is None or before.copy is None:
        return []
    return told_changes(load_transcription(edition_of(song)), load_transcription(song))

"""Listening to a song, again or for the first time."""

from __future__ import annotations

from django.db import transaction

from orchesis.audio.decode import SUFFIXES
from studio.actions.quotas import hold_quota, need_quota
from studio.models import OPEN_STATES, Job, JobKind, Song
from studio.queueing import NotNow, latest_run, queue_job


def listen_again(song: Song) -> Job:
    """Queue a new run; what people have decided stays. Raises NotNow while one is at work."""
    if song.suffix not in SUFFIXES:
        raise NotNow("this song has no recording to listen to")
    with transaction.atomic():
        # The person before the song, as wherever both are held.
        hold_quota(song.owner)
        Song.objects.select_for_update().get(pk=song.pk)
        job = latest_run(song)
        if job is not None and job.state in OPEN_STATES:
            raise NotNow("this song is being listened to already")
        need_quota(song.owner, minutes=song.duration / 60)
        return queue_job(song, JobKind.LISTEN)

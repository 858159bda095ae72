"""Listening runs: cancel, try again, and noticing the ones that died."""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone

from orchesis.errors import OrchesisError
from studio.actions.importing import queue_listening
from studio.models import ListeningRun, RunState, Song

INTERRUPTED_MESSAGE = "The run was interrupted. Nothing of the song was changed; try again."


class NotNow(OrchesisError):
    """What was asked does not fit the state that the song is in."""


def latest_run(song: Song) -> ListeningRun | None:
    """The newest run of a song; one that died is marked as interrupted on the way."""
    run = song.runs.first()
    if run is not None and run.is_stale:
        mark_interrupted(run)
    return run


def mark_interrupted(run: ListeningRun) -> None:
    """Write down that nobody works on this run any more."""
    changed = ListeningRun.objects.filter(pk=run.pk, state=RunState.RUNNING).update(
        state=RunState.INTERRUPTED, message=INTERRUPTED_MESSAGE, finished_at=timezone.now()
    )
    if changed:
        run.state, run.message = RunState.INTERRUPTED, INTERRUPTED_MESSAGE


def cancel_run(song: Song) -> ListeningRun:
    """Stop the song's run: at once when it is waiting, within a second when it is at work."""
    with transaction.atomic():
        run = song.runs.select_for_update().first()
        if run is None or run.state not in (RunState.QUEUED, RunState.RUNNING):
            raise NotNow("nothing is running for this song")
        run.cancel_requested = True
        if run.state == RunState.QUEUED:
            run.state, run.finished_at = RunState.CANCELLED, timezone.now()
            run.message = "Cancelled before it began."
        run.save()
    return run


def try_again(song: Song) -> ListeningRun:
    """Queue a new run. Refused while one is at work, or where it would overwrite edits."""
    with transaction.atomic():
        Song.objects.select_for_update().get(pk=song.pk)
        run = latest_run(song)
        if run is not None and run.state in (RunState.QUEUED, RunState.RUNNING):
            raise NotNow("this song is being listened to already")
        if song.edits.exists():
            raise NotNow("this song has edits that a new run would overwrite")
        return queue_listening(song)

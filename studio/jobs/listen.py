"""The listening run: from a stored recording to a stored transcription, in the worker.

A worker that dies leaves the song as it was: the result is written in one transaction at the end,
and merged into what people have decided by then. What the chart does not need is other jobs' work:
the copy to play from is made meanwhile, the record is taken apart afterwards.
"""

from __future__ import annotations

import logging

from orchesis.errors import Cancelled
from orchesis.listening.ear import Onset
from orchesis.listening.evidence import gathered, packed
from orchesis.listening.parts import packed_masks
from orchesis.music.values import written
from orchesis.pipeline import Result, transcribe
from studio import artefacts
from studio.actions.store import offer_heard, store_transcription
from studio.actions.visits import adopt_transcription
from studio.jobs.copying import make_copy
from studio.jobs.running import Watch
from studio.models import OPEN_STATES, Job, JobKind, RunState, Song
from studio.queueing import queue_job
from studio.storage import need_room, told_when_full, write_whole

log = logging.getLogger(__name__)

BYTES_A_SECOND = 30_000
"""What a run writes for each second of a recording: evidence and masks, with some spare."""

FULL = "this recording could not be listened to"
LISTENING = 0.97
"""Share of a run; then it is stored."""


def listen_to_song(job: Job, watch: Watch) -> str:
    """Run the core on a song's recording and store what it finds; gives back what changed."""
    song = job.song
    if adopt_transcription(song):
        return ""
    need_room(round(song.duration * BYTES_A_SECOND), FULL)
    with told_when_full(FULL):
        result = transcribe(
            song.source_path,
            title=song.title,
            report=lambda stage, share: watch.report(stage, LISTENING * share),
            cancelled=watch.cancelled,
        )
        if watch.cancelled():
            raise Cancelled("stopped")
        has_parts = keep_evidence(song, result, job.pk)
        if not artefacts.is_there(song.listening_path):
            # Whoever sees the chart can hear it, also where the other job failed or waits.
            watch.report("copy", LISTENING)
            make_copy(song, watch)
    artefacts.publish(song)

    def before() -> None:
        watch.still_mine()
        follow_up(job, has_parts=has_parts)

    # What has a chart already is changed by people only: they look at it first.
    keep = offer_heard if song.has_score else store_transcription
    return keep(song, result, before=before)


def follow_up(job: Job, *, has_parts: bool) -> None:
    """Ask for what rests on a run that is about to be stored, in the transaction that stores it."""
    song = job.song
    Song.objects.filter(pk=song.pk).update(heard=job.pk)
    earlier = song.jobs.filter(kind=JobKind.PARTS)
    # Of an earlier run: nobody wants to hear that any more.
    earlier.filter(state__in=OPEN_STATES).update(cancel_requested=True)
    earlier.filter(state=RunState.QUEUED).update(state=RunState.CANCELLED)
    if has_parts:
        queue_job(song, JobKind.PARTS, options={"run": job.pk})
    queue_job(song, JobKind.PREPARE)


def keep_evidence(song: Song, result: Result, run: int) -> bool:
    """Store what the network said, each file whole or not at all.

    True where there are masks, by which the record can be taken apart.
    """
    if not artefacts.is_there(song.peaks_path):
        write_whole(song.peaks_path, result.peaks)
    detail = result.heard.detail if result.heard is not None else None
    if result.heard is None or detail is None:
        return False
    strokes = [
        Onset(hit.time, hit.instrument, hit.velocity / 127, hit.confidence)
        for hit in written(result.transcription.hits)
    ]
    write_whole(song.evidence_path, packed(gathered(detail, result.heard.frame_rate, strokes)))
    if detail.masks is None:
        return False
    write_whole(song.masks_path(run), packed_masks(detail.masks))
    return True

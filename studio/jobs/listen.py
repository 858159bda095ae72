"""The listening run: from a stored recording to a stored transcription, in the worker.

A worker that dies leaves the song as it was: the result is written in one transaction at the end,
and merged into what people have decided by then.
"""

from __future__ import annotations

import logging

from orchesis.audio.decode import decode_with_copies
from orchesis.errors import Cancelled
from orchesis.listening.ear import Onset
from orchesis.listening.evidence import gathered, packed
from orchesis.listening.parts import samples_of_file, write_parts
from orchesis.music.values import written
from orchesis.pipeline import Result, transcribe
from studio import artefacts
from studio.actions.store import offer_heard, store_transcription
from studio.jobs.running import Watch
from studio.models import Job, Song
from studio.storage import need_room, removed_at_the_end, told_when_full, write_whole
from studio.values.page import prepare_page

log = logging.getLogger(__name__)

COPY_SHARE, PARTS_FROM = 0.12, 0.55
"""Shares of a run: the listening copy comes first, the drums apart from the rest last."""

BYTES_A_SECOND = 480_000
"""What a run writes for each second of a recording: copies, parts and evidence, with some spare,
and while it lasts the plain samples (350 kB)."""

PLAIN_SAMPLES = "plain-samples.part"
"""Tidied away like every half written file, should a worker be killed meanwhile."""

FULL = "this recording could not be listened to"


def listen_to_song(job: Job, watch: Watch) -> str:
    """Run the core on a song's recording and store what it finds; gives back what changed."""
    song = job.song
    need_room(round(song.duration * BYTES_A_SECOND), FULL)
    watch.report("copy", 0.0)
    plain = song.folder / PLAIN_SAMPLES
    with told_when_full(FULL), removed_at_the_end(plain):
        recording = decode_with_copies(
            song.source_path,
            listening_copy=song.listening_path,
            stereo=plain,
            cancelled=watch.cancelled,
        )
        result = transcribe(
            song.source_path,
            title=song.title,
            recording=recording,
            report=lambda stage, share: watch.report(
                stage, COPY_SHARE + (PARTS_FROM - COPY_SHARE) * share
            ),
            cancelled=watch.cancelled,
        )
        del recording
        if watch.cancelled():
            raise Cancelled("stopped")
        keep_evidence(song, result)
        detail = result.heard.detail if result.heard else None
        if detail is not None and detail.masks is not None:
            watch.report("parts", PARTS_FROM)
            write_parts(
                samples_of_file(plain),
                detail.masks,
                song.folder,
                report=lambda share: watch.report(
                    "parts", PARTS_FROM + (0.99 - PARTS_FROM) * share
                ),
                cancelled=watch.cancelled,
            )
    # Whoever sees the chart can hear it.
    artefacts.publish(song)
    # What has a chart already is changed by people only: they look at it first.
    keep = offer_heard if song.has_score else store_transcription
    words = keep(song, result, before=watch.still_mine)
    _prepare(song)
    return words


def keep_evidence(song: Song, result: Result) -> None:
    """Store the waveform and what the network said, each whole or not at all."""
    write_whole(song.peaks_path, result.peaks)
    if result.heard is not None and result.heard.detail is not None:
        strokes = [
            Onset(hit.time, hit.instrument, hit.velocity / 127, hit.confidence)
            for hit in written(result.transcription.hits)
        ]
        detail = gathered(result.heard.detail, result.heard.frame_rate, strokes)
        write_whole(song.evidence_path, packed(detail))


def _prepare(song: Song) -> None:
    """Have the page ready for whoever opens it; where that fails, opening tries again itself."""
    try:
        song.refresh_from_db()
        prepare_page(song)
    except Exception:
        log.exception("the page of %s could not be prepared", song.pk)

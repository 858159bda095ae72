"""The listening run: from a stored recording to a stored transcription, in the worker.

The run's own row is the only record of its state. A worker that dies leaves the song as it was:
the result is written in one transaction at the end. A child of the pool that is killed is
handed the task again at once; a whole worker that is killed leaves a run whose heart stops
beating, which is then marked as interrupted.
"""

from __future__ import annotations

import logging
import threading
import time

from celery import shared_task
from celery.exceptions import SoftTimeLimitExceeded
from django.db import close_old_connections, connection
from django.utils import timezone

from orchesis.audio.decode import write_listening_copy
from orchesis.errors import Cancelled, OrchesisError
from orchesis.listening.evidence import gathered, packed
from orchesis.listening.parts import write_parts
from orchesis.pipeline import Result, transcribe
from studio.actions.store import store_transcription
from studio.api.page import prepare_page
from studio.models import ListeningRun, RunState, Song

log = logging.getLogger(__name__)

MOST_ATTEMPTS = 3
REPORT_EVERY = 0.4
HEARTBEAT_EVERY = 3.0
COPY_SHARE, PARTS_FROM = 0.12, 0.55
"""Shares of a run: the listening copy comes first, the drums apart from the rest last."""


class _Watch:
    """Writes progress at most a few times a second and learns of a wish to cancel."""

    def __init__(self, run_id: int) -> None:
        self._run_id = run_id
        self._last = 0.0
        self._cancelled = False

    def report(self, stage: str, share: float) -> None:
        now = time.monotonic()
        if now - self._last < REPORT_EVERY and share < 1.0:
            return
        self._last = now
        ListeningRun.objects.filter(pk=self._run_id).update(
            stage=stage, progress=share, heartbeat_at=timezone.now()
        )
        self._look()

    def cancelled(self) -> bool:
        """Asked often, also while a child process works; looks at most a few times a second."""
        now = time.monotonic()
        if now - self._last >= REPORT_EVERY:
            self._last = now
            self._look()
        return self._cancelled

    def _look(self) -> None:
        self._cancelled = not ListeningRun.objects.filter(
            pk=self._run_id, cancel_requested=False
        ).exists()


class _Heart(threading.Thread):
    """Beats while the work goes on, also through long stages."""

    def __init__(self, run_id: int) -> None:
        super().__init__(daemon=True)
        self._run_id = run_id
        self._done = threading.Event()

    def run(self) -> None:
        while not self._done.wait(HEARTBEAT_EVERY):
            try:
                close_old_connections()
                ListeningRun.objects.filter(pk=self._run_id).update(heartbeat_at=timezone.now())
            except Exception:
                log.warning("a heartbeat of run %s could not be written", self._run_id)
        connection.close()

    def stop(self) -> None:
        self._done.set()


def _claim(run_id: int) -> ListeningRun | None:
    """Take the run, unless it is over, was cancelled, or has failed too often."""
    run = ListeningRun.objects.select_related("song").filter(pk=run_id).first()
    if run is None or run.state not in (RunState.QUEUED, RunState.RUNNING):
        return None
    if run.cancel_requested:
        _finish(run_id, RunState.CANCELLED, "Cancelled.")
        return None
    if run.attempts >= MOST_ATTEMPTS:
        _finish(run_id, RunState.FAILED, f"Gave up after {MOST_ATTEMPTS} attempts.")
        return None
    run.state, run.attempts = RunState.RUNNING, run.attempts + 1
    run.started_at = run.heartbeat_at = timezone.now()
    run.stage, run.progress, run.message = "copy", 0.0, ""
    run.save()
    return run


def keep_evidence(song: Song, result: Result) -> None:
    """Store the waveform and what the network said, each whole or not at all."""
    waveform = song.peaks_path.with_suffix(".part")
    waveform.write_bytes(result.peaks)
    waveform.replace(song.peaks_path)
    if result.heard is None or result.heard.detail is None:
        return
    partial = song.evidence_path.with_suffix(".part")
    partial.write_bytes(packed(gathered(result.heard.detail, result.heard.frame_rate)))
    partial.replace(song.evidence_path)


def _prepare(song: Song) -> None:
    """Have the page ready for whoever opens it; where that fails, opening tries again itself."""
    try:
        song.refresh_from_db()
        prepare_page(song)
    except Exception:
        log.exception("the page of %s could not be prepared", song.pk)


def _finish(run_id: int, state: RunState, message: str = "") -> None:
    ListeningRun.objects.filter(pk=run_id).update(
        state=state, message=message[:500], finished_at=timezone.now()
    )


@shared_task(name="orchesis.listen")
def listen_to_song(run_id: int) -> None:
    """Run the core on a song's recording and store what it finds."""
    run = _claim(run_id)
    if run is None:
        return
    watch = _Watch(run_id)
    heart = _Heart(run_id)
    heart.start()
    try:
        song = run.song
        watch.report("copy", 0.0)
        write_listening_copy(song.source_path, song.listening_path, cancelled=watch.cancelled)
        result = transcribe(
            song.source_path,
            title=song.title,
            report=lambda stage, share: watch.report(
                stage, COPY_SHARE + (PARTS_FROM - COPY_SHARE) * share
            ),
            cancelled=watch.cancelled,
        )
        if watch.cancelled():
            raise Cancelled("stopped")
        keep_evidence(song, result)
        detail = result.heard.detail if result.heard else None
        if detail is not None and detail.masks is not None:
            watch.report("parts", PARTS_FROM)
            write_parts(
                song.source_path,
                detail.masks,
                song.folder,
                report=lambda share: watch.report(
                    "parts", PARTS_FROM + (0.99 - PARTS_FROM) * share
                ),
                cancelled=watch.cancelled,
            )
        store_transcription(song, result)
        ListeningRun.objects.filter(pk=run_id).update(progress=1.0, stage="done")
        _finish(run_id, RunState.DONE)
        _prepare(song)
    except Cancelled:
        _finish(run_id, RunState.CANCELLED, "Cancelled. Nothing was changed.")
    except SoftTimeLimitExceeded:
        _finish(run_id, RunState.FAILED, "It took too long. Try a shorter recording.")
    except OrchesisError as error:
        _finish(run_id, RunState.FAILED, str(error))
    except Exception:
        log.exception("run %s failed", run_id)
        _finish(run_id, RunState.FAILED, "Something went wrong inside. Try again.")
    finally:
        heart.stop()

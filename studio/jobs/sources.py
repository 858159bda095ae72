"""Lining up a second recording, in the worker."""

from __future__ import annotations

import logging

from celery import shared_task

from orchesis.audio.decode import decode
from orchesis.errors import OrchesisError
from orchesis.listening.evidence import gathered, packed
from orchesis.listening.network_ear import NetworkEar
from orchesis.sources.aligned import on_time, write_aligned
from orchesis.sources.follow import follow
from orchesis.sources.lineup import line_up
from studio.models import Source, SourceState

log = logging.getLogger(__name__)


@shared_task(name="orchesis.line_up")
def line_up_source(source_id: int, performed_anew: bool = False) -> None:
    """Find how a second recording runs along with its song, and keep what is heard in it.

    performed_anew : somebody says that it is another performance of the song.
    """
    find = follow if performed_anew else line_up
    source = Source.objects.select_related("song").filter(pk=source_id).first()
    if source is None or source.state not in (SourceState.QUEUED, SourceState.RUNNING):
        return
    Source.objects.filter(pk=source_id).update(state=SourceState.RUNNING)
    try:
        song = decode(source.song.source_path)
        other = decode(source.source_path)
        line = find(song.samples, other.samples, song.sample_rate)
        write_aligned(source.source_path, line, song.duration, source.aligned_path)
        moved = on_time(other.samples, line, len(song.samples))
        heard = NetworkEar().hear(moved, song.sample_rate, lambda share: None)
        if heard.detail is not None:
            partial = source.evidence_path.with_suffix(".part")
            partial.write_bytes(packed(gathered(heard.detail, heard.frame_rate)))
            partial.replace(source.evidence_path)
        Source.objects.filter(pk=source_id).update(
            state=SourceState.READY,
            offset=line.offset,
            speed=line.speed,
            error=line.error,
            words=line.words[:300],
        )
    except OrchesisError as error:
        text = str(error)
        _refuse(source_id, f"{text[:1].upper()}{text[1:]}.")
    except Exception:
        log.exception("source %s could not be lined up", source_id)
        _refuse(source_id, "Something went wrong inside. Take it away and add it again.")


def _refuse(source_id: int, words: str) -> None:
    Source.objects.filter(pk=source_id).update(state=SourceState.REFUSED, words=words[:300])

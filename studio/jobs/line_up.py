"""Lining up a second recording, in the worker."""

from __future__ import annotations

from orchesis.audio.decode import decode
from orchesis.errors import Cancelled, RefusedAudio
from orchesis.listening.evidence import gathered, packed
from orchesis.listening.network_ear import NetworkEar
from orchesis.sources.aligned import on_time, write_aligned
from orchesis.sources.follow import follow
from orchesis.sources.lineup import NotTheSameSong, line_up
from studio.jobs.running import Watch
from studio.models import Job, Source, SourceState
from studio.storage import told_when_full, write_whole

FULL = "this recording could not be lined up"


def line_up_source(job: Job, watch: Watch) -> str:
    """Find how a second recording runs along with its song, and keep what is heard in it.

    Of the job's options, `performed_anew` says that it is another performance of the song.
    """
    source = job.source
    assert source is not None
    try:
        with told_when_full(FULL):
            _line_up(source, watch, performed_anew=bool(job.options.get("performed_anew")))
    except (RefusedAudio, NotTheSameSong) as error:
        text = str(error)
        words = f"{text[:1].upper()}{text[1:]}."
        _store(source, watch, state=SourceState.REFUSED, words=words[:300])
    return ""


def _line_up(source: Source, watch: Watch, *, performed_anew: bool) -> None:
    find = follow if performed_anew else line_up
    watch.report("decode", 0.0)
    song = decode(source.song.source_path, cancelled=watch.cancelled)
    other = decode(source.source_path, cancelled=watch.cancelled)
    watch.report("line_up", 0.2)
    line = find(song.samples, other.samples, song.sample_rate)
    if watch.cancelled():
        raise Cancelled("stopped")
    write_aligned(source.source_path, line, song.duration, source.aligned_path)
    moved = on_time(other.samples, line, len(song.samples))
    heard = NetworkEar().hear(
        moved, song.sample_rate, lambda share: watch.report("listen", 0.4 + 0.6 * share)
    )
    if heard.detail is not None:
        write_whole(source.evidence_path, packed(gathered(heard.detail, heard.frame_rate)))
    _store(
        source,
        watch,
        state=SourceState.READY,
        offset=line.offset,
        speed=line.speed,
        error=line.error,
        words=line.words[:300],
    )


def _store(source: Source, watch: Watch, **values: object) -> None:
    """Write down what was found, unless the job was lost or the recording taken away meanwhile."""
    if watch.cancelled():
        raise Cancelled("stopped")
    Source.objects.filter(pk=source.pk).update(**values)

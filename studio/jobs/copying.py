"""The copy that browsers play, and the waveform: made beside the listening run, or before it."""

from __future__ import annotations

from orchesis.audio.decode import SAMPLE_RATE, write_listening_copy
from orchesis.audio.peaks import waveform_peaks
from studio.jobs.running import Watch
from studio.models import Job, Song
from studio.storage import need_room, told_when_full, write_whole

BYTES_A_SECOND = 60_000
FULL = "the copy to play from was not made"


def copy_recording(job: Job, watch: Watch) -> str:
    """Make both from the song's recording."""
    watch.report("copy", 0.1)
    make_copy(job.song, watch)
    return ""


def make_copy(song: Song, watch: Watch) -> None:
    """The same, whoever does it."""
    need_room(round(song.duration * BYTES_A_SECOND), FULL)
    with told_when_full(FULL):
        samples = write_listening_copy(
            song.source_path, song.listening_path, cancelled=watch.cancelled
        )
        write_whole(song.peaks_path, waveform_peaks(samples, SAMPLE_RATE))

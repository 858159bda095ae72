"""Taking the record apart: drums forward, drums down, bass forward, by what a run heard."""

from __future__ import annotations

from orchesis.errors import Missing
from orchesis.listening.parts import decoded, unpacked_masks, write_parts
from studio import artefacts
from studio.jobs.running import Watch
from studio.models import Job
from studio.storage import need_room, told_when_full

BYTES_A_SECOND = 60_000
FULL = "the record was not taken apart"


def take_apart(job: Job, watch: Watch) -> str:
    """Write the parts of a song by the masks of the run that the job's option `run` names."""
    song = job.song
    masks = song.masks_path(int(job.options["run"]))
    if not artefacts.have(masks):
        raise Missing("what was heard is not there any more: listen to this song again")
    need_room(round(song.duration * BYTES_A_SECOND), FULL)
    with told_when_full(FULL):
        write_parts(
            decoded(song.source_path),
            unpacked_masks(masks.read_bytes()),
            song.folder,
            report=lambda share: watch.report("parts", share),
            cancelled=watch.cancelled,
        )
    artefacts.publish(song)
    for name in artefacts.names_of(song):
        if name.startswith("masks-") and int(name[6:-4]) <= int(job.options["run"]):
            artefacts.withdraw(song.folder / name)
    return ""

"""What is done beside and after a run: the copy to play from, the record taken apart, the page."""

import numpy as np
import pytest

from orchesis.listening.parts import packed_masks
from studio.actions.importing import import_recording
from studio.actions.listening import listen_again
from studio.jobs.listen import follow_up
from studio.models import Job, JobKind, RunState, Song
from studio.queueing import claim_next, looked_at, queue_job
from tests.api.conftest import SONGS, work_off


@pytest.fixture
def taken(ada, take):
    """An imported recording, nothing of it done yet."""
    return import_recording(ada, take)


@pytest.fixture
def take(tmp_path):
    """The first 16 seconds of a demo song, as an upload."""
    import subprocess

    from django.core.files import File

    path = tmp_path / "take.ogg"
    source = SONGS / "steps-to-the-market.ogg"
    subprocess.run(
        ["ffmpeg", "-v", "error", "-i", source, "-t", "16", "-c", "copy", path], check=True
    )
    with path.open("rb") as file:
        yield File(file, name="take.ogg")


def kinds(song, state=RunState.QUEUED):
    return sorted(song.jobs.filter(state=state).values_list("kind", flat=True))


def test_the_copy_does_not_wait_for_the_run_and_the_chart_not_for_the_parts(as_ada, taken):
    assert kinds(taken) == ["copy", "listen"]
    assert work_off("small") == 1
    assert taken.listening_path.exists()
    assert as_ada.get(f"/api/songs/{taken.id}/peaks").status_code == 200
    assert as_ada.get(f"/api/songs/{taken.id}/score").status_code == 404
    assert work_off() == 1
    assert as_ada.get(f"/api/songs/{taken.id}/score").status_code == 200
    mine = as_ada.get(f"/api/songs/{taken.id}/mine").json()
    assert (mine["parts"], mine["parts_coming"]) == ([], True)
    assert kinds(taken) == ["parts", "prepare"]
    assert work_off("render") == 1
    mine = as_ada.get(f"/api/songs/{taken.id}/mine").json()
    assert (len(mine["parts"]), mine["parts_coming"]) == (3, False)
    assert not list(taken.folder.glob("masks-*")), "only the parts rest on them"
    assert work_off("small") == 1
    assert list((taken.folder / "shown").glob("score.*"))


def test_who_sees_the_chart_can_hear_it_where_the_copy_was_not_made(as_ada, taken):
    Job.objects.filter(kind=JobKind.COPY).update(state=RunState.FAILED)
    work_off()
    assert as_ada.get(f"/api/songs/{taken.id}/audio").status_code == 200
    assert as_ada.get(f"/api/songs/{taken.id}/peaks").status_code == 200


def test_a_new_run_takes_the_parts_of_the_one_before_out_of_the_queue(ada_song):
    first = Job.objects.create(song=ada_song, state=RunState.DONE)
    follow_up(first, has_parts=True)
    waiting = ada_song.jobs.get(kind=JobKind.PARTS)
    second = Job.objects.create(song=ada_song, state=RunState.DONE)
    follow_up(second, has_parts=True)
    waiting.refresh_from_db()
    assert waiting.state == RunState.CANCELLED
    job = claim_next("render")
    assert (job.kind, job.options) == (JobKind.PARTS, {"run": second.pk})
    ada_song.refresh_from_db()
    assert ada_song.heard == second.pk


def test_without_what_was_heard_one_is_told_what_to_do(ada_song):
    queue_job(ada_song, JobKind.PARTS, options={"run": 7})
    work_off("render")
    job = ada_song.jobs.get(kind=JobKind.PARTS)
    assert job.state == RunState.FAILED
    assert "listen to this song again" in job.message


def test_the_masks_of_a_newer_run_stay(taken):
    """They are wanted by the job that follows that one."""
    masks = np.full((1600, 83), 0.5, np.float32)
    for run in (3, 9):
        taken.masks_path(run).write_bytes(packed_masks(masks))
    queue_job(taken, JobKind.PARTS, options={"run": 3})
    assert work_off("render") == 1
    assert [path.name for path in taken.folder.glob("masks-*")] == ["masks-9.npz"]


def test_a_song_that_is_looked_at_goes_before_others(as_ada, ada, ben):
    album = [Song.objects.create(owner=ada, title=f"{n}", suffix=".ogg") for n in range(3)]
    other = Song.objects.create(owner=ben, title="other", suffix=".ogg")
    for song in (*album, other):
        queue_job(song, JobKind.LISTEN)
    looked_at(album[2])
    assert as_ada.get(f"/api/songs/{album[1].id}").status_code == 200
    # Those two, the earlier first; then each user in turn.
    assert [claim_next("listen").song for _ in range(4)] == [album[1], album[2], other, album[0]]


def test_what_somebody_sits_before_goes_before_what_is_made_in_advance(ada_song):
    queue_job(ada_song, JobKind.PARTS, options={"run": 1})
    queue_job(ada_song, JobKind.PRINT, options={"name": "chart.pdf", "options": {}})
    assert [claim_next("render").kind for _ in range(2)] == [JobKind.PRINT, JobKind.PARTS]


def test_listening_again_needs_no_new_copy(as_ada, taken):
    work_off("small")
    work_off()
    work_off("render")
    work_off("small")
    listen_again(Song.objects.get(pk=taken.pk))
    assert kinds(taken) == ["listen"]

"""Listening runs that are cancelled, die or are repeated; sound in ranges."""

from datetime import timedelta

import pytest
from django.utils import timezone

from orchesis.errors import Cancelled
from studio.jobs import listen
from studio.models import ListeningRun, RunState, Song
from tests.api.conftest import SONGS


@pytest.fixture
def waiting(ada):
    """A song with a recording and a queued run."""
    song = Song.objects.create(owner=ada, title="Wait", file_name="w.ogg", suffix=".ogg")
    song.folder.mkdir(parents=True)
    song.source_path.write_bytes((SONGS / "steps-to-the-market.ogg").read_bytes())
    ListeningRun.objects.create(song=song)
    return song


def test_a_waiting_run_is_cancelled_at_once_and_never_begins(as_ada, waiting):
    answer = as_ada.delete(f"/api/songs/{waiting.id}/listening")
    assert answer.json()["state"] == "cancelled"
    listen.listen_to_song(waiting.runs.get().pk)
    assert not waiting.bars.exists()
    assert as_ada.delete(f"/api/songs/{waiting.id}/listening").status_code == 409


def test_a_running_one_stops_and_leaves_the_song_as_it_was(waiting, monkeypatch):
    run = waiting.runs.get()
    real = listen.transcribe

    def wish_to_stop(*args, **options):
        ListeningRun.objects.filter(pk=run.pk).update(cancel_requested=True)
        return real(*args, **options)

    monkeypatch.setattr(listen, "transcribe", wish_to_stop)
    monkeypatch.setattr(listen, "REPORT_EVERY", 0.0)
    listen.listen_to_song(run.pk)
    run.refresh_from_db()
    assert run.state == RunState.CANCELLED
    waiting.refresh_from_db()
    assert waiting.header is None
    assert not waiting.bars.exists()


def test_progress_is_written_while_it_works(waiting, monkeypatch):
    run = waiting.runs.get()
    seen = []
    real = listen._Watch.report

    def note(self, stage, share):
        real(self, stage, share)
        run.refresh_from_db()
        seen.append((run.stage, run.progress))

    monkeypatch.setattr(listen._Watch, "report", note)
    monkeypatch.setattr(listen, "REPORT_EVERY", 0.0)
    listen.listen_to_song(run.pk)
    assert {"copy", "listen", "beats"} <= {stage for stage, _ in seen}
    assert [share for _, share in seen] == sorted(share for _, share in seen)
    run.refresh_from_db()
    assert (run.state, run.progress, run.attempts) == (RunState.DONE, 1.0, 1)


def test_a_run_whose_worker_died_is_marked_and_can_be_tried_again(as_ada, waiting, monkeypatch):
    sent = []
    monkeypatch.setattr("studio.jobs.listen.listen_to_song.delay", sent.append)
    long_ago = timezone.now() - timedelta(minutes=2)
    waiting.runs.update(state=RunState.RUNNING, heartbeat_at=long_ago, started_at=long_ago)
    song = as_ada.get(f"/api/songs/{waiting.id}").json()
    assert song["run"]["state"] == "interrupted"
    assert "try again" in song["run"]["message"]
    assert as_ada.post(f"/api/songs/{waiting.id}/listening").status_code == 202
    assert as_ada.post(f"/api/songs/{waiting.id}/listening").status_code == 409


def test_a_task_that_is_handed_out_again_resumes_but_not_for_ever(waiting):
    run = waiting.runs.get()
    ListeningRun.objects.filter(pk=run.pk).update(state=RunState.RUNNING, attempts=1)
    listen.listen_to_song(run.pk)
    run.refresh_from_db()
    assert (run.state, run.attempts) == (RunState.DONE, 2)
    bars = waiting.bars.count()
    listen.listen_to_song(run.pk)
    assert waiting.bars.count() == bars
    ListeningRun.objects.filter(pk=run.pk).update(state=RunState.RUNNING, attempts=3)
    listen.listen_to_song(run.pk)
    run.refresh_from_db()
    assert run.state == RunState.FAILED


def test_an_error_inside_leaves_nothing_half_written(waiting, monkeypatch):
    def break_down(*args, **options):
        raise RuntimeError("a bug")

    monkeypatch.setattr("studio.actions.store.SongBar.objects.bulk_create", break_down)
    run = waiting.runs.get()
    listen.listen_to_song(run.pk)
    run.refresh_from_db()
    assert run.state == RunState.FAILED
    assert "bug" not in run.message
    waiting.refresh_from_db()
    assert waiting.header is None


def test_a_song_removed_while_it_is_listened_to_ends_the_run(waiting, monkeypatch):
    run = waiting.runs.get()

    def removed(*args, **options):
        waiting.delete()
        raise Cancelled("stopped")

    monkeypatch.setattr(listen, "transcribe", removed)
    listen.listen_to_song(run.pk)
    assert not Song.objects.exists()


def test_edits_are_never_overwritten_by_a_new_run(as_ada, ada_song):
    hit = ada_song.bars.first().hits[0]
    edits = [{"before": hit, "after": None}]
    body = {"client_id": "12345678-1234-4234-8234-123456789012", "edits": edits}
    as_ada.post(f"/api/songs/{ada_song.id}/edits", body, format="json")
    answer = as_ada.post(f"/api/songs/{ada_song.id}/listening")
    assert answer.status_code == 409
    assert "overwrite" in answer.json()["detail"]


def audio(api, song, **headers):
    answer = api.get(f"/api/songs/{song.id}/audio", headers=headers)
    body = b"".join(answer.streaming_content) if answer.streaming else answer.content
    return answer, body


@pytest.mark.parametrize(
    ("wanted", "status", "first", "last"),
    [
        (None, 200, 0, 10_239),
        ("bytes=0-99", 206, 0, 99),
        ("bytes=10000-", 206, 10_000, 10_239),
        ("bytes=-40", 206, 10_200, 10_239),
        ("bytes=5-9999999", 206, 5, 10_239),
        ("bytes=0-1,5-6", 200, 0, 10_239),
        ("lines=1-2", 200, 0, 10_239),
    ],
)
def test_sound_is_served_whole_or_in_ranges(as_ada, ada_song, wanted, status, first, last):
    answer, body = audio(as_ada, ada_song, **({"Range": wanted} if wanted else {}))
    assert answer.status_code == status
    assert body == (bytes(range(256)) * 40)[first : last + 1]
    if status == 206:
        assert answer["Content-Range"] == f"bytes {first}-{last}/10240"


@pytest.mark.parametrize("wanted", ["bytes=10240-", "bytes=9-3", "bytes=99999-100000"])
def test_a_range_outside_the_file_cannot_be_served(as_ada, ada_song, wanted):
    answer, _ = audio(as_ada, ada_song, Range=wanted)
    assert answer.status_code == 416
    assert answer["Content-Range"] == "bytes */10240"


def test_a_range_of_an_older_file_gives_the_whole_new_one(as_ada, ada_song):
    answer, body = audio(as_ada, ada_song, **{"Range": "bytes=0-9", "If-Range": '"old"'})
    assert (answer.status_code, len(body)) == (200, 10_240)
    tag = answer["ETag"]
    answer, body = audio(as_ada, ada_song, **{"Range": "bytes=0-9", "If-Range": tag})
    assert (answer.status_code, len(body)) == (206, 10)
    answer, _ = audio(as_ada, ada_song, **{"If-None-Match": tag})
    assert answer.status_code == 304


def test_renaming(as_ada, ada_song):
    url = f"/api/songs/{ada_song.id}"
    assert as_ada.patch(url, {"title": "Other"}, format="json").json()["title"] == "Other"
    assert as_ada.patch(url, {"title": ""}, format="json").status_code == 400
    assert as_ada.get(f"{url}/files/chart.musicxml").content.count(b"Other") == 1

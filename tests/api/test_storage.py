"""Files and room: what happens on a full disk, and what is left behind is tidied."""

import errno
import os
import time
import uuid
from datetime import timedelta
from pathlib import Path

import pytest
from django.contrib.sessions.models import Session
from django.core.management import call_command
from django.db import OperationalError
from django.utils import timezone

from studio import storage
from studio.actions.tidying import tidy
from studio.models import Job, RunState
from tests.api.conftest import work_off
from tests.api.test_importing import a_beat, upload


@pytest.fixture
def full(monkeypatch):
    """A disk without room but for edits, as `room` sees it; nothing more is written to files."""

    def no_space(*args, **options):
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr(storage, "room", lambda: 0)
    monkeypatch.setattr(storage.tempfile, "mkstemp", no_space)


def test_reading_never_needs_the_disk(as_ada, ada_song, full):
    url = f"/api/songs/{ada_song.id}"
    for part in ("/score", "/grooves", "/chart", "/files/drums.mid", ""):
        assert as_ada.get(f"{url}{part}").status_code == 200, part
    assert not (ada_song.folder / "shown").exists()


def test_edits_are_stored_while_recordings_are_refused(as_ada, ada_song, full, settings):
    hit = ada_song.bars.first().hits[0]
    body = {"client_id": str(uuid.uuid4()), "edits": [{"before": hit, "after": None}]}
    assert as_ada.post(f"/api/songs/{ada_song.id}/edits", body, format="json").status_code == 200
    answer = upload(as_ada, "take.wav", a_beat())
    assert (answer.status_code, answer.json()["code"]) == (507, "disk_full")
    assert "disk is full" in answer.json()["detail"]
    assert len(list(Path(settings.MEDIA_ROOT).iterdir())) == 1
    assert not list(Path(settings.FILE_UPLOAD_TEMP_DIR).iterdir())


def test_an_upload_that_fills_the_disk_leaves_nothing(as_ada, settings, monkeypatch):
    def no_space(*args):
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr("studio.actions.importing.keep_upload", no_space)
    answer = upload(as_ada, "take.wav", a_beat())
    assert (answer.status_code, answer.json()["code"]) == (507, "disk_full")
    media = Path(settings.MEDIA_ROOT)
    assert not media.exists() or not list(media.iterdir())


def test_a_listening_run_on_a_full_disk_says_so(ada_song, monkeypatch):
    monkeypatch.setattr(storage, "room", lambda: 0)
    job = Job.objects.create(song=ada_song)
    work_off()
    job.refresh_from_db()
    assert job.state == RunState.FAILED
    assert "disk is full" in job.message


@pytest.mark.parametrize(
    ("number", "status", "says"),
    [(1114, 507, "disk is full"), (1205, 503, "Somebody else"), (2013, 503, "does not answer")],
)
def test_each_trouble_of_the_database_is_called_by_its_name(
    as_ada, ada_song, monkeypatch, number, status, says
):
    def trouble(*args):
        raise OperationalError(number, "as MariaDB says it")

    monkeypatch.setattr("studio.api.songs.performed", trouble)
    hit = ada_song.bars.first().hits[0]
    body = {"client_id": str(uuid.uuid4()), "edits": [{"before": hit, "after": None}]}
    answer = as_ada.post(f"/api/songs/{ada_song.id}/edits", body, format="json")
    assert (answer.status_code, says in answer.json()["detail"]) == (status, True)


def test_who_may_not_store_a_file_is_told_before_sending_it(as_ada, client, full):
    asked = {"X-Upload-Length": str(10_000_000)}
    nobody = client.get("/api/uploads/allowed", headers=asked)
    assert (nobody.status_code, nobody["X-Refusal-Code"]) == (403, "not_authenticated")
    no_room = as_ada.get("/api/uploads/allowed", headers=asked)
    assert (no_room.status_code, no_room["X-Refusal-Code"]) == (403, "disk_full")
    assert as_ada.get("/api/uploads/allowed", headers={"X-Upload-Length": "9" * 5000}).status_code


def test_there_is_room_as_long_as_there_is(as_ada):
    assert as_ada.get("/api/uploads/allowed").status_code == 204


def test_a_file_is_written_whole_or_not_at_all(tmp_path, monkeypatch):
    path = tmp_path / "kept.json"
    storage.write_whole(path, b"first")
    monkeypatch.setattr(storage.os, "fdopen", lambda *args: (_ for _ in ()).throw(OSError(28, "")))
    with pytest.raises(OSError, match="28"):
        storage.write_whole(path, b"second")
    assert [file.name for file in tmp_path.iterdir()] == ["kept.json"]
    assert path.read_bytes() == b"first"


def aged(path, seconds=7200):
    then = time.time() - seconds
    os.utime(path, (then, then))


def test_what_was_left_behind_goes_and_what_is_in_use_stays(ada_song, settings):
    media = Path(settings.MEDIA_ROOT)
    orphan, fresh = media / str(uuid.uuid4()), media / str(uuid.uuid4())
    for folder in (orphan, fresh):
        folder.mkdir()
        (folder / "source.wav").write_bytes(b"half a recording")
    aged(orphan)
    part = ada_song.folder / "evidence.part"
    part.write_bytes(b"half")
    aged(part)
    left = Path(settings.FILE_UPLOAD_TEMP_DIR) / "tmp123.upload.wav"
    left.write_bytes(b"half")
    aged(left)
    aged(ada_song.folder)
    Session.objects.create(
        session_key="old", session_data="", expire_date=timezone.now() - timedelta(days=1)
    )
    done = tidy()
    assert (done.folders, done.uploads, done.partial_files, done.sessions) == (1, 1, 1, 1)
    assert not orphan.exists()
    assert fresh.exists(), "an upload may be on its way"
    assert ada_song.listening_path.exists()
    again = tidy()
    assert (again.folders, again.uploads, again.partial_files) == (0, 0, 0)


def test_caches_stay_bounded_and_the_last_used_are_kept(as_ada, ada_song):
    url = f"/api/songs/{ada_song.id}"
    for part in ("score", "grooves", "fills"):
        as_ada.get(f"{url}/{part}")
    files = {path.name for path in ada_song.folder.glob("*/*")}
    assert len(files) == 6, "each with a compressed twin"
    (oldest,) = ada_song.folder.glob("shown/grooves-*.json")
    aged(oldest)
    sizes = sum(path.stat().st_size for path in ada_song.folder.glob("*/*"))
    assert tidy(most_cache_bytes=sizes - 1).cached_files == 1
    assert not oldest.exists()
    assert as_ada.get(f"{url}/grooves").status_code == 200
    assert tidy(most_cache_bytes=0).cached_files == 6
    assert ada_song.listening_path.exists()


def test_pages_do_not_pile_up_with_every_edit(as_ada, ada_song):
    for hit in ada_song.bars.first().hits[:6]:
        body = {"client_id": str(uuid.uuid4()), "edits": [{"before": hit, "after": None}]}
        as_ada.post(f"/api/songs/{ada_song.id}/edits", body, format="json")
        as_ada.get(f"/api/songs/{ada_song.id}/feel")
    assert len(list(ada_song.folder.glob("shown/feel.*.json"))) == 2
    assert len(list(ada_song.folder.glob("shown/feel.*.json.gz"))) == 2


def test_prints_are_made_once_and_the_last_one_stays(as_ada, ada_song):
    url = f"/api/songs/{ada_song.id}/files/chart.pdf"
    assert [as_ada.get(url).status_code for _ in range(3)] == [202, 202, 202]
    assert work_off("render") == 1
    assert as_ada.get(url).status_code == 200
    as_ada.patch(f"/api/songs/{ada_song.id}", {"title": "Anew"}, format="json")
    assert as_ada.get(url).status_code == 202, "the title is on the paper"
    work_off("render")
    assert as_ada.get(url).status_code == 200
    assert len(list((ada_song.folder / "prints").iterdir())) == 1


def test_a_print_that_failed_says_why_and_is_tried_again_later(as_ada, ada_song, monkeypatch):
    def broken(*args):
        raise RuntimeError("no ink")

    url = f"/api/songs/{ada_song.id}/files/chart.pdf"
    monkeypatch.setattr("studio.actions.prints.write_file", broken)
    as_ada.get(url)
    work_off("render")
    answer = as_ada.get(url)
    assert (answer.status_code, answer.json()["code"]) == (500, "failed")
    monkeypatch.undo()
    Job.objects.update(finished_at=timezone.now() - timedelta(minutes=5))
    assert as_ada.get(url).status_code == 202


def test_the_tidy_command_says_what_went(db, capsys):
    call_command("tidy")
    assert "0 folders without a song" in capsys.readouterr().out


def test_who_has_this_state_already_is_told_so(as_ada, ada_song):
    url = f"/api/songs/{ada_song.id}"
    for part in ("score", "grooves", "feel"):
        tag = as_ada.get(f"{url}/{part}")["ETag"]
        assert as_ada.get(f"{url}/{part}", headers={"If-None-Match": f"W/{tag}"}).status_code == 304
    hit = ada_song.bars.first().hits[0]
    body = {"client_id": str(uuid.uuid4()), "edits": [{"before": hit, "after": None}]}
    as_ada.post(f"{url}/edits", body, format="json")
    assert as_ada.get(f"{url}/score", headers={"If-None-Match": tag}).status_code == 200
    assert as_ada.get(f"{url}/feel", headers={"If-None-Match": tag}).status_code == 200


def test_behind_our_proxy_files_are_only_named(as_ada, ada_song, settings):
    settings.BEHIND_OUR_PROXY = True
    answer = as_ada.get(f"/api/songs/{ada_song.id}/audio")
    assert answer["X-Accel-Redirect"] == f"/files/{ada_song.id}/listening.ogg"
    assert answer.content == b""

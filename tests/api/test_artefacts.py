"""Two hosts with a store between them: what one makes the other has, and nothing else is shared."""

import os
import time

import pytest
from django.core.files.storage import storages
from django.test import override_settings

from studio import artefacts
from studio.actions import prints
from studio.actions.retention import end_recording
from studio.artefacts import (
    StoreAway,
    bound_local,
    fetch,
    have,
    is_there,
    publish,
    tidy_store,
    withdraw,
)
from studio.models import Artefact, Job, JobKind, RunState
from studio.queueing import queue_job
from tests.api.conftest import work_off

FILES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}


@pytest.fixture
def hosts(ada_song, tmp_path, settings):
    """Gives back a function that goes to a host; the song was made at the first."""
    settings.STORE_BUCKET = "shared"
    settings.STORAGES = {
        **FILES,
        artefacts.STORE: {
            "BACKEND": "django.core.files.storage.FileSystemStorage",
            "OPTIONS": {"location": str(tmp_path / "store")},
        },
    }
    (tmp_path / "store").mkdir()
    first = settings.MEDIA_ROOT

    def go(to):
        settings.MEDIA_ROOT = first if to == "first" else tmp_path / "second"

    publish(ada_song)
    return go


def test_what_one_host_has_made_the_other_fetches_when_it_is_asked_for(ada_song, hosts, as_ada):
    content = ada_song.listening_path.read_bytes()
    hosts("second")
    assert not ada_song.listening_path.exists()
    assert is_there(ada_song.listening_path), "nothing is fetched to know that"
    assert not ada_song.listening_path.exists()
    assert as_ada.get(f"/api/songs/{ada_song.id}/audio").status_code in (200, 206)
    assert ada_song.listening_path.read_bytes() == content


def test_what_was_made_anew_takes_the_place_of_what_a_host_had(ada_song, hosts):
    hosts("second")
    fetch(ada_song)
    hosts("first")
    ada_song.listening_path.write_bytes(b"heard again")
    publish(ada_song)
    hosts("second")
    assert have(ada_song.listening_path)
    assert ada_song.listening_path.read_bytes() == b"heard again"
    row = ada_song.artefacts.get(name="listening.ogg")
    assert row.size == len(b"heard again")


def test_what_is_withdrawn_is_gone_everywhere(ada_song, hosts):
    path = "prints/chart.pdf"
    hosts("first")
    (ada_song.folder / "prints").mkdir(exist_ok=True)
    (ada_song.folder / path).write_bytes(b"%PDF")
    publish(ada_song)
    hosts("second")
    assert have(ada_song.folder / path)
    withdraw(ada_song.folder / path)
    hosts("first")
    assert not is_there(ada_song.folder / path)
    assert not have(ada_song.folder / path)
    assert not (ada_song.folder / path).exists()


def test_a_page_that_a_host_worked_out_stays_with_it(ada_song, hosts, as_ada):
    as_ada.get(f"/api/songs/{ada_song.id}/score")
    assert list((ada_song.folder / "shown").iterdir())
    publish(ada_song)
    assert not ada_song.artefacts.filter(name__startswith="shown").exists()


@pytest.mark.parametrize(("asks", "makes"), [("one", "one"), ("new", "old")])
def test_a_job_finds_its_files_and_leaves_what_it_made(
    ada_song, hosts, as_ada, monkeypatch, asks, makes
):
    """Also for a host of another version: they are brought to a new one in turn."""
    chart = f"/api/songs/{ada_song.id}/files/chart.pdf"
    hosts("first")
    monkeypatch.setattr(prints, "code_stamp", lambda: asks)
    assert as_ada.get(chart).status_code == 202
    hosts("second")
    monkeypatch.setattr(prints, "code_stamp", lambda: makes)
    assert work_off("render") == 1
    hosts("first")
    monkeypatch.setattr(prints, "code_stamp", lambda: asks)
    answer = as_ada.get(chart)
    assert answer.status_code == 200
    assert b"".join(answer.streaming_content).startswith(b"%PDF")


def test_the_same_content_is_stored_once_and_goes_with_its_last_name(ada_song, hosts, as_ada):
    edition = f"/api/songs/{ada_song.id}/editions"
    assert as_ada.post(edition, {"words": ""}, format="json").status_code == 201
    store = storages[artefacts.STORE]
    keys = list(artefacts._keys(store))
    assert Artefact.objects.count() > len(keys)
    artefacts.LEFT_FOR, before = artefacts.LEFT_FOR * 0, artefacts.LEFT_FOR
    try:
        assert tidy_store() == 0
        assert as_ada.delete(f"/api/songs/{ada_song.id}").status_code == 204
        assert not Artefact.objects.exists()
        assert tidy_store() == len(keys)
    finally:
        artefacts.LEFT_FOR = before
    assert list(artefacts._keys(store)) == []


def test_a_store_that_is_away_is_told_and_nothing_is_half_there(ada_song, hosts, as_ada, tmp_path):
    hosts("second")
    (tmp_path / "store").rename(tmp_path / "away")
    told = as_ada.get(f"/api/songs/{ada_song.id}/audio")
    assert told.status_code == 503
    assert "does not answer" in told.json()["detail"]
    assert not ada_song.folder.exists() or not list(ada_song.folder.glob("*.part*"))
    job = queue_job(ada_song, JobKind.PRINT, options={"name": "chart.pdf", "options": {}})
    work_off("render")
    assert Job.objects.get(pk=job.pk).state == RunState.FAILED
    assert "does not answer" in Job.objects.get(pk=job.pk).message


def test_what_is_damaged_in_the_store_is_not_handed_on(ada_song, hosts, tmp_path):
    row = ada_song.artefacts.get(name="listening.ogg")
    (tmp_path / "store" / row.sha256[:2] / row.sha256).write_bytes(b"not what it was")
    hosts("second")
    with pytest.raises(StoreAway, match="damaged"):
        have(ada_song.listening_path)
    assert not ada_song.listening_path.exists()


def test_what_nobody_looks_at_makes_room_and_is_fetched_again(ada_song, hosts):
    hosts("second")
    fetch(ada_song)
    path = ada_song.listening_path
    content = path.read_bytes()
    assert bound_local(0) == 0, "it was looked at just now"
    long_ago = time.time() - 10 * 3600
    os.utime(path, (long_ago, long_ago))
    assert bound_local(len(content)) == 0, "there is room"
    (ada_song.folder / "new.ogg").write_bytes(b"not published yet")
    assert bound_local(0) == 1
    assert not path.exists()
    assert (ada_song.folder / "new.ogg").exists()
    assert have(path)
    assert path.read_bytes() == content


def test_a_recording_that_ends_is_gone_from_the_store_too(ada_song, hosts):
    for name in ("source.ogg", "drums-down.ogg", "evidence.npz"):
        (ada_song.folder / name).write_bytes(b"sound")
    publish(ada_song)
    # The host that looks after it has none of its files.
    hosts("second")
    assert end_recording(ada_song)
    assert set(ada_song.artefacts.values_list("name", flat=True)) == {"listening.ogg", "peaks.bin"}
    hosts("first")
    assert not have(ada_song.folder / "drums-down.ogg")
    assert have(ada_song.listening_path)
    assert ada_song.listening_path.read_bytes().startswith(b"OggS")


def test_without_a_store_the_folder_is_all_there_is(ada_song):
    with override_settings(STORE_BUCKET=""):
        publish(ada_song)
        assert not Artefact.objects.exists()
        assert have(ada_song.listening_path)
        assert not have(ada_song.folder / "nothing")

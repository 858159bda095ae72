"""Importing: what is taken is listened to, what is not is refused and leaves nothing."""

import io
import subprocess
from pathlib import Path

import numpy as np
import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from scipy.io import wavfile

from orchesis.exchange import sandbox
from orchesis.exchange.imported import Refused
from orchesis.exchange.read import read_part
from studio.models import Song
from studio.queueing import sleeping_jobs, wake
from tests.api.conftest import SONGS
from tests.composing import kick_and_snare


def wav_bytes(samples, rate=44_100):
    buffer = io.BytesIO()
    wavfile.write(buffer, rate, samples)
    return buffer.getvalue()


def upload(api, name, content, **more):
    file = SimpleUploadedFile(name, content)
    return api.post("/api/songs", {"file": file, **more}, format="multipart")


def a_beat():
    return wav_bytes(kick_and_snare(list(np.arange(0.5, 15, 0.5)), 16))


@pytest.fixture
def commits(django_capture_on_commit_callbacks):
    return django_capture_on_commit_callbacks


def test_a_recording_is_stored_listened_to_and_scored(as_ada, commits):
    with commits(execute=True):
        answer = upload(as_ada, "garage_take-2.wav", a_beat())
    assert answer.status_code == 201
    assert answer.json()["title"] == "Garage take 2"
    song = as_ada.get(f"/api/songs/{answer.json()['id']}").json()
    assert song["run"]["state"] == "done"
    assert song["tempo_bpm"] == pytest.approx(120, abs=1.5)
    score = as_ada.get(f"/api/songs/{song['id']}/score").json()
    assert sum(len(bar["hits"]) for bar in score["bars"]) > 20
    assert as_ada.get(f"/api/songs/{song['id']}/audio").status_code == 200


def nan_wav():
    samples = np.zeros(44_100 * 3, np.float32)
    samples[100] = np.nan
    return wav_bytes(samples)


def no_rate_wav():
    data = bytearray(wav_bytes(np.zeros(44_100 * 3, np.int16)))
    data[24:28] = (0).to_bytes(4, "little")
    return bytes(data)


@pytest.mark.parametrize(
    ("name", "content", "says"),
    [
        ("empty.wav", b"", "empty"),
        ("list.wav", b"sticks, heads, wing nuts\n" * 100, "not audio"),
        ("list.m3u", b"#EXTM3U", "end in .m3u"),
        ("song", b"abc", "end in nothing"),
        ("nothing.wav", no_rate_wav(), "0 Hz|not audio"),
        ("noise.mp3", np.random.default_rng(1).bytes(5000), "not audio|damaged|rate"),
    ],
)
def test_a_bad_file_is_refused_at_once_with_reason_and_limits(as_ada, name, content, says):
    answer = upload(as_ada, name, content)
    assert answer.status_code == 400
    detail = answer.json()["detail"]
    assert any(part in detail for part in says.split("|")), detail
    assert "20 minutes" in detail
    assert not Song.objects.exists()
    assert not Path(settings.MEDIA_ROOT).exists() or not list(Path(settings.MEDIA_ROOT).iterdir())


@pytest.mark.parametrize(
    ("content", "says"),
    [(nan_wav(), "not numbers"), (wav_bytes(np.zeros(30_000, np.int16)), "at least 2 s")],
)
def test_what_only_listening_reveals_fails_with_its_reason(as_ada, commits, content, says):
    with commits(execute=True):
        answer = upload(as_ada, "odd.wav", content)
    song = as_ada.get(f"/api/songs/{answer.json()['id']}").json()
    assert song["run"]["state"] == "failed"
    assert says in song["run"]["message"]
    assert not song["has_score"]


def test_three_hours_are_refused(as_ada, tmp_path):
    path = tmp_path / "long.flac"
    silence = ["-f", "lavfi", "-i", "anullsrc=r=8000:cl=mono", "-t", "10800"]
    subprocess.run(["ffmpeg", "-v", "error", *silence, path], check=True)
    answer = upload(as_ada, "long.flac", path.read_bytes())
    assert answer.status_code == 400
    assert "180:00 minutes" in answer.json()["detail"]
    assert not Song.objects.exists()


def test_a_path_in_the_file_name_leads_nowhere(as_ada):
    answer = upload(as_ada, "../../../etc/cron.d/evil.wav", a_beat())
    assert answer.status_code == 201
    song = Song.objects.get()
    assert song.file_name == "evil.wav"
    assert song.source_path.resolve().is_relative_to(Path(settings.MEDIA_ROOT).resolve())


def test_a_request_without_a_file_is_refused(as_ada):
    answer = as_ada.post("/api/songs", {"title": "x"}, format="multipart")
    assert answer.status_code == 400
    assert "no file" in answer.json()["detail"].lower()


def test_a_queue_that_is_away_is_told_of_the_song_when_it_is_back(as_ada, commits, monkeypatch):
    def away(*args, **options):
        raise ConnectionError("refused")

    monkeypatch.setattr("studio.jobs.work.work.apply_async", away)
    with commits(execute=True):
        answer = upload(as_ada, "take.wav", a_beat())
    song = as_ada.get(f"/api/songs/{answer.json()['id']}").json()
    assert answer.status_code == 201, "the recording is stored: nothing is wrong for the user"
    assert (song["run"]["state"], song["has_score"]) == ("queued", False)
    assert [job.woken_at for job in sleeping_jobs()] == [None, None], "the copy, and the run"
    monkeypatch.undo()
    assert wake(sleeping_jobs())
    assert as_ada.get(f"/api/songs/{song['id']}").json()["run"]["state"] == "done"


def test_a_removed_song_takes_its_files_with_it(as_ada, ada_song, commits):
    folder = ada_song.folder
    assert folder.exists()
    with commits(execute=True):
        assert as_ada.delete(f"/api/songs/{ada_song.id}").status_code == 204
    assert not folder.exists()
    assert not Song.objects.exists()


def test_the_demo_songs_are_loaded_once_and_no_answer_is_planted(db):
    from django.core.management import call_command

    for _ in range(2):
        call_command("load_demo", verbosity=0)
    songs = Song.objects.filter(owner__username="demo")
    assert songs.count() == len(list(SONGS.glob("*.ogg"))) == 4
    assert all(song.header is None and not song.bars.exists() for song in songs)


def test_the_same_recording_again_is_said_with_the_song_that_is_there(as_ada, as_ben):
    first = as_ada.post("/api/songs", {"file": SimpleUploadedFile("one.wav", a_beat())})
    again = as_ada.post("/api/songs", {"file": SimpleUploadedFile("other.wav", a_beat())})
    assert (again.status_code, again.json()["code"]) == (409, "same_recording")
    assert again.json()["song"] == first.json()["id"]
    assert "“One”" in again.json()["detail"]
    wanted = {"file": SimpleUploadedFile("other.wav", a_beat()), "again": "true"}
    assert as_ada.post("/api/songs", wanted).status_code == 201
    # Another's shelf is nobody's business.
    theirs = as_ben.post("/api/songs", {"file": SimpleUploadedFile("one.wav", a_beat())})
    assert theirs.status_code == 201


EVIL_XML = {
    "entities": "<!DOCTYPE a [<!ENTITY x 'y'>]><score-partwise>&x;</score-partwise>",
    "external": "<!DOCTYPE a [<!ENTITY x SYSTEM 'file:///etc/passwd'>]><a>&x;</a>",
}


@pytest.mark.parametrize("coding", ["utf-8", "utf-16", "utf-16-le", "utf-16-be"])
@pytest.mark.parametrize("kind", EVIL_XML)
def test_entities_of_a_file_s_own_are_refused_in_every_coding(kind, coding):
    mark = "\ufeff" if coding.startswith("utf-16-") else ""
    text = f"{mark}<?xml version='1.0'?>{EVIL_XML[kind]}"
    with pytest.raises(Refused, match="entities of its own"):
        read_part(text.encode(coding), "a.musicxml")


def test_a_file_that_takes_too_much_to_read_is_refused(tmp_path, monkeypatch):
    monkeypatch.setattr(sandbox, "CPU_SECONDS", 1)
    path = tmp_path / "slow.musicxml"
    path.write_text("<score-partwise>" + "<a>" * 200_000 + "</a>" * 200_000 + "</score-partwise>")
    monkeypatch.setattr(sandbox, "MEMORY_BYTES", 120 * 1024**2)
    with pytest.raises(Refused, match="more work to read"):
        sandbox.read_part_sandboxed(path, "slow.musicxml")

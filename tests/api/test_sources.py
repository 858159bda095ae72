"""Second recordings: added, lined up by the real job, heard at the same bar, taken away."""

import shutil

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from scipy.io import wavfile

from orchesis.audio.decode import decode
from orchesis.sources.lineup import line_up
from studio.actions.sources import MOST_SOURCES
from studio.models import Source
from tests.api.conftest import SONGS, work_off

NAME = "steps-to-the-market.ogg"


@pytest.fixture
def real_song(ada_song):
    shutil.copy(SONGS / NAME, ada_song.source_path)
    return ada_song


@pytest.fixture
def later(tmp_path):
    """The same song, 1.3 s later, without its bass."""
    samples = decode(SONGS / NAME).samples
    thin = np.concatenate([np.zeros(round(1.3 * 44_100)), np.diff(samples)])
    wavfile.write(tmp_path / "live take.wav", 44_100, thin.astype(np.float32))
    return tmp_path / "live take.wav"


def add(api, song, path, **fields):
    file = SimpleUploadedFile(path.name, path.read_bytes())
    return api.post(f"/api/songs/{song.id}/sources", {"file": file, **fields}, format="multipart")


def listed(api, song):
    return api.get(f"/api/songs/{song.id}/sources").json()


def test_a_second_recording_is_lined_up_and_heard_at_the_same_bar(as_ada, real_song, later):
    answer = add(as_ada, real_song, later)
    assert answer.status_code == 201
    assert answer.json()["title"] == "live take"
    source_id = answer.json()["id"]
    work_off()
    (source,) = listed(as_ada, real_song)
    assert source["state"] == "ready"
    assert source["offset"] == pytest.approx(1.3, abs=0.015)
    assert "fits to" in source["words"]
    url = f"/api/songs/{real_song.id}/sources/{source_id}/audio"
    sound = b"".join(as_ada.get(url).streaming_content)
    assert sound[:4] == b"OggS"
    kept = Source.objects.get()
    there = decode(kept.aligned_path)
    whole = decode(real_song.source_path)
    assert there.duration == pytest.approx(whole.duration, abs=0.01)
    again = line_up(whole.samples, there.samples, 44_100)
    assert again.offset == pytest.approx(0.0, abs=0.005)
    assert again.speed == pytest.approx(1.0, abs=0.0002)
    assert kept.evidence_path.exists()
    assert as_ada.delete(f"/api/songs/{real_song.id}/sources/{source_id}").status_code == 204
    assert listed(as_ada, real_song) == []
    assert not kept.aligned_path.exists()
    assert not kept.source_path.exists()


def test_a_take_that_was_refused_is_followed_when_somebody_says_so(as_ada, real_song, tmp_path):
    samples = decode(SONGS / NAME).samples
    seconds = np.arange(len(samples)) / 44_100
    hurried = np.arange(0, seconds[-1], 1.04 / 44_100)
    hurried = hurried + 0.6 * np.sin(hurried / 6)
    path = tmp_path / "in the yard.wav"
    wavfile.write(path, 44_100, np.interp(hurried, seconds, samples).astype(np.float32))
    source_id = add(as_ada, real_song, path).json()["id"]
    follow = f"/api/songs/{real_song.id}/sources/{source_id}/follow"
    assert as_ada.post(follow).status_code == 409, "it is still being lined up"
    work_off()
    assert listed(as_ada, real_song)[0]["state"] == "refused"
    again = f"/api/songs/{real_song.id}/sources/{source_id}/line-up"
    assert as_ada.post(again).status_code == 409, "it did not fail: it does not fit"
    assert as_ada.post(follow).status_code == 202
    work_off()
    (source,) = listed(as_ada, real_song)
    assert source["state"] == "ready"
    assert "another performance" in source["words"]
    kept = Source.objects.get()
    # Back on the song's own time: its attacks are the song's again.
    again = line_up(samples, decode(kept.aligned_path).samples, 44_100)
    assert again.offset == pytest.approx(0.0, abs=0.02)
    assert again.error < 0.02


def test_another_song_is_refused_and_says_so(as_ada, real_song):
    add(as_ada, real_song, SONGS / "harbour-lights-out.ogg")
    work_off()
    (source,) = listed(as_ada, real_song)
    assert source["state"] == "refused"
    assert len(source["words"]) > 30
    url = f"/api/songs/{real_song.id}/sources/{source['id']}/audio"
    assert as_ada.get(url).status_code == 404


def test_bad_files_are_refused_and_leave_nothing(as_ada, real_song, tmp_path):
    before = sorted(path.name for path in real_song.folder.iterdir())
    for name, data in (("a.txt", b"words"), ("a.wav", b""), ("a.mp3", b"no sound at all")):
        (tmp_path / name).write_bytes(data)
        answer = add(as_ada, real_song, tmp_path / name)
        assert answer.status_code == 400, name
        assert answer.json()["detail"]
    assert listed(as_ada, real_song) == []
    assert sorted(path.name for path in real_song.folder.iterdir()) == before


def test_a_song_has_only_so_many_recordings(as_ada, real_song, later):
    for _ in range(MOST_SOURCES):
        Source.objects.create(song=real_song, title="x", suffix=".wav")
    answer = add(as_ada, real_song, later)
    assert answer.status_code == 409
    assert "take one away" in answer.json()["detail"]


def test_nobody_hears_the_recordings_of_others(as_ada, as_ben, real_song, later):
    source_id = add(as_ada, real_song, later).json()["id"]
    base = f"/api/songs/{real_song.id}/sources"
    assert as_ben.get(base).status_code == 404
    assert as_ben.get(f"{base}/{source_id}/audio").status_code == 404
    assert as_ben.delete(f"{base}/{source_id}").status_code == 404
    assert Source.objects.count() == 1

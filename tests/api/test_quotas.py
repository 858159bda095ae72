"""What one person may take of the machine: too much is told, and nothing is left behind."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from studio.actions.importing import import_recording
from studio.actions.quotas import used_by
from studio.actions.sources import add_source
from studio.models import Job, JobKind, Song, Source
from studio.queueing import NotNow
from tests.api.conftest import work_off
from tests.api.test_importing import a_beat


@pytest.fixture
def wav():
    return SimpleUploadedFile("take.wav", a_beat())


def test_what_one_has_taken_is_told(as_ada, ada, ada_song):
    Song.objects.filter(pk=ada_song.pk).update(source_bytes=3 * 1024**2, duration=150)
    Source.objects.create(song=ada_song, title="Live", suffix=".ogg", source_bytes=1024**2)
    told = as_ada.get("/api/account").json()["used"]
    assert (told["songs"], told["megabytes"]) == (1, 4.0)
    assert told["minutes"] == 2.5, "it was listened to today"


@pytest.mark.parametrize(
    ("limit", "value", "told"),
    [
        ("MOST_SONGS", 1, "you have 1 songs, and 1 are kept"),
        ("MOST_MEGABYTES", 1, r"this one has \d\.\d MB more"),
        ("MOST_MINUTES_A_DAY", 10, "10 minutes were listened to"),
    ],
)
def test_too_much_is_refused_and_nothing_stays(settings, ada, ada_song, wav, limit, value, told):
    Song.objects.filter(pk=ada_song.pk).update(source_bytes=1024**2 - 50, duration=600)
    setattr(settings, limit, value)
    with pytest.raises(NotNow, match=told):
        import_recording(ada, wav)
    assert Song.objects.count() == 1
    assert [path.name for path in ada_song.folder.parent.iterdir()] == [str(ada_song.pk)]


def test_none_is_no_limit(settings, ada, wav):
    settings.MOST_SONGS = settings.MOST_MEGABYTES = settings.MOST_MINUTES_A_DAY = 0
    made = import_recording(ada, wav)
    assert made.source_bytes == wav.size
    assert used_by(ada).bytes == wav.size


def test_one_persons_limit_is_not_anothers(settings, ada_song, ben, wav):
    settings.MOST_SONGS = 1
    assert import_recording(ben, wav).pk


def test_a_second_recording_counts_too(settings, ada_song, wav):
    settings.MOST_MEGABYTES = 1
    Song.objects.filter(pk=ada_song.pk).update(source_bytes=1024**2)
    with pytest.raises(NotNow, match="Remove a song first"):
        add_source(ada_song, wav)
    assert not Source.objects.exists()


def test_listening_again_counts(settings, as_ada, ada_song):
    settings.MOST_MINUTES_A_DAY = 15
    Song.objects.filter(pk=ada_song.pk).update(duration=600, suffix=".wav")
    told = as_ada.post(f"/api/songs/{ada_song.id}/listening")
    assert told.status_code == 409
    assert "come back tomorrow" in told.json()["detail"]
    assert Job.objects.filter(kind=JobKind.LISTEN).count() == 1


def test_who_is_full_is_told_before_the_file_is_sent(settings, as_ada, ada_song):
    settings.MOST_MEGABYTES = 1
    Song.objects.filter(pk=ada_song.pk).update(source_bytes=1024**2)
    told = as_ada.get("/api/uploads/allowed", headers={"x-upload-length": "100000"})
    assert told.status_code == 403
    assert "Remove a song first" in told["X-Refusal"]


def test_a_bundle_with_a_recording_counts_as_listening(settings, as_ada, ada, ada_song, wav):
    ada_song.suffix = ".wav"
    ada_song.source_path.write_bytes(wav.read())
    Song.objects.filter(pk=ada_song.pk).update(duration=600, suffix=".wav")
    content = b"".join(as_ada.get(f"/api/songs/{ada_song.id}/bundle").streaming_content)
    settings.MOST_MINUTES_A_DAY = 10
    sent = as_ada.post("/api/songs", {"file": SimpleUploadedFile("song.zip", content)})
    work_off("small")
    song = as_ada.get(f"/api/songs/{sent.json()['id']}").json()
    assert "come back tomorrow" in song["run"]["message"].lower()
    assert not song["has_score"]

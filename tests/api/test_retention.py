"""Recordings whose time is over: nothing of them can be heard any more, the chart stays."""

from datetime import timedelta

import pytest
from django.utils import timezone

from studio.actions import retention
from studio.actions.tidying import tidy
from studio.models import Job, JobKind, RunState, Song, Source


@pytest.fixture
def heard(ada_song):
    """A song with all that belongs to a recording."""
    (ada_song.folder / "mixes").mkdir()
    for name in (
        "source.ogg", "drums-down.ogg", "evidence.npz", "peaks.bin", "heard-again.json",
        "mixes/slow.mp3",
    ):  # fmt: skip
        (ada_song.folder / name).write_bytes(b"sound")
    second = Source.objects.create(song=ada_song, title="Live", suffix=".ogg")
    second.source_path.write_bytes(b"sound")
    return ada_song


def age(song, days):
    Song.objects.filter(pk=song.pk).update(updated_at=timezone.now() - timedelta(days=days))


def test_what_is_old_goes_and_its_chart_is_played_by_the_kit(settings, heard, as_ada):
    settings.KEEP_RECORDINGS_DAYS = 30
    age(heard, 31)
    before = as_ada.get(f"/api/songs/{heard.id}/score").json()
    assert tidy().recordings == 1
    for path in heard.folder.rglob("*"):
        assert path.is_dir() or path.read_bytes() != b"sound", path.name
    assert not heard.sources.exists()
    told = as_ada.get(f"/api/songs/{heard.id}").json()
    assert (told["has_recording"], told["has_score"]) == (False, True)
    after = as_ada.get(f"/api/songs/{heard.id}/score").json()
    assert after["bars"] == before["bars"]
    # There is something to play beside: as long as the song, and silent.
    assert as_ada.get(f"/api/songs/{heard.id}/audio").status_code == 200
    assert as_ada.post(f"/api/songs/{heard.id}/listening").status_code == 409
    assert tidy().recordings == 0


def test_what_was_stopped_in_the_midst_is_taken_up_the_next_day(settings, heard, monkeypatch):
    settings.KEEP_RECORDINGS_DAYS = 30
    age(heard, 31)
    with monkeypatch.context() as broken:
        broken.setattr(retention, "prepare_silence", lambda song: 1 / 0)
        assert tidy().recordings == 0
    assert tidy().recordings == 1
    heard.refresh_from_db()
    assert heard.suffix == ""


@pytest.mark.parametrize(("rule", "days"), [(0, 4000), (30, 29)])
def test_what_is_not_old_stays(settings, heard, rule, days):
    settings.KEEP_RECORDINGS_DAYS = rule
    age(heard, days)
    assert tidy().recordings == 0
    assert (heard.folder / "source.ogg").read_bytes() == b"sound"


def test_what_somebody_works_on_waits(settings, heard):
    settings.KEEP_RECORDINGS_DAYS = 30
    age(heard, 31)
    Job.objects.create(song=heard, kind=JobKind.LISTEN, state=RunState.RUNNING)
    assert tidy().recordings == 0
    assert heard.sources.exists()


def test_everybody_is_told_the_rule(settings, as_ada):
    settings.KEEP_RECORDINGS_DAYS = 90
    assert as_ada.get("/api/account").json()["used"]["keep_days"] == 90

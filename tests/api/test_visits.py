"""The demo: each visitor has songs of their own for a day, and nobody can take the account."""

from datetime import timedelta

import pytest
from django.contrib.auth.models import User
from django.utils import timezone
from rest_framework.test import APIClient

from orchesis.pipeline import Result
from studio.actions.accounts import demo_account
from studio.actions.store import store_transcription
from studio.actions.visits import end_old_visits, visits
from studio.jobs.listen import listen_to_song
from studio.models import Account, Job, JobKind, Song
from tests.composing import ROCK, song


def demo_song(owner, title, *, is_heard):
    stored = Song.objects.create(
        owner=owner, title=title, file_name=f"{title}.ogg", suffix=".ogg", duration=8.0
    )
    stored.folder.mkdir(parents=True)
    stored.source_path.write_bytes(b"recording")
    if is_heard:
        stored.listening_path.write_bytes(b"copy")
        store_transcription(stored, Result(song([ROCK] * 4), (0.1, 1.0, 0.4)))
    return stored


@pytest.fixture
def demo(db):
    host = demo_account()
    return [demo_song(host, "Heard", is_heard=True), demo_song(host, "Coming", is_heard=False)]


def visitor():
    api = APIClient()
    assert api.post("/api/session/demo").json()["is_demo"]
    return api


def shelf(api):
    return {one["title"]: one for one in api.get("/api/songs").json()}


def test_two_visitors_do_not_see_each_other_s_edits(demo):
    one, other = visitor(), visitor()
    mine, theirs = shelf(one)["Heard"], shelf(other)["Heard"]
    assert mine["id"] != theirs["id"]
    assert mine["role"] == "owner"
    cue = {"bar": 1, "words": "stop"}
    assert one.post(f"/api/songs/{mine['id']}/cues", cue, format="json").status_code == 200
    assert one.get(f"/api/songs/{theirs['id']}").status_code == 404
    assert shelf(other)["Heard"]["revision"] == theirs["revision"]
    assert Song.objects.get(pk=demo[0].pk).revision == 1, "the song that is copied stays"
    copy = Song.objects.get(pk=mine["id"])
    assert copy.source_path.stat().st_ino == demo[0].source_path.stat().st_ino


def test_a_browser_goes_on_with_its_visit(demo):
    api = visitor()
    mine = shelf(api)["Heard"]["id"]
    api.delete("/api/session")
    api.post("/api/session/demo")
    assert shelf(api)["Heard"]["id"] == mine


def test_a_song_that_is_being_listened_to_becomes_the_visitor_s_without_a_run_of_its_own(demo):
    api = visitor()
    mine = shelf(api)["Coming"]
    assert (mine["has_score"], mine["run"]["state"]) == (False, "queued")
    store_transcription(demo[1], Result(song([ROCK] * 4), (0.1, 1.0, 0.4)))
    job = Job.objects.get(song=mine["id"], kind=JobKind.LISTEN)
    assert listen_to_song(job, None) == ""
    assert shelf(api)["Coming"]["has_score"]


@pytest.mark.parametrize(
    ("method", "path", "body"),
    [
        ("patch", "/api/account", {"email": "thief@example.org"}),
        ("post", "/api/account/password", {"old": "", "new": "another-long-one-7"}),
        ("post", "/api/account/remove", {"password": "x"}),
        ("delete", "/api/account/sessions", {}),
    ],
)
def test_nothing_of_the_demo_account_can_be_changed(demo, mailoutbox, method, path, body):
    api = visitor()
    answer = getattr(api, method)(path, body, format="json")
    assert answer.status_code == 400
    assert "demo account" in answer.json()["detail"]
    assert not User.objects.filter(account__is_demo=True).exclude(email="").exists()
    assert not Account.objects.exclude(unproved_email="").exists()
    assert mailoutbox == []


def test_a_visit_ends_after_a_day_with_all_that_is_in_it(demo):
    api = visitor()
    copy = Song.objects.get(pk=shelf(api)["Heard"]["id"])
    group = api.post("/api/groups", {"name": "Mine", "kind": "class"}, format="json").json()
    put = {"song": str(copy.pk), "role": "reader"}
    api.post(f"/api/groups/{group['id']}/songs", put, format="json")
    give = {"song": str(copy.pk), "target": "section-1", "level": "all", "bpm": 90}
    api.post(f"/api/groups/{group['id']}/given", give, format="json")
    assert end_old_visits() == 0
    Account.objects.filter(user__in=visits()).update(visit_ends_at=timezone.now() - timedelta(1))
    assert api.post("/api/session/demo").json()["username"] != ""
    assert end_old_visits() == 1
    assert not Song.objects.filter(pk=copy.pk).exists()
    assert Song.objects.filter(pk=demo[0].pk).exists()
    assert demo[0].source_path.exists()

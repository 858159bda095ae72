"""For whoever runs the server: health, metrics, one name from a request to its job and its logs."""

import json
import logging

import pytest
from django.conf import settings
from django.contrib.auth.models import User
from django.core.exceptions import ValidationError
from django.test import Client

from studio import administration, counters
from studio.actions.accounts import make_account
from studio.api import operation
from studio.jobs.work import do
from studio.models import Account, Job, JobKind, RunState
from studio.queueing import queue_job
from studio.tracing import JsonLines, trace, traced


@pytest.fixture
def admin(db):
    return User.objects.create_superuser("root", password="a-long-pass-word")


@pytest.fixture
def as_admin(admin):
    client = Client()
    client.force_login(admin)
    return client


def test_a_server_that_can_work_says_so(client, db, monkeypatch):
    monkeypatch.setattr(counters, "answers", lambda: True)
    assert client.get("/api/health/live").json() == {"live": True}
    told = client.get("/api/health/ready")
    assert (told.status_code, told.json()) == (
        200,
        {"database": True, "queue": True, "room": True},
    )


def test_without_its_queue_people_are_sent_here_without_its_database_not(client, db, monkeypatch):
    monkeypatch.setattr(counters, "answers", lambda: False)
    assert client.get("/api/health/ready").status_code == 200
    assert client.get("/api/health/ready").json()["queue"] is False
    monkeypatch.setattr(operation, "_database_answers", lambda: False)
    assert client.get("/api/health/ready").status_code == 503
    assert client.get("/api/health/live").status_code == 200


def test_metrics_are_for_a_monitor_and_the_office(client, as_ada, as_admin, ada_song):
    assert client.get("/api/metrics").status_code == 404
    assert as_ada.get("/api/metrics").status_code == 404
    wrong = client.get("/api/metrics", headers={"authorization": "Bearer guessed"})
    assert wrong.status_code == 404
    word = {"authorization": f"Bearer {settings.METRICS_WORD}"}
    told = client.get("/api/metrics", headers=word).content.decode()
    assert "orchesis_songs 1.0" in told
    assert as_admin.get("/api/metrics").status_code == 200


def test_answers_are_timed_by_view_never_by_address(as_ada, as_admin, ada_song):
    as_ada.get(f"/api/songs/{ada_song.id}/score")
    told = as_admin.get("/api/metrics").content.decode()
    assert 'view="GET /api/songs/<uuid:song_id>/score"' in told
    assert str(ada_song.id) not in told


def test_jobs_are_timed_and_counted(ada_song, as_admin):
    job = Job.objects.create(song=ada_song, kind=JobKind.LISTEN, state=RunState.RUNNING, attempts=1)
    do(job)  # There is no recording: it fails.
    queue_job(ada_song, JobKind.PRINT)
    told = as_admin.get("/api/metrics").content.decode()
    assert 'orchesis_job_seconds_count{kind="listen",state="failed"}' in told
    assert 'orchesis_jobs{kind="print",state="queued"} 1.0' in told
    assert 'orchesis_oldest_wait_seconds{kind="print"}' in told


@pytest.mark.parametrize("given", ["", "<script>", "x" * 40, "one\ttwo"])
def test_each_request_has_a_name_and_nobody_writes_into_logs(client, db, given):
    told = client.get("/api/health/live", headers={"x-request-id": given})
    assert len(told["X-Request-Id"]) == 32
    assert given not in told["X-Request-Id"] or not given


def test_a_job_has_the_name_of_the_request_that_asked_for_it(as_ada, ada_song, caplog):
    name = "0123456789abcdef0123456789abcdef"
    chart = f"/api/songs/{ada_song.id}/files/chart.pdf"
    told = as_ada.get(chart, headers={"x-request-id": name})
    assert told["X-Request-Id"] == name
    with traced(name):
        job = queue_job(ada_song, JobKind.PRINT)
    assert job.trace == name
    assert trace() == ""


def test_a_log_line_is_an_object_whatever_it_says():
    record = logging.LogRecord(
        "studio", logging.ERROR, __file__, 1, 'two\nlines "%s"', ("ünïcode",), None
    )
    with traced("abcdef012345"):
        line = JsonLines().format(record)
    assert "\n" not in line
    told = json.loads(line)
    assert told["message"] == 'two\nlines "ünïcode"'
    assert (told["level"], told["request"]) == ("ERROR", "abcdef012345")


def test_the_office_shows_what_failed_and_why_and_tries_it_again(as_admin, ada_song):
    message = "The recording <b>ends</b> early."
    failed = Job.objects.create(
        song=ada_song, kind=JobKind.LINE_UP, state=RunState.FAILED, message=message
    )
    done = Job.objects.create(song=ada_song, kind=JobKind.PRINT, state=RunState.DONE)
    page = as_admin.get("/office/").content.decode()
    assert "The recording &lt;b&gt;ends&lt;/b&gt; early." in page
    wish = {"action": "try_again", "_selected_action": [failed.pk, done.pk]}
    told = as_admin.post("/office/studio/job/", wish, follow=True)
    assert "1 of 2 are tried again." in told.content.decode()
    again = Job.objects.get(state=RunState.QUEUED)
    assert (again.kind, again.song) == (JobKind.LINE_UP, ada_song)
    # It is under way: asked once more nothing is begun.
    told = as_admin.post("/office/studio/job/", wish, follow=True)
    assert "0 of 2 are tried again." in told.content.decode()


def test_the_office_is_closed_to_all_others(as_ada, client, db):
    assert as_ada.get("/office/", follow=True).status_code == 403
    assert client.get("/office/").status_code == 302
    assert administration.now_values()["running"] == []


def test_who_is_let_in_by_the_office_looks_like_nobody_else(as_admin, ada):
    make_account("mina", "a-long-pass-word-7")
    added = {"usable_password": "true", "password1": "ride-bell-31x", "password2": "ride-bell-31x"}

    def add(name):
        return as_admin.post("/office/auth/user/add/", {"username": name, **added})

    told = add("m\u0456na")  # The i is a Cyrillic one.
    assert told.status_code == 200
    assert not User.objects.filter(username="m\u0456na").exists()
    assert add("otto").status_code == 302
    assert Account.objects.filter(user__username="otto").exists()
    with pytest.raises(ValidationError):
        make_account("0tto", "a-long-pass-word-7")

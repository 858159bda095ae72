"""Two people, a song that was transcribed, and clients for them."""

import shutil
from pathlib import Path

import pytest
from django.conf import settings
from django.contrib.auth.models import User
from rest_framework.test import APIClient

from orchesis.pipeline import Result
from studio.actions.store import store_transcription
from studio.jobs.work import do
from studio.models import Job, RunState, Song
from studio.queueing import claim_next
from tests.composing import ROCK, song

SONGS = Path(__file__).resolve().parents[2] / "demo" / "songs"


@pytest.fixture(autouse=True)
def clean_media():
    yield
    shutil.rmtree(settings.MEDIA_ROOT, ignore_errors=True)


def work_off(queue="listen"):
    """Do what the workers of a queue would do, until nothing waits; how many jobs there were."""
    done = 0
    while (job := claim_next(queue)) is not None:
        do(job)
        done += 1
    return done


@pytest.fixture
def ada(db):
    return User.objects.create_user("ada", password="a-long-pass-word")


@pytest.fixture
def ben(db):
    return User.objects.create_user("ben", password="a-long-pass-word")


@pytest.fixture
def client():
    """Nobody."""
    return APIClient()


@pytest.fixture
def as_ada(ada):
    api = APIClient()
    api.force_login(ada)
    return api


@pytest.fixture
def as_ben(ben):
    api = APIClient()
    api.force_login(ben)
    return api


def made(api, address, query=None):
    """The content of a file that a worker makes: asked for, made, asked for again."""
    assert api.get(address, query).status_code == 202
    work_off("render")
    answer = api.get(address, query)
    assert answer.status_code == 200
    return answer, b"".join(answer.streaming_content)


@pytest.fixture
def ada_song(ada):
    """A transcribed song of four bars, without a listening run's cost."""
    stored = Song.objects.create(owner=ada, title="Composed", file_name="take.ogg", suffix=".ogg")
    stored.folder.mkdir(parents=True)
    stored.listening_path.write_bytes(bytes(range(256)) * 40)
    store_transcription(stored, Result(song([ROCK] * 4), (0.1, 1.0, 0.4)))
    Job.objects.create(song=stored, state=RunState.DONE, progress=1.0)
    stored.refresh_from_db()
    return stored

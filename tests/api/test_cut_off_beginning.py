"""A record that begins within its first bar: every stage of it opens."""

import pytest

from orchesis.pipeline import Result
from studio.actions.store import store_transcription
from studio.models import Job, RunState, Song
from tests.api.test_editing import bar_hits, send
from tests.core.test_cut_off_beginning import cut_off

STAGES = [
    "/score",
    "/grooves",
    "/fills",
    "/fills/4/exercises",
    "/feel",
    "/practice",
    "/practice/plans/section-1",
    "/clicks/quarters",
    "/chart?reading=full",
    "/chart?reading=essence",
    "/chart?reading=map",
]


@pytest.fixture
def stored(ada):
    made = Song.objects.create(owner=ada, title="Cut off", file_name="a.ogg", suffix=".ogg")
    made.folder.mkdir(parents=True)
    store_transcription(made, Result(cut_off(), (0.5,)))
    Job.objects.create(song=made, state=RunState.DONE, progress=1.0)
    return made


@pytest.mark.parametrize("stage", STAGES)
def test_each_stage_is_told(as_ada, stored, stage):
    answer = as_ada.get(f"/api/songs/{stored.id}{stage}")
    assert answer.status_code == 200, answer.content[:300]


def test_a_note_of_the_first_beat_can_be_added(as_ada, stored):
    like = bar_hits(as_ada, stored)[0]
    crash = {**like, "instrument": "crash", "position": "0", "time": 0.0}
    assert send(as_ada, stored, None, crash).status_code == 200
    assert bar_hits(as_ada, stored)[0]["instrument"] == "crash"

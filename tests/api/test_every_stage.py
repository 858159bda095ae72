"""Every stage of a song opens, however crowded, odd or cut off it is."""

import re

import pytest

from orchesis.pipeline import Result
from studio.actions.store import store_transcription
from studio.models import Job, RunState, Song
from tests.api.test_editing import bar_hits, send
from tests.core.test_cut_off_beginning import cut_off
from tests.hard_songs import hard_songs

HARD = (
    "triplets and sixteenths",
    "five four",
    "seven eight",
    "twelve eight",
    "changing metres",
    "all in doubt",
    "all ghosts",
    "beside the kit",
    "many short sections",
    "everything at once",
)
SONGS = {
    "begins within its first bar": cut_off(0.502),
    **{name: hard_songs()[name] for name in HARD},
}
STAGES = [
    "/score",
    "/mine",
    "/grooves",
    "/fills",
    "/feel",
    "/practice",
    "/clicks/quarters",
    "/chart?reading=full",
    "/chart?reading=full&notation=limbs&count=true",
    "/chart?reading=full&for_kit=true&sticking=below",
    "/chart?reading=essence",
    "/chart?reading=map",
    "/kin/1",
    "/kin/8",
]
OF_A_FILL = ["exercises", "staff", "elsewhere"]


def stored(owner, score):
    made = Song.objects.create(owner=owner, title="Hard", file_name="a.ogg", suffix=".ogg")
    made.folder.mkdir(parents=True)
    store_transcription(made, Result(score, (0.5,)))
    Job.objects.create(song=made, state=RunState.DONE, progress=1.0)
    return made


@pytest.mark.parametrize("name", SONGS)
def test_each_stage_is_told(as_ada, ada, name):
    home = f"/api/songs/{stored(ada, SONGS[name]).id}"
    stages = list(STAGES)
    for fill in as_ada.get(f"{home}/fills").json()["fills"][:3]:
        stages += [f"/fills/{fill['bar']}/{what}" for what in OF_A_FILL]
    practice = as_ada.get(f"{home}/practice").content.decode()
    stages += [f"/practice/plans/{key}" for key in re.findall(r"section-\d+", practice)[:3]]
    answers = {stage: as_ada.get(home + stage) for stage in stages}
    assert {s: a.content[:300] for s, a in answers.items() if a.status_code != 200} == {}


def test_a_note_before_the_recording_begins_can_be_added(as_ada, ada):
    song = stored(ada, cut_off())
    like = bar_hits(as_ada, song)[0]
    crash = {**like, "instrument": "crash", "position": "0", "time": 0.0}
    assert send(as_ada, song, None, crash).status_code == 200
    assert bar_hits(as_ada, song)[0]["instrument"] == "crash"

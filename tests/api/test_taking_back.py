"""Undo of changes of the whole song: each takes back its own step, and nothing else."""

import uuid

import pytest

from studio.models import SongChange


@pytest.fixture
def url(ada_song):
    return f"/api/songs/{ada_song.id}"


def post(api, url, what, **body):
    answer = api.post(f"{url}/{what}", body, format="json")
    assert answer.status_code == 200, answer.content
    return answer.json()


def state(api, url):
    score = api.get(f"{url}/score").json()
    labels = [section["label"] for section in score["sections"]]
    return labels, score["listening"]["confirmed"]


def test_taking_back_a_confirmation_leaves_the_name_that_was_given_before(as_ada, url):
    first, _ = state(as_ada, url)
    post(as_ada, url, "form", kind="rename", first_bar=1, label="Verse of mine")
    post(as_ada, url, "confirm", finding="tempo", confirmed=True)
    assert state(as_ada, url) == (["Verse of mine"], ["tempo"])
    assert post(as_ada, url, "undo")["words"] == "Undone: Tempo confirmed"
    assert state(as_ada, url) == (["Verse of mine"], [])
    post(as_ada, url, "undo")
    assert state(as_ada, url) == (first, [])
    post(as_ada, url, "redo")
    post(as_ada, url, "redo")
    assert state(as_ada, url) == (["Verse of mine"], ["tempo"])


def test_confirming_what_is_confirmed_is_no_step(as_ada, url):
    post(as_ada, url, "confirm", finding="feel", confirmed=True)
    post(as_ada, url, "confirm", finding="feel", confirmed=True)
    assert SongChange.objects.count() == 1


def test_an_older_step_is_taken_back_under_a_newer_one_of_somebody_else(
    as_ada, as_ben, ben, ada_song, url
):
    post(as_ada, url, "confirm", finding="tempo", confirmed=True)
    post(as_ada, url, "form", kind="split", first_bar=3)
    post(as_ada, url, "confirm", finding="meter", confirmed=True)
    # As if Ben had confirmed the metre: his step is not Ada's to take back.
    SongChange.objects.filter(words="Metre confirmed").update(author=ben)
    post(as_ada, url, "undo")
    labels, confirmed = state(as_ada, url)
    assert (len(labels), confirmed) == (1, ["meter", "tempo"])
    post(as_ada, url, "undo")
    assert state(as_ada, url)[1] == ["meter"]


def test_a_step_that_somebody_else_built_on_is_not_torn_out(as_ada, ben, url):
    post(as_ada, url, "form", kind="split", first_bar=3)
    post(as_ada, url, "form", kind="split", first_bar=2)
    SongChange.objects.filter(words="Section split at bar 2").update(author=ben)
    answer = as_ada.post(f"{url}/undo")
    assert answer.status_code == 409
    assert "since" in answer.json()["detail"]
    assert len(state(as_ada, url)[0]) == 3


def test_edits_made_on_a_new_grid_are_not_lost_by_taking_the_grid_back(as_ada, ben, ada_song, url):
    beats = as_ada.get(f"{url}/score").json()["bars"]
    tapped = [time for bar in beats for time in bar["beats"]]
    post(as_ada, url, "taps", taps=[time + 0.002 for time in tapped], beats_a_bar=4)
    hit = next(bar for bar in as_ada.get(f"{url}/score").json()["bars"] if bar["hits"])["hits"][0]
    edits = [{"before": hit, "after": None}]
    post(as_ada, url, "edits", client_id=str(uuid.uuid4()), edits=edits)
    ada_song.edits.update(author=ben)
    answer = as_ada.post(f"{url}/undo")
    assert answer.status_code == 409
    assert answer.json()["bars"] == [hit["bar"]]

"""Edits over the wire: stored, taken back, refused where the bar has changed."""

import json
import uuid
from concurrent.futures import ThreadPoolExecutor
from io import BytesIO

import mido
import pytest
from django.db import OperationalError, close_old_connections
from rest_framework.test import APIClient

from orchesis.music.json import loads
from studio.models import EditEntry, SongBar
from tests.api.conftest import work_off


def bar_hits(api, song, number=1):
    score = api.get(f"/api/songs/{song.id}/score").json()
    return next(bar for bar in score["bars"] if bar["number"] == number)["hits"]


def send(api, song, before, after, client_id=None):
    edits = [{"before": before, "after": after}]
    body = {"client_id": str(client_id or uuid.uuid4()), "edits": edits}
    return api.post(f"/api/songs/{song.id}/edits", body, format="json")


def stored(song):
    return {bar.number: bar.hits for bar in SongBar.objects.filter(song=song)}


def test_a_note_becomes_a_ghost_and_undo_brings_it_back(as_ada, ada_song):
    original = stored(ada_song)
    snare = next(hit for hit in bar_hits(as_ada, ada_song) if hit["instrument"] == "snare")
    answer = send(as_ada, ada_song, snare, {**snare, "ghost": True, "accent": False}).json()
    assert answer["words"].startswith("Bar 1: snare on beat 2 made a ghost")
    assert (answer["can_undo"], answer["can_redo"]) == (True, False)
    undone = as_ada.post(f"/api/songs/{ada_song.id}/undo").json()
    assert undone["words"].startswith("Undone")
    assert stored(ada_song) == original
    redone = as_ada.post(f"/api/songs/{ada_song.id}/redo").json()
    assert redone["bars"][0]["hits"] == answer["bars"][0]["hits"]


def test_undo_reaches_back_through_every_edit(as_ada, ada_song):
    original = stored(ada_song)
    for hit in bar_hits(as_ada, ada_song, 2):
        assert send(as_ada, ada_song, hit, None).status_code == 200
    assert stored(ada_song)[2] == []
    while as_ada.post(f"/api/songs/{ada_song.id}/undo").status_code == 200:
        pass
    assert json.dumps(stored(ada_song)) == json.dumps(original)
    assert as_ada.post(f"/api/songs/{ada_song.id}/undo").json()["code"] == "not_now"


def test_a_new_edit_ends_what_could_be_redone(as_ada, ada_song):
    first, second, *_ = bar_hits(as_ada, ada_song)
    send(as_ada, ada_song, first, None)
    as_ada.post(f"/api/songs/{ada_song.id}/undo")
    send(as_ada, ada_song, second, None)
    assert as_ada.post(f"/api/songs/{ada_song.id}/redo").status_code == 409


def test_sending_the_same_edit_twice_changes_the_song_once(as_ada, ada_song):
    """The answer of the first may have been lost on the way."""
    hit = bar_hits(as_ada, ada_song)[0]
    client_id = uuid.uuid4()
    first = send(as_ada, ada_song, hit, None, client_id)
    again = send(as_ada, ada_song, hit, None, client_id)
    assert first.json()["bars"] == again.json()["bars"]
    assert EditEntry.objects.count() == 1


def test_an_edit_of_a_bar_that_has_changed_is_refused(as_ada, ada_song):
    hit = bar_hits(as_ada, ada_song)[0]
    send(as_ada, ada_song, hit, {**hit, "accent": True})
    answer = send(as_ada, ada_song, hit, None)
    assert answer.status_code == 409
    assert answer.json()["code"] == "conflict"
    assert answer.json()["bars"] == [1]


@pytest.mark.parametrize(
    "change",
    [
        {"position": "17/16"},
        {"position": "one"},
        {"velocity": 0},
        {"instrument": "gong"},
        {"bar": 99},
        {"time": -1},
        {"limb": "third"},
        {"position": "1/0"},
    ],
)
def test_an_impossible_note_is_refused_and_nothing_is_stored(as_ada, ada_song, change):
    original = stored(ada_song)
    hit = {**bar_hits(as_ada, ada_song)[0], "position": "15/16", **change}
    answer = send(as_ada, ada_song, None, hit)
    assert answer.status_code == 400
    assert answer.json()["detail"]
    assert stored(ada_song) == original
    assert not EditEntry.objects.exists()


def test_an_edit_shows_in_every_file(as_ada, ada_song):
    hit = bar_hits(as_ada, ada_song)[0]
    send(as_ada, ada_song, hit, None)
    files = f"/api/songs/{ada_song.id}/files"
    song = loads(as_ada.get(f"{files}/transcription.json").content.decode())
    assert len(song.hits) == 4 * 12 - 1
    midi = mido.MidiFile(file=BytesIO(as_ada.get(f"{files}/drums.mid").content))
    assert sum(m.type == "note_on" and m.velocity > 0 for m in midi) == 4 * 12 - 1
    assert as_ada.get(f"{files}/chart.pdf").status_code == 202, "it is being printed"
    work_off("render")
    pdf = as_ada.get(f"{files}/chart.pdf")
    assert b"".join(pdf.streaming_content).startswith(b"%PDF")
    assert "Composed" in pdf["Content-Disposition"]
    assert as_ada.get(f"{files}/passwords.txt").status_code == 404


def test_a_database_that_goes_away_says_so_and_claims_nothing(as_ada, ada_song, monkeypatch):
    hit = bar_hits(as_ada, ada_song)[0]
    original = stored(ada_song)

    def away(*args, **options):
        raise OperationalError(2006, "Server has gone away")

    monkeypatch.setattr("studio.actions.action._edit_bars", away)
    answer = send(as_ada, ada_song, hit, None)
    assert answer.status_code == 503
    assert answer.json()["code"] == "database_away"
    monkeypatch.undo()
    assert stored(ada_song) == original
    assert send(as_ada, ada_song, hit, None).status_code == 200


@pytest.mark.django_db(transaction=True)
def test_two_people_at_once_never_lose_an_edit(ada, ada_song):
    """Sixteen edits of different notes of one bar, four at a time: all of them count."""
    rows = SongBar.objects.get(song=ada_song, number=1)
    hits = list(rows.hits)

    def remove(hit):
        api = APIClient()
        api.force_login(ada)
        try:
            return send(api, ada_song, hit, None).status_code
        finally:
            close_old_connections()

    with ThreadPoolExecutor(4) as pool:
        codes = list(pool.map(remove, hits))
    assert codes == [200] * len(hits)
    rows.refresh_from_db()
    assert rows.hits == []
    assert EditEntry.objects.count() == len(hits)

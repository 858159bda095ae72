"""What the page shows is kept per revision: never stale, never another song's."""

import re
import uuid

import pytest

from studio.actions.importing import delete_song
from studio.models import Song
from studio.values import page
from studio.values import shown as keeping
from studio.values.shown import shown
from tests.api.test_grid_and_form import counted, post, score, stored

__all__ = ["counted"]


def kept(song):
    return sorted(path.name for path in (song.folder / "shown").glob("*"))


@pytest.mark.parametrize("name", ["score", "grooves"])
def test_the_second_look_at_a_revision_is_not_worked_out_again(as_ada, ada_song, name, monkeypatch):
    first = as_ada.get(f"/api/songs/{ada_song.id}/{name}").json()
    file, twin = kept(ada_song)
    assert re.match(rf"{name}[.-]", file)
    assert twin == f"{file}.gz"
    for work in ("written_values", "groove_values"):
        monkeypatch.setattr(page, work, lambda *_: pytest.fail("worked out again"))
    assert as_ada.get(f"/api/songs/{ada_song.id}/{name}").json() == first


def test_an_edit_shows_at_the_next_look(as_ada, ada_song):
    before = score(as_ada, ada_song)
    as_ada.get(f"/api/songs/{ada_song.id}/grooves")
    edit = {"before": before["bars"][0]["hits"][0], "after": None}
    post(as_ada, ada_song, "edits", client_id=str(uuid.uuid4()), edits=[edit])
    after = score(as_ada, ada_song)
    assert len(after["bars"][0]["hits"]) == len(before["bars"][0]["hits"]) - 1
    assert (before["can_undo"], after["can_undo"]) == (False, True)
    grooves = as_ada.get(f"/api/songs/{ada_song.id}/grooves").json()
    assert grooves["revision"] == after["revision"] == before["revision"] + 1
    post(as_ada, ada_song, "undo")
    assert score(as_ada, ada_song)["bars"][0]["hits"] == before["bars"][0]["hits"]


def test_what_an_older_version_of_the_code_worked_out_is_not_shown(ada_song, monkeypatch):
    assert shown(ada_song, "score", lambda: {"made": "by the old"}) == b'{"made":"by the old"}'
    monkeypatch.setattr(keeping, "code_stamp", lambda: "another")
    assert shown(ada_song, "score", lambda: {"made": "anew"}) == b'{"made":"anew"}'


def test_files_that_come_later_are_told(as_ada, ada_song):
    assert score(as_ada, ada_song)["parts"] == []
    ada_song.part_path("drums-down").write_bytes(b"sound")
    assert score(as_ada, ada_song)["parts"] == ["drums-down"]


@pytest.mark.django_db(transaction=True)
def test_nothing_is_written_for_a_song_that_was_deleted_meanwhile(ada_song):
    folder = ada_song.folder
    delete_song(Song.objects.get(pk=ada_song.pk))
    assert shown(ada_song, "score", dict) == b"{}"
    assert not folder.exists()


def test_a_reading_is_shown_as_it_will_be_and_changes_nothing(as_ada, counted):
    before, text = score(as_ada, counted), stored(counted)
    key = before["listening"]["readings"][1]["key"]
    preview = as_ada.get(f"/api/songs/{counted.id}/reading", {"key": key}).json()
    assert stored(counted) == text
    assert score(as_ada, counted) == before
    taken = post(as_ada, counted, "reading", key=key).json()["score"]
    own = ("revision", "bars")
    assert {k: v for k, v in preview.items() if k not in own} == {
        k: v for k, v in taken.items() if k not in own
    }
    strokes = [[(h["position"], h["instrument"]) for h in bar["hits"]] for bar in taken["bars"]]
    assert strokes == [
        [(h["position"], h["instrument"]) for h in bar["hits"]] for bar in preview["bars"]
    ]


@pytest.mark.parametrize("key", ["tracked/7-8/0", "../../secrets", "", "x" * 500])
def test_only_readings_of_the_song_can_be_looked_at(as_ada, counted, key):
    answer = as_ada.get(f"/api/songs/{counted.id}/reading", {"key": key})
    assert answer.status_code in (400, 404)
    assert not (counted.folder / "shown").exists()

"""Publishing: an edition stays as it is while work goes on; a folder that needs no server."""

import io
import json
import re
import zipfile

import pytest
from rest_framework.test import APIClient

from studio.actions import groups
from studio.models import PracticeEntry, Song
from studio.people import Edition, GroupSong, Seat, ShareLink
from tests.api.conftest import made


def publish(api, song, words=""):
    return api.post(f"/api/songs/{song.id}/editions", {"words": words}, format="json")


def remove_a_note(api, song, number=1):
    score = api.get(f"/api/songs/{song.id}/score").json()
    bar = next(bar for bar in score["bars"] if bar["number"] == number)
    body = {
        "client_id": f"0b8f6d52-9a5e-4b6f-8a5e-3f1f7c0a00{number:02}",
        "edits": [{"before": bar["hits"][0], "after": None}],
    }
    assert api.post(f"/api/songs/{song.id}/edits", body, format="json").status_code == 200


def notes(api, song):
    score = api.get(f"/api/songs/{song.id}/score").json()
    return sum(len(bar["hits"]) for bar in score["bars"])


@pytest.fixture
def reader(ada_song, as_ben, ben):
    Seat.objects.create(song=ada_song, user=ben, role="reader")
    return as_ben


def test_readers_get_the_edition_and_whoever_works_on_it_the_work(ada_song, as_ada, reader):
    before = notes(as_ada, ada_song)
    assert publish(as_ada, ada_song, "First one").json()["number"] == 1
    remove_a_note(as_ada, ada_song, 2)
    assert (notes(as_ada, ada_song), notes(reader, ada_song)) == (before - 1, before)
    told = reader.get(f"/api/songs/{ada_song.id}").json()
    assert told["id"] == str(ada_song.id)
    assert told["edition"]["words"] == "First one"
    assert not as_ada.get(f"/api/songs/{ada_song.id}").json()["edition"]["is_current"]
    second = publish(as_ada, ada_song).json()
    assert (second["number"], second["changed"]) == (2, ["bar 2 changed"])
    assert notes(reader, ada_song) == before - 1


def test_links_show_the_edition_too(ada_song, as_ada):
    link = ShareLink.objects.create(song=ada_song, reading="full", level="all", with_audio=True)
    guest = APIClient()
    guest.post("/api/shared", {"token": link.token}, format="json")
    before = notes(guest, ada_song)
    publish(as_ada, ada_song)
    remove_a_note(as_ada, ada_song)
    assert notes(guest, ada_song) == before
    assert guest.get(f"/api/songs/{ada_song.id}/audio").status_code == 200
    assert guest.get(f"/api/songs/{ada_song.id}/chart").status_code == 200


def test_what_is_practised_is_kept_with_the_song_not_with_its_edition(ada_song, as_ada, reader):
    publish(as_ada, ada_song)
    entry = {
        "client_id": "0b8f6d52-9a5e-4b6f-8a5e-3f1f7c0a0077",
        "target": "section-1",
        "step": "limb_by_limb-0",
        "title": "The right hand",
        "played_at": "2026-03-01T10:00:00Z",
        "share": 0.7,
        "bpm": 80,
        "loops": 4,
        "minutes": 2,
        "feeling": "easy",
        "level_db": 90,
        "told": [],
    }
    address = f"/api/songs/{ada_song.id}/practice"
    told = reader.post(f"{address}/log", {"entries": [entry]}, format="json")
    assert told.status_code == 200, told.json()
    remove_a_note(as_ada, ada_song)
    publish(as_ada, ada_song)
    assert len(reader.get(address).json()["log"]) == 1
    assert PracticeEntry.objects.get().song_id == ada_song.id


def test_the_same_is_not_published_twice(ada_song, as_ada):
    publish(as_ada, ada_song)
    again = publish(as_ada, ada_song)
    assert again.status_code == 409
    assert "edition 1 is the song as it is now" in again.json()["detail"].lower()


def test_copies_are_on_no_shelf_and_go_with_their_song(ada_song, as_ada, reader):
    publish(as_ada, ada_song)
    remove_a_note(as_ada, ada_song)
    publish(as_ada, ada_song)
    assert Song.objects.count() == 2, "only the newest edition has a copy"
    for api in (as_ada, reader):
        assert len(api.get("/api/shelf").json()["songs"]) == 1
        assert len(api.get("/api/songs").json()) == 1
    assert as_ada.delete(f"/api/songs/{ada_song.id}").status_code == 204
    assert not Song.objects.exists()
    assert not Edition.objects.exists()


def test_withdrawn_editions_show_the_song_as_it_is(ada_song, as_ada, reader):
    publish(as_ada, ada_song)
    remove_a_note(as_ada, ada_song)
    assert as_ada.delete(f"/api/songs/{ada_song.id}/editions").status_code == 204
    assert notes(reader, ada_song) == notes(as_ada, ada_song)
    assert Song.objects.count() == 1


def test_a_folder_needs_no_server(ada_song, as_ada):
    Song.objects.filter(pk=ada_song.pk).update(title="</script><b>Composed</b>")
    _, content = made(as_ada, f"/api/songs/{ada_song.id}/pages.zip", {"reading": "essence"})
    folder = zipfile.ZipFile(io.BytesIO(content))
    names = {name.removeprefix("chart/") for name in folder.namelist()}
    assert {"index.html", "player.js", "data.js", "page-1.svg"} <= names
    page = folder.read("chart/index.html").decode()
    assert "<b>Composed" not in page
    wanted = re.findall(r'src="([^"]+)"', page) + re.findall(r"url\(([^)]+)\)", page)
    assert len(wanted) > 4
    assert set(wanted) <= names, "nothing is fetched from elsewhere"
    data = folder.read("chart/data.js").decode().removeprefix("window.DATA = ")
    assert "</" not in data
    played = json.loads(data)
    assert len(played["strokes"]) == notes(as_ada, ada_song)
    assert {name.split("-")[0] for name in played["sounds"]} == {"hihat_closed", "snare", "kick"}


def test_a_band_sheet_has_a_page_a_song(ada_song, ada, as_ada):
    group = groups.make_group(ada, "Pier", "band")
    empty = as_ada.get(f"/api/groups/{group.pk}/sheet.pdf")
    assert empty.status_code == 404
    other = Song.objects.create(owner=ada, title="Not heard yet", file_name="b.ogg", suffix=".ogg")
    for place, song in enumerate((ada_song, other)):
        GroupSong.objects.create(group=group, song=song, place=place)
    address = f"/api/groups/{group.pk}/sheet.pdf"
    _, first = made(as_ada, address)
    assert first.startswith(b"%PDF")
    # Once made it is there; another order of the set is another sheet.
    assert as_ada.get(address).status_code == 200
    Song.objects.filter(pk=ada_song.pk).update(title="Called otherwise")
    assert as_ada.get(address).status_code == 202


def test_a_link_to_a_list_opens_all_of_its_songs_and_no_other(ada_song, ada, as_ada):
    group = groups.make_group(ada, "Pier", "band")
    GroupSong.objects.create(group=group, song=ada_song)
    made = as_ada.post(f"/api/groups/{group.pk}/links", {"reading": "map"}, format="json").json()
    guest = APIClient()
    token = made["path"].rpartition("/")[2]
    told = guest.post("/api/shared", {"token": token}, format="json").json()
    assert (told["song"], told["title"]) == (None, "Pier")
    assert [one["title"] for one in told["songs"]] == ["Composed"]
    assert guest.get(f"/api/songs/{ada_song.id}/chart", {"reading": "map"}).status_code == 200
    GroupSong.objects.all().delete()
    assert guest.get(f"/api/songs/{ada_song.id}/chart").status_code == 403


def test_a_list_hands_on_no_recording_of_anybody_else_not_even_one_that_comes_later(
    ada_song, as_ben, ben
):
    band = groups.make_group(ben, "Pier", "band")
    wish = {"reading": "map", "with_audio": True}
    made = as_ben.post(f"/api/groups/{band.pk}/links", wish, format="json").json()
    GroupSong.objects.create(group=band, song=ada_song)
    guest = APIClient()
    guest.post("/api/shared", {"token": made["path"].rpartition("/")[2]}, format="json")
    assert guest.get(f"/api/songs/{ada_song.id}/chart").status_code == 200
    assert guest.get(f"/api/songs/{ada_song.id}/audio").status_code == 404
    band.owner = ada_song.owner
    band.save()
    assert guest.get(f"/api/songs/{ada_song.id}/audio").status_code == 200
    refused = as_ben.post(f"/api/groups/{band.pk}/links", wish, format="json")
    assert refused.status_code == 403


def test_similar_grooves_leave_out_editions(as_ada, ada_song):
    """The copy that an edition is was in the library of grooves and had no title there."""
    assert as_ada.post(f"/api/songs/{ada_song.id}/editions", {}, format="json").status_code == 201
    answer = as_ada.get(f"/api/songs/{ada_song.id}/kin/1")
    assert answer.status_code == 200
    assert {one["song"] for one in answer.json()["relatives"]} <= {str(ada_song.id)}

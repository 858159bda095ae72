"""The shelf: found, sorted and tagged from what is stored; ten thousand songs are quick."""

import pytest

from studio.actions.counting import count_changed
from studio.models import Song
from studio.people import Tag


@pytest.fixture
def songs(ada, ada_song):
    """Three more songs beside the composed one, as they are when they have been counted."""
    made = [
        ("Slow Ferry", "The Pier", 72, "3/4", "straight", 0, 2.1, "a waltz"),
        ("Night Bus", "The Pier", 148, "4/4", "swung sixteenths 1.4 : 1", 31, 6.3, "a train beat"),
        ("Nightfall", "", 96, "4/4", "half-time feel", 4, 3.0, ""),
    ]
    for title, performer, tempo, meter, feel, doubts, hard, rhythms in made:
        Song.objects.create(
            owner=ada,
            title=title,
            performer=performer,
            file_name="a.ogg",
            suffix=".ogg",
            tempo_bpm=tempo,
            meter=meter,
            feel=feel,
            doubt_count=doubts,
            difficulty=hard,
            rhythms=rhythms,
            revision=1,
            counted_at=1,
        )
    count_changed(ada)
    return ada_song


def test_a_song_that_cannot_be_counted_hides_no_other(songs, ada, as_ada, monkeypatch, caplog):
    def fails(song):
        raise ZeroDivisionError("division by zero")

    Song.objects.filter(pk=songs.pk).update(counted_at=0)
    monkeypatch.setattr("studio.actions.counting.grooves_page", fails)
    assert {"Slow Ferry", "Night Bus", "Nightfall"} < set(titles(as_ada))
    assert "could not be counted" in caplog.text
    caplog.clear()
    titles(as_ada)
    assert not caplog.text


def titles(api, **wish):
    told = api.get("/api/shelf", wish).json()
    assert "songs" in told, told
    return [song["title"] for song in told["songs"]]


@pytest.mark.parametrize(
    ("search", "found"),
    [
        ("night", ["Nightfall", "Night Bus"]),
        ("pier", ["Night Bus", "Slow Ferry"]),
        ("pier 148", ["Night Bus"]),
        ("swung", ["Night Bus"]),
        ("waltz", ["Slow Ferry"]),
        ("3/4", ["Slow Ferry"]),
        ("97bpm", ["Nightfall"]),
        ("nothing like it", []),
        ("%", []),
    ],
)
def test_songs_are_found_by_what_is_known_of_them(songs, as_ada, search, found):
    assert titles(as_ada, search=search) == found


@pytest.mark.parametrize(
    ("sort", "first"),
    [("title", "Composed"), ("doubts", "Night Bus"), ("difficulty", None), ("tempo", "Slow Ferry")],
)
def test_songs_are_sorted(songs, as_ada, sort, first):
    told = as_ada.get("/api/shelf", {"sort": sort}).json()["songs"]
    assert len(told) == 4
    if first:
        assert told[0]["title"] == first
    if sort == "difficulty":
        assert [s["difficulty"] for s in told] == sorted(s["difficulty"] for s in told)


def test_what_is_left_to_check_is_a_way_to_look(songs, as_ada):
    assert set(titles(as_ada, left="doubts")) >= {"Night Bus", "Nightfall"}
    assert "Slow Ferry" in titles(as_ada, left="nothing")


def test_tags_are_one_s_own(songs, as_ada, as_ben):
    address = f"/api/songs/{songs.id}/tags"
    told = as_ada.put(address, {"tags": ["  set  one ", "brushes", "brushes"]}, format="json")
    assert told.json() == {"tags": ["brushes", "set one"]}
    assert titles(as_ada, tag="set one") == ["Composed"]
    assert as_ada.get("/api/shelf").json()["tags"] == [
        {"name": "brushes", "count": 1},
        {"name": "set one", "count": 1},
    ]
    as_ada.post(f"/api/songs/{songs.id}/people", {"name": "ben", "role": "reader"}, format="json")
    assert as_ben.get("/api/shelf").json()["tags"] == []
    as_ada.put(address, {"tags": []}, format="json")
    assert not Tag.objects.exists()


def test_counts_follow_an_edit_when_the_shelf_is_looked_at_next(ada_song, as_ada):
    before = as_ada.get("/api/shelf").json()["songs"][0]
    assert (before["bars"], before["doubts"]) == (4, 0)
    assert before["difficulty"] > 0
    hit = as_ada.get(f"/api/songs/{ada_song.id}/score").json()["bars"][0]["hits"][0]
    edit = {"before": hit, "after": {**hit, "status": "doubtful", "confidence": 0.4}}
    body = {"client_id": "0b8f6d52-9a5e-4b6f-8a5e-3f1f7c0a0009", "edits": [edit]}
    assert as_ada.post(f"/api/songs/{ada_song.id}/edits", body, format="json").status_code == 200
    assert as_ada.get("/api/shelf").json()["songs"][0]["doubts"] == 1


def test_a_page_is_a_few_statements_whatever_is_on_it(
    songs, ada, as_ada, django_assert_max_num_queries
):
    Song.objects.bulk_create(
        Song(owner=ada, title=f"Song {n}", file_name="a.ogg", suffix=".ogg") for n in range(100)
    )
    with django_assert_max_num_queries(22):
        told = as_ada.get("/api/shelf", {"sort": "practised"}).json()
    assert (len(told["songs"]), told["count"], told["pages"]) == (40, 104, 3)
    assert len(as_ada.get("/api/shelf", {"page": 3}).json()["songs"]) == 24
    assert as_ada.get("/api/shelf", {"page": 99}).json()["page"] == 3


@pytest.mark.parametrize("wish", [{"sort": "owner__password"}, {"page": "x"}, {"left": "all"}])
def test_what_cannot_be_looked_for_is_refused(songs, as_ada, wish):
    assert as_ada.get("/api/shelf", wish).status_code == 400


def test_who_plays_it_is_typed_by_its_owner(ada_song, as_ada):
    told = as_ada.patch(f"/api/songs/{ada_song.id}", {"performer": "The Pier"}, format="json")
    assert told.status_code == 200
    assert told.json()["title"] == "Composed"
    assert titles(as_ada, search="pier") == ["Composed"]

"""Seats at a song, and links to it: who sees what, for how long, and what a refusal says."""

from datetime import timedelta

import pytest
from django.utils import timezone
from rest_framework.test import APIClient

from studio.people import Seat, ShareLink

ESSENCE = {"reading": "essence", "level": "no_ghosts"}


def give(api, song, name, role):
    body = {"name": name, "role": role}
    return api.post(f"/api/songs/{song.id}/people", body, format="json")


def make(api, song, **wish):
    answer = api.post(f"/api/songs/{song.id}/links", {**ESSENCE, **wish}, format="json")
    assert answer.status_code == 201, answer.json()
    return answer.json()


def opened(token):
    """A browser of somebody without an account, and what it is answered."""
    api = APIClient()
    return api, api.post("/api/shared", {"token": token}, format="json")


def token_of(link):
    return link["path"].rpartition("/")[2]


def test_a_reader_reads_and_practises_but_does_not_write(ada_song, as_ada, as_ben, ben):
    assert give(as_ada, ada_song, "ben", "reader").json()["seats"][0]["name"] == "ben"
    shelf = as_ben.get("/api/songs").json()
    assert [(song["title"], song["role"], song["owner"]) for song in shelf] == [
        ("Composed", "reader", "ada")
    ]
    score = as_ben.get(f"/api/songs/{ada_song.id}/score")
    assert score.status_code == 200
    undone = as_ben.post(f"/api/songs/{ada_song.id}/undo")
    assert undone.status_code == 403
    assert undone.json()["detail"].startswith("You may read this song")


def test_a_co_transcriber_edits_and_the_owner_sees_who_did(ada_song, as_ada, as_ben, ben):
    give(as_ada, ada_song, "ben", "editor")
    hit = as_ben.get(f"/api/songs/{ada_song.id}/score").json()["bars"][0]["hits"][0]
    edit = {
        "client_id": "0b8f6d52-9a5e-4b6f-8a5e-3f1f7c0a0001",
        "edits": [{"before": hit, "after": None}],
    }
    told = as_ben.post(f"/api/songs/{ada_song.id}/edits", edit, format="json")
    assert told.status_code == 200
    history = as_ada.get(f"/api/songs/{ada_song.id}/history/{hit['bar']}").json()
    assert history[-1]["author"] == "ben"


def test_what_each_undoes_is_his_own(ada_song, as_ada, as_ben, ben):
    give(as_ada, ada_song, "ben", "editor")
    assert as_ben.post(f"/api/songs/{ada_song.id}/undo").status_code == 409


def test_a_seat_is_changed_given_back_and_taken_away(ada_song, as_ada, as_ben, ben):
    give(as_ada, ada_song, "ben", "reader")
    give(as_ada, ada_song, "ben", "editor")
    assert [seat.role for seat in Seat.objects.all()] == ["editor"]
    assert as_ben.delete(f"/api/songs/{ada_song.id}/people").status_code == 204
    assert as_ben.get(f"/api/songs/{ada_song.id}").status_code == 404
    seat = give(as_ada, ada_song, "ben", "reader").json()["seats"][0]["id"]
    assert as_ada.delete(f"/api/songs/{ada_song.id}/people/{seat}").status_code == 204
    assert as_ben.get("/api/songs").json() == []


@pytest.mark.parametrize(
    ("name", "says"), [("nobody-at-all", "nobody here is called"), ("ada", "yours already")]
)
def test_seats_are_for_people_who_are_there(ada_song, as_ada, name, says):
    answer = give(as_ada, ada_song, name, "reader")
    assert answer.status_code in (404, 409)
    assert says in answer.json()["detail"].lower()


def test_a_link_opens_the_chart_and_the_player_and_is_counted(ada_song, as_ada):
    link = make(as_ada, ada_song, words="Saturday's band")
    guest, told = opened(token_of(link))
    assert told.json() == {
        "songs": [
            {
                "song": str(ada_song.id),
                "title": "Composed",
                "tempo_bpm": 120.0,
                "with_audio": False,
            }
        ],
        "song": str(ada_song.id),
        "title": "Composed",
        "sender": "ada",
        "words": "Saturday's band",
        "with_audio": False,
        **ESSENCE,
    }
    at = f"/api/songs/{ada_song.id}"
    assert guest.get(f"{at}/score").status_code == 200
    assert guest.get(f"{at}/practice").json()["log"] == []
    seen = guest.get(at).json()
    assert (seen["role"], seen["has_recording"], seen["file_name"]) == ("link", False, "")
    opened(token_of(link))
    assert as_ada.get(f"{at}/links").json()[0]["opened"] == 2


def test_the_recording_goes_along_only_where_its_owner_says_so(ada_song, as_ada):
    without, _ = opened(token_of(make(as_ada, ada_song)))
    answer = without.get(f"/api/songs/{ada_song.id}/audio")
    assert answer.status_code == 404
    assert "without the recording" in answer.json()["detail"]
    with_it, _ = opened(token_of(make(as_ada, ada_song, with_audio=True)))
    assert with_it.get(f"/api/songs/{ada_song.id}/audio").status_code == 200


def test_a_link_to_one_song_opens_no_other(ada_song, ada, as_ada):
    guest, _ = opened(token_of(make(as_ada, ada_song)))
    other = ada_song.__class__.objects.create(
        owner=ada, title="Other", file_name="b.ogg", suffix=""
    )
    assert guest.get(f"/api/songs/{other.id}").status_code == 403


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"revoked_at": timezone.now()}, "was taken back: ask ada"),
        ({"expires_at": timezone.now() - timedelta(days=2)}, "was good until"),
    ],
    ids=["revoked", "expired"],
)
def test_a_link_that_opens_no_more_says_what_happened_and_whom_to_ask(ada_song, change, says):
    link = ShareLink.objects.create(song=ada_song, **ESSENCE, **change)
    _, told = opened(link.token)
    assert told.status_code == 404
    assert says in told.json()["detail"]
    assert "ask ada" in told.json()["detail"]


@pytest.mark.parametrize("token", ["x", "A" * 32, "../../etc", "'; drop table--"])
def test_a_forged_link_opens_nothing(ada_song, token):
    _, told = opened(token)
    assert told.status_code == 404
    assert "opens nothing" in told.json()["detail"]


def test_a_link_must_end_later_than_now(ada_song, as_ada):
    past = (timezone.now() - timedelta(hours=1)).isoformat()
    answer = as_ada.post(
        f"/api/songs/{ada_song.id}/links", {**ESSENCE, "expires_at": past}, format="json"
    )
    assert answer.status_code == 409


def test_whoever_has_a_seat_sees_it_without_the_links_limits(ada_song, as_ada, as_ben, ben):
    token = token_of(make(as_ada, ada_song))
    as_ben.post("/api/shared", {"token": token}, format="json")
    give(as_ada, ada_song, "ben", "reader")
    assert as_ben.get(f"/api/songs/{ada_song.id}").json()["role"] == "reader"
    assert as_ben.get(f"/api/songs/{ada_song.id}/audio").status_code == 200

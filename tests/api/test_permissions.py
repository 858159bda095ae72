"""Every endpoint checks who asks: nothing of anyone is visible to anyone else."""

import uuid

import pytest
from django.contrib.auth.models import User
from django.test import Client
from django.urls import URLPattern
from django.utils import timezone
from rest_framework.test import APIClient

from studio.actions import groups
from studio.actions.accounts import demo_account
from studio.models import Song
from studio.people import Member, Seat, SeatRole, ShareLink
from studio.urls import urlpatterns
from studio.values.access import Role

PATHS = [
    ("get", ""),
    ("patch", ""),
    ("delete", ""),
    ("post", "/listening"),
    ("delete", "/listening"),
    ("get", "/score"),
    ("get", "/mine"),
    ("get", "/clicks/quarters"),
    ("post", "/edits"),
    ("post", "/undo"),
    ("post", "/redo"),
    ("get", "/chart"),
    ("post", "/cues"),
    ("post", "/parts"),
    ("post", "/part-file"),
    ("get", "/bundle"),
    ("get", "/files/drums.mid"),
    ("get", "/audio"),
    ("get", "/audio/drums-down"),
    ("get", "/evidence/1"),
    ("get", "/bars/1/staff"),
    ("get", "/evidence"),
    ("get", "/grooves"),
    ("post", "/gestures"),
    ("get", "/saying"),
    ("get", "/relisten"),
    ("get", "/heard-again"),
    ("post", "/heard-again"),
    ("delete", "/heard-again"),
    ("get", "/history/1"),
    ("get", "/kin/1"),
    ("get", "/kin/1/chain"),
    ("get", "/picture/1"),
    ("get", "/peaks"),
    ("get", "/reading"),
    ("post", "/reading"),
    ("post", "/taps"),
    ("post", "/tempo"),
    ("post", "/downbeats/shift"),
    ("post", "/bars/even-out"),
    ("post", "/beat-notation"),
    ("post", "/division"),
    ("post", "/bar-line"),
    ("post", "/confirm"),
    ("post", "/form"),
    ("get", "/fills"),
    ("post", "/fills"),
    ("get", "/fills/1/exercises"),
    ("get", "/fills/1/staff"),
    ("get", "/fills/1/elsewhere"),
    ("get", "/feel"),
    ("post", "/rhythm-name"),
    ("get", "/practice"),
    ("get", "/practice/plans/section-1"),
    ("put", "/practice/plans/section-1"),
    ("delete", "/practice/plans/section-1"),
    ("post", "/practice/variation/section-1"),
    ("post", "/practice/log"),
    ("delete", "/practice/log"),
    ("get", "/practice/log.csv"),
    ("post", "/practice/played"),
    ("post", "/practice/stand-in"),
    ("post", "/practice/mixes"),
    ("post", "/practice/mixes/cancel"),
    ("get", "/practice/mixes/abc"),
    ("get", "/practice-list"),
    ("post", "/practice-list"),
    ("delete", "/practice-list/1"),
    ("get", "/kit"),
    ("put", "/kit"),
    ("post", "/hands"),
    ("get", "/sources"),
    ("post", "/sources"),
    ("delete", "/sources/1"),
    ("post", "/sources/1/follow"),
    ("post", "/sources/1/line-up"),
    ("get", "/sources/1/audio"),
    ("post", "/editions"),
    ("delete", "/editions"),
    ("get", "/pages.zip"),
    ("put", "/tags"),
    ("get", "/comments"),
    ("post", "/comments"),
    ("patch", "/comments/1"),
    ("delete", "/comments/1"),
    ("post", "/here"),
    ("get", "/people"),
    ("post", "/people"),
    ("delete", "/people"),
    ("delete", "/people/1"),
    ("get", "/links"),
    ("post", "/links"),
    ("delete", f"/links/{uuid.UUID(int=1)}"),
]
LINK, READER, EDITOR, OWNER = Role.LINK, Role.READER, Role.EDITOR, Role.OWNER
FOR_LINKS = {
    ("get", ""),
    ("get", "/score"),
    ("get", "/mine"),
    ("get", "/clicks/quarters"),
    ("get", "/chart"),
    ("get", "/files/drums.mid"),
    ("get", "/audio"),
    ("get", "/audio/drums-down"),
    ("get", "/peaks"),
    ("get", "/practice"),
    ("get", "/practice/plans/section-1"),
    ("post", "/practice/variation/section-1"),
    ("post", "/practice/played"),
    ("post", "/practice/stand-in"),
}
"""What a link opens: the chart and the player."""

FOR_READERS = {
    ("put", "/practice/plans/section-1"),
    ("delete", "/practice/plans/section-1"),
    ("post", "/practice/log"),
    ("delete", "/practice/log"),
    ("post", "/practice/mixes"),
    ("post", "/practice/mixes/cancel"),
    ("post", "/practice-list"),
    ("delete", "/practice-list/1"),
    ("delete", "/people"),
    ("put", "/tags"),
    ("post", "/comments"),
    ("patch", "/comments/1"),
    ("delete", "/comments/1"),
    ("post", "/here"),
}
"""What changes nothing but what is the reader's own."""

FOR_OWNERS = {
    ("post", "/editions"),
    ("delete", "/editions"),
    ("patch", ""),
    ("delete", ""),
    ("post", "/people"),
    ("delete", "/people/1"),
    ("get", "/links"),
    ("post", "/links"),
    ("delete", f"/links/{uuid.UUID(int=1)}"),
}


def least(method, path):
    """The least that one must be to a song for this."""
    asked = (method, path)
    for role, own in ((LINK, FOR_LINKS), (READER, FOR_READERS), (OWNER, FOR_OWNERS)):
        if asked in own:
            return role
    return READER if method == "get" else EDITOR


def test_the_list_of_endpoints_below_is_complete():
    below_a_song = {
        str(route.pattern).removeprefix("api/songs/<uuid:song_id>")
        for route in urlpatterns
        if isinstance(route, URLPattern)
        and str(route.pattern).startswith("api/songs/<uuid:song_id>")
    }
    names = {
        "drums.mid": "<str:name>",
        "drums-down": "<str:part>",
        "evidence/1": "evidence/<bar:bar>",
        "bars/1": "bars/<bar:bar>",
        "clicks/quarters": "clicks/<str:subdivision>",
        "fills/1": "fills/<bar:bar>",
        "practice-list/1": "practice-list/<row:item_id>",
        "plans/section-1": "plans/<slug:target>",
        "variation/section-1": "variation/<slug:target>",
        "mixes/abc": "mixes/<slug:name>",
        "history/1": "history/<bar:bar>",
        "kin/1": "kin/<bar:bar>",
        "picture/1": "picture/<bar:bar>",
        "sources/1": "sources/<row:source_id>",
        "comments/1": "comments/<row:comment_id>",
        "people/1": "people/<row:seat_id>",
        f"links/{uuid.UUID(int=1)}": "links/<uuid:link_id>",
    }
    tested = {path for _, path in PATHS}
    for made, pattern in names.items():
        tested = {path.replace(made, pattern) for path in tested}
    assert below_a_song == tested


@pytest.mark.parametrize(("method", "path"), PATHS)
def test_a_song_does_not_exist_for_anybody_else(ada_song, as_ben, method, path):
    body = {"client_id": str(uuid.uuid4()), "edits": [], "title": "Mine"}
    body |= {"bpm": 100, "key": "x", "taps": [1.0], "beats_a_bar": 4, "bar": 1, "time": 1.0}
    body |= {"finding": "feel", "confirmed": True, "kind": "merge", "first_bar": 1}
    form = "multipart" if path == "/sources" else "json"
    body = {} if path == "/sources" else body
    options = {} if method == "get" else {"data": body, "format": form}
    answer = getattr(as_ben, method)(f"/api/songs/{ada_song.id}{path}", **options)
    assert answer.status_code == 404
    assert Song.objects.get().title == "Composed"


@pytest.fixture
def holder(ada_song):
    """Somebody without an account who has opened a link to the song, and the link."""
    link = ShareLink.objects.create(song=ada_song, reading="essence", level="all", with_audio=True)
    api = APIClient()
    assert api.post("/api/shared", {"token": link.token}, format="json").status_code == 200
    return api, link


def refused_by_right(answer):
    """Whether it was refused for who asks, and not for what was asked."""
    told = answer.json() if answer.get("Content-Type") == "application/json" else {}
    text = told.get("detail", "") if isinstance(told, dict) else ""
    return answer.status_code == 403 or text == "There is no such song on your shelf."


@pytest.mark.parametrize("role", [LINK, READER, EDITOR, OWNER], ids=lambda role: role.name)
def test_each_may_do_what_is_his_and_nothing_else(
    ada_song, as_ada, as_ben, ben, holder, role, monkeypatch
):
    monkeypatch.setattr("studio.api.songs.delete_song", lambda song: None)
    asks = {LINK: holder[0], READER: as_ben, EDITOR: as_ben, OWNER: as_ada}[role]
    wrong = []
    for method, path in PATHS:
        if role in (READER, EDITOR):
            # Some of what is asked gives the seat back.
            Seat.objects.update_or_create(
                song=ada_song, user=ben, defaults={"role": role.name.lower()}
            )
        answer = getattr(asks, method)(f"/api/songs/{ada_song.id}{path}")
        if refused_by_right(answer) != (role < least(method, path)):
            wrong.append((method, path, answer.status_code, answer.content[:80]))
    assert not wrong


def test_a_link_that_was_taken_back_opens_nothing_more(ada_song, holder):
    api, link = holder
    for method, path in FOR_LINKS:
        assert not refused_by_right(getattr(api, method)(f"/api/songs/{ada_song.id}{path}"))
    link.revoked_at = timezone.now()
    link.save()
    for method, path in PATHS:
        assert getattr(api, method)(f"/api/songs/{ada_song.id}{path}").status_code == 403


@pytest.mark.parametrize(("method", "path"), PATHS)
def test_who_administers_the_server_has_no_way_into_songs(ada_song, as_ben, ben, method, path):
    User.objects.filter(pk=ben.pk).update(is_staff=True, is_superuser=True)
    assert getattr(as_ben, method)(f"/api/songs/{ada_song.id}{path}").status_code == 404


def test_a_teacher_reads_what_others_put_into_his_class_and_changes_nothing(
    ada, ada_song, as_ben, ben
):
    klass = groups.make_group(ben, "Tuesday", "class")
    Member.objects.create(group=klass, user=ada)
    groups.put_song(klass, ada, ada_song.pk, SeatRole.READER)
    wrong = []
    for method, path in PATHS:
        answer = getattr(as_ben, method)(f"/api/songs/{ada_song.id}{path}")
        if refused_by_right(answer) != (least(method, path) > READER):
            wrong.append((method, path, answer.status_code))
    assert not wrong


OPEN_TO_ALL = {
    "api/session",
    "api/session/sign-in",
    "api/session/sign-up",
    "api/session/demo",
    "api/session/forgot",
    "api/session/reset",
    "api/session/email",
    "api/mails",
    "api/shared",
    "api/latency",
    "api/health/live",
    "api/health/ready",
    # Answers "not found" to whoever has not its word: see test_operation.py.
    "api/metrics",
}
"""Doors, and what keeps nothing of anybody."""


def test_every_other_address_is_closed_to_whoever_is_not_signed_in(client, db):
    fill = {"<row:": "1", "<uuid:": str(uuid.UUID(int=1)), "<bar:": "1"}
    found = {}
    for route in urlpatterns:
        pattern = str(route.pattern)
        if not pattern.startswith("api/") or pattern in OPEN_TO_ALL:
            continue
        path = "/".join(
            next((value for start, value in fill.items() if part.startswith(start)), part)
            for part in pattern.split("/")
        )
        path = path.replace("<slug:target>", "section-1").replace("<slug:name>", "abc")
        path = path.replace("<str:name>", "drums.mid").replace("<str:part>", "drums-down")
        path = path.replace("<str:subdivision>", "quarters")
        for method in ("get", "post", "put", "patch", "delete"):
            status = getattr(client, method)(f"/{path}").status_code
            if status not in (403, 405):
                found[method, path] = status
    assert found == {}


@pytest.mark.parametrize(("method", "path"), PATHS)
def test_nobody_gets_anything_without_signing_in(ada_song, client, method, path):
    answer = getattr(client, method)(f"/api/songs/{ada_song.id}{path}")
    assert answer.status_code == 403


def test_the_shelf_shows_one_s_own_songs_only(ada_song, as_ada, as_ben, client):
    assert [song["title"] for song in as_ada.get("/api/songs").json()] == ["Composed"]
    assert as_ben.get("/api/songs").json() == []
    assert client.get("/api/songs").status_code == 403


def test_signing_in_and_out(ada, client):
    answer = client.post(
        "/api/session/sign-in", {"username": "ada", "password": "a-long-pass-word"}, format="json"
    )
    assert answer.json()["username"] == "ada"
    assert client.get("/api/session").json()["username"] == "ada"
    assert client.delete("/api/session").json()["username"] is None


@pytest.mark.parametrize(
    "wrong", [{"username": "ada", "password": "guess"}, {"username": "ada"}, {}]
)
def test_a_wrong_password_says_so_and_signs_nobody_in(ada, client, wrong):
    answer = client.post("/api/session/sign-in", wrong, format="json")
    assert answer.status_code in (400, 403)
    assert answer.json()["detail"]
    assert client.get("/api/session").json()["username"] is None


def test_a_new_account_is_made_once(client, ada):
    new = {"username": "cleo", "password": "drums-all-day-9"}
    assert client.post("/api/session/sign-up", new, format="json").json()["username"] == "cleo"
    again = client.post("/api/session/sign-up", new, format="json")
    assert again.status_code == 400
    assert "taken" in again.json()["detail"]


@pytest.mark.parametrize(
    ("name", "password"), [("dora", "123"), ("dora", "password"), ("a b<c>", "drums-all-day-9")]
)
def test_weak_passwords_and_odd_names_are_refused(client, db, name, password):
    answer = client.post(
        "/api/session/sign-up", {"username": name, "password": password}, format="json"
    )
    assert answer.status_code == 400
    assert not User.objects.filter(username=name).exists()


def test_the_demo_account_opens_with_one_click_where_there_is_one(client, db, settings):
    assert client.post("/api/session/demo").status_code == 404
    demo_account()
    assert client.post("/api/session/demo").json()["username"].startswith("demo-visitor-")
    settings.DEMO = False
    assert client.post("/api/session/demo").status_code == 404


def test_requests_that_change_something_need_the_forgery_token(ada):
    strict = Client(enforce_csrf_checks=True)
    body = {"username": "ada", "password": "a-long-pass-word"}
    refused = strict.post("/api/session/sign-in", body, content_type="application/json")
    assert refused.status_code == 403
    strict.get("/api/session")
    token = strict.cookies["csrftoken"].value
    taken = strict.post(
        "/api/session/sign-in",
        body,
        content_type="application/json",
        headers={"X-CSRFToken": token},
    )
    assert taken.status_code == 200
    assert strict.post("/api/songs").status_code == 403


def test_pages_carry_a_strict_policy(client, db):
    policy = client.get("/api/session")["Content-Security-Policy"]
    script = next(part for part in policy.split("; ") if part.startswith("script-src"))
    assert script == "script-src 'self' 'wasm-unsafe-eval'"
    assert "frame-ancestors 'none'" in policy

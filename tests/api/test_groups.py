"""Bands and classes: who may what, the last seat, what is given, who is stuck, wishes."""

import uuid
from datetime import timedelta

import pytest
from django.contrib.auth.models import User
from django.utils import timezone
from rest_framework.test import APIClient

from studio.actions import groups as act
from studio.models import PracticeEntry
from studio.people import Assignment, Group, GroupSong, Invitation, Member, SeatRole
from studio.queueing import NotNow

TARGET = "section-1"


def client_of(user):
    api = APIClient()
    api.force_login(user)
    return api


@pytest.fixture
def klass(ada):
    """A class of Ada's."""
    return act.make_group(ada, "Tuesday", "class")


@pytest.fixture
def in_class(klass, ben):
    """Ben is in it."""
    Member.objects.create(group=klass, user=ben)
    return klass


def give(api, group, song, **wish):
    body = {"song": str(song.id), "target": TARGET, "bpm": 96, **wish}
    return api.post(f"/api/groups/{group.pk}/given", body, format="json")


def practised(user, song, bpm, *, days_ago=0, loops=4, feeling="work", told=(), target=TARGET):
    return PracticeEntry.objects.create(
        song=song,
        owner=user,
        client_id=uuid.uuid4(),
        target=target,
        step="limbs-0",
        title="Right hand",
        played_at=timezone.now() - timedelta(days=days_ago),
        share=bpm / 96,
        bpm=bpm,
        loops=loops,
        minutes=4,
        feeling=feeling,
        told=list(told),
    )


ENDPOINTS = [
    ("get", "", "member"),
    ("patch", "", "leader"),
    ("delete", "", "leader"),
    ("post", "/invitations", "leader"),
    ("delete", "/invitations/1", "leader"),
    ("patch", "/members/1", "leader"),
    ("delete", "/members/1", "member"),
    ("post", "/songs", "member"),
    ("put", "/songs", "leader"),
    ("delete", f"/songs/{uuid.UUID(int=1)}", "member"),
    ("get", "/links", "leader"),
    ("post", "/links", "leader"),
    ("delete", f"/links/{uuid.UUID(int=1)}", "leader"),
    ("get", "/sheet.pdf", "member"),
    ("get", "/given", "leader"),
    ("post", "/given", "leader"),
    ("delete", "/given/1", "leader"),
    ("get", "/wishes", "member"),
    ("post", "/wishes", "member"),
    ("patch", "/wishes/1", "leader"),
    ("delete", "/wishes/1", "member"),
    ("put", "/wishes/1/vote", "member"),
    ("delete", "/wishes/1/vote", "member"),
]


@pytest.mark.parametrize(("method", "path", "least"), ENDPOINTS)
def test_each_may_do_what_is_his_and_nothing_else(in_class, as_ben, client, method, path, least):
    address = f"/api/groups/{in_class.pk}{path}"
    assert getattr(client, method)(address).status_code == 403
    stranger = client_of(User.objects.create_user("cleo", password="a-long-pass-word"))
    told = getattr(stranger, method)(address)
    assert (told.status_code, told.json()["detail"]) == (404, "You are in no such band or class.")
    mine = getattr(as_ben, method)(address)
    refused = mine.status_code == 403
    assert refused == (least == "leader")


def test_a_class_is_joined_by_an_invitation(klass, as_ada, as_ben):
    made = as_ada.post(f"/api/groups/{klass.pk}/invitations", {"seats": 2}, format="json").json()
    token = made["path"].rpartition("/")[2]
    joined = as_ben.post("/api/groups/join", {"token": token}, format="json").json()
    assert [one["name"] for one in joined["members"]] == ["ada", "ben"]
    assert not joined["leads"]
    assert joined["invitations"] == [], "who leads sees them"
    as_ben.post("/api/groups/join", {"token": token}, format="json")
    assert Invitation.objects.get().taken == 1, "who is in takes no second seat"


def test_of_two_who_take_the_last_seat_one_gets_it(klass, ben, db):
    cleo = User.objects.create_user("cleo", password="a-long-pass-word")
    one = act.invite(klass, 1)
    act.join(ben, one.token)
    with pytest.raises(NotNow, match="ask ada"):
        act.join(cleo, one.token)
    assert klass.members.count() == 2


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"revoked_at": timezone.now()}, "was taken back: ask ada"),
        ({"expires_at": timezone.now() - timedelta(hours=1)}, "has run out: ask ada"),
    ],
)
def test_an_invitation_that_is_over_says_whom_to_ask(klass, as_ben, change, says):
    one = Invitation.objects.create(group=klass, seats=5, **change)
    told = as_ben.post("/api/groups/join", {"token": one.token}, format="json")
    assert told.status_code == 404
    assert says in told.json()["detail"]


def test_a_class_of_five_thousand_is_refused(klass, as_ada):
    told = as_ada.post(f"/api/groups/{klass.pk}/invitations", {"seats": 5000}, format="json")
    assert told.status_code == 400
    assert not Invitation.objects.exists()
    with pytest.raises(NotNow, match="400 members"):
        act.invite(klass, 400)


def test_a_song_is_seen_by_the_band_and_by_nobody_else(in_class, ada_song, as_ada, as_ben):
    address = f"/api/groups/{in_class.pk}/songs"
    as_ada.post(address, {"song": str(ada_song.id)}, format="json")
    assert [one["title"] for one in as_ben.get("/api/songs").json()] == ["Composed"]
    assert as_ben.post(f"/api/songs/{ada_song.id}/undo").status_code == 403
    as_ada.post(address, {"song": str(ada_song.id), "role": "editor"}, format="json")
    assert as_ben.get(f"/api/songs/{ada_song.id}").json()["role"] == "editor"
    as_ben.delete(f"/api/groups/{in_class.pk}/members/{in_class.members.last().pk}")
    assert as_ben.get("/api/songs").json() == []


def test_nobody_shares_a_song_that_is_not_his(in_class, ada_song, as_ben):
    told = as_ben.post(
        f"/api/groups/{in_class.pk}/songs", {"song": str(ada_song.id)}, format="json"
    )
    assert told.status_code == 404


def test_what_is_given_comes_first_and_what_comes_of_it_comes_back(
    in_class, ada_song, as_ada, as_ben, ben
):
    due = (timezone.localdate() + timedelta(days=7)).isoformat()
    assert give(as_ada, in_class, ada_song, due=due, words="Ghosts soft").status_code == 201
    mine = as_ben.get("/api/to-practise").json()
    assert [(one["title"], one["bpm"], one["words"]) for one in mine] == [
        ("Composed", 96, "Ghosts soft")
    ]
    assert mine[0]["progress"]["standing"] == "not begun"
    assert as_ben.get(f"/api/songs/{ada_song.id}/score").status_code == 200, "it is his to read"
    practised(ben, ada_song, 80, told=["The left hand is 12 ms late."])
    told = as_ada.get(f"/api/groups/{in_class.pk}/given").json()[0]["students"]
    assert [(one["name"], one["words"], one["told"]) for one in told] == [
        ("ben", "at 80 of 96", ["The left hand is 12 ms late."])
    ]
    practised(ben, ada_song, 96)
    assert as_ben.get("/api/to-practise").json()[0]["progress"]["standing"] == "there"


def test_a_student_is_reminded_of_the_day_and_a_class_is_told_it_once(
    in_class, ada_song, as_ada, as_ben, ben
):
    due = timezone.localdate() + timedelta(days=1)
    assert give(as_ada, in_class, ada_song, due=due.isoformat()).status_code == 201
    practised(ben, ada_song, 80)
    Assignment.objects.update(due=due - timedelta(days=3))
    mine = as_ben.get("/api/to-practise").json()[0]
    assert mine["progress"]["words"] == "at 80 of 96; it was due 2 days ago"
    told = as_ada.get(f"/api/groups/{in_class.pk}/given").json()[0]
    assert told["due"] == mine["due"]
    assert told["students"][0]["words"] == "at 80 of 96"


def test_what_is_given_at_a_level_is_practised_at_it_up_to_its_tempo(
    in_class, ada_song, as_ada, as_ben, ben
):
    assert give(as_ada, in_class, ada_song, level="backbeat", bpm=77).status_code == 201
    (given,) = as_ben.get(f"/api/songs/{ada_song.id}/practice").json()["given"]
    assert (given["target"], given["level"], given["bpm"]) == (TARGET, "backbeat", 77)
    assert as_ada.get(f"/api/songs/{ada_song.id}/practice").json()["given"] == []
    told = as_ben.get(f"/api/songs/{ada_song.id}/practice/plans/{TARGET}--backbeat").json()
    for step in told["steps"]:
        asked = [rung["bpm"] for rung in step["rungs"] if rung["is_asked"]]
        assert asked == [77]
    whole = as_ben.get(f"/api/songs/{ada_song.id}/practice/plans/{TARGET}").json()
    assert not any(rung["is_asked"] for step in whole["steps"] for rung in step["rungs"])
    practised(ben, ada_song, 70, target=f"{TARGET}--backbeat")
    assert as_ben.get("/api/to-practise").json()[0]["progress"]["words"] == "at 70 of 77"
    # All of it is more than what was asked for.
    practised(ben, ada_song, 77)
    assert as_ben.get("/api/to-practise").json()[0]["progress"]["standing"] == "there"


def test_whoever_is_stuck_comes_first(in_class, ada_song, as_ada, ben):
    names = ["cleo", "dan"]
    others = [User.objects.create_user(name, password="a-long-pass-word") for name in names]
    for other in others:
        Member.objects.create(group=in_class, user=other)
    give(as_ada, in_class, ada_song)
    practised(ben, ada_song, 96)
    for ago in (6, 4, 1):
        practised(others[1], ada_song, 60, days_ago=ago)
    told = as_ada.get(f"/api/groups/{in_class.pk}/given").json()[0]["students"]
    assert [(one["name"], one["standing"]) for one in told] == [
        ("dan", "stuck"),
        ("cleo", "not begun"),
        ("ben", "there"),
    ]


def test_thirty_students_are_read_in_a_few_statements(
    in_class, ada_song, as_ada, django_assert_max_num_queries
):
    for number in range(30):
        user = User.objects.create(username=f"student{number}")
        Member.objects.create(group=in_class, user=user)
        practised(user, ada_song, 60 + number)
    give(as_ada, in_class, ada_song)
    with django_assert_max_num_queries(10):
        told = as_ada.get(f"/api/groups/{in_class.pk}/given").json()
    assert len(told[0]["students"]) == 31


def test_what_is_given_to_one_is_seen_by_one(in_class, ada_song, as_ada, as_ben, ben):
    cleo = User.objects.create_user("cleo", password="a-long-pass-word")
    Member.objects.create(group=in_class, user=cleo)
    give(as_ada, in_class, ada_song, student=cleo.pk)
    assert as_ben.get("/api/to-practise").json() == []
    assert as_ben.get(f"/api/songs/{ada_song.id}").status_code == 404
    assert len(client_of(cleo).get("/api/to-practise").json()) == 1


@pytest.mark.parametrize(
    ("wish", "status"),
    [({"target": "section-99"}, 404), ({"bpm": 0}, 400), ({"student": 10**6}, 404)],
)
def test_what_cannot_be_given_is_refused(in_class, ada_song, as_ada, wish, status):
    told = give(as_ada, in_class, ada_song, **wish)
    assert told.status_code == status
    assert told.json()["detail"]
    assert not Assignment.objects.exists()


def test_a_song_that_is_given_is_not_removed_until_it_is_withdrawn(in_class, ada_song, as_ada):
    given = give(as_ada, in_class, ada_song).json()["id"]
    told = as_ada.delete(f"/api/songs/{ada_song.id}")
    assert told.status_code == 409
    assert "given to Tuesday" in told.json()["detail"]
    assert as_ada.delete(f"/api/groups/{in_class.pk}/given/{given}").status_code == 204
    assert as_ada.delete(f"/api/songs/{ada_song.id}").status_code == 204


def test_wishes_have_one_vote_a_person_and_the_most_wished_first(in_class, as_ada, as_ben):
    address = f"/api/groups/{in_class.pk}/wishes"
    as_ada.post(address, {"title": "Slow Ferry"}, format="json")
    as_ben.post(address, {"title": "<b>Night Bus</b>", "performer": "us"}, format="json")
    for _ in range(3):
        listed = as_ada.put(f"{address}/{as_ada.get(address).json()[1]['id']}/vote").json()
    assert [(one["title"], one["votes"]) for one in listed] == [
        ("<b>Night Bus</b>", 2),
        ("Slow Ferry", 1),
    ]


def test_a_wish_is_declined_with_a_reason(in_class, as_ada, ada_song):
    address = f"/api/groups/{in_class.pk}/wishes"
    wish = as_ada.post(address, {"title": "Slow Ferry"}, format="json").json()[0]["id"]
    without = as_ada.patch(f"{address}/{wish}", {"state": "declined"}, format="json")
    assert without.status_code == 409
    told = as_ada.patch(
        f"{address}/{wish}", {"state": "declined", "reason": "no recording"}, format="json"
    ).json()
    assert (told[0]["state"], told[0]["reason"]) == ("declined", "no recording")
    begun = as_ada.patch(
        f"{address}/{wish}", {"state": "begun", "song": str(ada_song.id)}, format="json"
    ).json()
    assert begun[0]["song"] == str(ada_song.id)


def test_who_made_a_group_does_not_leave_it_and_only_he_removes_it(in_class, as_ada, as_ben, ben):
    own = in_class.members.get(user=in_class.owner)
    assert as_ada.delete(f"/api/groups/{in_class.pk}/members/{own.pk}").status_code == 409
    in_class.members.filter(user=ben).update(leads=True)
    assert as_ben.delete(f"/api/groups/{in_class.pk}").status_code == 403
    assert as_ada.delete(f"/api/groups/{in_class.pk}").status_code == 204
    assert not Group.objects.exists()


def test_comments_are_answered_and_settled(ada_song, as_ada, as_ben, ben):
    as_ada.post(
        f"/api/songs/{ada_song.id}/people", {"name": "ben", "role": "reader"}, format="json"
    )
    address = f"/api/songs/{ada_song.id}/comments"
    first = as_ben.post(address, {"bar": 2, "words": "A ghost here?"}, format="json").json()[0]
    as_ada.post(address, {"bar": 2, "words": "Heard it too", "answers": first["id"]}, format="json")
    settled = as_ada.patch(f"{address}/{first['id']}", {"settled": True}, format="json").json()
    assert [(one["author"], one["bar"], one["settled"]) for one in settled] == [
        ("ben", 2, True),
        ("ada", 2, False),
    ]
    again = {"bar": 2, "words": "Still not", "answers": first["id"]}
    assert not as_ben.post(address, again, format="json").json()[0]["settled"]
    other = settled[1]["id"]
    assert as_ben.delete(f"{address}/{other}").status_code == 403
    assert as_ada.delete(f"{address}/{first['id']}").status_code == 204
    assert as_ada.get(address).json() == []


@pytest.mark.parametrize("body", [{"bar": 99, "words": "x"}, {"bar": 1, "words": " "}])
def test_a_comment_needs_a_bar_that_is_there_and_words(ada_song, as_ada, body):
    told = as_ada.post(f"/api/songs/{ada_song.id}/comments", body, format="json")
    assert told.status_code in (400, 404)


def test_who_is_here_is_told(ada_song, as_ada, as_ben, ben):
    as_ada.post(
        f"/api/songs/{ada_song.id}/people", {"name": "ben", "role": "reader"}, format="json"
    )
    assert as_ada.post(f"/api/songs/{ada_song.id}/here", {"bar": 3}, format="json").json() == []
    told = as_ben.post(f"/api/songs/{ada_song.id}/here", {"bar": 1}, format="json").json()
    assert told == [{"name": "ada", "bar": 3}]


def test_whoever_leaves_takes_their_songs_along(as_ada, as_ben, ada, ben, ada_song):
    group = act.make_group(ben, "The Quay", "band")
    act.join(ada, act.invite(group, 3).token)
    act.put_song(group, ada, ada_song.pk, SeatRole.EDITOR)
    act.give(group, ada, song=ada_song.pk, target="section-1", level="all", bpm=90.0)
    assert as_ben.get(f"/api/songs/{ada_song.id}").status_code == 200
    act.leave(group, group.members.get(user=ada))
    assert as_ben.get(f"/api/songs/{ada_song.id}").status_code == 404
    assert not group.songs.exists()
    assert not group.assignments.filter(withdrawn_at=None).exists()


def test_the_owner_of_a_song_sees_where_it_is_and_takes_it_off_from_outside(
    as_ada, as_ben, ada, ben, ada_song
):
    """A song that was left in a list before leaving took songs along."""
    group = act.make_group(ben, "The Quay", "band")
    GroupSong.objects.create(group=group, song=ada_song, role=SeatRole.EDITOR)
    told = as_ada.get(f"/api/songs/{ada_song.id}/people").json()["groups"]
    assert [(one["name"], one["role"]) for one in told] == [("The Quay", "editor")]
    address = f"/api/groups/{group.pk}/songs/{ada_song.id}"
    assert as_ada.delete(address).status_code == 204
    assert as_ben.get(f"/api/songs/{ada_song.id}").status_code == 404
    assert as_ada.get(f"/api/songs/{ada_song.id}/people").json()["groups"] == []

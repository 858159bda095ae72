"""What a person waits for is worked out by engravers: handed over, answered, kept, refused."""

import pytest
import redis
from django.test import override_settings

from studio import engravers
from studio.counters import connection


@pytest.fixture
def as_web(settings):
    """As in a web process: the work goes through the queue, which is done at once in tests."""
    settings.ROLE = "web"
    connection().delete("engravers:away")
    for key in connection().keys("answer:*"):
        connection().delete(key)


@pytest.fixture
def worked(monkeypatch):
    """Counts the charts that are worked out."""
    real, done = engravers.WORKS["chart"], []

    def counting(song, asked):
        done.append(song)
        return real(song, asked)

    monkeypatch.setitem(engravers.WORKS, "chart", counting)
    return done


def chart(api, song, **query):
    return api.get(f"/api/songs/{song.id}/chart", query)


def test_a_web_process_gets_the_same_chart_from_the_engravers(as_ada, ada_song, as_web):
    handed_over = chart(as_ada, ada_song).json()
    with override_settings(ROLE="worker"):
        assert chart(as_ada, ada_song).json() == handed_over
    assert handed_over["pages"][0]["systems"][0]["svg"].startswith("<")


def test_what_was_drawn_once_is_kept_until_the_song_is_another(as_ada, ada_song, as_web, worked):
    for _ in range(3):
        assert chart(as_ada, ada_song).status_code == 200
    assert len(worked) == 1
    chart(as_ada, ada_song, reading="map")
    assert len(worked) == 2
    assert as_ada.patch(f"/api/songs/{ada_song.id}", {"title": "Other"}, "json").status_code == 200
    assert "Other" in chart(as_ada, ada_song).json()["pages"][0]["texts"]
    assert len(worked) == 3


def test_where_nobody_draws_one_is_told_and_then_at_once(as_ada, ada_song, as_web, monkeypatch):
    orders = []
    with monkeypatch.context() as patch:
        patch.setattr(engravers.engrave, "apply_async", lambda order, **_: orders.append(order))
        patch.setattr(engravers, "TAKEN_WITHIN", 0.3)
        patch.setattr(engravers, "AWAY_SECONDS", 600)
        answer = chart(as_ada, ada_song)
        assert (answer.status_code, answer["Retry-After"]) == (503, "2")
        assert "tried again" in answer.json()["detail"]
        assert len(orders) == 1
        assert 0 < connection().ttl("engravers:away") <= 600
        # Nobody waits for what is known to be away: it is not even asked.
        assert chart(as_ada, ada_song).status_code == 503
        assert len(orders) == 1
    connection().delete("engravers:away")
    assert chart(as_ada, ada_song).status_code == 200


def test_without_redis_nothing_is_drawn_and_the_rest_goes_on(as_ada, ada_song, as_web, monkeypatch):
    def away():
        raise redis.ConnectionError("refused")

    monkeypatch.setattr(engravers, "connection", away)
    assert chart(as_ada, ada_song).status_code == 503
    assert as_ada.get(f"/api/songs/{ada_song.id}/score").status_code == 200


@pytest.mark.parametrize(
    ("address", "status"),
    [("picture/1", 404), ("relisten", 404), ("reading?key=tracked/9-8/0", 404)],
)
def test_what_the_work_refuses_is_refused_in_the_same_words(
    as_ada, ada_song, as_web, address, status
):
    """There is neither sound nor evidence of this song."""
    ada_song.listening_path.unlink()
    told = as_ada.get(f"/api/songs/{ada_song.id}/{address}")
    assert told.status_code == status
    with override_settings(ROLE="worker"):
        assert as_ada.get(f"/api/songs/{ada_song.id}/{address}").json() == told.json()


def test_a_fault_inside_says_so_and_is_not_kept(as_ada, ada_song, as_web, monkeypatch):
    def broken(song, asked):
        raise ZeroDivisionError

    with monkeypatch.context() as patch:
        patch.setitem(engravers.WORKS, "chart", broken)
        answer = chart(as_ada, ada_song)
        assert (answer.status_code, answer.json()["code"]) == (500, "failed")
    assert chart(as_ada, ada_song).status_code == 200


def test_who_may_not_see_a_song_hands_nothing_over(as_ben, ada_song, as_web, worked):
    assert chart(as_ben, ada_song).status_code == 404
    assert worked == []

"""Accounts: which names may be taken, how passwords are guessed, and whose the demo is."""

from concurrent.futures import ThreadPoolExecutor

import pytest
import redis
from django.contrib.auth.models import User
from django.core.management import call_command
from django.test import RequestFactory
from rest_framework.test import APIClient

from studio import passwords
from studio.models import Account
from studio.names import skeleton

GOOD = "drums-all-day-9"


def sign_up(client, name, password=GOOD):
    body = {"username": name, "password": password}
    return client.post("/api/session/sign-up", body, format="json")


def sign_in(client, name, password=GOOD, **headers):
    body = {"username": name, "password": password}
    return client.post("/api/session/sign-in", body, format="json", headers=headers)


class Counter:
    """Stands in for Redis: one counter for all processes, as it is."""

    def __init__(self):
        self.counts = {}

    def pipeline(self):
        return Pipe(self.counts)


class Pipe:
    def __init__(self, counts):
        self.counts, self.key = counts, ""

    def incr(self, key):
        self.key = key

    def expire(self, key, seconds):
        assert seconds == passwords.WINDOW_SECONDS

    def execute(self):
        self.counts[self.key] = self.counts.get(self.key, 0) + 1
        return [self.counts[self.key], True]


@pytest.fixture
def counted(settings, monkeypatch):
    """Limits as in use."""
    settings.GUESSES = {}
    counter = Counter()
    monkeypatch.setattr(passwords, "connection", lambda: counter)
    return counter


@pytest.mark.parametrize(
    "name", ["demo", "Demo", "DEM0", "admin", "аdmin", "adm1n", "Administrator", "root"]
)
def test_names_of_the_house_cannot_be_taken(client, db, name):
    answer = sign_up(client, name)
    assert answer.status_code == 400
    assert not User.objects.exists()


@pytest.mark.parametrize(
    "name", ["Cleo", "cIeo", "c1eo", "сlео", "с.lео", "cleo.", "c-l-e-o", "ｃleo", "cléo"]
)
def test_a_name_that_looks_like_another_is_refused(client, db, name):
    assert sign_up(client, "cleo").status_code == 200
    answer = sign_up(APIClient(), name)
    assert answer.status_code == 400, answer.json()
    assert User.objects.count() == 1


@pytest.mark.parametrize("name", ["cleo ", " cleo", "cl eo", "cleo\u200b", "", ".", "x" * 200])
def test_names_of_odd_signs_are_refused(client, db, name):
    assert sign_up(client, name).status_code == 400 or User.objects.get().username == name.strip()


@pytest.mark.parametrize("name", ["Оля", "müller", "Πέτρος", "秋子", "kim-7", "o.brien"])
def test_names_of_every_alphabet_are_taken(client, db, name):
    assert sign_up(client, name).json()["username"] == name


@pytest.mark.parametrize(
    ("name", "password"),
    [
        ("drummer", "drummer1"),
        ("drummer", "1remmurd"),
        ("cleopatra", "Cle0patra!"),
        ("kim", "kimkimkim7"),
        ("kim", "19283746509"),
        ("kim", "short"),
        ("kim", "password1"),
    ],
)
def test_passwords_that_are_guessed_first_are_refused(client, db, name, password):
    assert sign_up(client, name, password).status_code == 400


def test_the_demo_is_a_flag_that_the_loader_alone_sets(client, db, settings):
    """Somebody took the name before the house kept it."""
    person = User.objects.create_user("demo", password=GOOD)
    Account.objects.create(user=person, skeleton=skeleton("demo"))
    assert client.post("/api/session/demo").status_code == 404
    call_command("load_demo", verbosity=0)
    entered = client.post("/api/session/demo").json()["username"]
    assert entered != "demo"
    assert not person.songs.exists()
    host = User.objects.get(account__is_demo=True, account__visit_ends_at=None)
    assert not host.has_usable_password()
    call_command("load_demo", verbosity=0)
    assert Account.objects.filter(is_demo=True, visit_ends_at=None).count() == 1


def test_guesses_are_limited_by_account_wherever_they_come_from(ada, counted):
    for number in range(passwords.GUESSES["account"]):
        answer = sign_in(APIClient(REMOTE_ADDR=f"10.0.0.{number}"), "ada", "a-wrong-guess")
        assert answer.status_code == 403
    answer = sign_in(APIClient(REMOTE_ADDR="10.0.1.1"), "ada", "a-long-pass-word")
    assert answer.status_code == 429
    assert "Wait" in answer.json()["detail"]
    assert int(answer["Retry-After"]) > 0 if answer.has_header("Retry-After") else True
    other = sign_in(APIClient(REMOTE_ADDR="10.0.1.1"), "ben-that-is-not-there")
    assert other.status_code == 403, "other accounts are not shut with it"


def test_guesses_are_limited_by_address_whatever_the_header_says(ada, counted):
    api = APIClient(REMOTE_ADDR="10.0.0.1")
    for number in range(passwords.GUESSES["address"]):
        forged = {"X-Forwarded-For": f"1.2.3.{number}", "X-Real-IP": f"1.2.3.{number}"}
        assert sign_in(api, f"name{number}", **forged).status_code == 403
    assert sign_in(api, "one-more", **{"X-Forwarded-For": "9.9.9.9"}).status_code == 429


def test_nobody_is_locked_out_of_a_browser_that_they_have_used(ada, counted):
    home = APIClient()
    assert sign_in(home, "ada", "a-long-pass-word").status_code == 200
    home.delete("/api/session")
    for number in range(30):
        sign_in(APIClient(REMOTE_ADDR=f"10.0.0.{number}"), "ada", "a-wrong-guess")
    assert sign_in(APIClient(), "ada", "a-long-pass-word").status_code == 429
    assert sign_in(home, "ada", "a-long-pass-word").status_code == 200


def test_a_device_s_cookie_opens_one_account_only_and_is_limited_itself(ada, ben, counted):
    home = APIClient()
    sign_in(home, "ben", "a-long-pass-word")
    for number in range(passwords.GUESSES["account"]):
        sign_in(APIClient(REMOTE_ADDR=f"10.0.0.{number}"), "ada", "a-wrong-guess")
    assert sign_in(home, "ada", "a-long-pass-word").status_code == 429
    for _ in range(passwords.GUESSES["device"]):
        sign_in(home, "ben", "a-wrong-guess")
    assert sign_in(home, "ben", "a-long-pass-word").status_code == 429


def test_without_redis_each_process_still_counts(ada, settings, monkeypatch):
    def away():
        raise redis.ConnectionError("refused")

    settings.GUESSES = {}
    passwords._kept_here.clear()
    monkeypatch.setattr(passwords, "connection", away)
    answers = [sign_in(APIClient(), "ada", "a-wrong-guess").status_code for _ in range(12)]
    assert answers == [403] * 10 + [429] * 2
    passwords._kept_here.clear()


def test_the_address_is_the_proxy_s_word_only_behind_our_proxy(settings):
    request = RequestFactory().get(
        "/", REMOTE_ADDR="10.0.0.1", HTTP_X_REAL_IP="1.2.3.4", HTTP_X_FORWARDED_FOR="5.6.7.8"
    )
    assert passwords.client_address(request) == "10.0.0.1"
    settings.BEHIND_OUR_PROXY = True
    assert passwords.client_address(request) == "1.2.3.4"


@pytest.mark.django_db(transaction=True)
def test_of_two_who_take_a_name_at_once_one_gets_it():
    with ThreadPoolExecutor(2) as both:
        answers = list(both.map(lambda name: sign_up(APIClient(), name), ["cleo", "c1eo"]))
    assert sorted(answer.status_code for answer in answers) == [200, 400]
    assert User.objects.count() == Account.objects.count() == 1

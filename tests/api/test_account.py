"""One's own account: passwords, a mail for a forgotten one, export, deletion, registration."""

import io
import json
import os
import re
import subprocess
import sys
import uuid
import zipfile

import pytest
from django.contrib.auth.models import User
from django.core.management import call_command
from rest_framework.test import APIClient

from studio.actions import groups
from studio.actions.accounts import delete_account, make_account
from studio.models import PracticeEntry, Song
from studio.people import Seat, SeatRole
from tests.api.conftest import made, work_off

OLD, NEW = "a-long-pass-word", "another-long-one-7"


@pytest.fixture
def mina(db):
    user = make_account("mina", OLD)
    User.objects.filter(pk=user.pk).update(email="mina@example.org")
    return user


@pytest.fixture
def mails(tmp_path, settings):
    settings.EMAIL_BACKEND = "django.core.mail.backends.filebased.EmailBackend"
    settings.EMAIL_FILE_PATH = str(tmp_path)
    settings.MAILS_ARE_KEPT = True


def signed_in(name="mina", password=OLD, agent="Mozilla/5.0 (X11; Linux) Firefox/130"):
    api = APIClient(HTTP_USER_AGENT=agent)
    body = {"username": name, "password": password}
    answer = api.post("/api/session/sign-in", body, format="json")
    return api, answer.status_code


def test_another_password_signs_out_other_browsers(mina):
    here, _ = signed_in()
    phone, _ = signed_in(agent="Mozilla/5.0 (iPhone; CPU) Safari/604")
    told = here.get("/api/account").json()
    assert [one["browser"] for one in told["sessions"]] == ["Safari, iPhone", "Firefox, X11"]
    assert [one["is_this"] for one in told["sessions"]] == [False, True]
    wrong = here.post("/api/account/password", {"old": "guess", "new": NEW}, format="json")
    assert wrong.status_code == 400
    right = here.post("/api/account/password", {"old": OLD, "new": NEW}, format="json")
    assert right.status_code == 204
    assert here.get("/api/account").status_code == 200
    assert phone.get("/api/account").status_code == 403
    assert signed_in()[1] == 403
    assert signed_in(password=NEW)[1] == 200


@pytest.mark.parametrize("weak", ["12345", "mina-mina", "password"])
def test_a_weak_password_is_refused(mina, weak):
    api, _ = signed_in()
    answer = api.post("/api/account/password", {"old": OLD, "new": weak}, format="json")
    assert answer.status_code == 400
    assert signed_in()[1] == 200


def test_signing_out_everywhere_but_here(mina):
    here, _ = signed_in()
    others = [signed_in()[0] for _ in range(3)]
    assert len(here.delete("/api/account/sessions").json()["sessions"]) == 1
    assert [other.get("/api/account").status_code for other in others] == [403] * 3


@pytest.mark.parametrize("name", ["mina", "MINA@example.org"])
def test_a_mail_sets_a_forgotten_password_once(mina, mails, client, name):
    assert client.post("/api/session/forgot", {"name": name}, format="json").status_code == 204
    mail = client.get("/api/mails").json()[0]
    assert mail["to"] == "mina@example.org"
    number, token = re.search(r"/reset/([^/]+)/(\S+)", mail["text"]).groups()
    body = {"number": number, "token": token, "password": NEW}
    assert client.post("/api/session/reset", body, format="json").status_code == 204
    assert signed_in(password=NEW)[1] == 200
    again = client.post("/api/session/reset", body, format="json")
    assert again.status_code == 404
    assert "used already" in again.json()["detail"]


def test_nobody_learns_who_has_an_account(mina, mails, client):
    answers = [
        client.post("/api/session/forgot", {"name": name}, format="json").status_code
        for name in ("mina", "nobody")
    ]
    assert answers == [204, 204]
    assert len(client.get("/api/mails").json()) == 1


def test_kept_mails_are_for_this_machine_only(mina, mails, client, settings):
    assert client.get("/api/mails", REMOTE_ADDR="192.168.1.7").status_code == 404
    settings.MAILS_ARE_SHOWN = False
    assert client.get("/api/mails").status_code == 404


@pytest.mark.parametrize("body", [{"number": "x", "token": "y"}, {"number": "MQ", "token": "a-b"}])
def test_a_forged_link_of_a_mail_sets_nothing(mina, client, body):
    answer = client.post("/api/session/reset", {**body, "password": NEW}, format="json")
    assert answer.status_code == 404
    assert signed_in()[1] == 200


def test_all_that_is_mine_is_exported_and_read_back(ada_song, as_ada, ada):
    folder = zipfile.ZipFile(io.BytesIO(made(as_ada, "/api/account/export")[1]))
    assert folder.testzip() is None
    assert set(folder.namelist()) == {"songs/Composed.zip", "practice.csv", "account.json"}
    assert json.loads(folder.read("account.json"))["name"] == "ada"
    bundle = io.BytesIO(folder.read("songs/Composed.zip"))
    bundle.name = "Composed.zip"
    again = as_ada.post("/api/songs", {"file": bundle}, format="multipart")
    assert again.status_code == 201, again.json()
    work_off("small")
    assert as_ada.get(f"/api/songs/{again.json()['id']}").json()["title"] == "Composed"


def test_an_account_goes_with_everything(ada_song, as_ada, ada):
    wrong = as_ada.post("/api/account/remove", {"password": "guess"}, format="json")
    assert wrong.status_code == 400
    assert User.objects.filter(username="ada").exists()
    assert as_ada.post("/api/account/remove", {"password": OLD}, format="json").status_code == 204
    assert not Song.objects.exists()
    assert not PracticeEntry.objects.exists()
    assert not User.objects.filter(username="ada").exists()
    assert as_ada.get("/api/session").json()["username"] is None


def test_who_made_a_class_with_people_in_it_removes_that_first(ada, as_ada, ben):
    group = groups.make_group(ada, "Tuesday", "class")
    groups.join(ben, groups.invite(group, 1).token)
    told = as_ada.post("/api/account/remove", {"password": OLD}, format="json")
    assert told.status_code == 409
    assert "Tuesday" in told.json()["detail"]


def test_registration_may_be_by_invitation_or_closed(ada, client, settings):
    body = {"username": "cleo", "password": NEW}
    settings.REGISTRATION = "closed"
    assert client.post("/api/session/sign-up", body, format="json").status_code == 403
    settings.REGISTRATION = "invitation"
    told = client.post("/api/session/sign-up", body, format="json")
    assert "by invitation" in told.json()["detail"]
    token = groups.invite(groups.make_group(ada, "Tuesday", "class"), 1).token
    invited = client.post("/api/session/sign-up", {**body, "invitation": token}, format="json")
    assert invited.json()["username"] == "cleo"


def test_the_demo_s_account_stays(db, client):
    client.post("/api/session/demo")
    assert client.post("/api/account/remove", {"password": "x"}, format="json").status_code in (
        400,
        403,
    )


@pytest.mark.parametrize("path", ["/office/", "/office/auth/user/", "/office/studio/song/"])
def test_the_office_is_for_administrators_only(mina, client, path):
    assert client.get(path)["Location"].startswith(("/office/login/", "/sign-in"))
    here, _ = signed_in()
    assert here.get(path, follow=True).status_code == 403
    User.objects.filter(pk=mina.pk).update(is_staff=True, is_superuser=True)
    shown = here.get(path)
    assert shown.status_code == 200
    assert "Content-Security-Policy" in shown


def test_the_office_has_no_door_of_its_own(client, db):
    told = client.post("/office/login/", {"username": "mina", "password": OLD})
    assert (told.status_code, told["Location"]) == (302, "/sign-in")


def test_the_first_administrator_is_made_by_one_command(db, monkeypatch):
    monkeypatch.setenv("ORCHESIS_ADMIN_PASSWORD", NEW)
    call_command("make_admin", "olga")
    assert User.objects.get(username="olga").is_superuser
    api, status = signed_in("olga", NEW)
    assert status == 200
    assert api.get("/office/studio/job/").status_code == 200


def test_what_somebody_did_in_songs_of_others_outlives_the_account(
    as_ada, as_ben, ada, ben, ada_song
):
    Seat.objects.create(song=ada_song, user=ben, role=SeatRole.EDITOR)
    url = f"/api/songs/{ada_song.id}"
    hit = ada_song.bars.first().hits[0]
    body = {"client_id": str(uuid.uuid4()), "edits": [{"before": hit, "after": None}]}
    assert as_ben.post(f"{url}/edits", body, format="json").status_code == 200
    as_ben.post(f"{url}/tempo", {"bpm": 100, "beats_a_bar": 4}, format="json")
    first = as_ben.post(f"{url}/comments", {"bar": 1, "words": "no kick?"}, format="json").json()
    answer = {"bar": 1, "words": "none", "answers": first[0]["id"]}
    as_ada.post(f"{url}/comments", answer, format="json")
    group = groups.make_group(ada, "The Quay", "band")
    groups.join(ben, groups.invite(group, 3).token)
    groups.vote(groups.wish(group, ben, "Slow Ferry"), ada, is_for=True)
    edits, changes = ada_song.edits.count(), ada_song.changes.count()
    assert edits and changes
    ben.set_password(OLD)
    ben.save()
    delete_account(ben, OLD)
    assert (ada_song.edits.count(), ada_song.changes.count()) == (edits, changes)
    told = as_ada.get(f"{url}/comments").json()
    assert [one["author"] for one in told] == ["a former member", "ada"]
    wish = as_ada.get(f"/api/groups/{group.pk}/wishes").json()[0]
    assert (wish["wisher"], wish["votes"]) == ("a former member", 1)
    bundle = io.BytesIO(b"".join(as_ada.get(f"{url}/bundle").streaming_content))
    log = json.loads(zipfile.ZipFile(bundle).read("log.json"))
    assert {entry["by"] for entry in log} == {"a former member"}


def test_an_address_counts_once_its_mail_was_opened(db, mails, tmp_path):
    make_account("mina", OLD)
    api, _ = signed_in()
    told = api.patch("/api/account", {"email": "mina@example.org"}, format="json").json()
    assert (told["email"], told["unproved_email"]) == ("", "mina@example.org")
    api.post("/api/session/forgot", {"name": "mina@example.org"}, format="json")
    (mail,) = tmp_path.iterdir()
    token = re.search(r"/confirm-email/([^\s]+)", mail.read_text().replace("=\n", ""))[1]
    forged = api.post("/api/session/email", {"token": token[:-2] + "xx"}, format="json")
    assert forged.status_code == 404
    proved = APIClient().post("/api/session/email", {"token": token}, format="json")
    assert proved.status_code == 204
    told = api.get("/api/account").json()
    assert (told["email"], told["unproved_email"]) == ("mina@example.org", "")
    again = APIClient().post("/api/session/email", {"token": token}, format="json")
    assert again.status_code == 404


def test_an_address_of_somebody_else_opens_no_account(mina, mails, tmp_path):
    """Given at sign-up, it is somebody's claim and no more."""
    body = {"username": "cleo", "password": NEW, "email": "mina@example.org"}
    assert APIClient().post("/api/session/sign-up", body, format="json").status_code == 200
    assert User.objects.get(username="cleo").email == ""
    api, _ = signed_in()
    api.post("/api/session/forgot", {"name": "mina@example.org"}, format="json")
    texts = [path.read_text() for path in sorted(tmp_path.iterdir())]
    assert sum("/reset/" in text for text in texts) == 1
    assert not any("Hello cleo" in text and "/reset/" in text for text in texts)


def test_mailbox_page_is_disabled_when_a_host_name_is_configured():
    told = "from studio import settings; print(settings.MAILS_ARE_SHOWN)"
    for hosts, shown in (("", "True"), ("drums.example.org", "False")):
        done = subprocess.run(
            [sys.executable, "-c", told],
            env={**os.environ, "ORCHESIS_HOSTS": hosts},
            capture_output=True,
            text=True,
            check=True,
        )
        assert done.stdout.strip() == shown

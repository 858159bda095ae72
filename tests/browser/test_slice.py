"""The whole slice, driven as a drummer would: real server, real worker, real browser."""

import contextlib
import json
import os
import re
import select
import signal
import socket
import threading
import time
import urllib.error
import urllib.request
import uuid
from itertools import pairwise
from pathlib import Path

import mido
import psutil
import pytest
from playwright.sync_api import expect

from tests.browser.helpers import PATIENCE_SECONDS, choose

pytestmark = pytest.mark.browser

SONGS = Path(__file__).resolve().parents[2] / "demo" / "songs"


def sign_up(page, application):
    """Make an account at an application, or at its address; gives back its name."""
    name = f"drummer-{uuid.uuid4().hex[:8]}"
    page.goto(getattr(application, "address", application))
    page.get_by_role("button", name="Create account").click()
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill("paradiddle-diddle")
    page.get_by_role("button", name="Make the account").click()
    expect(page.get_by_role("heading", name="No songs yet")).to_be_visible()
    return name


def import_song(page, path):
    page.locator("[data-test=file]").set_input_files(path)
    link = page.locator("a.title")
    expect(link).to_be_visible()
    link.click()
    expect(page.locator(".rows .row").first).to_be_visible()


def saved(page):
    expect(page.locator("[data-test=saved]")).to_have_text("Every edit saved")


def seconds(page):
    return float(page.locator("[data-test=time]").get_attribute("data-seconds"))


def notes_of(page, bar):
    return page.locator(f"[data-bar='{bar}'] .note").count()


def expect_notes(page, bar, count):
    """Once the bar is drawn: its row may be there before, empty."""
    expect(page.locator(f"[data-bar='{bar}'] .note")).to_have_count(count)


@pytest.fixture
def song_page(page, application, clone):
    """Its page, for somebody to whom it is his own."""
    song = clone(sign_up(page, application))
    page.goto(f"{application.address}/songs/{song}")
    expect(page.locator(".rows .row").first).to_be_visible()
    return page


def test_from_a_file_to_playing_along_and_taking_the_chart_away(page, application, take, tmp_path):
    sign_up(page, application)
    import_song(page, take)
    assert page.locator(".rows .row").count() > 10

    # Change a note, by mouse; take it back, by key.
    before = notes_of(page, 3)
    page.locator("[data-bar='3'] svg").click(position={"x": 63, "y": 67})
    expect(page.locator("[data-test=notice]")).to_contain_text("Bar 3: foot hat")
    saved(page)
    changed = notes_of(page, 3)
    assert abs(changed - before) == 1
    page.keyboard.press("Control+z")
    expect(page.locator("[data-test=notice]")).to_contain_text("Undone")
    expect_notes(page, 3, before)

    # Play: sound is produced, the playhead moves, the sounding bar is lit.
    page.locator('[aria-label^="Loop bar"]').first.click()
    page.locator("[data-test=play]").click()
    _wait_for_sound(page)
    expect(page.locator(".bar.now")).to_have_attribute("data-bar", re.compile("^[12]$"))
    places = [seconds(page)]
    for _ in range(8):
        page.wait_for_timeout(400)
        places.append(seconds(page))
    assert len(set(places)) > 4
    assert max(places) - min(places) < 3.0, "the loop holds one row"
    assert any(after < before for before, after in pairwise(places)), "it comes round"

    # The chart's own kit sounds too, at half speed.
    choose(page, "What you hear", "Chart kit")
    page.keyboard.press("-")
    _wait_for_sound(page)
    page.keyboard.press("Space")
    expect(page.locator("[data-test=play]")).to_have_attribute("aria-label", "Play")

    # Take the files away and read them back.
    page.keyboard.press("Alt+7")
    for name, check in (("chart.pdf", _is_pdf), ("drums.mid", _is_midi)):
        with page.expect_download() as waiting:
            page.locator(f"[data-test='{name}']").click()
        target = tmp_path / name
        waiting.value.save_as(target)
        check(target)


def _wait_for_sound(page):
    deadline = time.monotonic() + PATIENCE_SECONDS
    while time.monotonic() < deadline:
        if float(page.locator("[data-test=level]").get_attribute("data-level")) > 0.005:
            return
        page.wait_for_timeout(50)
    raise AssertionError("no sound came")


def _is_pdf(path):
    assert path.read_bytes().startswith(b"%PDF")
    assert path.stat().st_size > 10_000


def _is_midi(path):
    strokes = [m for m in mido.MidiFile(path) if m.type == "note_on" and m.velocity]
    assert len(strokes) > 100


def test_everything_can_be_done_by_keyboard_and_survives_a_reload(song_page):
    page = song_page
    page.locator("body").click(position={"x": 5, "y": 400})
    panel = page.get_by_label("The note at the cursor")
    # The drums enter in the first bar: there one begins.
    expect(panel).to_contain_text("bar 1,")
    for key in ["PageDown"] * 4 + ["ArrowRight"] * 3:
        page.keyboard.press(key)
    expect(panel).to_contain_text("bar 5")
    expect(panel).to_contain_text("the a of 1")
    before = notes_of(page, 5)
    there = panel.get_by_text("No note here").count() == 0
    page.keyboard.press("Enter")
    saved(page)
    assert notes_of(page, 5) == before + (-1 if there else 1)
    if there:
        page.keyboard.press("Enter")
    page.keyboard.press("g")
    saved(page)
    expect(page.locator("[data-test=ghost]")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("l")
    page.keyboard.press("-")
    page.keyboard.press("-")
    expect(page.locator(".transport")).to_contain_text("bar 5")
    edited = notes_of(page, 5)

    page.reload()
    expect(page.locator(".rows .row").first).to_be_visible()
    expect(panel).to_contain_text("the a of 1")
    expect(page.locator(".transport")).to_contain_text("bar 5")
    expect(page.locator(".transport")).to_contain_text("90 %")
    expect_notes(page, 5, edited)
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("counts")
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    expect(page.locator("[data-test=notice]")).to_contain_text("Undone")


def test_a_bad_file_is_refused_where_it_was_dropped(page, application, tmp_path):
    sign_up(page, application)
    bad = tmp_path / "list.wav"
    bad.write_text("sticks, heads, wing nuts")
    page.locator("[data-test=file]").set_input_files(bad)
    expect(page.get_by_role("alert")).to_contain_text("not audio")
    expect(page.get_by_role("alert")).to_contain_text("20 minutes")


def test_edits_made_while_the_server_is_away_are_kept_and_sent(song_page):
    page = song_page
    page.route("**/edits", lambda route: route.abort())
    page.locator("[data-bar='2'] svg").click(position={"x": 63, "y": 67})
    expect(page.locator("[data-test=saved]")).to_contain_text("kept here")
    edited = notes_of(page, 2)
    page.reload()
    expect(page.locator(".rows .row").first).to_be_visible()
    expect_notes(page, 2, edited)
    page.unroute("**/edits")
    saved(page)
    page.reload()
    expect(page.locator(".rows .row").first).to_be_visible()
    expect_notes(page, 2, edited)


def test_a_database_that_goes_away_is_said_and_loses_nothing(song_page, application):
    """The real server is killed; the supervisor brings it back; the edit arrives."""
    page = song_page
    _kill(application, "mariadbd")
    page.locator("[data-bar='2'] svg").click(position={"x": 63, "y": 67})
    edited = notes_of(page, 2)
    saved(page)
    page.reload()
    expect(page.locator(".rows .row").first).to_be_visible()
    expect_notes(page, 2, edited)


def test_a_worker_killed_in_mid_run_leaves_the_song_whole(page, application):
    sign_up(page, application)
    page.locator("[data-test=file]").set_input_files(SONGS / "rain-on-the-awning.ogg")
    expect(page.get_by_role("progressbar")).to_be_visible()
    page.wait_for_timeout(700)
    _kill(application, "celery")
    # Started again, the worker takes the run up again or the page offers to try again.
    retry = page.get_by_role("button", name="Try again")
    done = page.locator("a.title")
    expect(retry.or_(done)).to_be_visible()
    if retry.is_visible():
        retry.click()
    expect(done).to_be_visible()


def test_a_run_can_be_cancelled(page, application, tmp_path):
    sign_up(page, application)
    page.locator("[data-test=file]").set_input_files(SONGS / "rain-on-the-awning.ogg")
    page.locator(".songs").get_by_role("button", name="Cancel").click()
    expect(page.locator(".songs")).to_contain_text(re.compile("Cancelled"))
    expect(page.get_by_role("button", name="Try again")).to_be_visible()


def sign_out_elsewhere(page, application):
    """End the session as another tab would, without this page's program being told."""
    token = {item["name"]: item["value"] for item in page.context.cookies()}["csrftoken"]
    answer = page.context.request.delete(
        f"{application.address}/api/session",
        headers={"X-CSRFToken": token, "Referer": application.address},
    )
    assert answer.ok, answer.text()


def test_an_edit_after_signing_out_in_another_tab_is_kept_and_stored(song_page, application):
    page = song_page
    name = page.evaluate("fetch('/api/session').then((answer) => answer.json())")["username"]
    before = notes_of(page, 3)
    # What the page still asks for would find the session ended before the edit does.
    page.wait_for_load_state("networkidle")
    sign_out_elsewhere(page, application)

    page.locator("[data-bar='3'] svg").click(position={"x": 63, "y": 67})
    expect(page.get_by_text("You have been signed out")).to_be_visible()
    expect(page.locator("[data-test=saved]")).to_have_text("1 kept here until you sign in again")
    changed = notes_of(page, 3)
    assert abs(changed - before) == 1, "it is not taken back"
    page.get_by_label(f"Password of {name}").fill("wrong, at first")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog").get_by_role("alert")).to_contain_text("not right")
    page.get_by_label(f"Password of {name}").fill("paradiddle-diddle")
    page.keyboard.press("Enter")
    saved(page)
    expect(page.get_by_text("You have been signed out")).to_have_count(0)
    page.reload()
    expect_notes(page, 3, changed)


def test_slow_clients_do_not_hold_up_a_page(page, application):
    """Sixty of them all the time: one that is sent away comes back."""
    port = int(application.address.rpartition(":")[2])

    def begin():
        client = socket.create_connection(("127.0.0.1", port))
        client.sendall(b"POST /api/session/sign-in HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-")
        return client

    def come_back(slow):
        while not seen.wait(0.05):
            for client in select.select(slow, [], [], 0)[0]:
                client.close()
                slow[slow.index(client)] = begin()
        for client in slow:
            client.close()

    seen = threading.Event()
    clients = threading.Thread(target=come_back, args=([begin() for _ in range(60)],))
    clients.start()
    try:
        page.goto(application.address)
        expect(page.get_by_role("button", name="Sign in")).to_be_visible()
    finally:
        seen.set()
        clients.join()


ADDRESSES = ["/", "/songs", "/songs/abc", "/no/such/page", "/songs/../etc"]


@pytest.mark.parametrize("path", ADDRESSES)
def test_every_address_that_is_no_file_leads_to_the_one_page(application, path):
    with urllib.request.urlopen(application.address + path) as answer:
        assert b'<div id="app">' in answer.read()
        assert "script-src 'self'" in answer.headers["Content-Security-Policy"]


ODD_REQUESTS = [
    b"GET /../../etc/passwd HTTP/1.1\r\nHost: x\r\n\r\n",
    b"GET / HTTP/1.1\r\n\r\n",
    b"GET /%zz HTTP/1.1\r\nHost: x\r\n\r\n",
    b"what is this\r\n\r\n",
    b"GET /api/session HTTP/1.1\r\nHost: x\r\nX: " + b"y" * 60_000 + b"\r\n\r\n",
    b"GET /api/" + b"z" * 60_000 + b" HTTP/1.1\r\nHost: x\r\n\r\n",
    b"POST /api/songs HTTP/1.1\r\nHost: x\r\nContent-Length: 999999999999\r\n\r\n",
    b"POST /api/session/sign-in HTTP/1.1\r\nHost: x\r\nContent-Length: 9999999\r\n\r\n",
]


@pytest.mark.parametrize("request_bytes", ODD_REQUESTS, ids=range(len(ODD_REQUESTS)))
def test_requests_that_are_none_are_answered_in_a_sentence(application, request_bytes):
    port = int(application.address.rpartition(":")[2])
    with socket.create_connection(("127.0.0.1", port), 10) as client:
        client.sendall(request_bytes)
        client.settimeout(10)
        answer = b""
        with contextlib.suppress(ConnectionResetError):
            while piece := client.recv(65536):
                answer += piece
    head, _, body = answer.partition(b"\r\n\r\n")
    assert re.match(rb"HTTP/1.1 4\d\d", head), head[:80]
    assert b"application/json" in head
    assert json.loads(body)["detail"].endswith(".")


@pytest.mark.parametrize(
    "path", ["/api/nothing", "/static/nothing.js", "/files/secrets/django", "/may-upload"]
)
def test_what_is_not_there_or_only_for_ourselves_is_not_served(application, path):
    with pytest.raises(urllib.error.HTTPError, match="404"):
        urllib.request.urlopen(application.address + path)


def _kill(application, name):
    """kill -9 every process of that name below this application's supervisor."""
    killed = 0
    for child in psutil.Process(application.pid).children(recursive=True):
        with contextlib.suppress(psutil.NoSuchProcess):
            if name in json.dumps(child.cmdline()):
                os.kill(child.pid, signal.SIGKILL)
                killed += 1
    assert killed, f"no {name} was running"

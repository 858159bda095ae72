"""What no song can mean is refused with a sentence, at once, whatever it is."""

import subprocess
import sys
import time
import uuid

import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile

from studio.api import uploads
from studio.ceiling import TookTooLong, ceiling

HUGE = 10**5000


@pytest.fixture
def url(ada_song):
    return f"/api/songs/{ada_song.id}"


def refused(answer, *, within=None, began=None):
    assert answer.status_code in (400, 404, 413), answer.content
    body = answer.json()
    assert body["code"]
    assert body["detail"]
    if within is not None:
        assert time.process_time() - began < within


NUMBERS = [1e308, 1e6, -1, 2**31, 2**63, "NaN", "Infinity", "1e999", "drum", None, [], {}]


@pytest.mark.parametrize("number", NUMBERS, ids=str)
def test_a_number_that_no_tap_has_is_refused_at_once(as_ada, url, number):
    began = time.process_time()
    taps = [number, 1, 2, 3, 4]
    answer = as_ada.post(f"{url}/taps", {"taps": taps, "beats_a_bar": 4}, format="json")
    refused(answer, within=1.0, began=began)


def test_many_equal_taps_cost_nothing(as_ada, url):
    began = time.process_time()
    answer = as_ada.post(f"{url}/taps", {"taps": [2.0] * 2000, "beats_a_bar": 4}, format="json")
    refused(answer, within=1.0, began=began)


RAW = [
    ("taps", '{"taps": [1' + "0" * 5000 + ', 1, 2, 3], "beats_a_bar": 4}'),
    ("taps", '{"taps": [1e999, 1, 2, 3], "beats_a_bar": 4}'),
    ("taps", '{"taps": [NaN, 1, 2, 3], "beats_a_bar": 4}'),
    ("taps", '{"taps": ' + "[" * 5000 + "]" * 5000 + "}"),
    ("edits", "[" * 100_000),
    ("edits", '{"a":' * 5000 + "1" + "}" * 5000),
    ("confirm", "\x00\xff"),
    ("bar-line", '{"bar": 2147483648, "time": 1.0}'),
    ("bar-line", '{"bar": 1, "time": 1e308}'),
    ("form", '{"kind": "split", "first_bar": 99999999999999999999}'),
    ("form", '{"kind": "rename", "first_bar": 1, "label": "\\ud800"}'),
    ("tempo", '{"bpm": 1e308, "beats_a_bar": 4}'),
    ("tempo", '{"bpm": 100, "beats_a_bar": 1e308}'),
    ("gestures", '{"client_id": "x", "kind": "confirm", "bars": [99999999999999999999]}'),
]


@pytest.mark.parametrize(("path", "body"), RAW, ids=range(len(RAW)))
def test_odd_bodies_are_refused_with_a_sentence(as_ada, url, path, body):
    refused(as_ada.post(f"{url}/{path}", body, content_type="application/json"))


@pytest.mark.parametrize(
    "path",
    [
        f"evidence/{2**31}",
        f"evidence/{'9' * 4400}",
        f"history/{'9' * 40}",
        f"kin/{'9' * 20}",
        f"sources/{'9' * 400}/audio",
        f"evidence?first={'9' * 400}&last=4",
        f"evidence?first=-{2**40}&last=4",
        f"evidence?first=1&last=2&source={'9' * 400}",
        f"saying?first=1&last={2**31}",
    ],
    ids=lambda path: path[:20],
)
def test_numbers_in_addresses_are_bounded_too(as_ada, url, path):
    refused(as_ada.get(f"{url}/{path}"))


DIGITS = "9" * 5000


@pytest.mark.parametrize("wanted", [f"bytes={DIGITS}-", f"bytes=0-{DIGITS}", f"bytes=-{DIGITS}"])
def test_a_range_of_thousands_of_digits_is_no_range(as_ada, url, wanted):
    answer = as_ada.get(f"{url}/audio", headers={"Range": wanted})
    assert answer.status_code == 200
    assert sum(map(len, answer.streaming_content)) == 10_240


def a_new_note(as_ada, url, **other):
    bar = as_ada.get(f"{url}/score").json()["bars"][0]
    note = {**bar["hits"][0], "instrument": "cowbell", **other}
    edits = [{"before": None, "after": note}]
    body = {"client_id": str(uuid.uuid4()), "edits": edits}
    return as_ada.post(f"{url}/edits", body, format="json")


def test_a_note_has_a_place_and_a_time_in_its_bar(as_ada, url):
    assert a_new_note(as_ada, url, position="1/3").status_code == 200
    for other in ({"time": 1e5}, {"time": 900.0}, {"position": "17/9973"}, {"position": "5/11"}):
        refused(a_new_note(as_ada, url, **other))


def test_an_id_that_was_used_for_another_edit_is_a_conflict(as_ada, url):
    bar = as_ada.get(f"{url}/score").json()["bars"][0]
    ids = str(uuid.uuid4())
    first = {"client_id": ids, "edits": [{"before": bar["hits"][0], "after": None}]}
    other = {"client_id": ids, "edits": [{"before": bar["hits"][1], "after": None}]}
    assert as_ada.post(f"{url}/edits", first, format="json").status_code == 200
    assert as_ada.post(f"{url}/edits", first, format="json").status_code == 200, "sent again"
    answer = as_ada.post(f"{url}/edits", other, format="json")
    assert (answer.status_code, answer.json()["code"]) == (409, "conflict")
    assert len(as_ada.get(f"{url}/score").json()["bars"][0]["hits"]) == len(bar["hits"]) - 1


def test_a_body_beyond_all_measure_is_not_even_read(as_ada, url):
    body = '{"taps": [' + "1," * (settings.DATA_UPLOAD_MAX_MEMORY_SIZE // 2) + "1]}"
    answer = as_ada.post(f"{url}/taps", body, content_type="application/json")
    assert (answer.status_code, answer.json()["code"]) == (413, "too_large")


def test_a_file_that_is_too_large_is_told_so_with_the_limit(as_ada, monkeypatch):
    monkeypatch.setattr(uploads, "LARGEST_BYTES", 1024 * 1024)
    file = SimpleUploadedFile("long.wav", bytes(3 * 1024 * 1024))
    answer = as_ada.post("/api/songs", {"file": file}, format="multipart")
    assert answer.status_code == 413
    assert "larger than 1 MB" in answer.json()["detail"]


@pytest.mark.parametrize(
    ("method", "path"),
    [("get", "/api/nothing"), ("get", "/api/songs/x"), ("put", "/api/songs"), ("post", "/api/")],
)
def test_errors_of_the_api_are_sentences_never_pages(as_ada, method, path):
    answer = getattr(as_ada, method)(path)
    assert answer.status_code in (404, 405)
    assert answer["Content-Type"] == "application/json"
    assert answer.json()["detail"].endswith(".")


def test_what_takes_too_long_is_stopped():
    began, came_to_its_end = time.monotonic(), False
    with pytest.raises(TookTooLong), ceiling(0.1):
        while time.monotonic() - began < 20:
            sum(range(1000))
        came_to_its_end = True
    assert not came_to_its_end
    with ceiling(0.05):
        pass
    time.sleep(0.1)


def test_a_request_that_takes_too_long_says_that_nothing_was_changed(
    as_ada, url, settings, monkeypatch
):
    def endless(*args):
        while True:
            sum(range(1000))

    settings.REQUEST_SECONDS = 0.3
    monkeypatch.setattr("studio.actions.grid.on_tempo", endless)
    answer = as_ada.post(f"{url}/tempo", {"bpm": 100, "beats_a_bar": 4}, format="json")
    assert (answer.status_code, answer.json()["code"]) == (503, "too_much")
    assert as_ada.get(f"{url}/score").json()["revision"] == 1


def test_a_web_worker_may_not_take_the_machine_s_memory():
    """In a process of its own: the limit is for good."""
    greedy = """
import numpy
from studio import gunicorn_conf
gunicorn_conf.post_fork(None, None)
numpy.ones(100_000_000, numpy.uint8)
try:
    numpy.ones(1_700_000_000, numpy.uint8)
except MemoryError:
    print("refused")
"""
    command = [sys.executable, "-c", greedy]
    done = subprocess.run(command, capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "refused"

"""What no song can mean is refused with a sentence, at once, whatever it is."""

import subprocess
import sys
import time
import uuid

import pytest
import yaml
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile

from studio.api import uploads
from studio.ceiling import TookTooLong, ceiling
from studio.counters import connection

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


@pytest.mark.django_db(transaction=True)
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


def test_waiting_is_no_work():
    """On a busy machine small work takes long by the clock: it is not stopped for that."""
    with ceiling(0.2, wall=5.0):
        time.sleep(0.4)
    with pytest.raises(TookTooLong), ceiling(5.0, wall=0.1):
        time.sleep(1.0)


def test_a_connection_is_let_go_before_the_error_is_raised():
    told = []
    with pytest.raises(TookTooLong), ceiling(0.1, on_stop=lambda: told.append("let go")):
        while not told:
            sum(range(1000))
        sum(range(1000))
    assert told == ["let go"]


MANY = 200_000


@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("/api/latency", {"clicks": ["x"] * MANY, "claps": []}),
        ("/api/latency", {"clicks": [], "claps": [0.1] * MANY}),
        ("{url}/practice/played", {"wanted": [{}] * MANY, "struck": []}),
        ("{url}/practice/played", {"wanted": [], "struck": ["x"] * MANY}),
        ("{url}/practice/stand-in", {"wanted": [1] * MANY}),
        ("{url}/practice/stand-in", {"wanted": [], "late_ms": {str(i): 1 for i in range(90_000)}}),
        ("{url}/practice/log", {"entries": [{}] * MANY}),
        ("{url}/taps", {"taps": [1.0] * MANY, "beats_a_bar": 4}),
        ("{url}/edits", {"client_id": str(uuid.UUID(int=1)), "edits": [{}] * MANY}),
        (
            "{url}/gestures",
            {"client_id": str(uuid.UUID(int=1)), "kind": "confirm", "bars": [1] * MANY},
        ),
    ],
)
def test_a_long_list_is_refused_by_its_length_before_its_elements(as_ada, url, path, body):
    began = time.process_time()
    answer = as_ada.post(path.format(url=url), body, format="json")
    spent = time.process_time() - began
    assert answer.status_code == 400
    assert "at once" in answer.json()["detail"]
    assert spent < 1.0, "two thirds of it are the test's own writing of JSON"


def test_list_validation_reports_the_first_invalid_element(as_ada):
    body = {"clicks": [0.1, "x", "y"], "claps": []}
    detail = as_ada.post("/api/latency", body, format="json").json()["detail"]
    assert detail.startswith("clicks: 1: ")


def test_every_list_that_a_request_may_hold_has_a_length(db):
    """Whoever adds a field meets this: a list without an end is a way to hold everybody up."""
    schema = yaml.safe_load((settings.ROOT / "studio" / "schema.yaml").read_text())
    shapes = schema["components"]["schemas"]

    def endless(shape, name, seen=()):
        if "$ref" in shape:
            key = shape["$ref"].rpartition("/")[2]
            return endless(shapes[key], key, (*seen, key)) if key not in seen else []
        found = []
        if shape.get("type") == "array":
            found += [] if "maxItems" in shape else [name]
            found += endless(shape["items"], name, seen)
        for key, inner in shape.get("properties", {}).items():
            found += endless(inner, f"{name}.{key}", seen)
        for inner in shape.get("allOf", []) + shape.get("oneOf", []):
            found += endless(inner, name, seen)
        return found

    bodies = [
        content["schema"]
        for path in schema["paths"].values()
        for ask in path.values()
        if "requestBody" in ask
        for content in ask["requestBody"]["content"].values()
    ]
    assert len(bodies) > 40
    assert sorted({one for body in bodies for one in endless(body, "body")}) == []


BROKEN = ["\\ud800", "\\udfff x", "a\\u0000b"]


@pytest.mark.parametrize("text", BROKEN)
@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("/api/session/sign-in", '{"username": "%s", "password": "x"}'),
        ("/api/session/forgot", '{"name": "%s"}'),
        ("/api/groups", '{"name": "%s", "kind": "band"}'),
        ("/api/groups", '{"name": "x", "kind": "%s"}'),
        ("{url}/confirm", '{"finding": "%s", "confirmed": true}'),
        ("{url}/cues", '{"bar": 1, "words": "%s"}'),
        ("{url}/comments", '{"bar": 1, "words": "%s"}'),
        ("{url}/reading", '{"key": "%s"}'),
        ("{url}/practice/log", '{"entries": [{"%s": 1}]}'),
        ("{url}/links", '{"reading": "%s", "level": "all"}'),
    ],
)
def test_half_a_letter_or_a_zero_byte_is_refused_wherever_it_stands(as_ada, url, path, body, text):
    answer = as_ada.post(path.format(url=url), body % text, content_type="application/json")
    assert answer.status_code in (400, 404, 405), answer.content
    answer.json()


def test_of_one_person_two_dear_requests_are_worked_on_at_a_time(as_ada, ada, monkeypatch):
    line = connection()
    key = f"flight:person:{ada.pk}"
    line.delete(key)
    body = {"clicks": [0.5, 1.0, 1.5, 2.0], "claps": [0.52, 1.02, 1.52, 2.02]}
    assert as_ada.post("/api/latency", body, format="json").status_code == 200
    assert int(line.get(key)) == 0, "counted down again"
    line.set(key, 2)
    busy = as_ada.post("/api/latency", body, format="json")
    assert (busy.status_code, busy["Retry-After"]) == (429, "1")
    assert int(line.get(key)) == 2
    line.delete(key)

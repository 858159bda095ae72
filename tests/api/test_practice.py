"""The Practice stage over the API: plans that are kept, a log that is sent once, mixes."""

import uuid
from datetime import timedelta

import pytest
from django.utils import timezone

from orchesis.music.instruments import Instrument
from orchesis.pipeline import Result
from studio.actions import practising
from studio.actions.practising import mix_path
from studio.actions.store import store_transcription
from studio.jobs.mixing import render_practice_mix
from studio.jobs.running import Watch
from studio.models import Job, JobKind, PracticeEntry, PracticePlan, Song
from tests.composing import ROCK, song

HAT, SNARE, KICK, TOM = (
    Instrument.HIHAT_CLOSED,
    Instrument.SNARE,
    Instrument.KICK,
    Instrument.TOM_HIGH,
)
FILL = {
    HAT: "x.x.x.x.........",
    SNARE: "....X...xxxx....",
    TOM: "............xxxx",
    KICK: "x.......",
}
MIX = {"target": "section-1", "step": "limb_by_limb-0", "shares": [0.7, 1.0], "loops": 2}


@pytest.fixture
def practised(ada):
    """A song without a recording: eight bars of rock, a fill in bar 8, four bars more."""
    stored = Song.objects.create(owner=ada, title="Practised", file_name="f.ogg", suffix="")
    store_transcription(stored, Result(song([ROCK] * 7 + [FILL] + [ROCK] * 4), (0.5,)))
    stored.refresh_from_db()
    stored.folder.mkdir(parents=True, exist_ok=True)
    return stored


def path(of, what=""):
    return f"/api/songs/{of.id}/practice{what}"


def plan(client, of, target="section-1"):
    return client.get(path(of, f"/plans/{target}")).json()


def entry(step="limb_by_limb-0", days_ago=0, **more):
    return {
        "client_id": str(uuid.uuid4()),
        "target": "section-1",
        "step": step,
        "title": "The right hand alone",
        "played_at": (timezone.now() - timedelta(days=days_ago)).isoformat(),
        "share": 0.8,
        "bpm": 96,
        "loops": 8,
        "minutes": 4,
        "feeling": "easy",
        **more,
    }


def send(client, of, *entries):
    return client.post(path(of, "/log"), {"entries": list(entries)}, format="json")


def test_grooves_and_fills_can_be_practised(as_ada, practised):
    told = as_ada.get(path(practised)).json()
    assert [(one["key"], one["kind"]) for one in told["targets"]] == [
        ("section-1", "section"),
        ("fill-8", "fill"),
    ]
    assert told["plans"] == told["log"] == told["session"] == []
    assert "stop" in told["body"]["stop_words"]


def test_each_method_ends_with_all_of_the_groove(as_ada, practised):
    told = plan(as_ada, practised)
    steps = {step["key"]: step for step in told["steps"]}
    assert len(told["methods"]) == 5
    for method in told["methods"]:
        last = steps[method["steps"][-1]]
        assert last["title"] == "All of it"
        assert {note["instrument"] for note in last["notes"]} == {"hihat_closed", "snare", "kick"}
        assert last["rungs"][0]["share"] < 1 < last["rungs"][-1]["share"]
    first = steps["limb_by_limb-0"]
    assert {note["limb"] for note in first["notes"]} == {"RH"}
    assert [word["word"] for word in first["voice"]][:4] == ["1", "&", "2", "&"]
    assert first["windows"][0]["words"].startswith("two beats from")


def test_the_plan_of_a_fill_is_of_the_fill(as_ada, practised):
    told = plan(as_ada, practised, "fill-8")
    assert told["methods"][0]["value"] == "fill"
    titles = [step["title"] for step in told["steps"]]
    assert {"Groove and fill, 2 bars", "Groove and fill, 4 bars"} <= set(titles)
    first = told["steps"][0]
    assert first["end"] - first["start"] < told["bars"][-1]["end"] - told["bars"][0]["start"]


def test_a_plan_is_kept_in_ones_own_order_and_taken_off(as_ada, practised):
    steps = ["hands_then_feet-1", "limb_by_limb-0"]
    address = path(practised, "/plans/section-1")
    kept = as_ada.put(address, {"steps": steps, "at": 1}, format="json")
    assert kept.status_code == 200
    (shown,) = as_ada.get(path(practised)).json()["plans"]
    assert (shown["steps"], shown["at"]) == (steps, 1)
    as_ada.put(address, {"steps": steps[:1], "at": 0}, format="json")
    assert PracticePlan.objects.get().steps == steps[:1]
    assert as_ada.delete(address).status_code == 204
    assert as_ada.delete(address).status_code == 404


@pytest.mark.parametrize(
    "steps", [["no_such-1"], ["limb_by_limb-0", "limb_by_limb-0"], ["limb_by_limb-99"], ["<b>"]]
)
def test_steps_that_do_not_exist_are_refused(as_ada, practised, steps):
    answer = as_ada.put(path(practised, "/plans/section-1"), {"steps": steps}, format="json")
    assert answer.status_code == 400
    assert not PracticePlan.objects.exists()


def test_a_groove_is_practised_at_a_level(as_ada, practised):
    told = plan(as_ada, practised, "section-1--backbeat")
    assert told["name"].endswith(", kick and backbeat")
    drums = {note["instrument"] for step in told["steps"] for note in step["notes"]}
    assert drums == {"snare", "kick"}
    address = path(practised, "/plans/section-1--backbeat")
    keys = told["methods"][0]["steps"]
    assert as_ada.put(address, {"steps": keys, "at": 0}, format="json").status_code == 200
    send(as_ada, practised, entry(step=keys[0], target="section-1--backbeat", days_ago=1))
    shown = as_ada.get(path(practised)).json()
    (kept,) = shown["plans"]
    assert (kept["is_there"], kept["name"]) == (True, told["name"])
    assert shown["session"][0]["target"] == "section-1--backbeat"
    # Of a fill that the snare plays on its own nothing is left to the feet.
    assert as_ada.get(path(practised, "/plans/fill-8--hands")).status_code == 200


@pytest.mark.parametrize(
    "target", ["section-2", "fill-1", "nothing", "section-x", "section-1--loud", "section-2--hands"]
)
def test_what_the_song_does_not_have_cannot_be_practised(as_ada, practised, target):
    assert as_ada.get(path(practised, f"/plans/{target}")).status_code == 404


def test_an_entry_that_is_sent_twice_is_one(as_ada, practised):
    one, other = entry(), entry("limb_by_limb-1")
    assert send(as_ada, practised, one).status_code == 200
    answer = send(as_ada, practised, one, other)
    assert [item["step"] for item in answer.json()["log"]] == ["limb_by_limb-0", "limb_by_limb-1"]
    assert answer.json()["body"]["minutes_today"] == 8
    assert 0 < answer.json()["body"]["dose"] < 1


def test_the_next_session_follows_the_log(as_ada, practised):
    steps = ["limb_by_limb-0", "limb_by_limb-1"]
    as_ada.put(path(practised, "/plans/section-1"), {"steps": steps}, format="json")
    (first,) = as_ada.get(path(practised)).json()["session"]
    assert (first["step"], first["words"]) == ("limb_by_limb-0", "new")
    session = send(as_ada, practised, entry(days_ago=1)).json()["session"]
    assert {due["step"]: due["share"] for due in session} == {
        "limb_by_limb-0": 0.8,
        "limb_by_limb-1": 0.0,
    }


@pytest.mark.parametrize(
    "wrong",
    [
        {"feeling": "splendid"},
        {"share": -1},
        {"minutes": -1},
        {"step": "../x-1"},
        {"client_id": "7"},
        {"level_db": 900},
    ],
)
def test_entries_that_mean_nothing_are_refused_whole(as_ada, practised, wrong):
    answer = send(as_ada, practised, entry(), entry(**wrong))
    assert answer.status_code == 400
    assert not PracticeEntry.objects.exists()


def test_the_log_is_a_file_without_formulas(as_ada, practised):
    send(as_ada, practised, entry(title="=1+1", told=["The left hand is 12 ms late."]))
    answer = as_ada.get(path(practised, "/log.csv"))
    lines = answer.content.decode().splitlines()
    assert lines[0].startswith("played_at,target,step")
    assert "'=1+1" in lines[1]
    assert "12 ms late" in lines[1]
    assert as_ada.delete(path(practised, "/log")).status_code == 204
    assert len(as_ada.get(path(practised, "/log.csv")).content.decode().splitlines()) == 1


def notes(told, key, passes=4):
    step = next(one for one in told["steps"] if one["key"] == key)
    turn = step["end"] - step["start"]
    return [
        {
            "time": round(note["time"] - step["start"] + number * turn, 4),
            "instrument": note["instrument"],
            "limb": note["limb"],
            "velocity": note["velocity"],
        }
        for number in range(passes)
        for note in step["notes"]
    ]


def test_a_late_hand_is_told(as_ada, practised):
    told = plan(as_ada, practised)
    wanted = notes(told, "hands_then_feet-0", passes=8)
    stand_in = as_ada.post(
        path(practised, "/stand-in"),
        {"wanted": wanted, "late_ms": {"LH": 20}, "spread_ms": 2},
        format="json",
    ).json()["struck"]
    found = as_ada.post(
        path(practised, "/played"), {"wanted": wanted, "struck": stand_in}, format="json"
    ).json()
    assert found["is_clean"]
    late = {limb["limb"]: limb["late_ms"] for limb in found["limbs"]}
    assert late["LH"] == pytest.approx(20, abs=3)
    assert late["RH"] == pytest.approx(0, abs=3)
    assert any("left hand is" in words and "late" in words for words in found["words"])


def test_claps_tell_the_latency(as_ada):
    clicks = [number * 0.6 for number in range(8)]
    claps = [click + 0.043 for click in clicks[1:]]
    answer = as_ada.post("/api/latency", {"clicks": clicks, "claps": claps}, format="json")
    assert answer.json()["latency_ms"] == pytest.approx(43, abs=0.2)
    answer = as_ada.post("/api/latency", {"clicks": clicks, "claps": [9.0]}, format="json")
    assert answer.status_code == 400
    assert "four" in str(answer.json())


def test_a_pass_by_chance_keeps_the_core(as_ada, practised):
    address = path(practised, "/variation/section-1")
    answer = as_ada.post(address, {"seed": 3}, format="json")
    assert {note["instrument"] for note in answer.json()["notes"]} >= {"kick", "snare"}
    again = as_ada.post(address, {"seed": 3}, format="json")
    assert again.json() == answer.json()


def test_a_mix_is_rendered_once_and_cancelled(as_ada, practised):
    asked = as_ada.post(path(practised, "/mixes"), MIX, format="json").json()
    assert asked["state"] == "queued"
    job = Job.objects.get(kind=JobKind.MIX)
    assert as_ada.post(path(practised, "/mixes"), MIX, format="json").json()["state"] == "queued"
    assert Job.objects.filter(kind=JobKind.MIX).count() == 1
    as_ada.post(path(practised, "/mixes/cancel"), MIX, format="json")
    job.refresh_from_db()
    assert job.cancel_requested
    Job.objects.filter(pk=job.pk).update(state="running", cancel_requested=False)
    job.refresh_from_db()
    render_practice_mix(job, Watch(job))
    assert mix_path(practised, job.options).exists()
    Job.objects.filter(pk=job.pk).update(state="done")
    done = as_ada.post(path(practised, "/mixes"), MIX, format="json").json()
    assert done["state"] == "done"
    file = as_ada.get(path(practised, f"/mixes/{done['name']}"))
    assert file["Content-Type"] == "audio/mpeg"
    assert len(b"".join(file.streaming_content) if file.streaming else file.content) > 10_000


def test_a_mix_that_a_host_of_the_version_before_rendered_is_found(as_ada, practised, monkeypatch):
    """Hosts are brought to a new version one after the other: nothing is rendered for ever."""
    monkeypatch.setattr(practising, "code_stamp", lambda: "new")
    as_ada.post(path(practised, "/mixes"), MIX, format="json")
    job = Job.objects.get(kind=JobKind.MIX)
    monkeypatch.setattr(practising, "code_stamp", lambda: "old")
    Job.objects.filter(pk=job.pk).update(state="running")
    job.refresh_from_db()
    render_practice_mix(job, Watch(job))
    Job.objects.filter(pk=job.pk).update(state="done")
    monkeypatch.setattr(practising, "code_stamp", lambda: "new")
    assert as_ada.post(path(practised, "/mixes"), MIX, format="json").json()["state"] == "done"
    assert Job.objects.filter(kind=JobKind.MIX).count() == 1


@pytest.mark.parametrize(
    "wrong", [{"shares": []}, {"loops": 0}, {"click": "fifths"}, {"shares": [9]}]
)
def test_mixes_that_mean_nothing_are_refused(as_ada, practised, wrong):
    answer = as_ada.post(path(practised, "/mixes"), {**MIX, **wrong}, format="json")
    assert answer.status_code == 400
    assert not Job.objects.filter(kind=JobKind.MIX).exists()

"""Listening runs that are cancelled, die or are repeated; sound in ranges."""

import uuid
from dataclasses import replace
from datetime import timedelta

import pytest
from django.utils import timezone

from orchesis.errors import Cancelled
from orchesis.music.instruments import Instrument
from orchesis.pipeline import Result
from studio.actions.store import offer_heard, store_transcription
from studio.jobs import listen, running
from studio.jobs.work import do
from studio.models import Job, JobKind, RunState, Song
from studio.queueing import MOST_ATTEMPTS, claim_next, sleeping_jobs, take_up, take_up_all
from studio.values.stored import load_transcription
from tests.api.conftest import SONGS, work_off
from tests.composing import ROCK, song


@pytest.fixture
def waiting(ada):
    """A song with a recording and a queued run."""
    stored = Song.objects.create(owner=ada, title="Wait", file_name="w.ogg", suffix=".ogg")
    stored.folder.mkdir(parents=True)
    stored.source_path.write_bytes((SONGS / "steps-to-the-market.ogg").read_bytes())
    Job.objects.create(song=stored)
    return stored


def test_a_waiting_run_is_cancelled_at_once_and_never_begins(as_ada, waiting):
    answer = as_ada.delete(f"/api/songs/{waiting.id}/listening")
    assert answer.json()["state"] == "cancelled"
    assert work_off() == 0
    assert not waiting.bars.exists()
    assert as_ada.delete(f"/api/songs/{waiting.id}/listening").status_code == 409


def test_a_running_one_stops_and_leaves_the_song_as_it_was(waiting, monkeypatch):
    run = waiting.jobs.get()
    real = listen.transcribe

    def wish_to_stop(*args, **options):
        Job.objects.filter(pk=run.pk).update(cancel_requested=True)
        return real(*args, **options)

    monkeypatch.setattr(listen, "transcribe", wish_to_stop)
    monkeypatch.setattr(running, "REPORT_EVERY", 0.0)
    work_off()
    run.refresh_from_db()
    assert run.state == RunState.CANCELLED
    waiting.refresh_from_db()
    assert waiting.header is None
    assert not waiting.bars.exists()


def test_progress_is_written_while_it_works(waiting, monkeypatch):
    run = waiting.jobs.get()
    seen = []
    real = running.Watch.report

    def note(self, stage, share):
        real(self, stage, share)
        run.refresh_from_db()
        seen.append((run.stage, run.progress))

    monkeypatch.setattr(running.Watch, "report", note)
    monkeypatch.setattr(running, "REPORT_EVERY", 0.0)
    work_off()
    assert {"copy", "listen", "beats"} <= {stage for stage, _ in seen}
    assert [share for _, share in seen] == sorted(share for _, share in seen)
    run.refresh_from_db()
    assert (run.state, run.progress, run.attempts) == (RunState.DONE, 1.0, 1)


def died(run):
    """As when a worker was killed some minutes ago."""
    long_ago = timezone.now() - timedelta(minutes=2)
    Job.objects.filter(pk=run.pk).update(heartbeat_at=long_ago)


def test_a_run_whose_worker_died_goes_on_by_itself_once_and_says_so(as_ada, waiting):
    run = claim_next("listen")
    died(run)
    shown = as_ada.get(f"/api/songs/{waiting.id}").json()["run"]
    assert (shown["state"], shown["message"]) == (
        "queued",
        "It was interrupted and goes on by itself.",
    )
    again = claim_next("listen")
    assert (again.pk, again.attempts) == (run.pk, 2)
    died(again)
    assert take_up_all() == 1
    shown = as_ada.get(f"/api/songs/{waiting.id}").json()["run"]
    assert shown["state"] == "interrupted"
    assert "try again" in shown["message"]
    assert claim_next("listen") is None
    assert as_ada.post(f"/api/songs/{waiting.id}/listening").status_code == 202
    assert as_ada.post(f"/api/songs/{waiting.id}/listening").status_code == 409


def test_a_worker_that_was_frozen_and_lost_its_run_stores_nothing(waiting):
    frozen = claim_next("listen")
    died(frozen)
    take_up_all()
    other = claim_next("listen")
    assert other.pk == frozen.pk
    do(frozen)
    waiting.refresh_from_db()
    assert waiting.header is None, "the other one works on it now"
    other.refresh_from_db()
    assert other.state == RunState.RUNNING
    do(other)
    waiting.refresh_from_db()
    assert waiting.header is not None
    other.refresh_from_db()
    assert (other.state, other.attempts) == (RunState.DONE, MOST_ATTEMPTS)


def test_a_beating_heart_keeps_a_run(waiting):
    claim_next("listen")
    assert take_up_all() == 0


def test_an_error_inside_leaves_nothing_half_written(waiting, monkeypatch):
    def break_down(*args, **options):
        raise RuntimeError("a bug")

    monkeypatch.setattr("studio.actions.locking.SongBar.objects.bulk_create", break_down)
    run = waiting.jobs.get()
    work_off()
    run.refresh_from_db()
    assert run.state == RunState.FAILED
    assert "bug" not in run.message
    waiting.refresh_from_db()
    assert waiting.header is None


def test_a_song_removed_while_it_is_listened_to_ends_the_run(waiting, monkeypatch):
    def removed(*args, **options):
        waiting.delete()
        raise Cancelled("stopped")

    monkeypatch.setattr(listen, "transcribe", removed)
    work_off()
    assert not Song.objects.exists()


def test_workers_serve_each_user_in_turn(ada, ben):
    for owner, count in ((ada, 4), (ben, 2)):
        for number in range(count):
            stored = Song.objects.create(owner=owner, title=f"{number}", suffix=".ogg")
            Job.objects.create(song=stored)
    order = []
    while (job := claim_next("listen")) is not None:
        order.append((job.song.owner.username, job.song.title))
    assert order == [
        *(("ada", "0"), ("ben", "0"), ("ada", "1"), ("ben", "1"), ("ada", "2"), ("ada", "3"))
    ]


def test_short_work_does_not_wait_behind_long_work(ada_song):
    listening = Job.objects.create(song=ada_song)
    printing = Job.objects.create(song=ada_song, kind=JobKind.PRINT)
    assert claim_next("render").pk == printing.pk
    assert claim_next("render") is None
    assert claim_next("listen").pk == listening.pk


def test_a_worker_that_was_told_in_vain_is_told_again(ada_song):
    job = Job.objects.create(song=ada_song)
    assert [one.pk for one in sleeping_jobs()] == [job.pk]
    Job.objects.filter(pk=job.pk).update(woken_at=timezone.now())
    assert sleeping_jobs() == []
    Job.objects.filter(pk=job.pk).update(woken_at=timezone.now() - timedelta(minutes=1))
    assert [one.pk for one in sleeping_jobs()] == [job.pk]


def edited(api, stored, number=1):
    """Remove the first note of a bar over the wire; gives back its hits as they are then."""
    hit = stored.bars.get(number=number).hits[0]
    body = {"client_id": str(uuid.uuid4()), "edits": [{"before": hit, "after": None}]}
    assert api.post(f"/api/songs/{stored.id}/edits", body, format="json").status_code == 200
    return stored.bars.get(number=number).hits


HEARD_ANEW = {**ROCK, Instrument.KICK: "xxxx............"}


def test_an_edit_that_is_made_while_a_song_is_heard_stays_with_its_history(as_ada, ada_song):
    """The run knows nothing of it: it ends after the edit was acknowledged."""
    kept = edited(as_ada, ada_song, 2)
    store_transcription(ada_song, Result(song([HEARD_ANEW] * 4), (1.0,)))
    assert ada_song.bars.get(number=2).hits == kept
    assert ada_song.bars.get(number=3).hits != kept
    assert ada_song.edits.count() == 1
    heard = as_ada.post(f"/api/songs/{ada_song.id}/undo").json()
    assert heard["words"] == "Undone: Heard again: 3 bars changed"
    undone = as_ada.post(f"/api/songs/{ada_song.id}/undo")
    assert undone.status_code == 200
    assert len(ada_song.bars.get(number=2).hits) == len(kept) + 1


def test_an_edited_song_can_be_heard_again_and_keeps_its_grid(as_ada, ada_song):
    kept = edited(as_ada, ada_song, 2)
    assert as_ada.post(f"/api/songs/{ada_song.id}/listening").status_code == 202
    before = load_transcription(ada_song)
    later = song([HEARD_ANEW] * 5, beats=3)
    store_transcription(ada_song, Result(later, (1.0,)))
    ada_song.refresh_from_db()
    now = load_transcription(ada_song)
    assert [bar.start for bar in now.bars] == [bar.start for bar in before.bars]
    assert ada_song.bars.get(number=2).hits == kept


def test_what_a_new_run_changed_is_one_step_that_can_be_taken_back(as_ada, ada_song):
    before = load_transcription(ada_song)
    words = store_transcription(ada_song, Result(song([HEARD_ANEW] * 4), (1.0,)))
    assert words == "Heard again: 4 bars changed"
    ada_song.refresh_from_db()
    heard = load_transcription(ada_song)
    assert heard.hits != before.hits
    undone = as_ada.post(f"/api/songs/{ada_song.id}/undo").json()
    assert undone["words"] == "Undone: Heard again: 4 bars changed"
    ada_song.refresh_from_db()
    assert load_transcription(ada_song).hits == before.hits
    as_ada.post(f"/api/songs/{ada_song.id}/redo")
    ada_song.refresh_from_db()
    assert load_transcription(ada_song).hits == heard.hits


def test_what_a_run_heard_anew_is_looked_at_before_it_is_taken(as_ada, ada_song):
    url = f"/api/songs/{ada_song.id}/heard-again"
    kept = edited(as_ada, ada_song, 2)
    before = load_transcription(ada_song)
    words = offer_heard(ada_song, Result(song([HEARD_ANEW] * 4), (1.0,)))
    assert words == "Heard again: 3 bars would be otherwise. Look at it before it is taken"
    ada_song.refresh_from_db()
    assert load_transcription(ada_song).hits == before.hits, "nothing has changed yet"
    assert as_ada.get(f"/api/songs/{ada_song.id}/mine").json()["heard_again"]
    told = as_ada.get(url).json()
    assert (told["facts"], [bar["bar"] for bar in told["bars"]]) == ([], [1, 3, 4])
    taken = as_ada.post(url)
    assert (taken.status_code, taken.json()["words"]) == (200, "Heard again: 3 bars changed")
    assert ada_song.bars.get(number=2).hits == kept
    assert as_ada.get(url).status_code == 404, "it waits no more"
    assert as_ada.post(f"/api/songs/{ada_song.id}/undo").status_code == 200
    ada_song.refresh_from_db()
    assert load_transcription(ada_song).hits == before.hits


def test_what_a_run_heard_anew_can_be_left(as_ada, ada_song):
    url = f"/api/songs/{ada_song.id}/heard-again"
    before = ada_song.revision
    offer_heard(ada_song, Result(song([HEARD_ANEW] * 5, beats=3), (1.0,)))
    assert "4 bars would be 5" in as_ada.get(url).json()["facts"]
    assert as_ada.delete(url).status_code == 204
    assert as_ada.get(url).status_code == as_ada.post(url).status_code == 404
    ada_song.refresh_from_db()
    assert ada_song.revision == before


def test_a_run_that_would_change_nothing_offers_nothing(as_ada, ada_song):
    same = load_transcription(ada_song)
    words = offer_heard(ada_song, Result(same, (1.0,)))
    assert words == "Heard again: nothing would be otherwise"
    assert not as_ada.get(f"/api/songs/{ada_song.id}/mine").json()["heard_again"]


def test_a_run_that_hears_the_same_is_no_step(as_ada, ada_song):
    same = load_transcription(ada_song)
    assert store_transcription(ada_song, Result(same, (1.0,))) == "Heard again: no bar changed"
    assert as_ada.post(f"/api/songs/{ada_song.id}/undo").status_code == 409


def test_a_run_that_finds_no_beat_takes_nothing_away(ada_song):
    before = load_transcription(ada_song)
    nothing = replace(before, bars=(), hits=(), sections=(), beats=())
    assert store_transcription(ada_song, Result(nothing, (1.0,))) == "Heard again: no bar changed"
    ada_song.refresh_from_db()
    assert load_transcription(ada_song) == before


def test_a_run_is_no_decision_about_the_grid(as_ada, ada_song):
    """The next one may find another grid, where nobody has decided anything."""
    store_transcription(ada_song, Result(song([HEARD_ANEW] * 4), (1.0,)))
    other = song([HEARD_ANEW] * 5, beats=3)
    store_transcription(ada_song, Result(other, (1.0,)))
    ada_song.refresh_from_db()
    assert [bar.start for bar in load_transcription(ada_song).bars] == [
        bar.start for bar in other.bars
    ]


def test_a_form_that_somebody_changed_outlives_a_new_run(as_ada, ada_song):
    url = f"/api/songs/{ada_song.id}"
    as_ada.post(f"{url}/form", {"kind": "split", "first_bar": 3}, format="json")
    rename = {"kind": "rename", "first_bar": 3, "label": "Bridge"}
    as_ada.post(f"{url}/form", rename, format="json")
    store_transcription(ada_song, Result(song([HEARD_ANEW] * 4), (1.0,)))
    sections = as_ada.get(f"{url}/score").json()["sections"]
    assert [section["label"] for section in sections][-1] == "Bridge"
    assert [section["bars"] for section in sections] == [2, 2]


def test_a_run_that_was_lost_changes_nothing_even_at_its_very_end(ada_song):
    def lost():
        raise Cancelled("stopped")

    before = load_transcription(ada_song)
    with pytest.raises(Cancelled):
        store_transcription(ada_song, Result(song([HEARD_ANEW] * 4), (1.0,)), before=lost)
    ada_song.refresh_from_db()
    assert load_transcription(ada_song) == before


def audio(api, song, **headers):
    answer = api.get(f"/api/songs/{song.id}/audio", headers=headers)
    body = b"".join(answer.streaming_content) if answer.streaming else answer.content
    return answer, body


@pytest.mark.parametrize(
    ("wanted", "status", "first", "last"),
    [
        (None, 200, 0, 10_239),
        ("bytes=0-99", 206, 0, 99),
        ("bytes=10000-", 206, 10_000, 10_239),
        ("bytes=-40", 206, 10_200, 10_239),
        ("bytes=5-9999999", 206, 5, 10_239),
        ("bytes=0-1,5-6", 200, 0, 10_239),
        ("lines=1-2", 200, 0, 10_239),
    ],
)
def test_sound_is_served_whole_or_in_ranges(as_ada, ada_song, wanted, status, first, last):
    answer, body = audio(as_ada, ada_song, **({"Range": wanted} if wanted else {}))
    assert answer.status_code == status
    assert body == (bytes(range(256)) * 40)[first : last + 1]
    if status == 206:
        assert answer["Content-Range"] == f"bytes {first}-{last}/10240"


@pytest.mark.parametrize("wanted", ["bytes=10240-", "bytes=9-3", "bytes=99999-100000"])
def test_a_range_outside_the_file_cannot_be_served(as_ada, ada_song, wanted):
    answer, _ = audio(as_ada, ada_song, Range=wanted)
    assert answer.status_code == 416
    assert answer["Content-Range"] == "bytes */10240"


def test_a_range_of_an_older_file_gives_the_whole_new_one(as_ada, ada_song):
    answer, body = audio(as_ada, ada_song, **{"Range": "bytes=0-9", "If-Range": '"old"'})
    assert (answer.status_code, len(body)) == (200, 10_240)
    tag = answer["ETag"]
    answer, body = audio(as_ada, ada_song, **{"Range": "bytes=0-9", "If-Range": tag})
    assert (answer.status_code, len(body)) == (206, 10)
    answer, _ = audio(as_ada, ada_song, **{"If-None-Match": tag})
    assert answer.status_code == 304


def test_renaming(as_ada, ada_song):
    url = f"/api/songs/{ada_song.id}"
    assert as_ada.patch(url, {"title": "Other"}, format="json").json()["title"] == "Other"
    assert as_ada.patch(url, {"title": ""}, format="json").status_code == 400
    assert as_ada.get(f"{url}/files/chart.musicxml").content.count(b"Other") == 1


def test_a_host_whose_clock_is_wrong_takes_nobody_for_dead(ada_song, monkeypatch):
    job = Job.objects.create(song=ada_song, kind=JobKind.PRINT)
    taken = claim_next("render")
    assert taken is not None
    # A host an hour ahead looks after jobs, and one an hour behind.
    for wrong in (timedelta(hours=1), timedelta(hours=-1)):
        now = timezone.now() + wrong
        monkeypatch.setattr(timezone, "now", lambda now=now: now)
        assert take_up_all() == 0
        take_up(taken)
    monkeypatch.undo()
    job.refresh_from_db()
    assert (job.state, job.attempts) == (RunState.RUNNING, 1)
    assert abs(timezone.now() - job.heartbeat_at) < timedelta(seconds=30)

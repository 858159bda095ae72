"""What the pages get: every note has a place, every place a word and a time."""

from dataclasses import replace
from datetime import timedelta
from fractions import Fraction

import pytest
from django.test import Client
from django.utils import timezone

from orchesis.music.instruments import Instrument, Status
from orchesis.music.values import Feel
from orchesis.pipeline import Result
from studio.actions.counting import count
from studio.actions.store import store_transcription
from studio.models import Job, RunState, Song
from studio.values.access import Role
from studio.values.presenting import cell_values, run_values, song_values
from studio.values.shown import shown, shown_path
from studio.values.stored import load_transcription
from tests.composing import ROCK, grid, hits, song


def test_what_is_stored_comes_back_as_it_was(ada_song):
    piece = song([ROCK] * 4)
    loaded = load_transcription(ada_song)
    assert loaded.hits == piece.hits
    assert loaded.bars == piece.bars
    assert loaded.sections == piece.sections


def test_storing_again_replaces_everything(ada_song):
    store_transcription(ada_song, Result(song([ROCK] * 2), (1.0,)))
    ada_song.refresh_from_db()
    assert ada_song.bars.count() == 2
    assert ada_song.loudness == [1.0]
    assert ada_song.revision == 2


@pytest.mark.parametrize(
    ("divisions", "count"), [((1, 1, 1, 1), 16), ((2, 4, 2, 4), 16), ((3, 4, 4, 6), 17)]
)
def test_a_bar_is_shown_on_sixteenths_at_least(divisions, count):
    bar = replace(grid(1)[0], divisions=divisions)
    cells = cell_values(replace(song([ROCK]), bars=(bar,)), bar)
    assert len(cells) == count
    assert [cell["time"] for cell in cells] == sorted(cell["time"] for cell in cells)
    assert all(cell["word"] for cell in cells)


def test_swung_places_are_due_late():
    piece = replace(song([ROCK]), feel=Feel(1.0, 2.0))
    cells = cell_values(piece, piece.bars[0])
    second = next(cell for cell in cells if cell["position"] == "1/16")
    assert second["time"] == pytest.approx(0.5 + 0.5 / 3, abs=1e-3)


def test_every_hit_has_a_cell_to_be_drawn_in(as_ada, ada_song):
    score = as_ada.get(f"/api/songs/{ada_song.id}/score").json()
    for bar in score["bars"]:
        places = {cell["position"] for cell in bar["cells"]}
        assert {hit["position"] for hit in bar["hits"]} <= places
    clicks = as_ada.get(f"/api/songs/{ada_song.id}/clicks/sixteenths").json()
    assert [click["strength"] for click in clicks] == ([2] + [0] * 3 + ([1] + [0] * 3) * 3) * 4
    assert as_ada.get(f"/api/songs/{ada_song.id}/clicks/quavers").status_code == 404
    assert score["loudness"] == [0.1, 1.0, 0.4]


def test_doubts_are_counted_on_the_shelf(ada_song):
    piece = song([ROCK] * 4)
    doubtful = piece.with_hits(
        replace(hit, status=Status.DOUBTFUL) if hit.instrument is Instrument.KICK else hit
        for hit in piece.hits
    )
    store_transcription(ada_song, Result(doubtful, ()))
    ada_song.refresh_from_db()
    count(ada_song)
    assert song_values(ada_song, Role.OWNER)["doubts"] == 8


def test_a_song_without_a_beat_has_neither_tempo_nor_feel(ada):
    fresh = Song.objects.create(owner=ada, title="Speech", suffix=".ogg")
    silent = replace(song([ROCK]), bars=(), hits=(), beats=(), sections=(), tempo_bpm=0.0)
    store_transcription(fresh, Result(silent, ()))
    fresh.refresh_from_db()
    values = song_values(fresh, Role.OWNER)
    assert (values["bars"], values["feel"], values["has_score"]) == (0, "", True)


def test_the_time_left_is_judged_by_the_pace_so_far():
    run = Job(
        state=RunState.RUNNING, progress=0.25, started_at=timezone.now() - timedelta(seconds=5)
    )
    assert run_values(run)["seconds_left"] == pytest.approx(15, abs=0.5)
    run.progress = 0.01
    assert run_values(run)["seconds_left"] is None


def test_a_note_on_a_fine_place_survives_the_way_to_the_page_and_back(as_ada, ada_song):
    fine = replace(hits(grid(1)[0], ROCK)[0], position=Fraction(5, 24))
    store_transcription(ada_song, Result(song([ROCK]).with_hits([fine]), ()))
    score = as_ada.get(f"/api/songs/{ada_song.id}/score").json()
    assert score["bars"][0]["hits"][0]["position"] == "5/24"


@pytest.mark.parametrize("host", ["evil.example", "10.0.0.1"])
def test_another_host_s_name_is_refused(db, host):
    answer = Client().get("/api/session", headers={"host": host})
    assert (answer.status_code, answer.json()["code"]) == (400, "invalid")


def test_two_revisions_of_one_second_are_two_to_the_proxy(ada_song):
    """It tells files apart by size and second; equal ones were not sent again."""
    times = []
    for revision in range(5, 9):
        ada_song.revision = revision
        shown(ada_song, "score", lambda: {"same": "size"})
        path = shown_path(ada_song, "score")
        twin = path.with_name(path.name + ".gz")
        times.append(int(path.stat().st_mtime))
        assert int(twin.stat().st_mtime) == times[-1]
    assert times == sorted(set(times))

"""The grid and the form through the API: readings, taps, bar lines, sections, and undo of all."""

from dataclasses import replace

import numpy as np
import pytest

from orchesis.audio.peaks import waveform_peaks
from orchesis.listening.evidence import gathered, packed
from orchesis.music.instruments import Instrument
from orchesis.music.json import dumps
from orchesis.pipeline import Result, summary
from orchesis.rhythm.grid import all_edges
from orchesis.rhythm.readings import rank_readings
from orchesis.rhythm.rewrite import take_reading
from studio.actions.store import store_transcription
from studio.models import Song, SongChange
from studio.values.stored import load_transcription
from tests.composing import ROCK, heard, song
from tests.core.test_judge import BAR, BARS, rock
from tests.core.test_second_pass import GROOVE, song_of

CRASHED = {**ROCK, Instrument.KICK: "x.........x.....", Instrument.CRASH: "X..............."}


@pytest.fixture
def counted(ada):
    """A song of 16 bars with its readings and two sections."""
    made = song([CRASHED] * 16)
    edges = all_edges(made.bars)
    strokes = [(hit.time, hit.instrument, hit.velocity / 127) for hit in made.hits]
    readings = rank_readings(heard(strokes, made.duration), edges[:-1])
    half = len(made.bars) // 2
    first = replace(made.sections[0], bars=half, end=made.bars[half].start, mark="A")
    second = replace(
        first, label="Chorus", start=first.end, end=made.bars[-1].end, first_bar=half + 1, mark="B"
    )
    whole = replace(
        made,
        sections=(first, second),
        readings=tuple(summary(one) for one in readings),
        tracked_beats=tuple(float(edge) for edge in edges[:-1]),
    )
    stored = Song.objects.create(owner=ada, title="Counted", file_name="a.ogg", suffix=".ogg")
    stored.folder.mkdir(parents=True)
    result = take_reading(whole, whole.readings[0].key)
    store_transcription(stored, Result(result, (0.5,)))
    stored.refresh_from_db()
    return stored


def post(api, counted, path, **body):
    return api.post(f"/api/songs/{counted.id}/{path}", body, format="json")


def stored(counted):
    return dumps(load_transcription(Song.objects.get(pk=counted.pk)))


def score(api, counted):
    """The written part, with what of it is the asker's own."""
    url = f"/api/songs/{counted.id}"
    return {**api.get(f"{url}/score").json(), **api.get(f"{url}/mine").json()}


def test_the_score_tells_what_was_found_and_why(as_ada, counted):
    values = score(as_ada, counted)
    listening = values["listening"]
    assert listening["tempo"]["median"] == pytest.approx(120)
    assert listening["tempo"]["click"] is True
    assert len(listening["readings"]) >= 4
    assert all(reading["evidence"] for reading in listening["readings"])
    assert [line["name"] for line in listening["feel"]["lines"]] == [
        "Hat and ride",
        "Snare",
        "Kick",
    ]
    assert sum(listening["feel"]["lines"][2]["counts"]) == 32
    assert [(s["label"], s["bars"], s["phrases"]) for s in values["sections"]] == [
        ("Verse", 8, [4, 4]),
        ("Chorus", 8, [4, 4]),
    ]
    assert values["sections"][0]["cells"][0]["crash"] is True


def test_another_reading_is_one_request_and_undo_gives_the_same_bytes(as_ada, counted):
    before = stored(counted)
    two = next(r for r in score(as_ada, counted)["listening"]["readings"] if r["meter"] == [2, 4])
    answer = post(as_ada, counted, "reading", key=two["key"])
    assert answer.status_code == 200
    assert answer.json()["score"] is not None
    after = score(as_ada, counted)
    assert after["meter"] == [2, 4]
    assert len(after["bars"]) == 32
    assert sum(len(bar["hits"]) for bar in after["bars"]) == before.count('"instrument"')
    assert as_ada.post(f"/api/songs/{counted.id}/undo").json()["score"] is not None
    assert stored(counted) == before
    as_ada.post(f"/api/songs/{counted.id}/redo")
    assert score(as_ada, counted)["meter"] == [2, 4]


def test_undo_goes_back_through_notes_and_changes_in_turn(as_ada, counted):
    before = stored(counted)
    hit = score(as_ada, counted)["bars"][2]["hits"][0]
    edit = {"client_id": "6f2a1a30-0000-4000-8000-000000000001"}
    edit["edits"] = [{"before": hit, "after": None}]
    assert post(as_ada, counted, "edits", **edit).status_code == 200
    assert post(as_ada, counted, "form", kind="split", first_bar=5).status_code == 200
    two = next(r for r in score(as_ada, counted)["listening"]["readings"] if r["meter"] == [2, 4])
    post(as_ada, counted, "reading", key=two["key"])
    answers = [as_ada.post(f"/api/songs/{counted.id}/undo").json() for _ in range(3)]
    wholes = [answer["score"] is not None for answer in answers]
    assert wholes == [True, True, False]
    assert stored(counted) == before
    assert as_ada.post(f"/api/songs/{counted.id}/undo").status_code == 409


@pytest.mark.parametrize(
    ("body", "sections"),
    [
        ({"kind": "split", "first_bar": 5}, [("Verse", 4), ("Verse", 4), ("Chorus", 8)]),
        ({"kind": "merge", "first_bar": 9}, [("Verse", 16)]),
        ({"kind": "move", "first_bar": 9, "to": 10}, [("Verse", 9), ("Chorus", 7)]),
        ({"kind": "rename", "first_bar": 9, "label": "Solo"}, [("Verse", 8), ("Solo", 8)]),
        ({"kind": "same_as", "first_bar": 9, "to": 1}, [("Verse", 8), ("Chorus", 8)]),
    ],
)
def test_the_form_is_changed_and_can_be_had_back(as_ada, counted, body, sections):
    before = stored(counted)
    assert post(as_ada, counted, "form", **body).status_code == 200
    found = [(s["label"], s["bars"]) for s in score(as_ada, counted)["sections"]]
    assert found == sections
    as_ada.post(f"/api/songs/{counted.id}/undo")
    assert stored(counted) == before


def test_sections_that_are_the_same_are_compared(as_ada, counted):
    post(as_ada, counted, "form", kind="same_as", first_bar=9, to=1)
    chorus = score(as_ada, counted)["sections"][1]
    assert chorus["like"] == "Verse"
    assert chorus["words"] == "Chorus = Verse, note for note."


@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("reading", {"key": "tracked/7-4/0"}),
        ("taps", {"taps": [1.0, 1.5], "beats_a_bar": 4}),
        ("taps", {"taps": [1.0, 1.1, 2.3, 2.35, 4.0], "beats_a_bar": 4}),
        ("taps", {"taps": [], "beats_a_bar": 4}),
        ("taps", {"taps": [1, 2, 3, 4], "beats_a_bar": 40}),
        ("bar-line", {"bar": 99, "time": 1.0}),
        ("confirm", {"finding": "weather", "confirmed": True}),
        ("form", {"kind": "merge", "first_bar": 1}),
        ("form", {"kind": "split", "first_bar": 1}),
        ("form", {"kind": "split", "first_bar": 400}),
        ("form", {"kind": "move", "first_bar": 9}),
        ("form", {"kind": "move", "first_bar": 9, "to": 17}),
        ("form", {"kind": "rename", "first_bar": 9, "label": "   "}),
        ("form", {"kind": "explode", "first_bar": 9}),
    ],
)
def test_what_cannot_be_done_is_said_and_changes_nothing(as_ada, counted, path, body):
    before = stored(counted)
    answer = post(as_ada, counted, path, **body)
    assert answer.status_code in (400, 409, 422), answer.json()
    assert answer.json()["detail"]
    assert stored(counted) == before
    assert not SongChange.objects.exists()


def test_a_dragged_bar_line_and_tapped_beats_move_the_grid(as_ada, counted):
    start = score(as_ada, counted)["bars"][4]["start"]
    assert post(as_ada, counted, "bar-line", bar=5, time=start + 0.06).status_code == 200
    moved = score(as_ada, counted)["bars"][4]["start"]
    assert moved == pytest.approx(start + 0.06, abs=0.003)
    taps = [start + 0.25 + 0.5 * k for k in range(8)]
    assert post(as_ada, counted, "taps", taps=taps, beats_a_bar=3).status_code == 200
    assert score(as_ada, counted)["meter"] == [3, 4]
    assert post(as_ada, counted, "tempo", bpm=118, beats_a_bar=4).status_code == 200
    assert score(as_ada, counted)["tempo_bpm"] == pytest.approx(120, abs=0.5)
    assert post(as_ada, counted, "tempo", bpm=900, beats_a_bar=4).status_code == 400


def test_confirmed_findings_outlive_a_new_run(as_ada, counted):
    """The new run hears another tempo and no chorus: what was confirmed stays."""
    post(as_ada, counted, "form", kind="rename", first_bar=9, label="Last chorus")
    post(as_ada, counted, "form", kind="confirm", first_bar=9, confirmed=True)
    said = post(as_ada, counted, "confirm", finding="meter", confirmed=True)
    assert said.data["words"] == "Metre confirmed"
    old = score(as_ada, counted)
    other = song([ROCK] * 16)
    strokes = [(hit.time, hit.instrument, hit.velocity / 127) for hit in other.hits]
    readings = rank_readings(heard(strokes, other.duration), all_edges(other.bars)[:-1])
    halved = replace(
        other,
        readings=tuple(summary(one) for one in readings),
        tracked_beats=tuple(float(edge) for edge in all_edges(other.bars)[:-1]),
    )
    slow = next(one for one in halved.readings if one.tempo_bpm < 70)
    counted.refresh_from_db()
    store_transcription(counted, Result(take_reading(halved, slow.key), (0.5,)))
    new = score(as_ada, counted)
    assert [bar["start"] for bar in new["bars"]] == [bar["start"] for bar in old["bars"]]
    assert new["listening"]["confirmed"] == ["meter"]
    kept = next(s for s in new["sections"] if s["confirmed"])
    assert (kept["label"], kept["first_bar"], kept["bars"]) == ("Last chorus", 9, 8)
    assert sum(s["bars"] for s in new["sections"]) == len(new["bars"])
    drums = {hit["instrument"] for bar in new["bars"] for hit in bar["hits"]}
    assert "crash" not in drums


def test_evidence_is_given_by_cell_also_where_nothing_is_written(as_ada, ada_song):
    ada_song.evidence_path.write_bytes(packed(gathered(song_of(GROOVE), 100.0)))
    answer = as_ada.get(f"/api/songs/{ada_song.id}/evidence/1").json()
    rows = {row["instrument"]: row["strength"] for row in answer["rows"]}
    assert len(rows["kick"]) == 16
    assert max(rows["kick"]) > 0.8
    assert min(rows["kick"]) == 0.0
    assert as_ada.get(f"/api/songs/{ada_song.id}/evidence/77").status_code == 400


def test_damaged_evidence_is_said_with_what_to_do(as_ada, ada_song):
    ada_song.evidence_path.write_bytes(b"nonsense")
    answer = as_ada.get(f"/api/songs/{ada_song.id}/evidence/1")
    assert answer.status_code == 500
    assert "listen to the song again" in answer.json()["detail"]


def test_a_part_is_played_in_ranges_and_only_known_ones(as_ada, ada_song):
    ada_song.part_path("drums-down").write_bytes(bytes(range(200)))
    url = f"/api/songs/{ada_song.id}/audio/"
    answer = as_ada.get(url + "drums-down", headers={"Range": "bytes=10-19"})
    assert answer.status_code == 206
    assert b"".join(answer.streaming_content) == bytes(range(10, 20))
    assert as_ada.get(url + "drums-forward").status_code == 404
    assert as_ada.get(url + "source").status_code == 404
    assert score(as_ada, ada_song)["parts"] == ["drums-down"]


def test_taps_may_be_a_little_uneven(as_ada, counted):
    rng = np.random.default_rng(3)
    taps = [round(2.5 + 0.5 * k + float(rng.normal(0, 0.02)), 3) for k in range(12)]
    assert post(as_ada, counted, "taps", taps=taps, beats_a_bar=4).status_code == 200
    assert score(as_ada, counted)["tempo_bpm"] == pytest.approx(120, rel=0.03)


def test_taps_leave_a_confirmed_section_as_it_is(as_ada, counted):
    """Though they are of another pulse: the offbeats, three a bar."""
    post(as_ada, counted, "form", kind="confirm", first_bar=9, confirmed=True)
    before = {bar["start"] for bar in score(as_ada, counted)["bars"][8:]}
    taps = [0.75 + 0.5 * k for k in range(9)]
    assert post(as_ada, counted, "taps", taps=taps, beats_a_bar=3).status_code == 200
    after = {bar["start"] for bar in score(as_ada, counted)["bars"]}
    assert before <= after
    assert {round(start, 2) for start in after} >= {0.75, 2.25, 3.75}


def test_the_waveform_is_a_byte_for_each_hundredth(as_ada, ada_song):
    url = f"/api/songs/{ada_song.id}/peaks"
    assert as_ada.get(url).status_code == 404
    samples = np.zeros(44_100, np.float32)
    samples[22_050:22_100] = -0.5
    ada_song.peaks_path.write_bytes(waveform_peaks(samples, 44_100))
    found = np.frombuffer(as_ada.get(url).content, np.uint8)
    assert len(found) == 100
    assert found[50] == 255
    assert found[:50].max() == 0


@pytest.fixture
def beatless(ada):
    """A song in which the tool found no beat, though its drums were heard."""
    nothing = replace(
        song([ROCK]), beats=(), bars=(), hits=(), sections=(), fills=(), readings=(), duration=33.0
    )
    made = Song.objects.create(owner=ada, title="Rubato", file_name="a.ogg", suffix=".ogg")
    made.folder.mkdir(parents=True)
    store_transcription(made, Result(nothing, (0.5,)))
    made.evidence_path.write_bytes(packed(gathered(rock({}), 100.0)))
    made.refresh_from_db()
    return made


def test_where_no_beat_was_found_tapping_lays_the_grid_and_what_was_heard_is_written(
    as_ada, beatless
):
    before = stored(beatless)
    assert score(as_ada, beatless)["bars"] == []
    taps = [0.1 + 0.5 * beat for beat in range(12)]
    answer = post(as_ada, beatless, "taps", taps=taps, beats_a_bar=4)
    assert answer.status_code == 200
    values = answer.json()["score"]
    assert len(values["bars"]) >= BARS
    assert values["tempo_bpm"] == pytest.approx(120, abs=0.5)
    third = next(
        bar
        for bar in values["bars"]
        if bar["start"] == pytest.approx(2 * BAR / 100 + 0.1, abs=0.005)
    )
    played = {(hit["position"], hit["instrument"]) for hit in third["hits"]}
    assert {("0", "kick"), ("1/4", "snare"), ("1/8", "hihat_closed"), ("3/4", "snare")} <= played
    assert values["sections"]
    as_ada.post(f"/api/songs/{beatless.id}/undo")
    assert stored(beatless) == before


def test_taps_that_are_no_pulse_are_refused_where_no_beat_was_found_too(as_ada, beatless):
    answer = post(as_ada, beatless, "taps", taps=[0.1, 0.9, 1.1, 3.4, 3.5], beats_a_bar=4)
    assert answer.status_code == 400
    assert "no steady pulse" in str(answer.json())
    assert score(as_ada, beatless)["bars"] == []


def test_a_beat_is_divided_in_like_bars_too_and_undone(as_ada, counted):
    before = stored(counted)
    answer = post(as_ada, counted, "division", bars=[2], parts=3, beat=3, like=True)
    assert answer.status_code == 200, answer.json()
    assert answer.json()["words"] == "Beat 4 of bar 2 and bars like it in triplets"
    shown = score(as_ada, counted)["bars"]
    assert {tuple(bar["divisions"]) for bar in shown} == {(*shown[0]["divisions"][:3], 3)}
    assert len(shown[1]["cells"]) == 15
    post(as_ada, counted, "undo")
    assert stored(counted) == before


@pytest.mark.parametrize(
    ("body", "status"),
    [
        ({"bars": [2], "parts": 7}, 400),
        ({"bars": [], "parts": 3}, 400),
        ({"bars": [2], "parts": 3, "beat": -1}, 400),
        ({"bars": [99], "parts": 3}, 400),
        ({"bars": [2], "parts": 1}, 400),
    ],
)
def test_a_division_that_makes_no_sense_is_refused(as_ada, counted, body, status):
    before = stored(counted)
    assert post(as_ada, counted, "division", **body).status_code == status
    assert stored(counted) == before


def test_a_song_in_triplets_is_written_in_twelve_eight(as_ada, counted):
    assert score(as_ada, counted)["listening"]["beat_notation"] is None
    refused = post(as_ada, counted, "beat-notation", notation="compound")
    assert refused.status_code == 400
    assert "do not fall in three" in refused.json()["detail"]
    everywhere = [bar["number"] for bar in score(as_ada, counted)["bars"]]
    post(as_ada, counted, "division", bars=everywhere, parts=3)
    assert score(as_ada, counted)["listening"]["beat_notation"] == "triplets"
    answer = post(as_ada, counted, "beat-notation", notation="compound")
    assert answer.status_code == 200, answer.json()
    shown = score(as_ada, counted)
    assert shown["meter"] == [12, 8]
    assert shown["listening"]["readings"][0]["words"].startswith("12/8 at")


def test_the_one_moves_a_beat_later_whatever_the_grid_was_laid_by(as_ada, counted):
    post(as_ada, counted, "tempo", bpm=120, beats_a_bar=4)
    first = score(as_ada, counted)["bars"][0]
    answer = post(as_ada, counted, "downbeats/shift", beats=1)
    assert answer.status_code == 200, answer.json()
    starts = [bar["start"] for bar in score(as_ada, counted)["bars"]]
    assert any(start == pytest.approx(first["start"] + 0.5, abs=0.03) for start in starts)
    assert post(as_ada, counted, "downbeats/shift", beats=4).status_code == 400


def test_only_a_stray_bar_is_evened_out(as_ada, counted):
    answer = post(as_ada, counted, "bars/even-out", bar=3)
    assert answer.status_code == 400
    assert "like the others" in answer.json()["detail"]
    assert post(as_ada, counted, "bars/even-out", bar=400).status_code == 400

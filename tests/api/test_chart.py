"""The chart over the API: its readings, files, cues, parts, bundles, parts by others."""

import io
import json
import uuid
import zipfile

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from orchesis.chart.midi import to_midi
from orchesis.chart.musicxml import to_musicxml
from orchesis.music.instruments import Instrument
from studio.models import Job, Song
from studio.values.stored import load_transcription
from tests.api.conftest import work_off
from tests.composing import ROCK, song

READINGS = ["full", "essence", "map", "parts"]


def chart(api, stored, **query):
    answer = api.get(f"/api/songs/{stored.id}/chart", query)
    assert answer.status_code == 200, answer.content
    return answer.json()


def names(found):
    return [system["name"] for page in found["pages"] for system in page["systems"]]


@pytest.mark.parametrize("reading", READINGS)
@pytest.mark.parametrize("notation", ["staff", "limbs"])
def test_every_reading_has_pages_and_measures_on_them(as_ada, ada_song, reading, notation):
    found = chart(as_ada, ada_song, reading=reading, notation=notation)
    page = found["pages"][0]
    assert "Composed" in page["texts"]
    assert found["measures"]
    for item in found["measures"]:
        assert 0 <= item["left"] < item["right"] <= page["width"]
        assert 0 <= item["top"] < item["bottom"] <= page["height"]
        drawn = "".join(system["svg"] for system in found["pages"][item["page"]]["systems"])
        assert f'id="{item["name"]}"' in drawn


def test_after_an_edit_only_the_line_that_changed_is_sent(as_ada, ada_song):
    before = chart(as_ada, ada_song)
    again = chart(as_ada, ada_song, have=",".join(names(before)))
    assert all(system["svg"] is None for page in again["pages"] for system in page["systems"])
    hit = ada_song.bars.first().hits[0]
    body = {"client_id": str(uuid.uuid4()), "edits": [{"before": hit, "after": None}]}
    as_ada.post(f"/api/songs/{ada_song.id}/edits", body, format="json")
    after = chart(as_ada, ada_song, have=",".join(names(before)))
    assert after["revision"] == before["revision"] + 1
    sent = [s["name"] for page in after["pages"] for s in page["systems"] if s["svg"]]
    assert sent
    assert not set(sent) & set(names(before))


@pytest.mark.parametrize(
    "query",
    [
        {"reading": "all"},
        {"size": "wall"},
        {"limbs": "RH,XX"},
        {"count": "perhaps"},
        {"school": "none"},
        {"have": "x" * 9000},
    ],
)
def test_what_is_no_choice_is_refused(as_ada, ada_song, query):
    assert as_ada.get(f"/api/songs/{ada_song.id}/chart", query).status_code == 400


FILES = {
    "chart.musicxml": b"<?xml",
    "chart.txt": b"Composed",
    "drums.csv": b"time,bar,position",
    "drums.mid": b"MThd",
    "transcription.json": b"{",
}


@pytest.mark.parametrize("name", FILES)
def test_files_are_made_as_the_chart_is_seen(as_ada, ada_song, name):
    answer = as_ada.get(f"/api/songs/{ada_song.id}/files/{name}", {"level": "hands"})
    assert answer.content.startswith(FILES[name])
    if name == "chart.musicxml":
        assert b"P1-kick" not in answer.content
    bad = as_ada.get(f"/api/songs/{ada_song.id}/files/{name}", {"level": "feet"})
    assert bad.status_code == 400


@pytest.mark.parametrize(("name", "head"), [("chart.svg", b"<svg"), ("chart.png", b"\x89PNG")])
def test_pictures_are_made_by_a_worker_for_each_choice(as_ada, ada_song, name, head):
    url = f"/api/songs/{ada_song.id}/files/{name}"
    for query in ({}, {"reading": "map"}):
        assert as_ada.get(url, query).status_code == 202
        work_off("render")
        answer = as_ada.get(url, query)
        assert answer.status_code == 200
        assert b"".join(answer.streaming_content).startswith(head)


def test_words_are_put_over_a_bar_taken_away_and_undone(as_ada, ada_song):
    url = f"/api/songs/{ada_song.id}/cues"
    put = as_ada.post(url, {"bar": 2, "words": "vocals in"}, format="json")
    assert put.json()["words"] == "Cue over bar 2: vocals in"
    assert [cue["words"] for cue in chart(as_ada, ada_song)["cues"]] == ["vocals in"]
    assert "vocals in" in json.dumps(chart(as_ada, ada_song)["pages"])
    as_ada.post(url, {"bar": 2, "words": ""}, format="json")
    assert chart(as_ada, ada_song)["cues"] == []
    as_ada.post(f"/api/songs/{ada_song.id}/undo")
    assert [cue["words"] for cue in chart(as_ada, ada_song)["cues"]] == ["vocals in"]
    assert as_ada.post(url, {"bar": 999, "words": "x"}, format="json").status_code == 400
    assert as_ada.post(url, {"bar": 1, "words": "x" * 81}, format="json").status_code == 400


def test_a_part_is_dropped_added_and_left_to_the_tool_again(as_ada, ada_song):
    url = f"/api/songs/{ada_song.id}/parts"
    first = chart(as_ada, ada_song, reading="parts")["parts"][0]
    ask = {"first_bar": first["first_bar"], "bars": first["bars"], "wanted": False}
    assert as_ada.post(url, ask, format="json").status_code == 200
    after = chart(as_ada, ada_song, reading="parts")["parts"]
    assert [part["kept"] for part in after if part["first_bar"] == first["first_bar"]] == [False]
    as_ada.post(url, {**ask, "wanted": None}, format="json")
    assert chart(as_ada, ada_song, reading="parts")["parts"][0]["kept"]
    assert as_ada.post(url, {**ask, "bars": 9}, format="json").status_code == 400
    assert as_ada.post(url, {**ask, "first_bar": 500}, format="json").status_code == 400


def upload(name, data):
    return {"file": SimpleUploadedFile(name, data)}


def compared(api, url, name, data):
    """The answer to a file that is laid beside a song, once a worker has read it."""
    first = api.post(url, upload(name, data))
    assert first.status_code == 202
    assert api.post(url, upload(name, data)).status_code == 202, "asking twice reads it once"
    assert work_off("small") == 1
    return api.post(url, upload(name, data)).json()


def read_in(api, name, data):
    """The song of a file of another program, once a worker has read it."""
    sent = api.post("/api/songs", upload(name, data))
    assert sent.status_code == 201, sent.content
    work_off("small")
    return api.get(f"/api/songs/{sent.json()['id']}").json()


def test_a_part_by_somebody_else_is_compared_and_taken_over(as_ada, ada_song):
    score = load_transcription(ada_song)
    url = f"/api/songs/{ada_song.id}/part-file"
    same = compared(as_ada, url, "same.musicxml", to_musicxml(score).encode())
    assert same["differing"] == []
    assert len(same["same"]) == len(score.bars)
    assert same["edited"] is None
    other = song([ROCK] * (len(score.bars) - 1) + [{Instrument.SNARE: "xxxx"}])
    data = to_midi(other, quantised=True)
    found = compared(as_ada, url, "other.mid", data)
    assert found["differing"]
    assert load_transcription(Song.objects.get(pk=ada_song.pk)) == score, "asking changes nothing"
    taken = as_ada.post(url, {**upload("other.mid", data), "take": "true"}).json()
    assert taken["edited"]["words"] == "Notes of other.mid taken over"
    now = load_transcription(Song.objects.get(pk=ada_song.pk))
    last = score.bars[-1].number
    assert [hit.instrument for hit in now.hits_of(last)] == [Instrument.SNARE] * 4
    as_ada.post(f"/api/songs/{ada_song.id}/undo")
    assert load_transcription(Song.objects.get(pk=ada_song.pk)).hits == score.hits


@pytest.mark.parametrize("name", ["a.musicxml", "a.mid", "a.pdf", "a.mxl"])
def test_a_part_that_is_none_is_refused_in_a_sentence(as_ada, ada_song, name):
    answer = as_ada.post(f"/api/songs/{ada_song.id}/part-file", upload(name, b"nothing"))
    assert answer.status_code == 400
    assert answer.json()["code"] == "refused"
    assert answer.json()["detail"].endswith(".")
    before = Song.objects.count()
    assert as_ada.post("/api/songs", upload(name, b"nothing")).status_code == 400
    assert Song.objects.count() == before


def test_a_song_can_begin_with_a_part_and_without_a_recording(as_ada):
    text = to_musicxml(song([ROCK] * 8)).encode()
    made = read_in(as_ada, "from elsewhere.musicxml", text)
    assert (made["has_score"], made["has_recording"]) == (True, False)
    assert made["run"]["state"] == "done"
    stored = Song.objects.get(pk=made["id"])
    assert stored.listening_path.exists()
    assert len(load_transcription(stored).hits) == len(song([ROCK] * 8).hits)
    assert as_ada.get(f"/api/songs/{made['id']}/score").status_code == 200
    assert names(chart(as_ada, stored))
    again = as_ada.post(f"/api/songs/{made['id']}/listening")
    assert (again.status_code, again.json()["detail"]) == (
        409,
        "This song has no recording to listen to.",
    )


def bundle(api, stored):
    answer = api.get(f"/api/songs/{stored.id}/bundle")
    assert answer.status_code == 200
    return b"".join(answer.streaming_content)


def test_a_bundle_is_read_back_by_somebody_else_without_loss(as_ada, as_ben, ada_song):
    hit = ada_song.bars.first().hits[0]
    body = {"client_id": str(uuid.uuid4()), "edits": [{"before": hit, "after": None}]}
    as_ada.post(f"/api/songs/{ada_song.id}/edits", body, format="json")
    as_ada.post(f"/api/songs/{ada_song.id}/cues", {"bar": 3, "words": "stop"}, format="json")
    as_ada.post(
        f"/api/songs/{ada_song.id}/confirm", {"finding": "tempo", "confirmed": True}, format="json"
    )
    data = bundle(as_ada, ada_song)
    theirs = Song.objects.get(pk=read_in(as_ben, "a song.zip", data)["id"])
    mine = Song.objects.get(pk=ada_song.pk)
    assert theirs.pk != mine.pk
    assert load_transcription(theirs) == load_transcription(mine)
    assert theirs.header["confirmed"] == mine.header["confirmed"]
    log = json.loads(zipfile.ZipFile(io.BytesIO(bundle(as_ben, theirs))).read("log.json"))
    assert [entry["by"] for entry in log] == ["ada"] * len(log)
    assert len(log) >= 2
    if mine.source_path.exists():
        assert theirs.source_path.read_bytes() == mine.source_path.read_bytes()
        assert Job.objects.filter(song=theirs).exists()
    assert as_ada.get(f"/api/songs/{theirs.pk}/chart").status_code == 404


def test_a_bundle_that_was_cut_or_changed_leaves_nothing_behind(
    as_ada, ada_song, settings, django_capture_on_commit_callbacks
):
    data = bundle(as_ada, ada_song)
    songs, folders = Song.objects.count(), len(list(settings.MEDIA_ROOT.iterdir()))
    evil = io.BytesIO()
    with zipfile.ZipFile(evil, "w") as archive:
        archive.writestr("manifest.json", json.dumps({"format": "orchesis-bundle", "version": 1,
                                                      "files": {"../../evil": {}}}))  # fmt: skip
        archive.writestr("../../evil", b"x")
    assert as_ada.post("/api/songs", upload("a.zip", b"no archive")).status_code == 400
    for bad in (data[: len(data) // 2], b"PK\x03\x04", evil.getvalue()):
        left = read_in(as_ada, "a.zip", bad)
        assert (left["has_score"], left["run"]["state"]) == (False, "failed")
        assert left["run"]["message"].endswith(".")
        with django_capture_on_commit_callbacks(execute=True):
            assert as_ada.delete(f"/api/songs/{left['id']}").status_code == 204
    assert Song.objects.count() == songs
    assert len(list(settings.MEDIA_ROOT.iterdir())) == folders


def test_a_song_is_charted_for_the_kit_at_hand_and_stays_as_it_is(as_ada, ada, ada_song):
    from studio.models import Kit, SongBar

    row = ada_song.bars.first()
    toms = [{**row.hits[0], "instrument": name, "position": place, "limb": "RH"} for name, place in
            (("tom_high", "1/16"), ("tom_mid", "3/16"), ("tom_floor", "5/16"))]  # fmt: skip
    SongBar.objects.filter(pk=row.pk).update(hits=[*row.hits, *toms], revision=row.revision + 1)
    kit = Kit.objects.create(owner=ada, name="two toms", values={"toms": 2})
    Song.objects.filter(pk=ada_song.pk).update(kit=kit)
    stored = load_transcription(Song.objects.get(pk=ada_song.pk))
    found = chart(as_ada, ada_song, for_kit=True)
    assert any("tom is played on" in words for words in found["remarks"])
    drawn = "".join(s["svg"] for page in found["pages"] for s in page["systems"])
    assert "tom_mid" not in drawn
    assert chart(as_ada, ada_song)["remarks"] == []
    assert load_transcription(Song.objects.get(pk=ada_song.pk)) == stored
    text = as_ada.get(f"/api/songs/{ada_song.id}/files/chart.musicxml", {"for_kit": True}).content
    assert b"P1-tom_mid" not in text

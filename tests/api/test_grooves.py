"""The Grooves stage over the wire: phrases, gestures, evidence, relistening, kin, the count."""

import json
import uuid
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from rest_framework.renderers import JSONRenderer

from orchesis.limbs.assign import assign_limbs
from orchesis.listening.candidates import find_candidates
from orchesis.listening.evidence import Evidence, packed
from orchesis.music.instruments import Instrument, Status
from orchesis.music.values import ReadingSummary
from orchesis.pipeline import Result
from studio.actions.store import store_transcription
from studio.models import EditEntry, Song, SongBar
from studio.values import grooves
from studio.values.stored import load_transcription
from tests.composing import ROCK, song
from tests.core.test_judge import CLASSES

KICK, SNARE, HAT = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED
LATE_VOICES = (Instrument.CRASH, Instrument.TOM_FLOOR, Instrument.HIHAT_FOOT)
BUSY = {**ROCK, KICK: "x..x....x.x....."}


def store(stored, rows):
    piece = song(rows)
    store_transcription(stored, Result(piece.with_hits(assign_limbs(piece.hits, 4)), (1.0,)))
    stored.refresh_from_db()
    return load_transcription(stored)


def keep_evidence(stored, score, also=(), classes=CLASSES):
    """Evidence in which every written note was heard clearly, and what `also` names, faintly."""
    frames = int(score.bars[-1].end * 100) + 50
    onsets = np.zeros((frames, len(classes)), np.float32)
    for hit in score.hits:
        onsets[round(hit.time * 100), classes.index(hit.instrument)] = 0.95
    for time, instrument, strength in also:
        onsets[round(time * 100), classes.index(instrument)] = strength
    found = find_candidates(onsets, np.full_like(onsets, 0.6), 100.0)
    evidence = Evidence(
        classes=classes,
        frame_rate=100.0,
        onsets=np.round(255 * onsets).astype(np.uint8),
        found=found,
        rise=np.ones((len(found), 8), np.float32) / np.sqrt(8),
    )
    stored.evidence_path.write_bytes(packed(evidence))


def path(stored, name):
    return f"/api/songs/{stored.id}/{name}"


def gesture(api, stored, **wish):
    body = {"client_id": str(uuid.uuid4()), **wish}
    return api.post(path(stored, "gestures"), body, format="json")


def rows_of(stored):
    return {bar.number: bar.hits for bar in SongBar.objects.filter(song=stored)}


def test_phrases_kinds_and_changes_are_told_by_section(as_ada, ada_song):
    store(ada_song, [ROCK] * 6 + [BUSY] * 6)
    values = as_ada.get(path(ada_song, "grooves")).json()
    (section,) = values["sections"]
    assert [(p["first_bar"], p["length"]) for p in section["phrases"]] == [(1, 1), (7, 1)]
    assert section["changes"][0]["words"].startswith("From bar 7 the kick plays the a of 1")
    assert section["kinds"] == [[1, 2, 3, 4, 5, 6], [7, 8, 9, 10, 11, 12]]
    limbs = {(n["instrument"], n["limb"]) for n in section["phrases"][0]["notes"]}
    assert limbs == {("hihat_closed", "RH"), ("snare", "LH"), ("kick", "RF")}
    assert values["settled_bars"] == []


def test_a_section_is_confirmed_and_taken_back_in_one_stroke(as_ada, ada_song):
    original = rows_of(ada_song)
    answer = gesture(as_ada, ada_song, kind="confirm", bars=[1, 2, 3]).json()
    assert answer["words"] == "Bars 1 to 3 confirmed"
    assert [bar["number"] for bar in answer["bars"]] == [1, 2, 3]
    assert as_ada.get(path(ada_song, "grooves")).json()["settled_bars"] == [1, 2, 3]
    assert EditEntry.objects.count() == 1
    undone = as_ada.post(path(ada_song, "undo")).json()
    assert [bar["number"] for bar in undone["bars"]] == [1, 2, 3]
    assert json.dumps(rows_of(ada_song)) == json.dumps(original)


def test_an_edit_goes_to_every_bar_like_it(as_ada, ada_song):
    score = store(ada_song, [ROCK, BUSY, ROCK, ROCK])
    hit = next(h for h in rows_of(ada_song)[1] if h["instrument"] == "snare")
    edit = {"before": hit, "after": {**hit, "ornament": "flam", "settled": True}}
    as_ada.post(
        path(ada_song, "edits"),
        {"client_id": str(uuid.uuid4()), "edits": [edit]},
        format="json",
    )
    answer = gesture(as_ada, ada_song, kind="like", edits=[edit]).json()
    assert answer["words"] == "The same in bars 3 to 4"
    flams = [h.bar for h in load_transcription(ada_song).hits if h.ornament]
    assert flams == [1, 3, 4]
    assert len(load_transcription(ada_song).hits) == len(score.hits)
    again = gesture(as_ada, ada_song, kind="like", edits=[edit])
    assert (again.status_code, again.json()["code"]) == (400, "invalid")


def test_a_bar_is_made_as_the_phrase_and_a_bar_is_copied(as_ada, ada_song):
    store(ada_song, [ROCK] * 5 + [BUSY])
    assert gesture(as_ada, ada_song, kind="phrase", bars=[6]).status_code == 200
    sounding = [h for h in rows_of(ada_song)[6] if h["status"] != "left_out"]
    assert len(sounding) == len(rows_of(ada_song)[1])
    as_ada.post(path(ada_song, "undo"))
    answer = gesture(as_ada, ada_song, kind="copy", source_bars=[6], bars=[1, 2]).json()
    assert answer["words"] == "Bar 6 copied to bars 1 to 2"
    places = lambda n: [(h["position"], h["instrument"]) for h in rows_of(ada_song)[n]]  # noqa: E731
    assert places(1) == places(2) == places(6)


def test_an_edit_finds_the_grooves_of_its_own_section_anew_and_no_others(
    as_ada, ada_song, monkeypatch
):
    piece = song([ROCK] * 8 + [BUSY] * 8)
    halves = [
        replace(piece.sections[0], label=label, bars=8, first_bar=first, mark=label[0])
        for label, first in (("Verse", 1), ("Chorus", 9))
    ]
    piece = replace(piece, sections=tuple(halves))
    store_transcription(ada_song, Result(piece.with_hits(assign_limbs(piece.hits, 4)), (1.0,)))
    first = as_ada.get(path(ada_song, "grooves")).json()
    found = []
    real = grooves._section_values
    monkeypatch.setattr(
        grooves,
        "_section_values",
        lambda score, section, *rest: (
            found.append(section.first_bar) or real(score, section, *rest)
        ),
    )
    gesture(as_ada, ada_song, kind="copy", source_bars=[9], bars=[3])
    second = as_ada.get(path(ada_song, "grooves")).json()
    assert found == [1]
    assert second["sections"][1] == first["sections"][1]
    assert second["sections"][0] != first["sections"][0]
    ada_song.refresh_from_db()
    afresh = grooves.groove_values(ada_song, load_transcription(ada_song))
    assert json.loads(JSONRenderer().render(afresh)) == {
        name: value for name, value in second.items() if name != "revision"
    }, "what was taken over is what would be found"


def test_several_bars_are_pasted_as_one_step_also_over_themselves(as_ada, ada_song):
    bars = [ROCK, ROCK, BUSY, ROCK, ROCK, BUSY]
    store(ada_song, bars)
    before = rows_of(ada_song)
    answer = gesture(as_ada, ada_song, kind="copy", source_bars=[3, 4, 5], bars=[4, 5, 6])
    assert answer.json()["words"] == "Bars 3 to 5 copied to bars 4 to 6"
    strokes = lambda rows, n: [(h["position"], h["instrument"]) for h in rows[n]]  # noqa: E731
    after = rows_of(ada_song)
    assert [strokes(after, n) for n in (4, 5)] == [strokes(before, n) for n in (3, 4)]
    as_ada.post(path(ada_song, "undo"))
    assert rows_of(ada_song) == before, "one step takes all of it back"
    refused = gesture(as_ada, ada_song, kind="copy", source_bars=[1, 2], bars=[4, 5, 6])
    assert (refused.status_code, "cannot be copied" in refused.json()["detail"]) == (400, True)


@pytest.mark.parametrize(
    "wish",
    [
        {"kind": "melt", "bars": [1]},
        {"kind": "confirm", "bars": []},
        {"kind": "confirm", "bars": [99]},
        {"kind": "copy", "bars": [1]},
        {"kind": "copy", "bars": [1], "source_bars": [99]},
        {"kind": "like"},
    ],
)
def test_a_gesture_that_makes_no_sense_says_why_and_changes_nothing(as_ada, ada_song, wish):
    original = rows_of(ada_song)
    answer = gesture(as_ada, ada_song, **wish)
    assert answer.status_code == 400
    assert answer.json()["detail"]
    assert rows_of(ada_song) == original


def test_evidence_is_shown_also_where_nothing_is_written(as_ada, ada_song):
    score = store(ada_song, [ROCK] * 2)
    keep_evidence(ada_song, score, [(score.bars[1].time_at(Fraction(7, 16)), SNARE, 0.5)])
    first, second = as_ada.get(path(ada_song, "evidence?first=1&last=2")).json()
    assert first["RF"] == "9000000090000000"
    assert first["LH"] == "0000900000009000"
    assert second["LH"] == "0000900500009000"
    of_bar = as_ada.get(path(ada_song, "evidence/2")).json()
    snare = next(row for row in of_bar["rows"] if row["instrument"] == "snare")
    assert snare["strength"][7] == pytest.approx(0.5, abs=0.01)
    assert as_ada.get(path(ada_song, "evidence?first=2&last=1")).status_code == 400
    assert as_ada.get(path(ada_song, "evidence?first=1&last=2&source=7")).status_code == 404


def test_without_evidence_it_says_what_to_do(as_ada, ada_song):
    for name in ("evidence/1", "evidence?first=1&last=2", "relisten"):
        answer = as_ada.get(path(ada_song, name))
        assert answer.status_code == 404
        assert "listen to it again" in answer.json()["detail"]


def test_relistening_proposes_nothing_until_something_is_settled_and_changes_nothing(
    as_ada, ada_song
):
    score = store(ada_song, [ROCK] * 4)
    keep_evidence(ada_song, score)
    asked = as_ada.get(path(ada_song, "relisten")).json()
    assert (asked["settled"], asked["bars"]) == (0, [])
    gesture(as_ada, ada_song, kind="confirm", bars=[1, 2])
    original = rows_of(ada_song)
    asked = as_ada.get(path(ada_song, "relisten")).json()
    assert asked["settled"] == 2
    assert {item["bar"] for item in asked["bars"]} <= {3, 4}
    assert rows_of(ada_song) == original


def test_what_an_earlier_ear_heard_is_not_judged_and_it_is_said_what_to_do(as_ada, ada_song):
    score = store(ada_song, [ROCK] * 4)
    keep_evidence(ada_song, score, classes=(KICK, SNARE, HAT))
    gesture(as_ada, ada_song, kind="confirm", bars=[1, 2])
    answer = as_ada.get(path(ada_song, "relisten"))
    assert answer.status_code == 500
    assert "listen to it again" in answer.json()["detail"]


def test_what_is_confirmed_outlives_a_new_listening_run(as_ada, ada_song):
    gesture(as_ada, ada_song, kind="confirm", bars=[2])
    kept = rows_of(ada_song)[2]
    store(ada_song, [BUSY] * 4)
    assert rows_of(ada_song)[2] == kept
    assert rows_of(ada_song)[1] != kept


def test_the_count_is_said_in_the_words_of_a_school(as_ada, ada_song):
    store(ada_song, [BUSY])
    said = as_ada.get(path(ada_song, "saying?first=1&last=1&school=e-and-ah")).json()
    assert said["count"] == "1 ah 2 & 3 & 4 &" or said["count"].startswith("1 & ah 2")
    assert any("alone on" in sentence for sentence in said["sentences"])
    assert as_ada.get(path(ada_song, "saying?first=1&last=1&school=none")).status_code == 400


def test_who_decided_what_and_when_is_told(as_ada, ada_song):
    gesture(as_ada, ada_song, kind="confirm", bars=[2, 3])
    for bar in (2, 3):
        (entry,) = as_ada.get(path(ada_song, f"history/{bar}")).json()
        assert (entry["words"], entry["author"]) == ("Bars 2 to 3 confirmed", "ada")
        assert entry["undone"] is False
    assert as_ada.get(path(ada_song, "history/1")).json() == []


@pytest.fixture
def other_song(ada):
    made = Song.objects.create(owner=ada, title="Other", file_name="b.ogg", suffix=".ogg")
    made.folder.mkdir(parents=True)
    store(made, [BUSY, {}, ROCK])
    return made


def test_kin_are_found_in_all_of_one_s_own_songs(as_ada, ada_song, other_song, ben):
    Song.objects.create(owner=ben, title="Ben's", file_name="c.ogg", suffix=".ogg")
    found = as_ada.get(path(ada_song, "kin/1")).json()
    kin = {(item["title"], item["kin"]): item for item in found["relatives"]}
    assert kin["Composed", "the same"]["more"] == 2
    assert kin["Other", "the same"]["bar"] == 3
    assert kin["Other", "contains it"]["distance"] == 2
    assert found["compared"] == 6


def test_kin_follow_an_edit(as_ada, ada_song, other_song):
    hit = next(h for h in rows_of(other_song)[3] if h["instrument"] == "kick")
    body = {"client_id": str(uuid.uuid4()), "edits": [{"before": hit, "after": None}]}
    as_ada.post(path(other_song, "edits"), body, format="json")
    found = as_ada.get(path(ada_song, "kin/1")).json()["relatives"]
    assert ("Other", "one note away") in {(item["title"], item["kin"]) for item in found}


def test_the_stages_from_one_groove_to_another_are_told(as_ada, ada_song, other_song):
    chain = path(ada_song, f"kin/1/chain?to_song={other_song.id}&to_bar=1")
    stages = as_ada.get(chain).json()["stages"]
    assert stages[-1]["title"] == "Other"
    assert stages[-1]["words"] == "add the kick on the a of 1 and the & of 3"
    silent = path(ada_song, f"kin/1/chain?to_song={other_song.id}&to_bar=2")
    assert as_ada.get(silent).status_code == 404


def test_kin_are_found_whatever_is_played_and_in_sevens_too(as_ada, ada_song):
    """Every voice of the kit, on the last place of the longest bar that is compared."""
    every = dict.fromkeys((KICK, SNARE, HAT, *LATE_VOICES), "............x")
    for beats in (4, 7):
        piece = song([{**ROCK, **every}, ROCK, {**ROCK, **every}], beats=beats)
        store_transcription(ada_song, Result(piece, (1.0,)))
        found = as_ada.get(path(ada_song, "kin/1"))
        assert found.status_code == 200
        same = {item["bar"] for item in found.json()["relatives"] if item["kin"] == "the same"}
        assert same == {3}


def test_another_s_songs_are_no_kin(as_ben, ben, other_song):
    mine = Song.objects.create(owner=ben, title="Ben's", file_name="c.ogg", suffix=".ogg")
    mine.folder.mkdir(parents=True)
    store(mine, [ROCK])
    assert as_ben.get(path(mine, "kin/1")).json() == {"compared": 1, "relatives": []}


def test_echo_suspects_are_shown_with_their_figures(as_ada, ada_song):
    piece = song([ROCK] * 8)
    echoes = [
        replace(
            hit,
            time=hit.time + 0.178,
            velocity=25,
            ghost=True,
            accent=False,
            position=hit.position + Fraction(3, 32),
            status=Status.DOUBTFUL,
        )
        for hit in piece.hits
        if hit.instrument is SNARE
    ]
    store_transcription(ada_song, Result(piece.with_hits([*piece.hits, *echoes]), (1.0,)))
    questions = as_ada.get(path(ada_song, "grooves")).json()["review"]
    (echo,) = [one for one in questions if one["kind"] == "echo"]
    assert "always 178 ms" in echo["words"]
    assert len(echo["places"]) == 16
    assert [one["words"] for one in echo["answers"]] == ["Leave them out", "They are played"]


@pytest.mark.parametrize(("bpm", "is_told"), [(72, True), (150, False)])
def test_a_traditional_name_is_told_at_the_tempo_of_its_section(as_ada, ada_song, bpm, is_told):
    drop = {KICK: "........x.......", SNARE: "........x.......", HAT: "x.x.x.x.x.x.x.x."}
    store_transcription(ada_song, Result(song([drop] * 8, bpm=bpm), (1.0,)))
    (section,) = as_ada.get(path(ada_song, "grooves")).json()["sections"]
    assert any("one drop" in name["words"] for name in section["names"]) is is_told


def answer(client, stored, question, value):
    body = {"client_id": str(uuid.uuid4()), "kind": "answer"}
    body |= {"question": question["key"], "answer": value}
    return client.post(path(stored, "gestures"), body, format="json")


def stray_kicks(stored):
    """A kick in two of twelve bars that are alike: one question."""
    odd = {**ROCK, Instrument.KICK: "x.......x.x....."}
    store_transcription(stored, Result(song([ROCK] * 10 + [odd] * 2), (1.0,)))


def test_a_question_of_the_review_is_answered_once_and_undone_with_one_step(as_ada, ada_song):
    stray_kicks(ada_song)
    (question,) = as_ada.get(path(ada_song, "grooves")).json()["review"]
    assert (question["kind"], question["bars"]) == ("spot", [11, 12])
    done = answer(as_ada, ada_song, question, "no")
    assert done.status_code == 200, done.json()
    assert as_ada.get(path(ada_song, "grooves")).json()["review"] == []
    again = answer(as_ada, ada_song, question, "no")
    assert again.status_code == 400
    assert "changed meanwhile" in str(again.json())
    assert as_ada.post(path(ada_song, "undo")).status_code == 200
    assert len(as_ada.get(path(ada_song, "grooves")).json()["review"]) == 1


@pytest.mark.parametrize("value", ["ride", "", "maybe", "NO", 7, None, "x" * 4000])
def test_an_answer_that_a_question_does_not_take_changes_nothing(as_ada, ada_song, value):
    stray_kicks(ada_song)
    (question,) = as_ada.get(path(ada_song, "grooves")).json()["review"]
    assert answer(as_ada, ada_song, question, value).status_code == 400
    assert len(as_ada.get(path(ada_song, "grooves")).json()["review"]) == 1


def test_whoever_may_not_edit_may_not_answer(as_ada, as_ben, ada_song):
    stray_kicks(ada_song)
    (question,) = as_ada.get(path(ada_song, "grooves")).json()["review"]
    assert answer(as_ben, ada_song, question, "no").status_code == 404


def test_how_a_song_is_counted_is_the_first_question_until_it_is_confirmed(as_ada, ada_song):
    piece = song([ROCK] * 8)
    readings = (
        ReadingSummary("0/4/0", "4/4 at 120", 120.0, piece.meter),
        ReadingSummary("1/4/0", "4/4 at 60", 60.0, piece.meter),
    )
    store_transcription(ada_song, Result(replace(piece, readings=readings), (1.0,)))
    (question,) = as_ada.get(path(ada_song, "grooves")).json()["review"]
    assert question["kind"] == "counting"
    assert [one["words"] for one in question["answers"]] == ["4/4 at 120", "4/4 at 60"]
    body = {"finding": "meter", "confirmed": True}
    assert as_ada.post(path(ada_song, "confirm"), body, format="json").status_code == 200
    assert as_ada.get(path(ada_song, "grooves")).json()["review"] == []


def test_a_bar_is_drawn_on_the_staff_for_those_who_may_see_the_song(as_ada, as_ben, ada_song):
    store(ada_song, [ROCK, ROCK])
    drawn = as_ada.get(path(ada_song, "bars/2/staff"))
    assert drawn.status_code == 200
    assert drawn.content.lstrip().startswith((b"<svg", b"<?xml"))
    assert as_ada.get(path(ada_song, "bars/7/staff")).status_code == 400
    assert as_ben.get(path(ada_song, "bars/2/staff")).status_code == 404


def voice(client, stored, **wish):
    body = {"client_id": str(uuid.uuid4()), "kind": "voice", "bars": [1], **wish}
    return client.post(f"/api/songs/{stored.id}/gestures", body, format="json")


def test_a_voice_of_the_song_is_changed_and_taken_back_in_one_step(as_ada, ada_song):
    before = load_transcription(ada_song).hits
    answer = voice(as_ada, ada_song, instrument="hihat_closed", scope="song", to="ride")
    assert answer.status_code == 200, answer.content
    assert "is a ride in the whole song" in answer.json()["words"]
    now = load_transcription(Song.objects.get(pk=ada_song.pk)).hits
    assert not any(hit.instrument is Instrument.HIHAT_CLOSED for hit in now)
    assert as_ada.post(f"/api/songs/{ada_song.id}/undo").status_code == 200
    assert load_transcription(Song.objects.get(pk=ada_song.pk)).hits == before


@pytest.mark.parametrize(
    "wish",
    [
        {"scope": "song"},
        {"instrument": "hihat_closed"},
        {"instrument": "hihat_closed", "scope": "album", "to": "ride"},
        {"instrument": "hihat_closed", "scope": "song", "to": "kick"},
        {"instrument": "cowbell", "scope": "song", "to": "ride"},
    ],
)
def test_voice_change_rejects_missing_or_unknown_instruments(as_ada, ada_song, wish):
    answer = voice(as_ada, ada_song, **wish)
    assert answer.status_code == 400
    assert answer.json()["detail"]

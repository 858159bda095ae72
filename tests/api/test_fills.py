"""The Fills stage over the API: what is told, what is decided and taken back, kits, the list."""

import uuid
from fractions import Fraction

import pytest

from orchesis.limbs.assign import assign_limbs
from orchesis.music.instruments import Instrument
from orchesis.music.json import hit_to_json
from orchesis.pipeline import Result
from studio.actions.store import store_transcription
from studio.models import Kit, PracticeItem, Song
from studio.values.stored import load_transcription
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
LEFT = {"name": "Rehearsal room", "left_handed": True, "toms": 2}


def with_hands(score):
    return score.with_hits(assign_limbs(score.hits, score.meter.pulses))


@pytest.fixture
def filled(ada):
    """A song with a fill in bar 8."""
    stored = Song.objects.create(owner=ada, title="Filled", file_name="f.ogg", suffix=".ogg")
    store_transcription(stored, Result(with_hands(song([ROCK] * 7 + [FILL] + [ROCK] * 4)), (0.5,)))
    stored.refresh_from_db()
    return stored


def path(of, what="fills"):
    return f"/api/songs/{of.id}/{what}"


def told(client, of):
    return client.get(path(of)).json()["fills"]


def letters(fill):
    return "".join(item["letter"] for item in fill["ways"][0]["hands"])


def say(client, of, first_bar, at, last_bar, until, *, is_fill=True):
    body = {
        "first_bar": first_bar,
        "at": at,
        "last_bar": last_bar,
        "until": until,
        "is_fill": is_fill,
    }
    return client.post(path(of), body, format="json")


def test_a_fill_is_told_with_its_ways_and_its_family(as_ada, filled):
    (one,) = told(as_ada, filled)
    assert (one["bar"], one["at"], one["until"]) == (8, "1/2", "1")
    assert one["words"].startswith("2 beats from 3: sixteenths; 4 snare, 4 high tom")
    assert one["count"] == "3 e & a 4 e & a"
    assert one["family"] == "A"
    assert letters(one) == "RLRLRLRL"
    assert one["ways"][0]["rudiment"] == "single-stroke roll"
    assert one["ways"][0]["closes"]
    assert one["problems"] == []


def test_its_count_is_in_the_words_of_the_school_asked_for(as_ada, filled):
    (one,) = as_ada.get(path(filled), {"school": "e-and-ah"}).json()["fills"]
    assert one["count"] == "3 e & ah 4 e & ah"
    assert as_ada.get(path(filled), {"school": "none"}).status_code == 400


def test_what_is_said_of_a_fill_holds_and_can_be_taken_back(as_ada, filled):
    answer = say(as_ada, filled, 8, "3/4", 8, "1").json()
    assert answer["words"] == "Fill from 4 of bar 8"
    assert [fill["settled"] for fill in answer["score"]["fills"]] == [True]
    (one,) = told(as_ada, filled)
    assert (one["at"], one["settled"]) == ("3/4", True)
    say(as_ada, filled, 8, "3/4", 8, "1", is_fill=False)
    assert told(as_ada, filled) == []
    for left in (["3/4"], ["1/2"]):
        as_ada.post(path(filled, "undo"))
        assert [fill["at"] for fill in told(as_ada, filled)] == left


def test_fills_are_found_again_after_an_edit(as_ada, filled):
    assert len(told(as_ada, filled)) == 1
    score = as_ada.get(path(filled, "score")).json()
    hits = next(bar for bar in score["bars"] if bar["number"] == 8)["hits"]
    edits = [
        {"before": hit, "after": None}
        for hit in hits
        if hit["instrument"] in ("snare", "tom_high") and hit["position"] != "1/4"
    ]
    body = {"client_id": "6f0a5d80-1111-4222-8333-444455556666", "edits": edits, "words": "none"}
    assert as_ada.post(path(filled, "edits"), body, format="json").status_code == 200
    assert told(as_ada, filled) == []


def test_another_listening_keeps_what_was_said(as_ada, filled):
    say(as_ada, filled, 3, "1/2", 3, "1")
    store_transcription(filled, Result(song([ROCK] * 7 + [FILL] + [ROCK] * 4), (0.5,)))
    filled.refresh_from_db()
    assert [(f.bar, f.settled) for f in load_transcription(filled).fills] == [(3, True), (8, False)]


@pytest.mark.parametrize(
    "asked",
    [
        (99, "1/2", 99, "1"),
        (8, "1/2", 8, "1/4"),
        (8, "x", 8, "1"),
        (8, "1/0", 8, "1"),
        (1, "0", 9, "1"),
        (8, "9" * 5000, 8, "1"),
    ],
)
def test_what_can_be_no_fill_is_refused_in_a_sentence(as_ada, filled, asked):
    answer = say(as_ada, filled, *asked)
    assert answer.status_code in (400, 409, 422)
    assert isinstance(answer.json(), dict)
    assert filled.changes.count() == 0


def test_exercises_are_bars_like_any_others(as_ada, filled):
    made = as_ada.get(path(filled, "fills/8/exercises")).json()
    assert [one["key"] for one in made][:2] == ["alone", "feet"]
    (loop,) = [one for one in made if one["key"] == "loop-4"]
    assert [bar["number"] for bar in loop["bars"]] == [1, 2, 3, 4]
    assert loop["bars"][0]["cells"]
    assert all(hit["limb"] for bar in loop["bars"] for hit in bar["hits"])
    assert as_ada.get(path(filled, "fills/7/exercises")).status_code == 404


def test_the_practice_list_takes_a_thing_once_and_is_its_owners(as_ada, as_ben, filled):
    place, wish = path(filled, "practice-list"), {"bar": 8, "key": "feet", "title": "Feet"}
    first = as_ada.post(place, wish, format="json")
    assert first.status_code == 201
    assert as_ada.post(place, wish, format="json").json()["id"] == first.json()["id"]
    assert len(as_ada.get(place).json()) == 1
    item = f"{place}/{first.json()['id']}"
    assert as_ben.get(place).status_code == 404
    assert as_ben.delete(item).status_code == 404
    assert as_ada.delete(item).status_code == 204
    assert as_ada.delete(item).status_code == 404
    assert not PracticeItem.objects.exists()


def test_a_song_is_played_on_the_kit_that_was_chosen(as_ada, filled):
    kit = as_ada.post("/api/kits", LEFT, format="json").json()
    chosen = as_ada.put(path(filled, "kit"), {"kit": kit["id"]}, format="json")
    assert chosen.status_code == 200
    (one,) = told(as_ada, filled)
    assert letters(one) == "LRLRLRLR"
    as_ada.put(f"/api/kits/{kit['id']}", {**LEFT, "left_handed": False}, format="json")
    (one,) = told(as_ada, filled)
    assert letters(one) == "RLRLRLRL", "a changed kit counts at once"
    as_ada.delete(f"/api/kits/{kit['id']}")
    assert as_ada.get(path(filled, "kit")).json() == {"kit": None}


def test_kits_are_their_owners(as_ada, as_ben, client, filled):
    kit = as_ada.post("/api/kits", LEFT, format="json").json()
    names = [one["name"] for one in as_ada.get("/api/kits").json()]
    assert names == ["Standard kit", "Rehearsal room"]
    assert [one["name"] for one in as_ben.get("/api/kits").json()] == ["Standard kit"]
    for method in ("put", "delete"):
        answer = getattr(as_ben, method)(f"/api/kits/{kit['id']}", LEFT, format="json")
        assert answer.status_code == 404
    theirs = as_ben.post("/api/kits", LEFT, format="json").json()
    wanted = as_ada.put(path(filled, "kit"), {"kit": theirs["id"]}, format="json")
    assert wanted.status_code == 404
    assert client.get("/api/kits").status_code in (401, 403)
    assert client.post("/api/kits", LEFT, format="json").status_code in (401, 403)
    assert Kit.objects.count() == 2


@pytest.mark.parametrize(
    "change",
    [
        {"name": "   "},
        {"toms": 0},
        {"toms": 9},
        {"pads": ["gong"]},
        {"sixteenths": "no hands"},
        {"comfortable_hz": 1e308},
        {"pedal_hz": 0},
        {"name": "x" * 300},
    ],
)
def test_no_kit_is_made_that_is_none(as_ada, change):
    answer = as_ada.post("/api/kits", {**LEFT, **change}, format="json")
    assert answer.status_code in (400, 409, 422)
    assert not Kit.objects.exists()


def test_two_kits_of_one_name_are_refused_and_said(as_ada):
    as_ada.post("/api/kits", LEFT, format="json")
    answer = as_ada.post("/api/kits", LEFT, format="json")
    assert answer.status_code == 409
    assert "choose another" in str(answer.json())


def test_hands_are_found_anew_for_the_kit_and_taken_back_in_one_step(as_ada, filled):
    def limbs():
        bars = as_ada.get(path(filled, "score")).json()["bars"]
        return {
            hit["limb"]
            for bar in bars
            for hit in bar["hits"]
            if hit["instrument"] == "hihat_closed"
        }

    before = limbs()
    kit = as_ada.post("/api/kits", LEFT, format="json").json()
    as_ada.put(path(filled, "kit"), {"kit": kit["id"]}, format="json")
    answer = as_ada.post(path(filled, "hands"))
    assert answer.status_code == 200
    assert answer.json()["words"] == "Sticking recalculated for this kit"
    assert limbs() == {"LH"}
    as_ada.post(path(filled, "undo"))
    assert limbs() == before


def test_who_plays_fast_hats_is_told_with_its_reason(as_ada, ada):
    fast = Song.objects.create(owner=ada, title="Fast", file_name="f.ogg", suffix=".ogg")
    piece = song([{**ROCK, HAT: "x" * 16}] * 8)
    store_transcription(fast, Result(piece, (0.5,)))
    for wish, told_words in (
        ("one hand", "one hand plays them"),
        ("two hands", "two hands share them"),
    ):
        values = {"name": wish, "sixteenths": wish}
        kit = as_ada.post("/api/kits", values, format="json").json()
        as_ada.put(path(fast, "kit"), {"kit": kit["id"]}, format="json")
        as_ada.post(path(fast, "hands"))
        words = as_ada.get(path(fast)).json()["on_this_kit"]["words"]
        assert words == [f"Verse: 8.0 strokes a second on the hat: {told_words}; one keeps up 7.5."]


def test_a_fill_is_drawn_on_the_staff_with_the_hands_of_a_way(as_ada, filled):
    drawn = as_ada.get(path(filled, "fills/8/staff"), {"way": 0})
    assert drawn["Content-Type"] == "image/svg+xml"
    text = drawn.content.decode()
    assert text.count(">R<") == 4
    assert text.count(">L<") == 4
    assert as_ada.get(path(filled, "fills/8/staff"), {"way": 40}).content.decode().count(">R<") == 0
    assert as_ada.get(path(filled, "fills/7/staff")).status_code == 404
    assert as_ada.get(path(filled, "fills/8/staff"), {"way": -1}).status_code == 400


def test_the_same_fill_is_found_in_other_songs_of_mine_and_of_nobody_else(as_ada, ada, ben, filled):
    for owner, title in ((ada, "Mine"), (ben, "Theirs")):
        other = Song.objects.create(owner=owner, title=title, file_name="f.ogg", suffix=".ogg")
        piece = song([ROCK] * 3 + [FILL] + [ROCK] * 2)
        store_transcription(other, Result(piece, (0.5,)))
    (found,) = as_ada.get(path(filled, "fills/8/elsewhere")).json()
    assert (found["title"], found["bar"], found["words"]) == ("Mine", 4, "the same again")


def test_what_one_player_cannot_play_is_told_beside_the_bars(as_ada, ada):
    stored = Song.objects.create(owner=ada, title="Three", file_name="f.ogg", suffix=".ogg")
    third = {**ROCK, Instrument.RIDE: "....x..........."}
    store_transcription(stored, Result(song([ROCK] * 3 + [third] + [ROCK] * 4), (0.5,)))
    (section,) = as_ada.get(path(stored, "grooves")).json()["sections"]
    (spot,) = section["unplayable"]
    assert (spot["bar"], spot["position"]) == (4, "1/4")
    assert "that is 3 hands" in spot["words"]


def test_a_groove_that_was_named_is_known_by_its_name_in_all_songs(as_ada, as_ben, ada, filled):
    strange = {**ROCK, KICK: "x..x.xx...x..x.x"}
    songs = []
    for title in ("One", "Two"):
        stored = Song.objects.create(owner=ada, title=title, file_name="f.ogg", suffix=".ogg")
        store_transcription(stored, Result(song([strange] * 8), (0.5,)))
        songs.append(stored)

    def names(of):
        (section,) = as_ada.get(path(of, "grooves")).json()["sections"]
        return [one["words"] for one in section["names"]]

    assert "the stumble" not in names(songs[1])
    wish = {"first_bar": 1, "name": " the  stumble "}
    made = as_ada.post(path(songs[0], "rhythm-name"), wish, format="json")
    assert made.status_code == 201
    assert names(songs[1])[0] == "the stumble"
    assert as_ada.post(path(songs[0], "rhythm-name"), wish, format="json").status_code == 409
    for bad in ({"first_bar": 1, "name": "  "}, {"first_bar": 2, "name": "x"}, {"name": "x"}):
        answer = as_ada.post(path(songs[0], "rhythm-name"), bad, format="json")
        assert answer.status_code in (400, 404, 422)
    taken = {"first_bar": 1, "name": "Samba"}
    assert as_ada.post(path(songs[0], "rhythm-name"), taken, format="json").status_code == 409
    place = f"/api/rhythms/{made.json()['id']}"
    assert as_ben.get("/api/rhythms").json() == []
    assert as_ben.delete(place).status_code == 404
    assert as_ada.delete(place).status_code == 204
    assert "the stumble" not in names(songs[1])


def test_both_schools_of_sixteenths_are_one_request_away_and_undone(as_ada, ada_song):
    from orchesis.music.instruments import Instrument
    from studio.models import Song
    from studio.values.stored import load_transcription

    def hands():
        score = load_transcription(Song.objects.get(pk=ada_song.pk))
        hats = [hit for hit in score.hits if hit.instrument is Instrument.HIHAT_CLOSED]
        return {hit.limb for hit in hats}

    for bar in ada_song.bars.all():
        start = 0.5 + 2.0 * (bar.number - 1)
        hats = [
            {
                **bar.hits[0],
                "instrument": "hihat_closed",
                "position": f"{step}/16",
                "time": start + step / 8,
                "limb": None,
            }
            for step in range(1, 16, 2)
        ]
        bar.hits = [*bar.hits, *hats]
        bar.revision += 1
        bar.save()
    url = f"/api/songs/{ada_song.id}/hands"
    one = as_ada.post(url, {"sixteenths": "one hand"}, format="json")
    assert one.json()["words"] == "Sticking recalculated for this kit, sixteenths one hand"
    assert len(hands()) == 1
    as_ada.post(url, {"sixteenths": "two hands"}, format="json")
    assert len(hands()) == 2
    as_ada.post(f"/api/songs/{ada_song.id}/undo")
    assert len(hands()) == 1
    assert as_ada.post(url, {"sixteenths": "three hands"}, format="json").status_code == 400


def stick(client, of, wanted, **more):
    body = {"client_id": str(uuid.uuid4()), "kind": "stick", "bars": [8], "letters": wanted, **more}
    return client.post(path(of, "gestures"), body, format="json")


def limbs_in(of, bar):
    score = load_transcription(Song.objects.get(pk=of.pk))
    hands = {"RH": "R", "LH": "L"}
    return "".join(
        hands.get(hit.limb, "")
        for hit in score.hits_of(bar)
        if hit.instrument in (SNARE, TOM) and hit.position >= Fraction(1, 2)
    )


def test_the_way_in_the_score_is_the_one_that_is_marked(as_ada, filled):
    (one,) = told(as_ada, filled)
    current = [way for way in one["ways"] if way["is_current"]]
    assert len(current) == 1
    assert "".join(item["letter"] for item in current[0]["hands"]) == limbs_in(filled, 8)
    assert limbs_in(filled, 8) == "RLRLRLRL"


def test_another_way_is_an_edit_seen_everywhere_and_taken_back(as_ada, filled):
    (one,) = told(as_ada, filled)
    other = next(way for way in one["ways"] if not way["is_current"])
    wanted = "".join(item["letter"] for item in other["hands"])
    answer = stick(as_ada, filled, wanted)
    assert answer.status_code == 200, answer.content
    assert "Sticking of the fill in bar 8" in answer.json()["words"]
    assert limbs_in(filled, 8) == wanted[-8:]
    (now,) = told(as_ada, filled)
    assert [way["is_current"] for way in now["ways"] if way["name"] == other["name"]] == [True]
    plan = as_ada.get(path(filled, "practice/plans/fill-8")).json()
    notes = [n for n in plan["steps"][-1]["notes"] if n["instrument"] in ("snare", "tom_high")]
    practised = "".join({"RH": "R", "LH": "L"}[n["limb"]] for n in notes if n["bar"] == 8)
    assert practised.endswith(wanted[-8:])
    assert as_ada.post(path(filled, "undo")).status_code == 200
    assert limbs_in(filled, 8) == "RLRLRLRL"


def test_a_way_that_is_not_offered_or_is_there_already_is_refused(as_ada, filled, as_ben):
    assert stick(as_ada, filled, limbs_in(filled, 8)).status_code == 400
    assert stick(as_ada, filled, "RRRRRRRRRR").status_code == 400
    assert stick(as_ada, filled, "LRLRLRLR", bars=[3]).status_code in (400, 404)
    assert stick(as_ben, filled, "LRLRLRLR").status_code == 404


def test_the_same_fill_elsewhere_follows_when_asked(as_ada, ada):
    stored = Song.objects.create(owner=ada, title="Twice", file_name="f.ogg", suffix=".ogg")
    bars = [ROCK] * 7 + [FILL] + [ROCK] * 7 + [FILL] + [ROCK] * 4
    store_transcription(stored, Result(with_hands(song(bars)), (0.5,)))
    first = told(as_ada, stored)[0]
    wanted = "".join(item["letter"] for item in first["ways"][1]["hands"])
    assert stick(as_ada, stored, wanted, also_kin=True).status_code == 200
    assert limbs_in(stored, 8) == limbs_in(stored, 16) == wanted[-8:]


def test_a_renamed_note_never_gives_a_hand_two_strokes_at_one_time(as_ada, filled):
    """A cross-stick under the hat that becomes a ride, say: its limb had been given to another."""
    bar = load_transcription(filled).hits_of(1)
    hat = next(hit for hit in bar if hit.instrument is HAT and hit.position == Fraction(1, 4))
    before = hit_to_json(hat)
    after = {**before, "instrument": "ride", "limb": "LH"}
    body = {"client_id": str(uuid.uuid4()), "edits": [{"before": before, "after": after}]}
    sent = as_ada.post(path(filled, "edits"), body, format="json")
    assert sent.status_code == 200
    here = [hit for hit in sent.json()["bars"][0]["hits"] if hit["position"] == "1/4"]
    hands = [hit["limb"] for hit in here if hit["instrument"] in ("ride", "snare")]
    assert sorted(hands) == ["LH", "RH"]
    again = as_ada.post(path(filled, "edits"), body, format="json")
    assert again.status_code == 200, "sent twice it is one edit"

"""What doubts come down to: layers, and kinds of doubts, each asked about once."""

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from orchesis.edits.questions import FEWEST_ALIKE, Asked, questions
from orchesis.music.instruments import Instrument, Status
from orchesis.music.values import written
from orchesis.pipeline import without_doubles
from tests.composing import ROCK, song

HAT, SNARE, KICK = Instrument.HIHAT_CLOSED, Instrument.SNARE, Instrument.KICK
HIGH, MID, FLOOR = Instrument.TOM_HIGH, Instrument.TOM_MID, Instrument.TOM_FLOOR
SHAKER, RIDE, FOOT = Instrument.SHAKER, Instrument.RIDE, Instrument.HIHAT_FOOT


def doubting(piece, which, **values):
    """The song with the hits that `which` is true of in doubt."""
    hits = [
        replace(hit, status=Status.DOUBTFUL, confidence=0.5, **values) if which(hit) else hit
        for hit in piece.hits
    ]
    return piece.with_hits(hits)


def test_a_shaker_on_every_hat_is_one_question_and_no_hundred_doubts():
    piece = doubting(song([{**ROCK, SHAKER: ROCK[HAT]}] * 8), lambda hit: hit.instrument is SHAKER)
    (asked,) = questions(piece)
    assert asked.kind is Asked.LAYER
    assert len(asked.hits) == 64
    assert "shaker on every stroke of the hat, 64 times" in asked.words


def test_it_is_asked_about_although_nothing_of_it_is_in_doubt():
    (asked,) = questions(song([{**ROCK, SHAKER: ROCK[HAT]}] * 8))
    assert {hit.instrument for hit in asked.hits} == {SHAKER}


def test_a_shaker_with_a_rhythm_of_its_own_is_not_asked_about():
    assert questions(song([{**ROCK, SHAKER: "xxxxxxxxxxxxxxxx"}] * 8)) == ()
    assert questions(song([{**ROCK, SHAKER: "x.......x......."}] * 8)) == ()


def test_an_open_hat_among_closed_ones_is_the_same_voice():
    opened = {**ROCK, HAT: "x.x.x.x.x.x.x...", Instrument.HIHAT_OPEN: "..............x."}
    (asked,) = questions(song([{**opened, SHAKER: "x.x.x.x.x.x.x.x."}] * 8))
    assert {hit.instrument for hit in asked.hits} == {SHAKER}


def test_a_layer_of_one_bar_is_no_layer():
    assert questions(song([{**ROCK, SHAKER: ROCK[HAT]}] + [ROCK] * 7)) == ()


def test_what_is_settled_is_asked_about_no_more():
    piece = song([{**ROCK, SHAKER: ROCK[HAT]}] * 8)
    done = piece.with_hits([replace(hit, settled=True) for hit in piece.hits])
    assert questions(done) == ()


def test_a_layer_that_was_left_out_is_asked_about_too_until_somebody_has_answered():
    piece = song([{**ROCK, SHAKER: ROCK[HAT]}] * 8)
    written_down = piece.with_hits(without_doubles(piece.hits))
    assert SHAKER not in {hit.instrument for hit in written(written_down.hits)}
    (asked,) = questions(written_down)
    assert asked.words.endswith("64 times, left out as the same sound: is it there at all?")
    no = written_down.with_hits(
        [replace(hit, settled=hit.status is Status.LEFT_OUT) for hit in written_down.hits]
    )
    assert questions(no) == ()


def test_only_what_is_shaken_is_left_out_and_only_in_unison():
    ride = song([{**ROCK, RIDE: ROCK[HAT]}] * 8)
    own = song([{**ROCK, SHAKER: "xxxxxxxxxxxxxxxx"}] * 8)
    for piece in (ride, own):
        assert without_doubles(piece.hits) == list(piece.hits)


BY_FOOT = {**ROCK, HAT: "................", FOOT: ROCK[HAT]}
ON_THE_RIDE = {**ROCK, HAT: "................", RIDE: ROCK[HAT]}


def test_what_is_shaken_now_on_a_hat_now_on_another_cymbal_is_their_hiss():
    """No voice is doubled throughout: it is the hat's in six bars, the foot's and the ride's."""
    bars = [*[ROCK] * 6, *[ON_THE_RIDE] * 4, *[BY_FOOT] * 4]
    piece = song([{**bar, SHAKER: ROCK[HAT]} for bar in bars])
    (asked,) = questions(piece)
    assert len(asked.hits) == 8 * 14
    assert asked.words.startswith("the shaker, 112 times, always with the hat or another cymbal")
    assert SHAKER not in {hit.instrument for hit in written(without_doubles(piece.hits))}


def test_what_is_shaken_on_some_hats_is_theirs_where_it_is_faint_and_a_part_where_it_is_sure():
    """A tambourine on two and four goes with the hats too: what is sure of it stays."""
    piece = song([{**ROCK, SHAKER: "....x.......x..."}] * 8)
    faint = doubting(piece, lambda hit: hit.instrument is SHAKER)
    assert without_doubles(piece.hits) == list(piece.hits)
    assert SHAKER not in {hit.instrument for hit in written(without_doubles(faint.hits))}


def test_whatever_is_left_out_as_hiss_is_asked_about_however_little_it_is():
    piece = doubting(
        song([{**ROCK, SHAKER: "....x.......x..."}] * 4), lambda hit: hit.instrument is SHAKER
    )
    written_down = piece.with_hits(without_doubles(piece.hits))
    (asked,) = questions(written_down)
    assert (asked.kind, len(asked.hits)) == (Asked.LAYER, 8)
    assert {hit.status for hit in asked.hits} == {Status.LEFT_OUT}


def test_what_is_faint_but_heard_by_itself_stays_in_doubt():
    faint = doubting(
        song([{**ROCK, SHAKER: ".xxx.xxx.xxx.xxx"}] * 8), lambda hit: hit.instrument is SHAKER
    )
    assert without_doubles(faint.hits) == list(faint.hits)


def test_doubts_are_grouped_by_drum_loudness_and_company():
    piece = song([{**ROCK, SNARE: "..g.x.....g.x..."}] * 6)
    soft = doubting(piece, lambda hit: hit.instrument is SNARE and hit.velocity < 60, ghost=False)
    (asked,) = questions(soft)
    assert (asked.kind, len(asked.hits)) == (Asked.ALIKE, 12)
    assert asked.words == "12 soft snares together with a cymbal"
    ghosts = doubting(piece, lambda hit: hit.instrument is SNARE and hit.velocity < 60, ghost=True)
    assert questions(ghosts)[0].words == "12 ghosts of the snare together with a cymbal"


def test_hats_under_the_snare_and_hats_alone_are_two_questions_the_larger_first():
    piece = doubting(song([ROCK] * 4), lambda hit: hit.instrument is HAT)
    words = [asked.words for asked in questions(piece)]
    assert words[0] == "16 closed hats on their own"
    assert set(words[1:]) == {
        "8 closed hats together with the kick",
        "8 closed hats together with the snare",
    }


def test_toms_of_all_sizes_are_one_question_and_of_one_size_are_named():
    roll = {HIGH: "xx..............", MID: "..xx............", FLOOR: "....x..........."}
    toms = {HIGH, MID, FLOOR}
    piece = doubting(song([ROCK, roll, ROCK, roll]), lambda hit: hit.instrument in toms)
    (asked,) = questions(piece)
    assert asked.words == "10 toms on their own"
    assert {hit.instrument for hit in asked.hits} == toms
    lone = doubting(song([ROCK, roll, ROCK, roll]), lambda hit: hit.instrument is HIGH)
    assert questions(lone)[0].words == "4 high toms on their own"


def test_few_doubts_are_asked_one_by_one():
    piece = doubting(song([ROCK] * 2), lambda hit: hit.instrument is KICK and hit.bar == 1)
    assert sum(hit.status is Status.DOUBTFUL for hit in piece.hits) < FEWEST_ALIKE
    assert questions(piece) == ()


@given(st.lists(st.integers(0, 95), max_size=60, unique=True))
def test_every_doubt_is_in_one_question_at_most(chosen):
    piece = song([{**ROCK, SHAKER: ROCK[HAT]}] * 4)
    hits = [
        replace(hit, status=Status.DOUBTFUL) if index in chosen else hit
        for index, hit in enumerate(piece.hits)
    ]
    piece = piece.with_hits(hits)
    asked = [(*hit.place, hit.instrument) for q in questions(piece) for hit in q.hits]
    assert len(asked) == len(set(asked))
    assert set(asked) <= {(*hit.place, hit.instrument) for hit in written(piece.hits)}

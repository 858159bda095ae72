"""What one player cannot play is found, explained and kept as an overdub; nothing else is."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.errors import InvalidTranscription
from orchesis.limbs import playable as limbs_playable
from orchesis.limbs.assign import assign_limbs
from orchesis.limbs.kit import STANDARD, Player
from orchesis.limbs.playable import Kind, folded, is_plain, playable
from orchesis.limbs.sticking import NEVER, Stroke, cost_of
from orchesis.music.instruments import Instrument, Limb, Ornament, Status
from tests.composing import ROCK, song

HAT, SNARE, KICK = Instrument.HIHAT_CLOSED, Instrument.SNARE, Instrument.KICK
CRASH, RIDE, CLAP, SHAKER = (
    Instrument.CRASH,
    Instrument.RIDE,
    Instrument.CLAP,
    Instrument.SHAKER,
)
HIGH, MID, LOW, FLOOR = (
    Instrument.TOM_HIGH,
    Instrument.TOM_MID,
    Instrument.TOM_LOW,
    Instrument.TOM_FLOOR,
)
GROOVES = {
    "rock": ROCK,
    "sixteenths": {**ROCK, HAT: "x" * 16},
    "disco": {
        HAT: "x...x...x...x...",
        Instrument.HIHAT_OPEN: "..x...x...x...x.",
        SNARE: "....X.......X...",
        KICK: "x...x...x...x...",
    },
    "bossa": {
        RIDE: "x.x.x.x.x.x.x.x.",
        Instrument.CROSS_STICK: "x..x..x...x..x..",
        KICK: "x..xx..xx..xx..x",
        Instrument.HIHAT_FOOT: "....x.......x...",
    },
    "ghosts": {**ROCK, SNARE: ".g..Xg.g.g..Xg.g"},
    "fill": {SNARE: "xxxx............", HIGH: "....xxxx........", FLOOR: "........xxxxxxxx"},
    "crash and kick": {
        CRASH: "x...............",
        KICK: "x.......x.......",
        SNARE: "....X.......X...",
    },
}


@pytest.mark.parametrize("name", GROOVES)
def test_what_drummers_play_every_night_is_playable(name):
    made = playable(song([GROOVES[name]] * 4).hits, 4)
    assert made.problems == ()
    assert made.overdubs == ()
    assert all(hit.limb for hit in made.played)


PLANTED = {
    "a third hand": ({**ROCK, RIDE: "....x..........."}, Kind.HANDS),
    "crash, ride and tom": ({CRASH: "x...", RIDE: "x...", HIGH: "x...", KICK: "x..."}, Kind.HANDS),
    "five kicks in sixteenths at 120": ({**ROCK, KICK: "xxxxx..........."}, Kind.PEDAL),
    "hat to floor tom and back in 32nds": (
        {HAT: "x.x.x.x." + "." * 24, FLOOR: ".x.x.x.x" + "." * 24, SNARE: "x.x.x.x." + "." * 24},
        Kind.REACH,
    ),
}


@pytest.mark.parametrize("name", PLANTED)
def test_what_cannot_be_played_is_found_with_its_reason_and_a_way_out(name):
    rows, kind = PLANTED[name]
    made = playable(song([rows] * 2).hits, 4)
    assert kind in {problem.kind for problem in made.problems}
    assert all(problem.words and problem.remedy and problem.hits for problem in made.problems)


BARS = st.lists(
    st.dictionaries(
        st.sampled_from([HAT, SNARE, KICK, CRASH, RIDE, HIGH, MID, FLOOR, SHAKER, CLAP]),
        st.text("x..g", min_size=16, max_size=16),
        min_size=1,
        max_size=7,
    ),
    min_size=1,
    max_size=2,
)


@settings(max_examples=40, deadline=None)
@given(BARS)
def test_nothing_is_ever_lost_and_the_playable_version_is_playable(rows):
    piece = song(rows)
    made = playable(piece.hits, 4)
    given_notes = sorted(hit.place for hit in piece.hits)
    assert sorted(hit.place for hit in (*made.played, *made.overdubs)) == given_notes
    assert all(hit.limb is not None for hit in made.played)
    assert all(hit.limb is None for hit in made.overdubs)
    again = playable(made.played, 4)
    assert again.problems == (), "what is left can be played"


def test_a_shaker_beside_the_kit_is_an_overdub_from_the_start_and_takes_no_hand():
    made = playable(song([{**ROCK, SHAKER: "x" * 16}] * 2).hits, 4)
    assert made.problems == ()
    assert {hit.instrument for hit in made.overdubs} == {SHAKER}
    assert made.words == ("32 shakers beside the kit: an overdub, which takes nobody's hand.",)


def test_a_shaker_alone_is_played_by_a_hand():
    limbs = {hit.limb for hit in assign_limbs(song([{SHAKER: "x.x.x.x."}]).hits, 4)}
    assert limbs == {Limb.RIGHT_HAND}


@pytest.mark.parametrize("name", GROOVES)
def test_a_quick_look_tells_what_is_plainly_playable(name):
    piece = song([GROOVES[name]] * 4)
    assert is_plain(assign_limbs(piece.hits, 4))
    assert not is_plain(piece.hits), "without limbs it takes a closer look"


@pytest.mark.parametrize("name", PLANTED)
def test_a_quick_look_lets_nothing_pass_that_cannot_be_played(name):
    rows, _ = PLANTED[name]
    assert not is_plain(assign_limbs(song([rows] * 2).hits, 4))


def test_what_was_left_out_takes_no_hand():
    piece = song([{**ROCK, RIDE: "x.x.x.x.x.x.x.x."}])
    away = [
        replace(hit, status=Status.LEFT_OUT) if hit.instrument is RIDE else hit
        for hit in piece.hits
    ]
    assert playable(away, 4).problems == ()


def test_two_pedals_play_what_one_cannot_each_foot_in_turn():
    fast = song([{**ROCK, KICK: "x" * 16}] * 2)
    made = playable(fast.hits, 4, Player(double_pedal=True))
    assert made.problems == ()
    feet = [hit.limb for hit in made.played if hit.instrument is KICK]
    assert feet == [Limb.RIGHT_FOOT, Limb.LEFT_FOOT] * 16


def test_a_foot_hat_under_a_double_kick_asks_for_three_feet():
    rows = {KICK: "x" * 16, Instrument.HIHAT_FOOT: ".x..x...x..x...x"}
    made = playable(song([rows] * 2).hits, 4, Player(double_pedal=True))
    assert {problem.kind for problem in made.problems} == {Kind.FEET}


def test_four_toms_are_folded_onto_two_in_order_and_it_is_said():
    rows = {HIGH: "x...", MID: ".x..", LOW: "..x.", FLOOR: "...x", CLAP: "x.x."}
    piece = song([rows])
    made, words = folded(piece.hits, Player(toms=(HIGH, FLOOR)))
    played = [hit.instrument for hit in made if hit.instrument in (HIGH, FLOOR)]
    assert played == [HIGH, HIGH, FLOOR, FLOOR]
    assert "The mid tom is played on the high tom." in words
    assert "Claps are played on the rim, as a cross-stick." in words
    assert [hit.instrument for hit in piece.hits].count(MID) == 1, "the original stays"


def test_what_falls_on_one_drum_twice_is_not_lost_without_a_word():
    made, words = folded(song([{HIGH: "x...", MID: "x..."}]).hits, Player(toms=(FLOOR,)))
    assert len(made) == 1
    assert any("not played twice" in text for text in words)


@pytest.mark.parametrize(
    "values", [{"toms": ()}, {"sixteenths": "three hands"}, {"comfortable_hz": 99}]
)
def test_no_kit_is_made_that_is_none(values):
    with pytest.raises(InvalidTranscription):
        Player(**values)


BRUSHES = Player("Brushes", brushes=True)


def test_a_brush_does_not_bounce():
    fast = [Stroke(index / 14, (SNARE,)) for index in range(4)]
    right, left = (Limb.RIGHT_HAND,), (Limb.LEFT_HAND,)
    assert cost_of(fast, [right, right, left, left]) < NEVER
    assert cost_of(fast, [right, right, left, left], BRUSHES) >= NEVER
    assert cost_of(fast, [right, left, right, left], BRUSHES) < NEVER


def test_what_a_brush_does_otherwise_is_told_and_nothing_is_lost():
    piece = song(
        [{SNARE: "x...x...", Instrument.CROSS_STICK: "..x.....", Instrument.RIDE_BELL: "x.x.x.x."}]
    )
    pressed = tuple(
        replace(hit, ornament=Ornament.BUZZ) if hit.instrument is SNARE else hit
        for hit in piece.hits
    )
    hits, words = folded(pressed, BRUSHES)
    assert len(hits) == len(pressed)
    assert words == (
        "2 pressed strokes are swept.",
        "Cross-sticks are played on the rim with the handle of the brush.",
        "The bell is struck with the handle of the brush.",
    )
    assert folded(pressed, STANDARD)[1] == ()


def test_a_fast_song_twice_as_long_takes_twice_the_thinking(monkeypatch):
    """In each bar a stroke that no hand reaches: those are settled where they are."""
    thought_over = []

    def counting(hits, *others):
        thought_over.append(len(hits))
        return assign_limbs(hits, *others)

    monkeypatch.setattr(limbs_playable, "assign_limbs", counting)
    bar = {
        Instrument.RIDE: "x.x.x.x.x.x.x.x.",
        Instrument.SNARE: "....X.......X...",
        Instrument.TOM_FLOOR: "...............x................",
        Instrument.HIHAT_CLOSED: "................x...............",
    }
    work = []
    for bars in (40, 80):
        thought_over.clear()
        found = playable(song([bar] * bars).hits, 4)
        assert len([p for p in found.problems if p.kind is Kind.REACH]) >= bars / 2
        work.append(sum(thought_over))
    assert work[1] < 2.5 * work[0]

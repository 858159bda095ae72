"""Practice: plans that end at the whole groove, ladders that climb, sessions that come back."""

from collections import Counter
from datetime import date, timedelta
from itertools import pairwise
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.chart.options import Level
from orchesis.errors import Missing
from orchesis.fills.find import find_fills
from orchesis.limbs.kit import STANDARD, Player
from orchesis.limbs.playable import problems_of
from orchesis.music.instruments import TOMS, Instrument, Limb
from orchesis.practice.exposure import allowed_minutes, dose, minutes_left
from orchesis.practice.ladder import BEYOND, ladder, slowed_offset, start_share
from orchesis.practice.material import fill_material, groove_material, material
from orchesis.practice.plans import Method, make_plan, steady_limb
from orchesis.practice.schedule import Feeling, Played, due_day, next_session
from orchesis.practice.thinned import thinned
from tests.composing import ROCK, song

I = Instrument  # noqa: E741
GHOSTED = {
    I.HIHAT_CLOSED: "x.x.x.x.x.x.x.x.",
    I.SNARE: "....X..g.g..X..g",
    I.KICK: "x.....x...x.....",
    I.HIHAT_FOOT: "................",
}


def grooves():
    """Fifty grooves by chance, always the same ones; some with three hands at once."""
    random = Random(4)
    found = []
    for _ in range(50):
        density = random.uniform(0.2, 0.8)

        def row(share, signs="x", density=density):
            return "".join(
                random.choice(signs) if random.random() < share * density else "."
                for _ in range(16)
            )

        rows = {
            random.choice([I.HIHAT_CLOSED, I.RIDE]): random.choice(["x.x.x.x.x.x.x.x.", "x" * 16]),
            I.SNARE: row(0.5, "xXg"),
            I.KICK: row(0.6),
            random.choice([I.HIHAT_FOOT, I.TOM_FLOOR, I.COWBELL]): row(0.3),
        }
        found.append([rows] if random.random() < 0.6 else [rows, {**rows, I.KICK: row(0.6)}])
    return found


def made(bars, player=STANDARD):
    piece = song(bars)
    return material("Groove", piece.bars, piece.hits, player)


PLAYERS = (
    Player("Left-handed", left_handed=True),
    Player("Open-handed", open_handed=True),
    Player("One tom", toms=(I.TOM_FLOOR,)),
    Player("Slow feet", pedal_hz=3.0, comfortable_hz=5.0),
    Player("Double pedal", double_pedal=True, toms=(I.TOM_HIGH, I.TOM_FLOOR)),
)


@pytest.mark.parametrize("method", list(Method))
def test_every_plan_ends_at_the_whole_groove_and_no_step_is_the_one_before(method):
    for bars in grooves():
        groove = made(bars)
        plan = make_plan(groove, method)
        assert plan[-1].hits == groove.hits
        assert plan[-1].with_dynamics
        for one, other in pairwise(plan):
            assert one.look != other.look
        for step in plan:
            assert set(step.hits) <= set(groove.hits)
            assert step.hits
            assert not problems_of(step.hits, 4, STANDARD), "one player can play it"
            assert step.count


@pytest.mark.parametrize("player", PLAYERS, ids=lambda player: player.name)
def test_no_step_asks_what_the_player_of_the_profile_cannot_play(player):
    for bars in grooves()[:6]:
        groove = made(bars, player)
        for method in Method:
            for step in make_plan(groove, method, player):
                assert not problems_of(step.hits, 4, player)
                assert {hit.instrument for hit in step.hits} & TOMS <= set(player.toms)


def test_who_is_left_handed_practises_in_the_mirror():
    plain, mirrored = (made([ROCK], player) for player in (STANDARD, PLAYERS[0]))
    limbs = {"RH": "LH", "LH": "RH", "RF": "LF", "LF": "RF"}
    assert [limbs[hit.limb] for hit in plain.hits] == [hit.limb for hit in mirrored.hits]


def test_notes_that_one_player_cannot_play_are_left_to_an_overdub_and_told():
    groove = made([{I.HIHAT_CLOSED: "x...", I.SNARE: "x...", I.CRASH: "x...", I.KICK: "x..."}])
    assert len(groove.left_to_overdub) == 1
    assert len(groove.hits) == 3


def test_limb_by_limb_begins_with_the_steady_limb_and_puts_them_together():
    plan = make_plan(made([ROCK]), Method.LIMB_BY_LIMB)
    assert [step.title for step in plan][:3] == [
        "The right hand alone",
        "The left hand alone",
        "Right hand and left hand",
    ]
    assert {hit.instrument for hit in plan[0].hits} == {I.HIHAT_CLOSED}


def test_one_note_more_at_a_time_adds_one_and_the_easiest_first():
    groove = made([{**ROCK, I.KICK: "x......x........"}])
    plan = make_plan(groove, Method.ONE_NOTE_AT_A_TIME)
    counts = [len(step.hits) for step in plan]
    assert all(after - before in (0, 1) for before, after in pairwise(counts))
    order = [step.title for step in plan]
    # The kick between two hands comes after the one that falls with the hat.
    assert order.index("And the kick on 1") < order.index("And the kick on the a of 2")


def test_kick_and_backbeat_come_first_then_ghosts_then_dynamics():
    plan = make_plan(made([GHOSTED]), Method.BACKBEAT_FIRST)
    assert {hit.instrument for hit in plan[0].hits} == {I.KICK, I.SNARE}
    assert not any(hit.ghost for hit in plan[0].hits)
    assert [any(hit.ghost for hit in step.hits) for step in plan] == [False, False, True, True]
    assert [step.with_dynamics for step in plan] == [False, False, False, True]


def test_the_trap_is_named_from_the_notes():
    plan = make_plan(made([GHOSTED]), Method.BACKBEAT_FIRST)
    assert plan[-1].trap == "The right hand stays as loud as it is while the left hand ghosts."


def test_a_fill_is_learnt_by_hands_by_feet_together_and_in_context():
    fill = {
        I.HIHAT_CLOSED: "x.x.x.x.........",
        I.SNARE: "....X...x.xxx.xx",
        I.KICK: "x........x...x..",
    }
    piece = song([ROCK] * 3 + [fill] + [ROCK] * 4)
    found = find_fills(piece.bars, piece.hits, [range(4), range(4, 8)])
    plan = make_plan(fill_material(piece, found[0]), Method.FILL)
    assert [step.title for step in plan] == [
        "The fill, hands",
        "The fill, feet",
        "The fill, together",
        "All of it",
        "Groove and fill, 2 bars",
        "Groove and fill, 4 bars",
    ]
    assert plan[0].start == found[0].at
    assert (plan[-1].start, plan[-1].end) == (0, 1)


def test_a_groove_is_the_typical_phrase_of_its_section():
    piece = song([ROCK] * 7 + [{I.SNARE: "x" * 16}])
    groove = groove_material(piece, piece.sections[0])
    assert len(groove.bars) == 1
    assert {hit.instrument for hit in groove.hits} == set(ROCK)
    with pytest.raises(Missing):
        material("nothing", piece.bars[:1], [])


def test_the_steady_limb_is_the_one_that_keeps_time():
    assert steady_limb(made([GHOSTED]).hits) is Limb.RIGHT_HAND


@given(st.floats(1, 10), st.floats(0, 1.04))
def test_a_ladder_climbs_from_between_a_half_and_two_thirds_a_little_beyond_the_record(
    hard, before
):
    rungs = ladder(made([ROCK]), hard, with_layer_after=before).rungs
    assert rungs[-1] == BEYOND
    assert 1.0 in rungs
    assert 0.5 <= rungs[0] <= 0.85
    steps = [after - one for one, after in pairwise(rungs)]
    assert all(step > 0 for step in steps)
    # They shrink towards the record's tempo; the last one goes beyond it.
    assert all(later <= earlier + 1e-9 for earlier, later in pairwise(steps[:-1]))


def test_a_backbeat_alone_needs_no_ten_rungs():
    groove = made([ROCK])
    assert len(ladder(groove, 1).rungs) == 4
    counts = [len(ladder(groove, hard).rungs) for hard in range(1, 11)]
    assert counts == sorted(counts)
    assert counts[-1] == 9


def test_what_is_harder_begins_slower_and_a_new_layer_falls_back():
    assert start_share(1) == pytest.approx(2 / 3)
    assert start_share(10) == pytest.approx(1 / 2)
    groove = made([ROCK])
    assert ladder(groove, 5).rungs[0] <= ladder(groove, 5, with_layer_after=1.04).rungs[0] < 1.0
    assert ladder(groove, 5).minutes > 0


@given(st.floats(1, 10), st.floats(0.3, 1.2))
def test_the_tempo_that_a_teacher_asks_for_is_a_rung_of_its_own(hard, asked):
    plain, told = ladder(made([ROCK]), hard), ladder(made([ROCK]), hard, asked=asked)
    assert told.asked in told.rungs
    assert told.asked == pytest.approx(asked, abs=0.001)
    assert list(told.rungs) == sorted(set(told.rungs))
    # At most one rung more, and of the others only one that is all but the same gives way.
    assert len(told.rungs) <= len(plain.rungs) + 1
    assert all(abs(rung - asked) < 0.011 for rung in set(plain.rungs) - set(told.rungs))


@pytest.mark.parametrize(
    ("level", "missing"),
    [
        (Level.NO_GHOSTS, {I.SNARE: 2}),
        (Level.HANDS, {I.KICK: 0, I.HIHAT_FOOT: 0}),
        (Level.BACKBEAT, {I.HIHAT_CLOSED: 0, I.SNARE: 2, I.KICK: 3}),
    ],
)
def test_a_song_is_thinned_to_what_its_chart_shows(level, missing):
    piece = thinned(song([GHOSTED]), level)
    counts = Counter(hit.instrument for hit in piece.hits)
    assert {drum: counts[drum] for drum in missing} == missing
    assert piece.bars == song([GHOSTED]).bars
    assert thinned(piece, level).hits == piece.hits
    assert thinned(piece, Level.ALL) is piece


def test_the_pocket_is_a_share_of_the_beat_until_it_would_be_heard_as_late():
    assert slowed_offset(10, 0.5) == 20
    assert slowed_offset(-20, 0.5) == -30
    assert slowed_offset(8, 1.0) == 8


DAY = date(2027, 3, 1)


def entry(step, days, feeling, share=1.0):
    return Played(step, DAY + timedelta(days=days), share, 8, 5.0, feeling)


def test_what_was_easy_at_tempo_comes_back_later_each_time():
    log = [entry("a", day, Feeling.EASY) for day in (0, 2, 6)]
    waits = [(due_day(log[: n + 1]) - log[n].day).days for n in range(3)]
    assert waits == [2, 4, 7]
    assert (due_day([*log, entry("a", 13, Feeling.WORK)]) - DAY).days == 14
    assert (due_day([entry("a", 0, Feeling.EASY, share=0.7)]) - DAY).days == 1


def test_what_was_tense_comes_back_slower_and_the_next_step_waits():
    log = [entry("a", 0, Feeling.TENSE, share=0.8)]
    session = next_session(["a", "b"], log, DAY + timedelta(days=1))
    assert [(due.step, due.share) for due in session] == [("a", 0.72)]
    assert "tense" in session[0].words
    log.append(entry("a", 1, Feeling.WORK, share=0.8))
    session = next_session(["a", "b", "c"], log, DAY + timedelta(days=2))
    assert [due.step for due in session] == ["a", "b"]
    assert sum(due.minutes for due in session) == pytest.approx(20)


def test_the_first_session_is_the_first_step_and_on_a_day_off_nothing_is_due():
    assert [due.step for due in next_session(["a", "b"], [], DAY)] == ["a"]
    assert next_session(["a"], [entry("a", 0, Feeling.EASY)], DAY) == ()


def test_ears_have_eight_hours_at_85_and_half_for_each_three_more():
    assert allowed_minutes(85) == 480
    assert allowed_minutes(88) == 240
    assert allowed_minutes(100) == 15
    assert dose([(85, 240), (88, 120)]) == pytest.approx(1.0)
    assert minutes_left([(100, 10)], 100) == pytest.approx(5)
    assert minutes_left([(100, 20)], 85) == 0

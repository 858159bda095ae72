"""What is proposed beyond the heard: inferred layers, and strokes that may be an echo."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from orchesis.groove.echo import echo_suspects
from orchesis.groove.inferred import by_convention, from_the_bass, from_the_pattern
from orchesis.groove.phrase import find_phrases
from orchesis.music.instruments import Instrument, Limb, Status
from orchesis.music.values import Hit
from tests.composing import ROCK, song

KICK, SNARE, HAT, RIDE = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED, Instrument.RIDE
JAZZ = {RIDE: "x..x.xx..x.x", Instrument.HIHAT_FOOT: "...x.....x.."}


def walking(piece, skip=0):
    beats = [beat for bar in piece.bars for beat in bar.beats]
    return [beat + 0.01 for index, beat in enumerate(beats) if not skip or index % skip]


def test_a_kick_is_inferred_under_a_walking_bass_and_marked_so():
    piece = song([JAZZ] * 4)
    proposal = from_the_bass(piece.bars, piece.hits, walking(piece))
    assert len(proposal.hits) == 16
    assert {hit.status for hit in proposal.hits} == {Status.INFERRED}
    assert {hit.limb for hit in proposal.hits} == {Limb.RIGHT_FOOT}
    assert all(hit.ghost and "bass" in hit.reason for hit in proposal.hits)
    assert "16 of 16 beats" in proposal.words


def test_no_kick_is_inferred_where_it_is_heard_or_the_bass_does_not_walk():
    with_kick = song([{**JAZZ, KICK: "x.....x....."}] * 4)
    assert from_the_bass(with_kick.bars, with_kick.hits, walking(with_kick)) is None
    piece = song([JAZZ] * 4)
    assert from_the_bass(piece.bars, piece.hits, walking(piece)[::2]) is None
    assert from_the_bass(piece.bars, piece.hits, []) is None


RIDDEN = {RIDE: "x.x.x.x.x.x.x.x.", KICK: "x.......x......."}


def traces(piece, places, strong=0.15, weak=0.02, bars=None):
    """How a foot sounds that is too soft to be written: a little at these places of these bars."""
    times = [
        bar.time_at(place)
        for bar in piece.bars
        if bars is None or bar.number in bars
        for place in places
    ]

    def strength(instrument, start, end):
        assert instrument is Instrument.HIHAT_FOOT
        return strong if any(start <= time <= end for time in times) else weak

    return strength


@pytest.mark.parametrize(
    ("places", "words"),
    [
        ((Fraction(1, 4), Fraction(3, 4)), "back beats"),
        (tuple(Fraction(step, 8) for step in (1, 3, 5, 7)), "off-beats"),
    ],
)
def test_a_foot_too_soft_for_any_single_bar_is_inferred_from_all_of_them(places, words):
    piece = song([RIDDEN] * 8)
    proposal = by_convention(piece.bars, piece.hits, traces(piece, places))
    assert words in proposal.words
    assert {hit.position for hit in proposal.hits} == set(places)
    assert len(proposal.hits) == 8 * len(places)
    assert {hit.limb for hit in proposal.hits} == {Limb.LEFT_FOOT}
    assert all(hit.status is Status.INFERRED for hit in proposal.hits)


BACK = (Fraction(1, 4), Fraction(3, 4))


def test_no_foot_is_inferred_by_chance_or_where_the_hands_hold_the_hat():
    piece = song([RIDDEN] * 8)
    some = traces(piece, BACK, bars={1, 4, 6})
    assert by_convention(piece.bars, piece.hits, some) is None, "three of eight bars"
    everywhere = traces(piece, BACK, strong=0.15, weak=0.15)
    assert by_convention(piece.bars, piece.hits, everywhere) is None, "a hiss is no foot"
    short = song([RIDDEN] * 4)
    assert by_convention(short.bars, short.hits, traces(short, BACK)) is None, "too few bars"
    hatted = song([ROCK] * 8)
    assert by_convention(hatted.bars, hatted.hits, traces(hatted, BACK)) is None
    heard = song([{**RIDDEN, Instrument.HIHAT_FOOT: "....x.......x..."}] * 8)
    assert by_convention(heard.bars, heard.hits, traces(heard, BACK)) is None


def test_a_foot_that_was_left_out_by_hand_is_not_proposed_again():
    piece = song([RIDDEN] * 8)
    out = Hit(1.0, Instrument.HIHAT_FOOT, 40, 3, Fraction(1, 4), status=Status.LEFT_OUT)
    proposal = by_convention(piece.bars, (*piece.hits, out), traces(piece, BACK))
    assert (3, Fraction(1, 4)) not in {(hit.bar, hit.position) for hit in proposal.hits}
    assert len(proposal.hits) == 15


def without(piece, bar, instrument, position):
    return piece.with_hits(
        hit
        for hit in piece.hits
        if (hit.bar, hit.instrument, hit.position) != (bar, instrument, position)
    )


@pytest.mark.parametrize(("trace", "many"), [(0.2, 1), (0.0, 0)])
def test_a_lacking_core_note_is_inferred_where_the_record_leaves_a_trace(trace, many):
    piece = without(song([ROCK] * 8), 5, KICK, Fraction(1, 2))
    (phrase,) = find_phrases(piece.bars, piece.hits)
    proposal = from_the_pattern(phrase, piece.bars, piece.hits, (), lambda *where: trace)
    assert len(proposal.hits if proposal else ()) == many
    if proposal:
        (hit,) = proposal.hits
        assert (hit.bar, hit.position, hit.status) == (5, Fraction(1, 2), Status.INFERRED)
        assert hit.reason == "inferred from the pattern: 7 of 8 bars have it"


def test_what_was_left_out_by_hand_is_not_proposed_again():
    piece = song([ROCK] * 8)
    out = piece.with_hits(
        replace(hit, status=Status.LEFT_OUT)
        if (hit.bar, hit.instrument, hit.position) == (5, KICK, Fraction(1, 2))
        else hit
        for hit in piece.hits
    )
    (phrase,) = find_phrases(out.bars, out.hits)
    assert from_the_pattern(phrase, out.bars, out.hits, (), lambda *where: 0.5) is None


def with_echo(piece, delay, velocity=25, spread=0.001, seed=1):
    rng = np.random.default_rng(seed)
    loud = [hit for hit in piece.hits if hit.instrument is SNARE]
    echoes = [
        Hit(
            time=hit.time + delay + rng.normal(0, spread),
            instrument=SNARE,
            velocity=velocity,
            bar=hit.bar,
            position=hit.position + Fraction(3, 32),
            ghost=True,
        )
        for hit in loud
    ]
    return piece.with_hits([*piece.hits, *echoes])


def test_an_echo_off_the_grid_is_suspected_with_its_figures():
    piece = with_echo(song([ROCK] * 8), 0.178)
    (suspect,) = echo_suspects(piece.bars, piece.hits)
    assert suspect.instruments == (SNARE,)
    assert suspect.delay == pytest.approx(0.178, abs=0.002)
    assert suspect.drop_db == pytest.approx(13.0, abs=0.2)
    assert (suspect.followed, suspect.loud, len(suspect.hits)) == (16, 16, 16)
    assert "always 178 ms" in suspect.words


def with_kit_echo(piece, delay, drop=0.4):
    """Every stroke of the kit again after a delay, at this share of its velocity."""
    echoes = []
    for hit in piece.hits:
        time = hit.time + delay
        if time >= piece.bars[-1].end:
            continue
        bar = next(bar for bar in piece.bars if bar.start <= time < bar.end)
        place = Fraction(round((time - bar.start) / (bar.end - bar.start) * 96), 96) % 1
        echoes.append(
            replace(
                hit, time=time, bar=bar.number, position=place, velocity=round(hit.velocity * drop)
            )
        )
    there = {hit.place for hit in piece.hits}
    return piece.with_hits([*piece.hits, *(hit for hit in echoes if hit.place not in there)])


BROKEN = {HAT: "x.x.x.x.x.x.x.x.", SNARE: "....X..x....X...", KICK: "x..x......x....."}


@pytest.mark.parametrize("delay", [0.178, 0.31])
def test_a_delay_over_the_whole_kit_is_one_question(delay):
    piece = with_kit_echo(song([BROKEN] * 8), delay)
    suspect, *others = echo_suspects(piece.bars, piece.hits)
    assert not others, "and no drum is asked about again"
    assert {KICK, SNARE} <= set(suspect.instruments)
    assert suspect.delay == pytest.approx(delay, abs=0.002)
    assert "every drum again" in suspect.words
    softened = [hit for hit in piece.hits if hit.velocity < 50 and hit.instrument in (KICK, SNARE)]
    assert {hit.place for hit in softened} <= {hit.place for hit in suspect.hits}


def test_a_delay_in_note_values_is_found_where_nearly_all_is_followed():
    """A dotted eighth at 120: 375 ms, on the grid."""
    piece = with_kit_echo(song([{**ROCK, HAT: "x...x...x...x..."}] * 8), 0.375)
    suspect = echo_suspects(piece.bars, piece.hits)[0]
    assert suspect.delay == pytest.approx(0.375, abs=0.002)
    assert len(suspect.hits) >= 30


@pytest.mark.parametrize(
    "rows",
    [
        {HAT: "x.x.x.x.x.x.x.x.", SNARE: "....X..g.g..X..g", KICK: "x.gx....x.g....."},
        {HAT: "xgxgxgxgxgxgxgxg", SNARE: "....X.......X...", KICK: "x..g..x.x..g..x."},
        {HAT: "x.x.x.x.x.x.x.x.", SNARE: "..g.X.g...g.X.g.", KICK: "X.g...X.g.X.g..."},
    ],
)
def test_loud_and_soft_pairs_of_a_player_are_no_delay(rows):
    piece = song([rows] * 8)
    assert echo_suspects(piece.bars, piece.hits) == ()


def test_ghosts_on_the_grid_are_played_not_echoed():
    piece = song([{**ROCK, SNARE: "....X..g....X..g"}] * 8)
    assert echo_suspects(piece.bars, piece.hits) == ()


def test_soft_strokes_at_wandering_delays_are_no_echo():
    piece = with_echo(song([ROCK] * 8), 0.178, spread=0.02)
    assert echo_suspects(piece.bars, piece.hits) == ()

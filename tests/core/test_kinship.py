"""Kinship of grooves: identical, a note away, same kick, contained; the stages between them."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.groove.alike import patterns
from orchesis.groove.kinship import (
    LARGEST_STEP,
    PLACES,
    VOICES,
    Kin,
    Library,
    bits_of,
    step_words,
    values_of,
)
from orchesis.music.instruments import Instrument
from tests.composing import ROCK, song

KICK, SNARE, HAT = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED

BARS = {
    "rock": ROCK,
    "twin": ROCK,
    "one more kick": {**ROCK, KICK: "x.....x.x......."},
    "no hat": {SNARE: ROCK[SNARE], KICK: ROCK[KICK]},
    "busier": {**ROCK, KICK: "x.....x.x.x.....", SNARE: "....X..g....X..g"},
    "same kick only": {Instrument.RIDE: "x...x...x...x...", KICK: ROCK[KICK]},
    "another": {KICK: "..x..x..x..x....", Instrument.RIDE: "x...x...x...x..."},
}


def values():
    piece = song(list(BARS.values()))
    played = patterns(piece.hits)
    return values_of({name: played[i + 1] for i, name in enumerate(BARS)}, 4)


def kin_of(name):
    found = values()
    return {r.key: r.kin for r in Library(found).relatives(found[name]) if r.key != name}


def test_every_kind_of_kinship_is_told():
    assert kin_of("rock") == {
        "twin": Kin.SAME,
        "one more kick": Kin.ONE_NOTE,
        "no hat": Kin.WITHIN,
        "busier": Kin.CONTAINS,
        "same kick only": Kin.SAME_KICK,
    }


def test_the_stages_lead_through_bars_that_are_really_played():
    found = values()
    stages = Library(found).chain(found["rock"], found["busier"])
    assert [stage.key for stage in stages][-1] == "busier"
    assert "one more kick" in [stage.key for stage in stages] or len(stages) <= 2
    assert stages[0].words.startswith("add the")


bar_values = st.sets(st.integers(0, PLACES * len(VOICES) - 1), max_size=14).map(
    lambda places: sum(1 << place for place in places)
)


@given(bar_values, bar_values, st.lists(bar_values, max_size=12))
def test_a_chain_goes_from_the_one_to_the_other_in_small_steps(start, goal, others):
    library = Library(dict(enumerate(others)))
    if start == goal:
        return
    stages = library.chain(start, goal)
    sizes = [start.bit_count(), *(stage.notes for stage in stages)]
    assert sizes[-1] == goal.bit_count()
    assert all(abs(a - b) <= LARGEST_STEP for a, b in pairwise(sizes))


@given(bar_values, st.lists(bar_values, min_size=1, max_size=12))
def test_distances_are_numbers_of_notes(value, others):
    found = Library(dict(enumerate(others))).distances(value)
    assert found.tolist() == [(value ^ other).bit_count() for other in others]


@pytest.mark.parametrize("sign", ["x...............", "..x............."])
def test_a_step_says_what_is_added(sign):
    piece = song([{KICK: sign}])
    value = bits_of(patterns(piece.hits)[1], 4)
    place = "1" if sign[0] == "x" else "the & of 1"
    assert step_words(0, value) == f"add the kick on {place}"
    assert step_words(value, 0) == f"leave out the kick on {place}"


@pytest.mark.parametrize("beats", [5, 7])
def test_bars_of_five_and_seven_differ_on_their_last_beats_too(beats):
    cells = 4 * beats
    one = {HAT: "x." * (cells // 2), KICK: "x" + "." * (cells - 1)}
    other = {**one, KICK: "x" + "." * (cells - 3) + "x."}
    piece = song([one, other, one], beats=beats)
    played = patterns(piece.hits)
    first, second, third = (bits_of(played[number], beats) for number in (1, 2, 3))
    assert first == third
    assert (first ^ second).bit_count() == 1

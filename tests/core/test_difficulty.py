"""Difficulty: ordered as teachers order, and never less for more."""

from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import kendalltau

from orchesis.limbs.assign import assign_limbs
from orchesis.limbs.difficulty import difficulty
from orchesis.limbs.kit import Player
from orchesis.music.instruments import Limb
from tests.cases.hardness import FILLS, GROOVES
from tests.figuring import BEATS, as_song, hits_of

TWO_PEDALS = Player(double_pedal=True)
AGREEMENT = 0.8


def hard(text, parts, bpm, times=1):
    hits = assign_limbs(hits_of(" ".join([text] * times), parts, bpm), BEATS, TWO_PEDALS)
    return difficulty(as_song(hits, bpm).bars, hits, TWO_PEDALS)


@pytest.mark.parametrize(("figures", "times"), [(GROOVES, 4), (FILLS, 1)], ids=["grooves", "fills"])
def test_twenty_of_each_are_ordered_as_a_teacher_orders_them(figures, times):
    assert len(figures) == 20
    values = [hard(text, parts, bpm, times).value for _, parts, text, bpm in figures]
    assert kendalltau(range(len(values)), values).statistic >= AGREEMENT


@pytest.mark.parametrize("figure", [*GROOVES, *FILLS], ids=lambda figure: figure[0])
def test_a_whole_is_never_easier_than_some_of_its_limbs(figure):
    _, parts, text, bpm = figure
    hits = assign_limbs(hits_of(text, parts, bpm), BEATS, TWO_PEDALS)
    bars = as_song(hits, bpm).bars
    whole = difficulty(bars, hits, TWO_PEDALS).value
    for count in (1, 2, 3):
        for limbs in combinations(Limb, count):
            some = [hit for hit in hits if hit.limb in limbs]
            assert difficulty(bars, some, TWO_PEDALS).value <= whole


TOKENS = st.sampled_from(["h", "S", "hS", "hK", "<S", "H", "F", "K", ".", "rS"])


@settings(max_examples=30, deadline=None)
@given(st.lists(TOKENS, min_size=32, max_size=32), st.floats(60, 160))
def test_two_bars_are_never_easier_than_one_of_them(tokens, bpm):
    hits = assign_limbs(hits_of(" ".join(tokens), 4, bpm), BEATS)
    if not hits:
        return
    bars = as_song(hits, bpm).bars
    whole = difficulty(bars, hits).value
    for bar in bars:
        mine = [hit for hit in hits if hit.bar == bar.number]
        assert difficulty([bar], mine).value <= whole + 0.05


def test_the_same_bar_is_harder_when_it_is_faster():
    values = [hard("hK . h K hS . h <S hK . h . hS . h .", 4, bpm).value for bpm in (70, 100, 130)]
    assert values == sorted(values)
    assert values[0] < values[-1]


def test_ghosts_count_that_follow_no_backbeat():
    plain = hard("hK . h . hS . h . hK . h . hS . h .", 4, 90).value
    assert hard("hK <S h . hS . h . hK <S h . hS . h .", 4, 90).value > plain


def test_two_kicks_in_a_row_are_one_movement():
    pair = hard("hK . h K hS . h . hK . h K hS . h .", 4, 90)
    apart = hard("hK . h . hS K h . hK K h . hS K h K", 4, 90)
    assert pair.parts["kicks between the hands"] < apart.parts["kicks between the hands"]

"""Songs of changing shape: how they are written for the generator that plays them."""

import numpy as np
import pytest

from training.varied import BARS, SECTION_BARS, beats_a_bar, chart

GROOVES = ["Rock", "RockSus", "RockIntro", "RockEnd", "RockFill"]


@pytest.mark.parametrize("beats", [2, 3, 4, 6])
@pytest.mark.parametrize("seed", range(6))
def test_every_bar_is_there_once_with_a_chord_for_each_of_its_beats(beats, seed):
    lines = chart(np.random.default_rng(seed), GROOVES, beats)
    bars = [line.split() for line in lines if not line.startswith("Groove")]
    assert [int(bar[0]) for bar in bars] == list(range(1, BARS + 1))
    assert all(len(bar) in (2, beats + 1) for bar in bars)


def test_sections_rest_on_grooves_that_can_go_on():
    lines = chart(np.random.default_rng(1), GROOVES, 4)
    grooves = [line.split()[1] for line in lines if line.startswith("Groove")]
    assert set(grooves) <= {"Rock", "RockSus", "RockFill"}
    assert len([groove for groove in grooves if groove != "RockFill"]) == BARS // SECTION_BARS


def test_chords_do_not_always_change_with_the_bar():
    """Else harmony alone would tell where bars begin, and nothing else would be learnt."""
    kinds = set()
    for seed in range(30):
        lines = chart(np.random.default_rng(seed), GROOVES, 4)
        bars = [line.split()[1:] for line in lines if not line.startswith("Groove")]
        first = [bar[0] for bar in bars[:4]]
        kinds.add("half" if len(bars[0]) > 1 else "held" if len(set(first)) < 4 else "each")
    assert kinds == {"half", "held", "each"}


@pytest.mark.parametrize(("text", "beats"), [("Time 3\nTimesig 3 4", 3), ("Tempo 90", 4)])
def test_a_style_says_how_many_beats_it_has(text, beats):
    assert beats_a_bar(text) == beats

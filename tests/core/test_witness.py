"""What speaks for a reading, in a drummer's words."""

import re

import numpy as np
import pytest

from orchesis.rhythm.bars import BarLines
from orchesis.rhythm.feel import Ratio
from orchesis.rhythm.grid import all_edges
from orchesis.rhythm.readings import rank_readings
from orchesis.rhythm.witness import words_for_odd_bars, words_for_the_one
from tests.composing import heard, song
from tests.core.test_rewriting import GROOVE, readable

BARS = 12


def evidence(**rows):
    """Evidence by kind: what falls on each beat of a bar of four, in every bar."""
    plain = dict.fromkeys(("kick", "snare", "change", "crash", "landing", "downbeat"), "....")
    found = {}
    for kind, row in {**plain, **rows}.items():
        level = np.tile([1.0 if sign == "x" else 0.0 for sign in row], BARS)
        spread = level.std() or 1.0
        found[kind] = (level - level.mean()) / spread
    return found


LINES = BarLines(4, tuple(range(0, 4 * BARS, 4)), 1.2, 1.1)


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        (
            {"change": "x...", "snare": ".x.x"},
            "the chords change with this one; the backbeat falls on 2 and 4",
        ),
        ({"snare": "..x.", "crash": "x..."}, "crashes land on it; the backbeat falls on 3"),
        ({"kick": "x...", "landing": "x..."}, "fills land on it; the kick plays it"),
        ({"kick": "x..."}, "the kick plays it"),
        ({"kick": "xxxx"}, "nothing in particular speaks for this one"),
        ({"downbeat": "x..."}, "it sounds like a one, though nothing single says so"),
    ],
)
def test_what_falls_on_the_one_is_said(rows, words):
    assert words_for_the_one(evidence(**rows), LINES) == words


def test_a_close_call_is_told_as_one():
    close = BarLines(4, LINES.downbeats, 1.2, 0.05)
    assert words_for_the_one(evidence(kick="x..."), close).endswith("would do nearly as well")


@pytest.mark.parametrize(("count", "words"), [(1, "one bar leaves"), (3, "3 bars leave")])
def test_bars_are_counted_in_english(count, words):
    assert words in words_for_odd_bars(count)


def test_a_song_s_readings_speak_without_figures_but_in_the_last_line():
    for reading in readable().readings:
        *words, last = reading.evidence
        assert not [text for text in words if re.search(r"\d\.\d", text)]
        assert last.startswith(("In figures", "the same bars"))


def test_a_backbeat_on_two_and_four_is_what_speaks_for_a_rock_groove():
    made = song([GROOVE] * 16)
    strokes = [(hit.time, hit.instrument, hit.velocity / 127) for hit in made.hits]
    best = rank_readings(heard(strokes, made.duration), all_edges(made.bars)[:-1])[0]
    assert "the backbeat falls on 2 and 4" in best.evidence[0]


@pytest.mark.parametrize(
    ("ratio", "words"),
    [
        (Ratio(0.991, 0.989, 0.993, 400), "0.99 : 1"),
        (Ratio(1.52, 1.44, 1.61, 40), "1.5 : 1 (1.4 to 1.6)"),
        (Ratio(1.52, 1.50, 1.54, 900), "1.52 : 1 (1.50 to 1.54)"),
    ],
)
def test_a_ratio_has_the_digits_that_it_is_known_to(ratio, words):
    assert str(ratio) == words

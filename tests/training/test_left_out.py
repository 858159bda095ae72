"""Kits left out in turn: which songs are learnt from, and how songs are scored."""

import numpy as np
import pytest

from training.labels import CLASSES
from training.left_out import KITS, SETS, by_class, commands, own_odds, scores, told

KICK, SNARE = 0, 1


def table():
    """Three songs of two, three and one candidates."""
    there = np.zeros((3, len(CLASSES)), int)
    there[0, KICK], there[1, KICK], there[1, SNARE], there[2, SNARE] = 2, 1, 2, 1
    return {
        "terms": np.arange(12.0).reshape(6, 2),
        "column": np.array([KICK, KICK, KICK, SNARE, SNARE, SNARE]),
        "right": np.array([True, False, True, True, False, True]),
        "clip": np.array([0, 0, 1, 1, 1, 2]),
        "there": there,
    }


LEAST = np.full(len(CLASSES), 0.5)
SURE, NEVER = 3.0, -3.0


def test_a_song_is_scored_by_what_is_written_and_what_is_there():
    odds = np.array([SURE, SURE, SURE, SURE, SURE, NEVER])
    first, second, third = scores(table(), odds, LEAST)
    assert first == pytest.approx(2 * 1 / (2 + 2))
    assert second == pytest.approx(2 * 2 / (3 + 3))
    assert third == 0.0


def test_thresholds_are_of_each_drum():
    odds = np.full(6, 0.2)
    strict = LEAST.copy()
    strict[KICK] = 0.9
    assert scores(table(), odds, strict)[0] == 0.0
    assert scores(table(), odds, strict)[2] == 1.0


def test_drums_that_are_nowhere_have_no_figure():
    found = by_class(table(), np.full(6, SURE), LEAST)
    assert set(found) == {CLASSES[KICK].value, CLASSES[SNARE].value}
    assert found[CLASSES[KICK].value] == pytest.approx(2 * 2 / (3 + 3))


def test_of_each_candidate_its_own_drum_is_asked():
    def judge(terms):
        return np.stack([terms[:, 0], -terms[:, 0]], axis=1)

    assert own_odds(judge, table()).tolist() == [0, 2, 4, -6, -8, -10]


def test_mean_and_worst_tenth_are_told():
    assert told([0.5] * 5 + [1.0] * 5) == "0.750, 0.500"


def test_every_kit_is_rendered_alone_with_seeds_of_its_own(tmp_path):
    made = commands(tmp_path)
    assert len(made) == len(KITS) * len(SETS) >= 18
    assert len({line.split("--first-seed ")[1].split()[0] for line in made}) == len(made)
    assert all("--only-held-out" in line for line in made)
    assert sum("--songs trained" in line for line in made) == len(KITS)

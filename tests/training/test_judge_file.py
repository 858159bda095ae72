"""Several judges in one file: what the core reads says the mean of what they say apart."""

import numpy as np
import pytest

from orchesis.listening.candidates import Candidates
from orchesis.listening.judge import load_judge
from orchesis.listening.second_pass import TERMS
from training.judge_file import Layers, as_one, merge, rescaled, write

INPUTS, UNITS, CLASSES, STROKES = 12, 5, 3, 40
RNG = np.random.default_rng(8)


def judge():
    """One that weighs at random."""
    return Layers(
        hidden=RNG.normal(size=(INPUTS, UNITS)),
        hidden_offset=RNG.normal(size=UNITS),
        out=RNG.normal(size=(UNITS, CLASSES)) * 0.5,
        out_offset=RNG.normal(size=CLASSES),
        straight=RNG.normal(size=(len(TERMS), CLASSES)) * 0.2,
    )


@pytest.fixture
def said(tmp_path):
    """What a judge says of some candidates, by way of its file, in log odds."""
    terms = RNG.normal(size=(STROKES, INPUTS)).astype(np.float32)
    column = (np.arange(STROKES) % CLASSES).astype(np.int32)
    nothing = np.zeros(STROKES, np.float32)
    found = Candidates(column, column, nothing.astype(float), nothing, nothing)

    def ask(number, layers):
        path = tmp_path / f"{number}.npz"
        write(path, layers, np.zeros(INPUTS), np.full(INPUTS, 2.0), np.full(CLASSES, 0.5))
        sure = load_judge(path).probabilities(terms, found)
        return np.log(sure / (1 - sure))

    return ask


def test_judges_as_one_say_the_mean_of_what_each_says(said):
    judges = [judge() for _ in range(3)]
    apart = [said(number, layers) for number, layers in enumerate(judges)]
    assert np.std(apart, axis=0).mean() > 0.3, "they say different things"
    assert said("one", as_one(judges)) == pytest.approx(np.mean(apart, axis=0), abs=0.05)


def test_one_judge_alone_is_itself(said):
    alone = judge()
    assert said("one", as_one([alone])) == pytest.approx(said("alone", alone))


def asked(path, terms, column):
    """What a judge's file says of candidates, in log odds."""
    nothing = np.zeros(len(terms), np.float32)
    found = Candidates(column, column, nothing.astype(float), nothing, nothing)
    sure = load_judge(path).probabilities(terms.astype(np.float32), found)
    return np.log(sure / (1 - sure))


def test_a_judge_says_the_same_of_inputs_that_are_centred_otherwise(tmp_path):
    terms, column = RNG.normal(size=(STROKES, INPUTS)), np.zeros(STROKES, np.int32)
    old = (RNG.normal(size=INPUTS) * 0.1, RNG.uniform(0.8, 1.2, INPUTS))
    new = (RNG.normal(size=INPUTS) * 0.1, RNG.uniform(0.8, 1.2, INPUTS))
    layers, least = judge(), np.full(CLASSES, 0.5)
    write(tmp_path / "old.npz", layers, *old, least)
    write(tmp_path / "new.npz", rescaled(layers, *old, *new), *new, least)
    before, after = (asked(tmp_path / f"{name}.npz", terms, column) for name in ("old", "new"))
    assert after == pytest.approx(before, abs=0.05)
    write(tmp_path / "wrong.npz", layers, *new, least)
    assert np.abs(asked(tmp_path / "wrong.npz", terms, column) - before).mean() > 0.1


def test_two_judges_merged_say_the_mean_and_meet_halfway(tmp_path):
    terms, column = RNG.normal(size=(STROKES, INPUTS)), np.zeros(STROKES, np.int32)
    for name, least in (("one", 0.3), ("other", 0.5)):
        scale = (RNG.normal(size=INPUTS) * 0.1, RNG.uniform(0.8, 1.2, INPUTS))
        write(tmp_path / f"{name}.npz", judge(), *scale, np.full(CLASSES, least))
    merge(tmp_path / "one.npz", tmp_path / "other.npz", tmp_path / "both.npz")
    one, other, both = (
        asked(tmp_path / f"{n}.npz", terms, column) for n in ("one", "other", "both")
    )
    assert both == pytest.approx((one + other) / 2, abs=0.05)
    assert load_judge(tmp_path / "both.npz").threshold == pytest.approx(np.full(CLASSES, 0.4))

"""What the figures count: errors outside the corrected bars, hats damped as said."""

from __future__ import annotations

import numpy as np
import pytest

from orchesis.listening.ear import Onset
from orchesis.music.instruments import Instrument
from training.bank import RATE, Layer
from training.openings import damped
from training.relearning import BARS, errors, first_bars

LINES = np.arange(0.0, 17.0, 2.0)
"""Eight bars of two seconds."""

ROCK = [
    (bar + at, drum)
    for bar in LINES[:-1]
    for at, drum in (
        (0.0, Instrument.KICK),
        (0.5, Instrument.SNARE),
        (1.0, Instrument.KICK),
        (1.5, Instrument.SNARE),
    )
]


def heard(strokes) -> list[Onset]:
    return [Onset(time, drum, 0.8, 0.9) for time, drum in strokes]


def test_what_is_heard_right_is_no_error() -> None:
    assert errors(heard(ROCK), ROCK, LINES, set()) == 0
    assert errors(heard([(t + 0.03, drum) for t, drum in ROCK]), ROCK, LINES, set()) == 0


def test_a_wrong_name_is_a_stroke_missed_and_one_invented() -> None:
    named = [
        (t, Instrument.TOM_FLOOR if drum is Instrument.KICK and t == 4.0 else drum)
        for t, drum in ROCK
    ]
    assert errors(heard(named), ROCK, LINES, set()) == 2
    assert errors(heard(ROCK[1:]), ROCK, LINES, set()) == 1
    assert errors(heard([*ROCK, (3.25, Instrument.SNARE)]), ROCK, LINES, set()) == 1


def test_corrected_bars_do_not_count() -> None:
    """Bar 2, from 4 s on, holds the wrong name; a stroke just before its line belongs to it."""
    named = [(t, Instrument.TOM_FLOOR if t == 4.0 else drum) for t, drum in ROCK]
    assert errors(heard(named), ROCK, LINES, {2}) == 0
    assert errors(heard(named), ROCK, LINES, {1, 3}) == 2
    early = [(3.99 if t == 4.0 else t, drum) for t, drum in ROCK]
    assert errors(heard(early[:8] + early[9:]), ROCK, LINES, {2}) == 0


def test_what_lies_outside_the_bars_does_not_count() -> None:
    assert errors(heard([*ROCK, (16.9, Instrument.CRASH)]), ROCK, LINES, set()) == 0


def test_the_first_bars_are_those_in_which_drums_play() -> None:
    assert first_bars(ROCK, LINES) == list(range(BARS))
    late = [(t, drum) for t, drum in ROCK if t >= 6.0]
    assert first_bars(late, LINES) == [3, 4, 5, 6]
    assert first_bars([], LINES) == []


@pytest.mark.parametrize("decibels", [0.0, 25.0, 90.0])
def test_a_damped_hat_fades_by_so_much_more(decibels: float) -> None:
    attack = 100
    hat = [Layer(np.ones(RATE + attack, np.float32), attack, 1.0)]
    (made,) = damped(hat, decibels)
    assert np.allclose(made.samples[: attack + 1], 1.0)
    fallen = -20 * np.log10(float(made.samples[attack + RATE // 2]))
    assert fallen == pytest.approx(decibels / 2, abs=0.01)
    assert (made.attack, made.velocity) == (attack, 1.0)

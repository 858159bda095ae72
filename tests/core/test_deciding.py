"""What is kept of a song's candidates: families share a stroke, rivals do not; how sure it is."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.listening.candidates import Candidates
from orchesis.listening.decide import RIVAL_SECONDS, as_winners, family_mass, keep
from orchesis.listening.ear import Onset
from orchesis.music.instruments import Instrument

CLASSES = (
    Instrument.KICK,
    Instrument.SNARE,
    Instrument.CROSS_STICK,
    Instrument.HIHAT_CLOSED,
    Instrument.HIHAT_OPEN,
    Instrument.HIHAT_FOOT,
    Instrument.TOM_HIGH,
)


def candidates(*strokes):
    """Of (seconds, drum, probability) each, in order of time; the probabilities beside."""
    strokes = sorted(strokes, key=lambda stroke: stroke[0])
    time = np.array([at for at, _, _ in strokes])
    sure = np.array([p for _, _, p in strokes])
    found = Candidates(
        time=time,
        frame=np.round(100 * time).astype(np.int32),
        column=np.array([CLASSES.index(drum) for _, drum, _ in strokes], np.int32),
        peak=sure,
        loudness=np.full(len(strokes), 0.7),
    )
    return found, sure


def kept(*strokes, least=0.5):
    found, sure = candidates(*strokes)
    return [
        (onset.time, onset.instrument)
        for onset in keep(found, sure, np.full(len(sure), least), CLASSES)
    ]


def test_a_hat_that_is_closed_or_open_is_a_hat_although_neither_is_likely():
    assert kept((1.0, Instrument.HIHAT_CLOSED, 0.35), (1.0, Instrument.HIHAT_OPEN, 0.3)) == [
        (1.0, Instrument.HIHAT_CLOSED)
    ]
    assert kept((1.0, Instrument.HIHAT_CLOSED, 0.35)) == []


def test_what_speaks_for_another_family_does_not_help():
    assert kept((1.0, Instrument.HIHAT_CLOSED, 0.35), (1.0, Instrument.TOM_HIGH, 0.3)) == []


def test_one_stroke_has_one_name_and_the_surer_one_has_it():
    assert kept((1.0, Instrument.SNARE, 0.6), (1.01, Instrument.CROSS_STICK, 0.9)) == [
        (1.01, Instrument.CROSS_STICK)
    ]


def test_hands_and_feet_strike_together():
    together = (
        (1.0, Instrument.KICK, 0.9),
        (1.0, Instrument.SNARE, 0.9),
        (1.0, Instrument.HIHAT_CLOSED, 0.9),
    )
    assert {drum for _, drum in kept(*together)} == {
        Instrument.KICK,
        Instrument.SNARE,
        Instrument.HIHAT_CLOSED,
    }


def test_rivals_a_little_apart_are_two_strokes():
    apart = 1.0 + RIVAL_SECONDS + 0.01
    assert len(kept((1.0, Instrument.HIHAT_CLOSED, 0.8), (apart, Instrument.HIHAT_OPEN, 0.8))) == 2


def test_of_a_family_only_the_likeliest_is_held_to_what_the_family_says():
    found, sure = candidates((1.0, Instrument.HIHAT_CLOSED, 0.4), (1.0, Instrument.HIHAT_OPEN, 0.3))
    mass, likeliest = family_mass(found, sure, CLASSES)
    assert mass == pytest.approx([1 - 0.6 * 0.7] * 2)
    assert likeliest.tolist() == [True, False]


def test_a_kick_has_no_family():
    found, sure = candidates((1.0, Instrument.KICK, 0.4))
    mass, likeliest = family_mass(found, sure, CLASSES)
    assert (mass.tolist(), likeliest.tolist()) == ([0.4], [False])


strokes = st.tuples(
    st.integers(0, 60).map(lambda frame: frame / 100),
    st.sampled_from(CLASSES),
    st.floats(0.01, 0.99),
)


@given(st.lists(strokes, max_size=25, unique_by=lambda stroke: stroke[:2]))
def test_never_two_names_for_one_stroke_and_always_in_order(found):
    onsets = kept(*found)
    assert onsets == sorted(onsets, key=lambda onset: onset[0])
    closed, opened = (
        [time for time, drum in onsets if drum is hat]
        for hat in (Instrument.HIHAT_CLOSED, Instrument.HIHAT_OPEN)
    )
    assert all(abs(one - other) >= RIVAL_SECONDS for one in closed for other in opened)


@given(st.lists(st.floats(0.0, 1.0), max_size=10), st.floats(-3, 3))
def test_a_winner_is_surer_by_so_many_log_odds_and_the_order_stays(sure, won):
    before = [Onset(float(k), Instrument.KICK, 0.5, p, "network") for k, p in enumerate(sure)]
    after = as_winners(before, won)
    assert [onset.time for onset in after] == [onset.time for onset in before]
    assert all(0 < onset.confidence < 1 for onset in after)
    by_sureness = sorted(range(len(sure)), key=lambda k: sure[k])
    said = [after[k].confidence for k in by_sureness]
    assert said == sorted(said)


def test_an_even_bet_with_two_log_odds_more():
    (onset,) = as_winners([Onset(0.0, Instrument.KICK, 0.5, 0.5, "network")], 2.0)
    assert onset.confidence == pytest.approx(0.8808, abs=1e-4)

"""How loud strokes were, measured in the sound: synthetic strokes of known power."""

import numpy as np
import pytest
from scipy.stats import spearmanr

from orchesis.listening.ear import Detail, Onset
from orchesis.listening.strength import FEWEST, with_measured_loudness
from orchesis.music.instruments import Instrument

SNARE, KICK = Instrument.SNARE, Instrument.KICK
BANDS = {SNARE: slice(40, 52), KICK: slice(4, 12)}
COUNT = 24


def strokes(seed=1, drone=0.0, count=COUNT):
    """Strokes of two drums half a second apart, their true loudness in dB, and the sound of them.

    The network's word is a coin's: what is found then comes from the sound.
    """
    rng = np.random.default_rng(seed)
    features = np.full((count * 100 + 100, 83), 0.2, np.float32)
    masks = np.ones_like(features)
    if drone:
        # A held chord over the drums' bands, which is none of the drums'.
        features[:, 30:60] = drone
        masks[:, 30:60] = 0.05
    onsets, decibels = [], {SNARE: [], KICK: []}
    for number in range(count):
        for drum, at in ((KICK, 100 * number), (SNARE, 100 * number + 50)):
            level = rng.uniform(-24, 0)
            decibels[drum].append(level)
            for step, decay in enumerate((0.0, 2.0, 6.0, 12.0)):
                here = features[at + 10 + step, BANDS[drum]]
                value = 1.0 + (level - decay) / 60
                features[at + 10 + step, BANDS[drum]] = np.maximum(here, value)
                masks[at + 10 + step, BANDS[drum]] = 1.0
            onsets.append(Onset((at + 10) / 100, drum, float(rng.random()), 0.9))
    silent = np.zeros((len(features), 2), np.float32)
    return onsets, decibels, Detail((KICK, SNARE), silent, silent, features, masks)


def ranked(onsets, decibels, drum):
    found = [onset.loudness for onset in onsets if onset.instrument is drum]
    return spearmanr(found, decibels[drum]).statistic


@pytest.mark.parametrize("drum", [SNARE, KICK])
@pytest.mark.parametrize("drone", [0.0, 0.75])
def test_strokes_are_ranked_by_what_they_gain_also_under_a_chord(drum, drone):
    onsets, decibels, detail = strokes(drone=drone)
    assert abs(ranked(onsets, decibels, drum)) < 0.5, "the word alone knows nothing"
    measured = with_measured_loudness(onsets, detail, 100.0)
    assert ranked(measured, decibels, drum) > 0.75, "though a fifth of what counts is noise"


def test_the_scale_stays_and_nothing_else_changes():
    onsets, _, detail = strokes()
    measured = with_measured_loudness(onsets, detail, 100.0)
    for drum in (SNARE, KICK):
        before = sorted(onset.loudness for onset in onsets if onset.instrument is drum)
        assert before == sorted(onset.loudness for onset in measured if onset.instrument is drum)
    kept = [(onset.time, onset.instrument, onset.confidence) for onset in onsets]
    assert kept == [(onset.time, onset.instrument, onset.confidence) for onset in measured]


def test_of_few_strokes_the_word_counts():
    onsets, _, detail = strokes(count=FEWEST - 1)
    assert with_measured_loudness(onsets, detail, 100.0) == onsets


def test_nothing_heard_is_nothing_measured():
    _, _, detail = strokes()
    assert with_measured_loudness([], detail, 100.0) == []

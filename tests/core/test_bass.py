"""When the bass begins its notes: plucked notes whose times are known, alone and under others."""

import numpy as np
import pytest

from benchmarks.scores import f_measure
from orchesis.audio.decode import SAMPLE_RATE as RATE
from orchesis.listening.ear import Detail
from orchesis.listening.evidence import BASS_BANDS, bass_onsets, gathered
from orchesis.listening.features import BANDS, HOP, band_centres, ear_input
from orchesis.listening.network_ear import normalised
from orchesis.music.instruments import Instrument

SECONDS = 8.0
WALK = [0.5 + 0.5 * beat for beat in range(14)]
LINE = [55.0, 65.4, 73.4, 82.4, 110.0, 98.0, 82.4, 61.7] * 2


def plucked(times, hertz, fade=3.0, partials=4):
    """Notes that begin at once and fade, each until the next begins."""
    sound = np.zeros(round(SECONDS * RATE))
    for time, pitch, end in zip(times, hertz, [*times[1:], SECONDS], strict=False):
        span = np.arange(round((end - time) * RATE)) / RATE
        wave = sum(np.sin(2 * np.pi * k * pitch * span) / k**2 for k in range(1, partials + 1))
        fades = np.exp(-fade * span) * np.minimum(1, (span[-1] - span) / 0.01)
        first = round(time * RATE)
        sound[first : first + len(span)] += wave * fades
    return sound


def onsets_of(sound, masks=None):
    features = normalised(ear_input(sound.astype(np.float32), RATE, lambda share: None))
    nothing = np.zeros((len(features), len(Instrument)), np.float32)
    detail = Detail(tuple(Instrument), nothing, nothing, features[:, :BANDS], masks)
    return bass_onsets(gathered(detail, RATE / HOP))


def test_the_bands_are_those_of_a_bass():
    centres = band_centres(RATE)[BASS_BANDS]
    assert centres[0] == pytest.approx(43, abs=1)
    assert centres[-1] == pytest.approx(258, abs=3)


def test_a_walking_bass_begins_a_note_on_each_beat():
    assert f_measure(WALK, onsets_of(plucked(WALK, LINE)), 0.05) > 0.9


def test_a_guitar_that_plays_between_the_beats_is_no_bass():
    guitar = 2 * plucked([time + 0.25 for time in WALK], [440.0, 587.3] * 7, fade=9.0)
    assert f_measure(WALK, onsets_of(plucked(WALK, LINE) + guitar), 0.05) > 0.9


def test_what_the_drums_explain_is_no_bass():
    sound = plucked(WALK, LINE)
    frames = len(ear_input(sound.astype(np.float32), RATE, lambda share: None))
    masks = np.zeros((frames, BANDS), np.float32)
    for time in WALK[1::2]:
        first = round((time - 0.05) * RATE / HOP)
        masks[first : first + 20] = 1.0
    assert f_measure(WALK[::2], onsets_of(sound, masks), 0.05) > 0.9


def test_silence_has_no_bass():
    assert onsets_of(np.zeros(round(SECONDS * RATE))) == []

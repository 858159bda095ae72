"""Two recordings of one song: offset, speed, other mixes; and songs that do not belong together."""

from pathlib import Path

import numpy as np
import pytest
from scipy.signal import butter, sosfilt

from orchesis.audio.decode import SAMPLE_RATE, decode
from orchesis.sources.lineup import NotTheSameSong, line_up

SONGS = Path(__file__).resolve().parents[2] / "demo" / "songs"


@pytest.fixture(scope="module")
def record():
    return decode(SONGS / "rain-on-the-awning.ogg").samples[: SAMPLE_RATE * 70]


def transfer(samples, *, offset, speed, seed=1):
    """The same performance later, slower, through another channel, with noise."""
    rng = np.random.default_rng(seed)
    places = np.arange(0, len(samples) - 1, 1 / speed)
    paced = np.interp(places, np.arange(len(samples)), samples)
    dull = sosfilt(butter(2, [180, 3500], "bandpass", fs=SAMPLE_RATE, output="sos"), paced)
    lead = max(0, round(offset * SAMPLE_RATE))
    whole = np.concatenate([np.zeros(lead), dull[max(0, -round(offset * SAMPLE_RATE)) :]])
    return (whole + 0.003 * rng.normal(size=len(whole))).astype(np.float32)


@pytest.mark.parametrize(
    ("offset", "speed"), [(1.3, 1.004), (-0.8, 1.0), (0.0, 0.97), (5.25, 1.03)]
)
def test_a_transfer_is_lined_up_within_fifteen_milliseconds(record, offset, speed):
    found = line_up(record, transfer(record, offset=offset, speed=speed), SAMPLE_RATE)
    for time in (5.0, 30.0, 60.0):
        assert found.there(time) == pytest.approx(offset + speed * time, abs=0.015)
    assert found.agreeing > 0.8
    assert found.error < 0.01


def test_the_fit_is_told_in_words(record):
    words = line_up(record, transfer(record, offset=1.3, speed=1.004), SAMPLE_RATE).words
    assert "0.4% slower" in words
    assert "begins 1.3" in words


@pytest.mark.parametrize("other", ["harbour-lights-out.ogg", "steps-to-the-market.ogg"])
def test_another_song_is_refused(record, other):
    with pytest.raises(NotTheSameSong):
        line_up(record, decode(SONGS / other).samples, SAMPLE_RATE)


@pytest.mark.parametrize("kind", ["noise", "silence"])
def test_what_is_no_song_is_refused(record, kind):
    rng = np.random.default_rng(2)
    samples = rng.normal(size=SAMPLE_RATE * 40) * (0.1 if kind == "noise" else 0.0)
    with pytest.raises(NotTheSameSong):
        line_up(record, samples.astype(np.float32), SAMPLE_RATE)

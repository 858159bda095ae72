"""Another performance of a song is followed through a tempo that comes and goes."""

from pathlib import Path

import numpy as np
import pytest

from orchesis.audio.decode import SAMPLE_RATE, decode
from orchesis.sources.aligned import on_time
from orchesis.sources.follow import follow, warped
from orchesis.sources.lineup import LineUp, NotTheSameSong, line_up

SONGS = Path(__file__).resolve().parents[2] / "demo" / "songs"


@pytest.fixture(scope="module")
def record():
    return decode(SONGS / "rain-on-the-awning.ogg").samples[: SAMPLE_RATE * 60]


def breathing(samples, *, pace, sway, lead=0.0):
    """The same played faster and slower by turns; and where each moment of it was, in seconds."""
    times = np.arange(0, len(samples) / SAMPLE_RATE / pace, 1 / SAMPLE_RATE)
    was = pace * times + sway * np.sin(times / 5)
    played = np.interp(was, np.arange(len(samples)) / SAMPLE_RATE, samples)
    take = np.concatenate([np.zeros(round(lead * SAMPLE_RATE)), played]).astype(np.float32)
    return take, lambda moment: np.interp(moment, was, times) + lead


@pytest.mark.parametrize(
    ("pace", "sway", "lead"), [(1.03, 0.12, 0.0), (0.96, 0.2, 3.0), (1.0, 0.3, 1.0)]
)
def test_a_take_is_followed_within_twenty_milliseconds(record, pace, sway, lead):
    take, there = breathing(record, pace=pace, sway=sway, lead=lead)
    found = follow(record, take, SAMPLE_RATE)
    moments = np.arange(5.0, 52.0, 0.5)
    gaps = np.abs(found.all_there(moments) - there(moments))
    assert np.median(gaps) < 0.02
    assert np.percentile(gaps, 90) < 0.04
    assert "another performance" in found.words
    back = on_time(take, found, len(record))
    assert line_up(record, back, SAMPLE_RATE).error < 0.02


def test_a_line_with_knots_goes_on_at_its_pace_beyond_them():
    line = LineUp(1.0, 1.1, 0.0, 1.0, 0.0, knots=((10.0, 12.0), (20.0, 22.5), (30.0, 34.0)))
    assert line.there(15.0) == pytest.approx(17.25)
    assert line.there(5.0) == pytest.approx(12.0 - 5.5)
    assert line.there(40.0) == pytest.approx(34.0 + 11.0)


def test_the_way_through_two_equal_recordings_is_straight():
    rng = np.random.default_rng(4)
    first = rng.normal(size=(15, 200))
    assert (np.diff(warped(first, first), axis=1) == 0).all()
    # Ten frames that only one of them has at its beginning are left out.
    longer = np.concatenate([rng.normal(size=(15, 10)), first], axis=1)
    assert warped(first, longer)[5:, 1] == pytest.approx(warped(first, longer)[5:, 0] + 10)


@pytest.mark.parametrize("kind", ["noise", "silence", "short"])
def test_what_is_no_performance_is_refused(record, kind):
    rng = np.random.default_rng(2)
    seconds = 5 if kind == "short" else 40
    samples = rng.normal(size=SAMPLE_RATE * seconds) * (0.0 if kind == "silence" else 0.1)
    with pytest.raises(NotTheSameSong):
        follow(record, samples.astype(np.float32), SAMPLE_RATE)

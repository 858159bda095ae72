"""What the practice bench takes for the onset of a click: the figures of `docs/measurements.md`."""

import numpy as np
import pytest

from benchmarks.practice import _unevenness, onsets

RATE = 44_100.0


def clicks(times, seconds=6.0):
    """Clicks as the player makes them: a tone that falls off within 60 ms."""
    out = np.zeros(int(seconds * RATE), np.float32)
    tone = np.arange(int(0.06 * RATE)) / RATE
    sound = 0.4 * np.sin(2 * np.pi * 1046 * tone) * np.exp(-tone / 0.012)
    for time in times:
        at = int(time * RATE)
        end = min(len(out), at + len(sound))
        out[at:end] += sound[: end - at].astype(np.float32)
    return out


def found(samples):
    return onsets(samples, RATE, quiet=0.01, apart=0.15)


def test_even_clicks_are_found_where_they_are():
    times = np.arange(0.3, 5.8, 0.5)
    assert found(clicks(times)) == pytest.approx(times, abs=0.0002)


@pytest.mark.parametrize("cut", [0.002, 0.02, 0.045])
def test_a_click_that_sounds_already_when_the_recording_begins_is_none(cut):
    samples = clicks(np.arange(0.3, 5.8, 0.5))[int((0.3 + cut) * RATE) :]
    assert _unevenness(found(samples)) < 0.0002
    assert len(found(samples)) == 10


def test_a_click_that_is_late_is_told():
    times = np.arange(0.3, 5.8, 0.5)
    times[5] += 0.008
    assert _unevenness(found(clicks(times))) == pytest.approx(0.0073, abs=0.0004)

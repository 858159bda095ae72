"""The picture of a bar's sound: what sounds is where it sounds, low below high, loud brighter."""

import wave

import numpy as np
import pytest

from orchesis.audio.decode import SAMPLE_RATE as RATE
from orchesis.errors import OrchesisError
from orchesis.listening.features import BANDS, band_centres
from orchesis.listening.picture import MOST_SECONDS, sound_picture

SECONDS = 6.0
LOW, HIGH = 200.0, 6000.0


@pytest.fixture(scope="module")
def recording(tmp_path_factory):
    """A low tone from second 2 to 3, a softer high one from 4 to 5, silence around them."""
    time = np.arange(round(SECONDS * RATE)) / RATE
    sound = np.zeros(len(time))
    for first, last, hertz, loud in ((2.0, 3.0, LOW, 0.5), (4.0, 5.0, HIGH, 0.05)):
        inside = (time >= first) & (time < last)
        sound[inside] = loud * np.sin(2 * np.pi * hertz * time[inside])
    path = tmp_path_factory.mktemp("picture") / "tones.wav"
    with wave.open(str(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(RATE)
        file.writeframes(np.round(32767 * sound).astype("<i2").tobytes())
    return path


def band_of(hertz):
    return int(np.abs(band_centres(RATE) - hertz).argmin())


def test_a_hundredth_of_a_second_is_a_column(recording):
    assert sound_picture(recording, 1.5, 5.5).shape == (BANDS, 400)


def test_each_tone_is_where_and_when_it_sounds(recording):
    picture = sound_picture(recording, 1.5, 5.5)
    assert picture[band_of(LOW), 60:140].min() > 200
    assert picture[band_of(HIGH), 260:340].min() > 80
    assert picture[:, 170:240].max() < 60
    assert picture[band_of(HIGH), 60:140].max() < picture[band_of(LOW), 60:140].min()


def test_the_loudest_is_white_and_softer_is_darker(recording):
    picture = sound_picture(recording, 1.5, 5.5)
    assert picture.max() == 255
    assert picture[:, 260:340].max() < 255


def test_a_bar_that_begins_before_the_recording_begins_with_it(recording):
    assert sound_picture(recording, -0.5, 1.0).shape[1] >= 100


def test_no_more_than_so_much_is_drawn(recording):
    assert sound_picture(recording, 0.0, 500.0).shape[1] <= 100 * MOST_SECONDS


def test_what_is_no_recording_is_said_so(tmp_path):
    path = tmp_path / "none.wav"
    path.write_bytes(b"no sound at all")
    with pytest.raises(OrchesisError, match="cannot be read"):
        sound_picture(path, 0.0, 1.0)

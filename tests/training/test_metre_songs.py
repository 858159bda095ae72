"""Songs for learning where the one is: heard once, kept in few bytes."""

import numpy as np
import pytest

from orchesis.listening.ear import Detail, Heard, Onset
from orchesis.music.instruments import Instrument
from training.labels import CLASSES
from training.metre_rows import rows_of
from training.metre_songs import cases_of, load, store

FRAMES, BEAT = 4001, 50
KICK, SNARE = Instrument.KICK, Instrument.SNARE


class StandIn:
    """An ear that hears kick and snare on every beat, whatever it is given."""

    def hear_features(self, features, rate, progress):
        count = len(features)
        curve = np.zeros(count, np.float32)
        curve[BEAT::BEAT] = 0.9
        nothing = np.zeros((count, len(CLASSES)), np.float32)
        detail = Detail(CLASSES, nothing, nothing, features, None)
        strokes = tuple(
            Onset(frame / 100, SNARE if number % 2 else KICK, 0.8, 0.9)
            for number, frame in enumerate(range(BEAT, count, BEAT))
        )
        return Heard(strokes, 100.0, curve, curve, curve, np.zeros(count, np.float32), detail)


@pytest.fixture
def shard(tmp_path):
    """Two clips: of one nobody knows the beats."""
    beats = np.zeros((2, FRAMES, 2), np.uint8)
    beats[0, BEAT::BEAT, 0] = 1
    beats[0, BEAT :: 4 * BEAT, 1] = 1
    beats[1] = 255
    path = tmp_path / "songs" / "000001.npz"
    path.parent.mkdir()
    np.savez(
        path,
        features=np.full((2, FRAMES, 83), -1.0, np.float16),
        onsets=np.zeros((2, FRAMES, len(CLASSES)), np.uint8),
        loudness=np.zeros((2, FRAMES, len(CLASSES)), np.float16),
        beats=beats,
    )
    return path


def test_only_songs_whose_beats_are_known_are_heard(shard):
    (case,) = cases_of(shard, StandIn())
    assert case.name == "songs"
    assert case.beats[:3] == pytest.approx((0.5, 1.0, 1.5), abs=0.01)
    assert np.diff(case.downbeats) == pytest.approx(2.0, abs=0.01)


def test_cases_come_back_from_disk_as_they_were_and_no_half_file_stays(shard, tmp_path):
    cases = cases_of(shard, StandIn())
    folder = tmp_path / "heard"
    folder.mkdir()
    store(cases, folder / "one.pickle")
    assert [file.name for file in folder.iterdir()] == ["one.pickle"]
    (again,) = load(folder)
    assert again.beats == cases[0].beats
    assert again.heard.onsets == cases[0].heard.onsets
    assert again.heard.detail.features.dtype == np.float16


def test_lessons_tell_the_felt_level_from_twice_and_half_of_it(shard):
    (case,) = cases_of(shard, StandIn())
    rows = {row.name: row for row in rows_of(0, case)}
    assert rows["tracked"].is_right
    assert not rows["off"].is_right
    assert not rows["half-0"].is_right
    ones = np.flatnonzero(rows["tracked"].down)
    assert (np.diff(ones) == 4).all()

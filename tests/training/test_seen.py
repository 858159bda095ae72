"""Tables of candidates: joined, parted, and where the thresholds of drums lie."""

from pathlib import Path

import numpy as np
import pytest

from training.labels import CLASSES
from training.seen import cache_of, joined, part, thresholds

KICK, SNARE = 0, 1


def table(songs=3):
    """Songs of two kicks and two snares each; the second of each drum was no stroke."""
    there = np.zeros((songs, len(CLASSES)), int)
    there[:, [KICK, SNARE]] = 1
    return {
        "terms": np.arange(8.0 * songs).reshape(4 * songs, 2),
        "column": np.tile([KICK, KICK, SNARE, SNARE], songs),
        "right": np.tile([True, False], 2 * songs),
        "clip": np.repeat(np.arange(songs), 4),
        "there": there,
    }


def test_part_of_a_table_keeps_its_songs_and_counts_them_anew():
    kept = part(table(), np.array([1, 2]))
    assert kept["clip"].tolist() == [0] * 4 + [1] * 4
    assert kept["terms"][:, 0].tolist() == [8.0, 10.0, 12.0, 14.0, 16.0, 18.0, 20.0, 22.0]
    assert kept["there"].sum(axis=1).tolist() == [2, 2]


def test_songs_of_joined_tables_are_counted_on_and_the_tables_stay():
    one, other = table(2), table(1)
    both = joined([one, other, one])
    assert both["clip"].tolist() == np.repeat(np.arange(5), 4).tolist()
    assert both["there"].shape == (5, len(CLASSES))
    assert one["clip"].tolist() == np.repeat(np.arange(2), 4).tolist()
    parted = part(both, np.array([2]))
    assert all((parted[name] == other[name]).all() for name in other)


def test_a_threshold_lies_between_what_is_there_and_what_is_not():
    songs = table(40)
    sure = np.where(songs["right"], 0.6, 0.4)
    least = thresholds(sure, songs, np.ones(len(sure), bool))
    assert 0.4 < least[KICK] <= 0.6
    assert 0.4 < least[SNARE] <= 0.6
    assert least[2:] == pytest.approx(0.5)


def test_thresholds_go_by_the_chosen_songs_alone():
    """What another ear says of kits that it never met does not move them."""
    own, foreign = table(40), table(40)
    both = joined([own, foreign])
    sure = np.concatenate(
        [np.where(own["right"], 0.6, 0.4), np.where(foreign["right"], 0.24, 0.22)]
    )
    chosen = both["clip"] < len(own["there"])
    assert 0.4 < thresholds(sure, both, chosen)[KICK] <= 0.6
    assert thresholds(sure, both, ~chosen)[KICK] == pytest.approx(0.24)


def test_words_of_ears_are_kept_apart_those_of_folders_within_folders_too(tmp_path):
    named = [
        cache_of(tmp_path, tmp_path / ear, name)
        for ear in ("one", "other")
        for name in ("songs", "foreign/songs")
    ]
    assert len(set(named)) == 4
    assert {path.parent for path in named} == {Path(tmp_path)}

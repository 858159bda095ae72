"""The figures of whole runs: a perfect one is perfect, each kind of mistake shows in its row."""

from dataclasses import replace

import numpy as np
import pytest

from orchesis.listening.ear import Onset
from orchesis.music.instruments import Instrument, Status
from tests.composing import ROCK, song
from training.labels import CLASSES
from training.loudness import pairs, weighted
from training.rows import Rows
from training.scoring import Truth

I = Instrument  # noqa: E741
GHOSTS = {**ROCK, I.SNARE: "..g.X..g..g.X..g"}


def truth_of(piece):
    """What is true of a song that is written as it is."""
    truth = Truth(strokes={drum: [] for drum in CLASSES})
    for hit in piece.hits:
        loud = 0.2 if hit.ghost else hit.velocity / 127
        truth.strokes[hit.instrument].append((hit.time, loud))
    truth.beats = list(piece.beats)
    truth.downbeats = [bar.start for bar in piece.bars]
    return truth


def told(piece, truth):
    rows = Rows()
    rows.add(piece, truth, piece.duration)
    return rows.told()


@pytest.fixture
def piece():
    made = song([GHOSTS] * 8)
    varied = [replace(hit, velocity=hit.velocity + k % 7) for k, hit in enumerate(made.hits)]
    return made.with_hits(varied)


def test_what_is_written_as_it_was_played_is_perfect(piece):
    rows = told(piece, truth_of(piece))
    for what in ("F, 5 classes, 50 ms", "all labels", "precision of snares", "beats", "downbeats"):
        assert rows[what] == "1.000"
    assert rows["ghosts: recall, precision"] == "1.00, 1.00"
    assert rows["doubts and questions left, per 100 bars"] == "0"
    assert float(rows["loudness, rank within a class"]) > 0.9


def test_a_grid_that_begins_a_beat_later_has_its_beats_and_none_of_its_ones(piece):
    truth = truth_of(piece)
    truth.downbeats = list(piece.beats[1::4])
    rows = told(piece, truth)
    assert (rows["beats"], rows["downbeats"]) == ("1.000", "0.000")


def test_hats_that_are_called_rides_cost_labels_and_no_family_but_that(piece):
    wrong = piece.with_hits(
        [replace(h, instrument=I.RIDE) if h.instrument is I.HIHAT_CLOSED else h for h in piece.hits]
    )
    rows = told(wrong, truth_of(piece))
    assert rows["ride, hat or crash"] == "0.000"
    assert rows["precision of snares"] == "1.000"


def test_a_song_without_ghosts_counts_those_that_are_made_up(piece):
    plain = song([ROCK] * 8)
    rows = told(piece, truth_of(plain))
    assert rows["ghosts a minute in songs without"].startswith(f"{60 * 32 / piece.duration:.1f}")


def test_strokes_after_the_drums_have_stopped_are_told_by_the_minute():
    piece = song([ROCK] * 8)
    truth = truth_of(piece)
    middle = piece.bars[4].start
    for drum, strokes in truth.strokes.items():
        truth.strokes[drum] = [one for one in strokes if one[0] < middle - 0.01]
    rows = told(piece, truth)
    assert not rows["false strokes a minute where no drum plays"].startswith("0.0")


def test_doubts_that_one_answer_settles_are_one_question(piece):
    doubtful = [
        replace(hit, status=Status.DOUBTFUL, confidence=0.4) if hit.ghost else hit
        for hit in piece.hits
    ]
    rows = told(piece.with_hits(doubtful), truth_of(piece))
    assert 0 < float(rows["doubts and questions left, per 100 bars"]) <= 25


def test_strokes_are_paired_with_their_true_loudness(piece):
    truth = truth_of(piece)
    onsets = [Onset(hit.time + 0.01, hit.instrument, 0.5, 0.9) for hit in piece.hits]
    index, loud = pairs(onsets, truth, I.KICK)
    assert len(index) == len(truth.strokes[I.KICK])
    assert {onsets[k].instrument for k in index} == {I.KICK}
    assert np.allclose(loud, [one for _, one in truth.strokes[I.KICK]])
    assert weighted([(1.0, 3), (0.0, 1)]) == 0.75

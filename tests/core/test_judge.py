"""The judge: with the whole song in view, a doubtful stroke is decided as a listener would."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.errors import OrchesisError
from orchesis.listening.candidates import find_candidates
from orchesis.listening.ear import Detail
from orchesis.listening.judge import JUDGE, context, load_judge, self_training_weights
from orchesis.listening.network_ear import NetworkEar
from orchesis.listening.second_pass import HeardSong, kit_likenesses, rises
from orchesis.music.instruments import Instrument

CLASSES = NetworkEar().classes
KICK, SNARE, HAT, RIDE = (
    CLASSES.index(name)
    for name in (Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED, Instrument.RIDE)
)
BARS, BAR, EIGHTH = 16, 200, 25
EDGES = np.arange(BARS + 1) * BAR / 100
BANDS = {KICK: slice(0, 12), SNARE: slice(20, 50), HAT: slice(60, 83), RIDE: slice(52, 80)}


def rock(changes):
    """Sixteen bars of rock; `changes` gives other heights to peaks: (frame, drum) to height."""
    onsets = np.full((BARS * BAR + 60, len(CLASSES)), 0.01, np.float32)
    features = np.random.default_rng(3).uniform(0, 0.05, (len(onsets), 83)).astype(np.float32)
    strokes = {}
    for bar in range(BARS):
        for eighth in range(8):
            frame = 10 + bar * BAR + eighth * EIGHTH
            strokes[frame, HAT] = 0.9
            if eighth in (0, 4):
                strokes[frame, KICK] = 0.95
            if eighth in (2, 6):
                strokes[frame, SNARE] = 0.95
    strokes.update(changes)
    for (frame, drum), height in strokes.items():
        shape = np.array([0.4, 1.0, 0.4]) * height
        onsets[frame - 1 : frame + 2, drum] = np.maximum(onsets[frame - 1 : frame + 2, drum], shape)
        if height > 0.2:
            features[frame : frame + 6, BANDS[drum]] += 0.7
    return Detail(CLASSES, onsets, np.full_like(onsets, 0.7), features, None)


def song_of(detail, edges=EDGES):
    """The song as the judge sees it, and its candidates."""
    found = find_candidates(detail.onsets, detail.loudness, 100.0)
    return HeardSong(
        detail.onsets, rises(detail.features, found.frame), 100.0, CLASSES, edges
    ), found


def judged(detail, edges=EDGES):
    """How likely each (frame, drum) is."""
    song, found = song_of(detail, edges)
    sure = self_training_weights(load_judge(), song, found)
    probability = load_judge().probabilities(context(song, found, sure), found)
    return dict(
        zip(
            zip(found.frame.tolist(), found.column.tolist(), strict=True),
            probability.tolist(),
            strict=True,
        )
    )


def test_what_the_ear_is_sure_of_stays():
    likely = judged(rock({}))
    for eighth, drum in ((0, KICK), (2, SNARE), (3, HAT)):
        assert likely[10 + 5 * BAR + eighth * EIGHTH, drum] > 0.8


def test_a_steady_hand_is_not_a_hat_on_one_beat_and_a_ride_on_the_next():
    frame = 10 + 8 * BAR + 3 * EIGHTH
    likely = judged(rock({(frame, HAT): 0.45, (frame, RIDE): 0.5}))
    assert likely[frame, HAT] > likely[frame, RIDE]


def test_a_weak_stroke_in_the_pattern_is_likelier_than_the_same_peak_beside_it():
    inside, beside = 10 + 8 * BAR + 5 * EIGHTH, 10 + 8 * BAR + 5 * EIGHTH + 11
    weak = judged(rock({(inside, HAT): 0.3}))[inside, HAT]
    stray = judged(rock({(beside, HAT): 0.3}))[beside, HAT]
    assert weak > 2 * stray


def test_a_drum_that_the_network_is_never_sure_of_is_learnt_from_the_judges_own_word():
    """A snare in the pattern of all bars, each time just too faint for the network to be sure."""
    backbeats = [10 + bar * BAR + eighth * EIGHTH for bar in range(BARS) for eighth in (2, 6)]
    song, found = song_of(rock({(frame, SNARE): 0.6 for frame in backbeats}))
    by_network = kit_likenesses(song, found)[1]
    sure = self_training_weights(load_judge(), song, found)
    by_judge = kit_likenesses(song, found, sure)[1]
    assert not by_network[SNARE]
    assert by_judge[SNARE]
    assert by_judge[KICK]


def test_what_the_judge_finds_unlikely_teaches_nothing():
    stray = 10 + 8 * BAR + 5 * EIGHTH + 11
    song, found = song_of(rock({(stray, HAT): 0.3}))
    sure = self_training_weights(load_judge(), song, found)
    at_stray = (found.frame == stray) & (found.column == HAT)
    assert at_stray.any()
    assert not sure[at_stray].any()


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 1000), st.floats(0.05, 1.0), st.sampled_from([0, 1, 2, 9]))
def test_every_candidate_gets_a_probability_whatever_is_heard(seed, scale, lines):
    rng = np.random.default_rng(seed)
    onsets = (scale * rng.random((700, len(CLASSES)))).astype(np.float32)
    features = rng.random((700, 83)).astype(np.float32)
    likely = judged(Detail(CLASSES, onsets, onsets, features, None), np.arange(lines) * 0.8)
    assert all(0.0 <= value <= 1.0 for value in likely.values())


def test_a_song_without_candidates_is_no_error():
    silent = Detail(
        CLASSES,
        np.zeros((300, len(CLASSES)), np.float32),
        np.zeros((300, len(CLASSES)), np.float32),
        np.zeros((300, 83), np.float32),
        None,
    )
    assert judged(silent) == {}


@pytest.mark.parametrize("damage", ["gone", "half", "nonsense"])
def test_a_missing_or_damaged_judge_is_said_and_what_to_do(tmp_path, damage):
    path = tmp_path / "judge.npz"
    data = JUDGE.read_bytes()
    if damage != "gone":
        path.write_bytes(data[: len(data) // 2] if damage == "half" else b"nonsense")
    with pytest.raises(OrchesisError, match="missing or damaged"):
        load_judge(path)

"""The figures of docs/measurements.md: what they count, on strokes whose figures are known."""

from dataclasses import replace

import numpy as np
import pytest

from orchesis.listening.ear import Heard, Onset
from orchesis.music.instruments import Instrument, Ornament
from training import dataset
from training.bank import KEYS, synthesised
from training.evaluate import calibration_error, evaluate, reliability, said_and_right, second
from training.labels import CLASSES, INDEX
from training.scoring import RATE_FRAMES, Counts, Truth, clips

BAR = (
    (0.0, Instrument.KICK, 0.9),
    (0.0, Instrument.HIHAT_CLOSED, 0.6),
    (0.25, Instrument.SNARE, 0.2),
    (0.5, Instrument.SNARE, 0.8),
    (0.5, Instrument.HIHAT_OPEN, 0.5),
    (0.75, Instrument.KICK, 0.7),
    (1.0, Instrument.TOM_MID, 0.9),
    (1.25, Instrument.CRASH, 1.0),
)
"""Seconds, drum, loudness: one ghost, one open hat."""


def truth() -> Truth:
    strokes = {drum: [(t, loud) for t, d, loud in BAR if d is drum] for drum in CLASSES}
    return Truth(strokes=strokes)


def heard() -> list[Onset]:
    """The same bar, heard perfectly and surely."""
    return [Onset(time, drum, loud, 1.0) for time, drum, loud in BAR]


def figures(onsets: list[Onset]) -> dict[str, float]:
    return evaluate([(sorted(onsets, key=lambda onset: onset.time), truth())])


def test_a_bar_heard_as_it_was_played_is_right_in_every_figure():
    found = figures(heard())
    for name in ("5 classes F 50 ms", "5 classes F 25 ms", "all labels F 50 ms"):
        assert found[name] == 1.0
    assert found["ghost recall"] == found["ghost precision"] == found["open/closed right"] == 1.0
    assert found["loudness rank correlation"] == pytest.approx(1.0)
    assert found["calibration error"] == 0.0


def test_thirty_milliseconds_late_is_right_at_fifty_and_wrong_at_twenty_five():
    late = figures([replace(onset, time=onset.time + 0.03) for onset in heard()])
    assert late["5 classes F 50 ms"] == 1.0
    assert late["5 classes F 25 ms"] == 0.0


def test_the_wrong_tom_is_right_as_a_tom_and_wrong_by_name():
    swapped = [
        replace(onset, instrument=Instrument.TOM_HIGH)
        if onset.instrument is Instrument.TOM_MID
        else onset
        for onset in heard()
    ]
    found = figures(swapped)
    assert found["toms F"] == found["5 classes F 50 ms"] == 1.0
    # One of eight is missed and one invented.
    assert found["all labels F 50 ms"] == pytest.approx(7 / 8)
    assert found["  tom_mid F"] == found["  tom_high F"] == 0.0


def test_a_cross_stick_counts_as_a_snare_among_the_five_classes():
    found = figures(
        [
            replace(o, instrument=Instrument.CROSS_STICK) if o.instrument is Instrument.SNARE else o
            for o in heard()
        ]
    )
    assert found["snare F"] == 1.0
    assert found["  snare F"] == 0.0


def test_a_ghost_heard_loud_is_no_ghost_and_a_missed_one_lowers_recall_only():
    loud = [replace(o, loudness=0.9) if o.time == 0.25 else o for o in heard()]
    assert figures(loud)["ghost recall"] == 0.0
    invented = [*heard(), Onset(0.4, Instrument.SNARE, 0.2, 0.9)]
    assert figures(invented)["ghost recall"] == 1.0
    assert figures(invented)["ghost precision"] == 0.5


def test_an_open_hat_heard_closed_is_half_of_two_hats():
    closed = [
        replace(o, instrument=Instrument.HIHAT_CLOSED)
        if o.instrument is Instrument.HIHAT_OPEN
        else o
        for o in heard()
    ]
    assert figures(closed)["open/closed right"] == 0.5
    assert figures(closed)["hats F"] == 1.0


def test_everything_that_is_not_there_costs_precision():
    twice = [*heard(), *(replace(onset, time=onset.time + 0.12) for onset in heard())]
    assert figures(twice)["5 classes F 50 ms"] == pytest.approx(2 / 3)


@pytest.mark.parametrize(
    ("sure", "error"),
    [
        ([(0.95, True)] * 19 + [(0.95, False)], 0.0),
        ([(0.95, False)] * 10, 0.95),
        ([(0.85, True)] * 10 + [(0.25, False)] * 10, 0.2),
        ([(1.0, True)] * 5, 0.0),
    ],
)
def test_the_calibration_error_is_the_gap_between_said_and_right(sure, error):
    assert calibration_error(sure) == pytest.approx(error, abs=1e-6)


def test_the_table_of_sureness_leaves_out_what_was_said_too_seldom_to_judge():
    rows = reliability([(0.95, True)] * 30 + [(0.55, False)] * 5).splitlines()
    assert len(rows) == 3
    assert rows[-1] == "| 90% to 100% | 30 | 95% | 100% |"


def test_a_stroke_counts_as_right_once():
    """Two strokes of one drum at one place: one of them is an invention."""
    onsets = [Onset(0.0, Instrument.KICK, 0.9, 0.9), Onset(0.01, Instrument.KICK, 0.9, 0.6)]
    sure = said_and_right([(onsets, truth())])
    assert sorted(right for _, right in sure) == [False, True]


class Flamming:
    """An ear whose second pass writes one flam."""

    def second_pass(self, heard: Heard, bar_lines: list[float]) -> Heard:
        return replace(
            heard, onsets=(Onset(1.0, Instrument.SNARE, 0.8, 0.9, ornament=Ornament.FLAM),)
        )


def test_the_grace_note_of_a_flam_counts_as_a_stroke_of_its_own():
    nothing = np.zeros(4, np.float32)
    first = Heard((), 100.0, nothing, nothing, nothing, nothing, nothing)
    strokes = second(Flamming(), (first, None, truth()))
    assert [(round(o.time, 3), round(o.loudness, 2)) for o in strokes] == [(0.97, 0.32), (1.0, 0.8)]


def test_nothing_said_where_nothing_is_is_right():
    counts = Counts()
    counts.add([], [], 0.05)
    assert (counts.f, counts.recall, counts.precision) == (1.0, 0.0, 0.0)
    counts.add([], [1.0], 0.05)
    assert counts.f == 0.0


@pytest.fixture
def shard(tmp_path, monkeypatch):
    monkeypatch.setattr(dataset, "CLIPS_A_SHARD", 2)
    rng = np.random.default_rng(5)
    bank = {"synth": {drum: [synthesised(rng, drum)] for drum in KEYS}}
    path = tmp_path / "set" / "000007.npz"
    path.parent.mkdir()
    arguments = (path, 7, bank, {}, ["synth"], ("straight8",), 1.0, [])
    dataset.make_shard(*arguments, 10.0)
    return path, arguments


def test_a_shard_is_written_whole_once_and_says_where_its_strokes_are(shard):
    path, arguments = shard
    written = path.stat().st_mtime_ns
    dataset.make_shard(*arguments, 10.0)
    assert path.stat().st_mtime_ns == written
    assert [item.name for item in path.parent.iterdir()] == [path.name]
    labels = np.load(path)["onsets"]
    truths = [found for _, found in clips(path.parent)]
    assert len(truths) == len(labels) == 4
    strokes = truths[0].strokes[Instrument.HIHAT_CLOSED]
    assert [round(t * RATE_FRAMES) for t, _ in strokes] == list(
        np.flatnonzero(labels[0][:, INDEX[Instrument.HIHAT_CLOSED]])
    )


def test_the_same_seed_makes_the_same_shard(shard, tmp_path):
    path, arguments = shard
    again = tmp_path / path.name
    dataset.make_shard(again, *arguments[1:], 10.0)
    for name in ("onsets", "beats", "features"):
        assert np.array_equal(np.load(path)[name], np.load(again)[name])

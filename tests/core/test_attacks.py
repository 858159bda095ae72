"""Exact times: attacks found to a millisecond where the ear was some off, also under a band."""

import numpy as np
import pytest

from benchmarks.pocket import CASES, RATE, render, strokes
from orchesis.errors import OrchesisError
from orchesis.listening.attacks import (
    MODEL,
    MOST,
    STEP,
    fine_levels,
    load_attacks,
    with_exact_times,
)
from orchesis.listening.candidates import Candidates
from orchesis.music.instruments import Instrument
from training.labels import CLASSES

BARS = 4
FRAME_RATE = 100.0


def heard_roughly(times, instruments, off):
    """Candidates at times that are off, in order of time, and the ear's curves for them."""
    said = np.asarray(times) + off
    order = np.argsort(said, kind="stable")
    said = said[order]
    column = np.array([CLASSES.index(instruments[i]) for i in order], np.int32)
    frame = np.round(said * FRAME_RATE).astype(np.int32)
    onsets = np.zeros((int(max(said) * FRAME_RATE) + 100, len(CLASSES)), np.float32)
    onsets[frame, column] = 0.9
    ones = np.full(len(said), 0.9, np.float32)
    return Candidates(frame, column, said, ones, ones), onsets


@pytest.fixture(scope="module", params=[False, True], ids=["drums alone", "under a band"])
def played(request):
    """A groove whose backbeat lies 14 ms behind and whose hat hurries: sound, times, drums."""
    case = CASES[0]
    sound = render(case, with_band=request.param, bars=BARS).astype(np.float32)
    laid = list(strokes(case, bars=BARS))
    return sound, np.array([one.time for one in laid]), [one.instrument for one in laid]


@pytest.mark.parametrize("off_ms", [-4, 0, 5])
def test_times_that_are_off_by_half_a_frame_come_back_to_the_attack(played, off_ms):
    sound, times, instruments = played
    found, onsets = heard_roughly(times, instruments, off_ms / 1000)
    exact = with_exact_times(found, onsets, sound, RATE)
    for drum in (Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED):
        mine = exact.column == CLASSES.index(drum)
        true = np.sort(times[[one is drum for one in instruments]])
        error = np.sort(exact.time[mine]) - true
        assert abs(np.median(error)) < 0.003, f"{drum.value} as a whole"
        assert np.percentile(np.abs(error), 80) < 0.004, f"most strokes of the {drum.value}"


def test_how_far_the_backbeat_lies_behind_is_told_to_two_milliseconds(played):
    sound, times, instruments = played
    rng = np.random.default_rng(5)
    found, onsets = heard_roughly(times, instruments, rng.normal(0, 0.003, len(times)))
    exact = with_exact_times(found, onsets, sound, RATE)
    loud = [CLASSES.index(drum) for drum in (Instrument.SNARE, Instrument.KICK)]
    late = [
        np.median(
            np.sort(exact.time[exact.column == column])
            - np.sort(times[[CLASSES.index(one) == column for one in instruments]])
        )
        for column in loud
    ]
    assert abs(late[0] - late[1]) < 0.002


def test_nothing_is_moved_further_than_its_bound_and_order_is_kept(played):
    sound, times, instruments = played
    rng = np.random.default_rng(9)
    found, onsets = heard_roughly(times, instruments, rng.uniform(-0.04, 0.04, len(times)))
    exact = with_exact_times(found, onsets, sound, RATE)
    assert (np.diff(exact.time) >= 0).all()
    assert sorted(zip(exact.frame, exact.column, strict=True)) == sorted(
        zip(found.frame, found.column, strict=True)
    ), "the same candidates"
    by_peak = {(f, c): t for f, c, t in zip(exact.frame, exact.column, exact.time, strict=True)}
    for frame, column, time in zip(found.frame, found.column, found.time, strict=True):
        assert abs(by_peak[frame, column] - time) <= MOST * STEP + 0.001


def test_sound_that_begins_later_is_found_later(played):
    sound, times, instruments = played
    found, onsets = heard_roughly(times, instruments, 0.0)
    late = np.concatenate([np.zeros(round(0.007 * RATE), np.float32), sound])
    first = with_exact_times(found, onsets, sound, RATE)
    second = with_exact_times(found, onsets, late, RATE)
    moved = np.sort(second.time) - np.sort(first.time)
    assert np.median(moved) == pytest.approx(0.007, abs=0.001)


def test_levels_rise_where_a_click_is():
    sound = np.zeros(RATE, np.float32)
    sound[round(0.5 * RATE)] = 1.0
    levels = fine_levels(sound, RATE)
    assert levels.shape == (1001, 7)
    assert np.abs(levels.sum(axis=1).argmax() - 500) <= 1
    assert levels[480].sum() < levels[500].sum() - 7


def test_nothing_heard_stays_nothing():
    none = Candidates(
        np.zeros(0, np.int32), np.zeros(0, np.int32), np.zeros(0),
        np.zeros(0, np.float32), np.zeros(0, np.float32),
    )  # fmt: skip
    curves = np.zeros((10, len(CLASSES)), np.float32)
    assert len(with_exact_times(none, curves, np.zeros(RATE, np.float32), RATE)) == 0


def test_candidates_at_the_very_end_stay_in_the_sound():
    sound = np.zeros(RATE // 2, np.float32)
    found, onsets = heard_roughly([0.0, 0.499], [Instrument.KICK, Instrument.SNARE], 0.0)
    exact = with_exact_times(found, onsets, sound, RATE)
    assert (exact.time >= 0).all()


@pytest.mark.parametrize("damage", ["missing", "empty", "a stub", "cut off", "a byte turned"])
def test_a_damaged_file_says_what_to_do(tmp_path, damage):
    whole = MODEL.read_bytes()
    turned = bytearray(whole)
    turned[len(whole) // 2] ^= 0xFF
    held = {"empty": b"", "a stub": b"PK", "cut off": whole[: len(whole) // 2],
            "a byte turned": bytes(turned)}  # fmt: skip
    broken = tmp_path / "attacks.npz"
    if damage in held:
        broken.write_bytes(held[damage])
    with pytest.raises(OrchesisError, match="git checkout"):
        load_attacks(broken)

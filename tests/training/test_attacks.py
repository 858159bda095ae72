"""What is said of exact times: errors of strokes, and of pockets against the kick."""

import numpy as np
import pytest

from benchmarks.pocket import CASES, RATE, render, strokes
from orchesis.listening.attacks import REACH, STEP, fine_levels, load_attacks
from training.attacks import JITTER, figures
from training.labels import CLASSES

BARS = 8


def table(off_ms):
    """A groove as the ear might have heard it: each drum off by so many milliseconds."""
    case = CASES[1]
    levels = fine_levels(render(case, with_band=False, bars=BARS).astype(np.float32), RATE)
    laid = list(strokes(case, bars=BARS))
    drum = np.array([CLASSES.index(one.instrument) for one in laid])
    off = np.array([off_ms.get(one.instrument.value, 0) for one in laid])
    times = np.array([one.time for one in laid]) / STEP
    centres = np.round(times + off).astype(int)
    places = centres[:, None] + np.arange(-REACH - JITTER, REACH + JITTER + 1)
    drums = np.zeros((len(laid), 2 * len(CLASSES)), np.float32)
    drums[np.arange(len(laid)), drum] = 1.0
    return {
        "about": levels[np.clip(places, 0, len(levels) - 1)],
        "drums": drums,
        "late": times - centres,
        "clip": np.zeros(len(laid)),
    }


def test_a_snare_heard_late_and_a_hat_heard_early_are_told_and_mended():
    cells = figures(table({"snare": 5, "hihat_closed": -4}), load_attacks()).split(" | ")
    before, after = ([float(x) for x in cells[k].split(", ")] for k in (2, 4))
    assert before[2] == pytest.approx(5, abs=0.6), "the snare's pocket, as the ear had it"
    assert max(after) < 2
    off_before, off_after = (float(cells[k].split(", ")[1]) for k in (1, 3))
    assert off_after < 0.5 * off_before


def test_what_all_drums_are_late_by_is_no_pocket():
    cells = figures(table({"snare": 4, "hihat_closed": 4, "kick": 4}), load_attacks()).split(" | ")
    assert max(float(x) for x in cells[2].split(", ")) < 0.6
    assert float(cells[1].split(", ")[0]) == pytest.approx(4, abs=0.5)

"""Tracker modules: what a row says is struck, when, and as what."""

from __future__ import annotations

import numpy as np
import pytest

from orchesis.music.instruments import Instrument
from training.bank import RATE
from training.modules import FILES, KEPT, NAMES, UNSURE, Module, Struck, attack, drum_of

TICK, SPEED = 0.02, 6
"""Seconds of a tick at 125, and ticks of a row."""


class Pattern:
    """One row: of each channel note, instrument, volume kind, effect, volume, parameter."""

    def __init__(self, *cells: tuple[int, int, int, int, int, int]) -> None:
        self.cells = cells

    def openmpt_module_get_pattern_row_channel_command(
        self, module: int, pattern: int, row: int, channel: int, which: int
    ) -> int:
        return self.cells[channel][which]


def struck(
    *cells: tuple[int, int, int, int, int, int], last: dict[int, int] | None = None
) -> list[Struck]:
    """What is struck in a row of these cells, at second 10."""
    module = Module.__new__(Module)
    module.lib, module.channels = Pattern(*cells), len(cells)  # type: ignore[assignment]
    return module._row(0, 0, 8, 10.0, TICK, SPEED, {} if last is None else last)


def test_a_note_is_struck_on_its_row_as_loud_as_its_volume_says() -> None:
    (loud,), (soft,) = struck((61, 3, 0, 0, 0, 0)), struck((61, 3, 1, 0, 16, 0))
    assert (loud.time, loud.row, loud.instrument, loud.note, loud.volume) == (10.0, 8, 3, 61, 1.0)
    assert soft.volume == 0.25
    assert struck((61, 3, 0, 13, 0, 32))[0].volume == 0.5


@pytest.mark.parametrize(
    "cell",
    [(0, 3, 0, 0, 0, 0), (255, 3, 0, 0, 0, 0), (61, 3, 0, 4, 0, 0), (61, 3, 1, 0, 0, 0)],
    ids=["no note", "key off", "slid to", "silent"],
)
def test_what_is_not_struck(cell: tuple[int, int, int, int, int, int]) -> None:
    assert struck(cell) == []


def test_delays_and_repeats_within_a_row() -> None:
    assert [s.time for s in struck((61, 3, 0, 19, 0, 0xD2))] == pytest.approx([10 + 2 * TICK])
    assert struck((61, 3, 0, 19, 0, 0xDF)) == []
    thrice = struck((61, 3, 0, 19, 0, 0x92))
    assert [s.time for s in thrice] == pytest.approx([10, 10 + 2 * TICK, 10 + 4 * TICK])
    assert len(struck((61, 3, 0, 15, 0, 0x03))) == 2


def test_a_note_without_an_instrument_strikes_the_one_before_on_its_channel() -> None:
    last: dict[int, int] = {1: 9}
    first, second = struck((61, 4, 0, 0, 0, 0), (61, 0, 0, 0, 0, 0), last=last)
    assert (first.instrument, second.instrument) == (4, 9)
    assert last == {0: 4, 1: 9}


def test_an_attack_is_found_behind_the_silence_of_its_sample() -> None:
    rng = np.random.default_rng(0)
    alone = np.zeros(3 * RATE, np.float32)
    burst = rng.normal(size=4000) * np.exp(-np.arange(4000) / 800)
    for start in (0.5, 0.7, 1.5):
        first = round((start + 0.012) * RATE)
        alone[first : first + 4000] = burst
    same = [Struck(t, 0, 0, 3, 61, 0.5) for t in (0.5, 0.7, 1.5)]
    late, bands = attack(alone, same, [s.time for s in same])
    assert late == pytest.approx(0.012, abs=0.0005)
    assert bands is not None
    assert bands.max() > 0


def test_a_silent_sample_is_no_stroke() -> None:
    late, bands = attack(np.zeros(RATE, np.float32), [Struck(0.1, 0, 0, 3, 61, 1.0)], [0.1])
    assert (late, bands) == (0.0, None)


def test_keys_of_one_instrument_may_be_several_drums() -> None:
    def named(instrument: int, note: int) -> Instrument | None:
        return drum_of("third", Struck(0.0, 0, 0, instrument, note, 1.0))

    assert (named(17, 61), named(17, 65), named(1, 61)) == (Instrument.KICK, Instrument.SNARE, None)


def test_every_module_has_names_and_a_third_of_them_is_kept() -> None:
    assert set(NAMES) == set(FILES)
    assert set(KEPT) < set(FILES)
    assert not set(UNSURE) & set(KEPT)
    for name, drums in NAMES.items():
        assert {Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED} <= set(
            drums.values()
        ), name

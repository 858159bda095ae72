"""Where the bar begins, by the sound: composed songs whose chords, bass and drums are known."""

from dataclasses import replace

import numpy as np
import pytest

from orchesis.listening.ear import Detail
from orchesis.listening.features import BANDS, LOW_BANDS, band_centres
from orchesis.music.instruments import Instrument
from orchesis.music.values import Meter
from orchesis.rhythm import readings
from orchesis.rhythm.bar_network import said_of_beats
from orchesis.rhythm.bars import bar_lines_by_odds, beat_evidence, is_half_time
from orchesis.rhythm.described import COLUMNS, LAGS, PLACES, VOICES, WITNESSES, describe_beats
from orchesis.rhythm.grid import all_edges
from orchesis.rhythm.levels import candidate_levels
from orchesis.rhythm.readings import rank_readings
from orchesis.rhythm.rewrite import beats_at_level
from tests.composing import ROCK, grid, heard, hits

KICK, SNARE, HAT = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED
CRASH = Instrument.CRASH
# Kick and snare alike in both halves of the bar: drums alone do not tell one from three.
EVEN = {HAT: "x.x.x.x.x.x.x.x.", SNARE: "....X.......X...", KICK: "x.......x......."}
WALTZ = {HAT: "x...x...x...", SNARE: "....x...x...", KICK: "x..........."}
HALF = {HAT: "x.x.x.x.x.x.x.x.", SNARE: "........X.......", KICK: "x.....x........."}
CHORDS = ((0, 4, 7), (9, 0, 4), (5, 9, 0), (7, 11, 2))
NAMES = list(WITNESSES)


def of(table, name):
    """The columns of a witness."""
    first = sum(WITNESSES[one] for one in NAMES[: NAMES.index(name)])
    return table[:, first : first + WITNESSES[name]]


def with_chords(bars, rows, first_beat=0):
    """A band over these drums: a chord a bar from that beat of the bar on, the bass on its root."""
    strokes = [(h.time, h.instrument, h.velocity / 127) for bar in bars for h in hits(bar, rows)]
    found = heard(strokes, bars[-1].end + 1)
    frames = len(found.pulse)
    features = np.full((frames, BANDS), 0.2, np.float32)
    low = np.full((frames, LOW_BANDS), 0.2, np.float32)
    pitch = np.round(12 * np.log2(band_centres(44_100) / 440.0)).astype(int) % 12
    tonal = (band_centres(44_100) > 250) & (band_centres(44_100) < 1500)
    beats = list(all_edges(bars))
    per_bar = len(bars[0].beats)
    for number, at in enumerate(range(first_beat, len(beats) - 1, per_bar)):
        end = beats[min(at + per_bar, len(beats) - 1)]
        span = slice(round(beats[at] * 100), round(end * 100))
        chord = CHORDS[number % len(CHORDS)]
        # Named from A, as the pitch classes of `described` are.
        notes = [(note - 9) % 12 for note in chord]
        features[span, np.flatnonzero(tonal & np.isin(pitch, notes))] = 0.8
        low[span, 5 + chord[0]] = 0.9
    silent = np.zeros((frames, 1), np.float32)
    masks = np.zeros((frames, BANDS), np.float32)
    return replace(found, detail=Detail((KICK,), silent, silent, features, masks, low=low))


def test_each_beat_is_a_row_of_numbers_that_says_what_falls_on_it():
    bars = grid(12)
    table = describe_beats(with_chords(bars, EVEN), all_edges(bars)[:-1])
    assert table.shape == (48, COLUMNS)
    assert np.isfinite(table).all()
    struck = of(table, "strokes").reshape(-1, len(PLACES), len(VOICES))
    assert (struck[0::4, 0, 0] > 0.9).all(), "the kick on one"
    assert (struck[1::4, 0, 0] == 0).all()
    assert (struck[1::2, 0, 1] > 0.9).all(), "the snare on two and four"
    assert (struck[:, 2, 2] > 0.9).all(), "the hat on every off-beat"
    assert (struck[:, [1, 3], :] == 0).all(), "and no sixteenths"
    assert (struck[:, 4:, :] == 0).all(), "and no triplets"


def test_thirds_of_a_beat_are_told_from_quarters():
    bars = grid(12)
    what = with_chords(bars, {KICK: "x.....x.....", HAT: "xxxxxxxxxxxx"})
    struck = of(describe_beats(what, all_edges(bars)[:-1]), "strokes")
    struck = struck.reshape(-1, len(PLACES), len(VOICES))
    assert (struck[:, 4:, 2] > 0.9).all()
    assert (struck[:, 1:4, 2] == 0).all()


def test_harmony_turns_where_the_chords_change():
    bars = grid(12)
    table = describe_beats(with_chords(bars, EVEN, first_beat=2), all_edges(bars)[:-1])
    by_beat = of(table, "turns")[4:-4, 0].reshape(-1, 4).mean(axis=0)
    assert by_beat.argmax() == 2
    assert by_beat[2] > 3 * np.delete(by_beat, 2).max()


@pytest.mark.parametrize("shift", [0, 1, 2, 3])
def test_chords_tell_where_the_one_is_wherever_the_beats_begin(shift):
    """The drums do not: they are the same from half bar to half bar."""
    bars = grid(16)
    what = with_chords(bars, EVEN)
    beats = all_edges(bars)[shift:-1]
    odds, _ = said_of_beats(describe_beats(what, beats))
    lines = bar_lines_by_odds(odds, 4)
    assert lines.downbeats[0] == (4 - shift) % 4
    assert set(np.diff(lines.downbeats)) == {4}


def test_chords_two_beats_later_move_the_one_by_two_beats():
    bars = grid(16)
    what = with_chords(bars, EVEN, first_beat=2)
    odds, _ = said_of_beats(describe_beats(what, all_edges(bars)[:-1]))
    assert bar_lines_by_odds(odds, 4).downbeats[1] % 4 == 2


def test_three_beats_are_counted_in_three():
    bars = grid(20, beats=3)
    best = rank_readings(with_chords(bars, WALTZ), all_edges(bars)[:-1])[0]
    assert best.meter == Meter(3, 4)
    assert best.lines.downbeats[0] == 0


def test_an_extra_half_bar_is_one_odd_bar():
    odds = np.full(66, -4.0)
    odds[0:32:4] = 4.0
    odds[34::4] = 4.0
    lines = bar_lines_by_odds(odds, 4)
    assert list(np.diff(lines.downbeats)) == [4] * 8 + [2] + [4] * 7


def test_one_beat_that_says_otherwise_moves_nothing():
    odds = np.full(64, -4.0)
    odds[0::4] = 3.0
    odds[33] = 40.0
    assert bar_lines_by_odds(odds, 4).downbeats == tuple(range(0, 64, 4))


def test_a_backbeat_on_three_is_half_time():
    bars = grid(12)
    for rows, expected in ((HALF, True), (ROCK, False)):
        evidence = beat_evidence(with_chords(bars, rows), all_edges(bars)[:-1])
        odds = np.where(np.arange(48) % 4 == 0, 4.0, -4.0)
        assert is_half_time(evidence, bar_lines_by_odds(odds, 4)) is expected
        assert not is_half_time(evidence, bar_lines_by_odds(odds, 3))


def test_every_level_is_offered_and_found_again_by_its_key():
    beats = np.arange(60) * 0.5 + 0.3
    levels = dict(candidate_levels(beats))
    assert set(levels) == {"tracked", "off", "half-0", "half-1", "third-0", "third-1", "third-2"}
    for name, level in levels.items():
        assert np.allclose(beats_at_level(list(beats), f"{name}/4-4/0"), level)
    assert "double" in dict(candidate_levels(np.arange(60) * 1.0))


def test_of_a_few_beats_nothing_is_compared_beyond_them():
    bars = grid(3)
    table = describe_beats(with_chords(bars, EVEN), all_edges(bars)[:-1])
    assert np.isfinite(table).all()
    for name in ("like strokes", "like harmony"):
        likeness = of(table, name).reshape(12, -1, len(LAGS))
        assert (likeness[:, :, -1] == 0).all(), "there is none 16 beats back"


TWELVE = {
    KICK: "x...........x.....x.....",
    SNARE: "......X...........X.....",
    HAT: "x.x.x.x.x.x.x.x.x.x.x.x.",
}


def counted_in_thirds(monkeypatch, amid):
    """The best way to count compound bars whose middles the curve takes for ones too, and the bar
    network for ones at these log odds."""
    bars = grid(12)
    what = with_chords(bars, TWELVE)
    beats = all_edges(bars)[:-1]
    curve = np.zeros_like(what.downbeat)
    curve[np.round(beats[0::2] * 100).astype(int)] = 1.0
    odds = np.full(len(beats), -6.0)
    odds[0::4], odds[2::4] = 5.0, amid
    monkeypatch.setattr(readings, "said_of_beats", lambda table: (odds, 2.0))
    what = replace(what, downbeat=curve)
    return rank_readings(what, beats, ("tracked",))[0]


def test_bars_of_four_thirds_stay_whole_where_the_network_hears_no_one_amid_them(monkeypatch):
    best = counted_in_thirds(monkeypatch, amid=-5.5)
    assert best.meter == Meter(12, 8)
    assert set(np.diff(best.lines.downbeats)) == {4}


def test_they_are_bars_of_two_where_both_halves_may_begin_one(monkeypatch):
    best = counted_in_thirds(monkeypatch, amid=0.5)
    assert best.meter == Meter(6, 8)
    assert set(np.diff(best.lines.downbeats)) == {2}

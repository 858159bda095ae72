"""The grid: beats, bar lines, swing, and where strokes are written."""

from fractions import Fraction
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from benchmarks.scores import BEAT_TOLERANCE, f_measure, match
from orchesis.listening.ear import Onset
from orchesis.music.instruments import Instrument
from orchesis.music.values import Feel, Meter
from orchesis.rhythm.bars import BarLines, beat_evidence, find_bar_lines
from orchesis.rhythm.beats import draw_to_strokes, tempo_of, track_beats
from orchesis.rhythm.due import written_time
from orchesis.rhythm.grid import all_edges, lay_bars
from orchesis.rhythm.quantise import quantise
from orchesis.rhythm.readings import MOST_READINGS, rank_readings
from orchesis.rhythm.swing import swing_from_phases, warp
from tests.composing import ROCK, grid, heard, hits, song

KICK, SNARE, HAT = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED


def pulse_at(times, seconds):
    pulse = np.zeros(int(seconds * 100), np.float32)
    pulse[np.round(np.asarray(times) * 100).astype(int)] = 1.0
    return pulse


def rock_heard(bars):
    strokes = [
        (hit.time, hit.instrument, hit.velocity / 127) for bar in bars for hit in hits(bar, ROCK)
    ]
    return heard(strokes, bars[-1].end + 1)


@pytest.mark.parametrize("bpm", [63, 84, 112, 147, 190])
def test_beats_of_a_steady_pulse_are_found(bpm):
    times = np.arange(0.7, 30, 60 / bpm)
    beats = track_beats(pulse_at(times, 31), 100.0)
    assert f_measure(list(times), list(beats), BEAT_TOLERANCE) > 0.96
    assert tempo_of(beats) == pytest.approx(bpm, rel=0.02)


def test_beats_follow_a_band_that_speeds_up_by_eight_percent():
    lengths = np.linspace(0.60, 0.555, 80)
    times = 0.5 + np.concatenate([[0], np.cumsum(lengths)])
    beats = track_beats(pulse_at(times, times[-1] + 1), 100.0)
    assert f_measure(list(times), list(beats), 0.04) > 0.97


def test_beats_go_on_through_a_stop_of_two_bars():
    times = np.arange(0.5, 40, 0.5)
    sounding = times[(times < 16) | (times > 20)]
    beats = track_beats(pulse_at(sounding, 41), 100.0)
    assert f_measure(list(times), list(beats), BEAT_TOLERANCE) > 0.95


@pytest.mark.parametrize("seconds", [0.5, 20])
def test_there_are_no_beats_in_silence(seconds):
    assert len(track_beats(np.zeros(int(100 * seconds), np.float32), 100.0)) == 0


def test_one_late_stroke_does_not_bend_the_grid():
    beats = np.arange(20) * 0.5
    onsets = [Onset(t if t != 5.0 else 5.04, KICK, 0.9, 0.9) for t in beats]
    drawn = draw_to_strokes(beats, onsets)
    assert np.abs(drawn - beats).max() < 0.012


def test_a_grid_that_is_late_throughout_is_drawn_to_the_strokes():
    beats = np.arange(20) * 0.5
    onsets = [Onset(t + 0.02, KICK, 0.9, 0.9) for t in beats]
    assert np.median(draw_to_strokes(beats, onsets) - beats) == pytest.approx(0.02, abs=0.003)


def lines_of(what, beats, template="four"):
    return find_bar_lines(beat_evidence(what, beats), template)


@pytest.mark.parametrize("shift", [0, 1, 2, 3])
def test_the_one_is_found_wherever_the_beats_begin(shift):
    bars = grid(12)
    beats = all_edges(bars)[shift:-1]
    lines = lines_of(rock_heard(bars), beats)
    # The kick of this groove plays one and three alike: either end of the bar may be taken.
    assert (lines.downbeats[0] + shift) % 2 == 0
    assert set(np.diff(lines.downbeats)) == {4}


def played(bars, rows):
    strokes = [(h.time, h.instrument, 0.8) for bar in bars for h in hits(bar, rows)]
    return heard(strokes, bars[-1].end + 1)


def test_a_waltz_is_counted_in_three():
    bars = grid(16, beats=3)
    what = played(bars, {KICK: "x.....", SNARE: "..x.x.", HAT: "xxxxxx"})
    best = rank_readings(what, all_edges(bars)[:-1])[0]
    assert best.meter == Meter(3, 4)
    assert best.lines.downbeats[:2] == (0, 3)


def with_crashes(bars, rows, extra_from=None):
    """Strokes with a crash on every one; two beats are put in before bar `extra_from`."""
    beat = 0.5
    strokes, downbeats, beats = [], [], []
    time = 0.5
    for index, bar in enumerate(bars):
        if index == extra_from:
            strokes += [(time, KICK, 0.9), (time + beat, SNARE, 0.9)]
            downbeats.append(time)
            beats += [time, time + beat]
            time += 2 * beat
        strokes += [(h.time - bar.start + time, h.instrument, 0.8) for h in hits(bar, rows)]
        strokes.append((time, Instrument.CRASH, 0.9))
        downbeats.append(time)
        beats += [time + k * beat for k in range(4)]
        time += 4 * beat
    return heard(sorted(strokes, key=lambda s: s[0]), time + 1), np.array(beats), downbeats


def test_an_extra_bar_of_two_beats_is_found_where_it_is():
    what, beats, downbeats = with_crashes(grid(16), ROCK, extra_from=7)
    lines = lines_of(what, beats)
    assert list(beats[list(lines.downbeats)]) == pytest.approx(downbeats)
    assert lines.odd_bars == 1


def test_no_odd_bar_is_believed_on_one_stray_crash():
    what, beats, _ = with_crashes(grid(16), ROCK)
    stray = heard(
        [*((o.time, o.instrument, o.loudness) for o in what.onsets), (15.0, Instrument.CRASH, 0.9)],
        34.0,
    )
    lines = lines_of(stray, beats)
    assert lines.odd_bars == 0


def test_a_backbeat_on_three_is_half_time():
    bars = grid(16, bpm=140)
    rows = {HAT: "xxxxxxxx", SNARE: "....X...", KICK: "x..x...."}
    best = rank_readings(played(bars, rows), all_edges(bars)[:-1])[0]
    assert best.lines.half_time
    assert best.tempo_bpm == pytest.approx(140, rel=0.01)
    straight = rank_readings(rock_heard(bars), all_edges(bars)[:-1])[0]
    assert not straight.lines.half_time


def test_three_eighths_a_beat_are_compound_time_and_a_shuffle_is_not():
    bars = grid(16, bpm=64)
    full = {HAT: "xxxxxxxxxxxx", SNARE: "...X.....X..", KICK: "x.....x....."}
    best = rank_readings(played(bars, full), all_edges(bars)[:-1])[0]
    assert best.meter.is_compound
    assert best.tempo_bpm == pytest.approx(64, rel=0.01)
    shuffled = {**full, HAT: "x.xx.xx.xx.x"}
    bars = grid(16, bpm=120)
    assert rank_readings(played(bars, shuffled), all_edges(bars)[:-1])[0].meter == Meter(4, 4)


def test_two_four_at_half_the_tempo_is_always_among_the_readings():
    bars = grid(24)
    readings = rank_readings(rock_heard(bars), all_edges(bars)[:-1])
    taken = readings[0]
    assert (taken.meter, round(taken.tempo_bpm)) == (Meter(4, 4), 120)
    slow = [one for one in readings if one.meter == Meter(2, 4) and round(one.tempo_bpm) == 60]
    assert len(slow) == 1
    assert len(readings) <= MOST_READINGS + 1


def test_every_reading_has_its_evidence_and_they_differ():
    bars = grid(16)
    readings = rank_readings(rock_heard(bars), all_edges(bars)[:-1])
    assert len({reading.key for reading in readings}) == len(readings) >= 4
    assert all(reading.evidence and reading.words for reading in readings)
    scores = [reading.score for reading in readings[2:]]
    assert scores == sorted(scores, reverse=True)


@pytest.mark.parametrize(("bpm", "other"), [(84, 168), (150, 75)])
def test_the_first_thing_offered_is_to_count_twice_or_half_as_fast(bpm, other):
    bars = grid(16, bpm=bpm)
    taken, first, *_ = rank_readings(rock_heard(bars), all_edges(bars)[:-1])
    assert taken.tempo_bpm == pytest.approx(bpm, rel=0.01)
    assert first.tempo_bpm == pytest.approx(other, rel=0.01)


def test_a_pace_that_is_far_behind_waits_its_turn():
    bars = grid(16, bpm=100)
    driving = {KICK: "x.x.x.x.x.x.x.x.", SNARE: "....X.......X...", HAT: "xxxxxxxxxxxxxxxx"}
    readings = rank_readings(played(bars, driving), all_edges(bars)[:-1])
    assert [round(reading.tempo_bpm) for reading in readings[:2]] == [100, 200]
    assert [round(reading.tempo_bpm) for reading in readings].index(50) > 2


def test_beats_tracked_at_double_tempo_are_read_at_the_felt_one():
    bars = grid(16, bpm=84)
    edges = all_edges(bars)
    twice = np.sort(np.concatenate([edges, (edges[:-1] + edges[1:]) / 2]))
    best = rank_readings(rock_heard(bars), twice)[0]
    assert best.tempo_bpm == pytest.approx(84, rel=0.01)


def lay(beats, first, **times):
    lines = BarLines(4, tuple(range(first, len(beats), 4)), 1.0, 1.0)
    return lay_bars(beats, lines, Meter(4, 4), **times)


def test_a_pick_up_makes_a_bar_nought():
    bars = lay(np.arange(1.0, 20.0, 0.5), 2, earliest=1.0, latest=19.0)
    assert bars[0].number == 0
    assert bars[1].start == 2.0
    assert bars[0].end == bars[1].start


def test_without_strokes_before_the_one_there_is_no_pick_up():
    bars = lay(np.arange(1.0, 20.0, 0.5), 2, earliest=2.0, latest=19.0)
    assert (bars[0].number, bars[0].start) == (1, 2.0)


def test_an_odd_bar_has_a_metre_of_its_own():
    lines = BarLines(4, (0, 4, 6, 10), 1.0, 1.0)
    bars = lay_bars(np.arange(14) * 0.5, lines, Meter(4, 4), earliest=0.0, latest=6.9)
    assert [str(bar.meter) for bar in bars] == ["4/4", "2/4", "4/4", "4/4"]
    assert [len(bar.beats) for bar in bars] == [4, 2, 4, 4]


@given(first=st.integers(0, 3), count=st.integers(8, 60), latest=st.floats(0, 40))
def test_bars_have_no_gaps_and_reach_the_last_stroke(first, count, latest):
    beats = np.arange(count) * 0.5
    bars = lay(beats, first, earliest=beats[first], latest=latest)
    assert all(one.end == other.start for one, other in pairwise(bars))
    assert bars[-1].end > latest


def written(bars, strokes):
    result = quantise(bars, [Onset(t, i, 0.8, 0.9) for t, i in strokes])
    return [(p.bar, p.position, p.onset.instrument) for p in result.placed], result


@settings(max_examples=40, deadline=None)
@given(
    rows=st.lists(
        st.text(alphabet="x.", min_size=16, max_size=16).filter(lambda t: "x" in t),
        min_size=4,
        max_size=4,
    ),
    seed=st.integers(0, 9999),
)
def test_straight_sixteenths_are_written_where_they_were_played(rows, seed):
    """With the timing of a good player, within some 8 ms, at 100 beats a minute."""
    rng = np.random.default_rng(seed)
    bars = grid(4, bpm=100)
    truth = [hit for bar, row in zip(bars, rows, strict=True) for hit in hits(bar, {SNARE: row})]
    strokes = [(max(0, hit.time + rng.normal(0, 0.004)), SNARE) for hit in truth]
    placed, _ = written(bars, sorted(strokes))
    right = {(hit.bar, hit.position, SNARE) for hit in truth} & set(placed)
    assert len(right) >= 0.9 * len(truth)


def test_triplets_are_written_as_triplets():
    bars = grid(4)
    truth = [hit for bar in bars for hit in hits(bar, {SNARE: "xxxxxxxxxxxx"})]
    placed, result = written(bars, [(hit.time, SNARE) for hit in truth])
    assert placed == [(hit.bar, hit.position, SNARE) for hit in truth]
    assert set(result.bars[1].divisions) == {3}


def test_one_triplet_fill_does_not_turn_a_straight_song_into_triplets():
    bars = grid(8)
    truth = [h for bar in bars[:-1] for h in hits(bar, ROCK)]
    truth += hits(bars[-1], {SNARE: "xxxxxxxxxxxx"})
    _, result = written(bars, [(hit.time, hit.instrument) for hit in truth])
    assert set(result.bars[-1].divisions) == {3}
    assert 3 not in {parts for bar in result.bars[:-1] for parts in bar.divisions}


@pytest.mark.parametrize("ratio", [1.0, 1.3, 1.5, 1.8])
def test_the_swing_of_sixteenths_is_measured(ratio):
    feel = Feel(1.0, ratio)
    phases = [warp(step / 4, feel) for step in range(4)] * 20
    found = swing_from_phases(phases)
    assert found.swing_16 == pytest.approx(ratio, abs=0.02)
    assert found.swing_8 == pytest.approx(1.0, abs=0.02)


def test_a_shuffle_is_swung_eighths_without_sixteenths():
    found = swing_from_phases([0.0, 0.66] * 40)
    assert found.swing_8 == pytest.approx(1.94, abs=0.02)
    assert found.swing_16 is None


def test_too_few_pairs_give_no_ratio():
    assert swing_from_phases([0.0, 0.5, 0.25]) == Feel(None, None)


def test_swung_sixteenths_are_written_as_sixteenths():
    bars = grid(8, bpm=84)
    feel = Feel(1.0, 1.5)
    truth = [h for bar in bars for h in hits(bar, {**ROCK, SNARE: "....X..g.g..X..g"})]

    def swung(hit):
        place = hit.position * 4
        beat = int(place)
        return bars[hit.bar - 1].time_at((beat + warp(float(place - beat), feel)) / 4)

    placed, _ = written(bars, sorted((swung(hit), hit.instrument) for hit in truth))
    assert set(placed) == {(hit.bar, hit.position, hit.instrument) for hit in truth}


def test_of_two_strokes_at_one_place_the_surer_one_is_written():
    bars = grid(2)
    onsets = [Onset(0.5, KICK, 0.9, 0.5), Onset(0.51, KICK, 0.9, 0.9)]
    result = quantise(bars, onsets)
    assert [placed.onset.confidence for placed in result.placed] == [0.9]


@pytest.mark.parametrize(
    ("position", "expected"),
    [(Fraction(0), 0.5), (Fraction(1, 8), 0.75), (Fraction(1, 16), 0.5 + 0.5 * 0.3)],
)
def test_written_notes_are_due_where_the_feel_puts_them(position, expected):
    piece = song([ROCK])
    swung = type(piece)(**{**_values(piece), "feel": Feel(1.0, 1.5)})
    assert written_time(swung, 1, position) == pytest.approx(expected)


def _values(piece):
    return {name: getattr(piece, name) for name in piece.__dataclass_fields__}


@given(st.lists(st.floats(0, 50), max_size=30), st.lists(st.floats(0, 50), max_size=30))
def test_matching_is_one_to_one_and_within_tolerance(reference, estimate):
    reference, estimate = sorted(reference), sorted(estimate)
    pairs = match(reference, estimate, 0.05)
    assert len({i for i, _ in pairs}) == len(pairs) == len({j for _, j in pairs})
    assert all(abs(reference[i] - estimate[j]) <= 0.05 for i, j in pairs)

"""Other readings, dragged bar lines: the same strokes on other lines."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import Instrument
from orchesis.music.values import Meter
from orchesis.pipeline import summary
from orchesis.rhythm.feel import feel_report, ratio_of
from orchesis.rhythm.grid import all_edges
from orchesis.rhythm.readings import rank_readings
from orchesis.rhythm.rewrite import move_downbeat, take_reading
from orchesis.rhythm.tempo import tempo_report
from orchesis.rhythm.typed import on_tempo
from tests.composing import ROCK, grid, heard, hits, song

GROOVE = {**ROCK, Instrument.KICK: "x.........x.....", Instrument.CRASH: "X..............."}


def readable(bars=16):
    """A composed song with all of its readings."""
    made = song([GROOVE] * bars)
    edges = all_edges(made.bars)
    strokes = [(hit.time, hit.instrument, hit.velocity / 127) for hit in made.hits]
    readings = rank_readings(heard(strokes, made.duration), edges[:-1])
    whole = replace(
        made,
        readings=tuple(summary(one) for one in readings),
        tracked_beats=tuple(float(edge) for edge in edges[:-1]),
    )
    return take_reading(whole, whole.readings[0].key)


def by_time(made):
    return sorted((hit.time, hit.instrument, hit.velocity) for hit in made.hits)


def test_every_reading_keeps_every_stroke_and_going_back_is_identity():
    first = readable()
    assert len(first.readings) >= 4
    for reading in first.readings[1:]:
        other = take_reading(first, reading.key)
        assert by_time(other) == by_time(first)
        assert other.readings[0].key == reading.key
        back = take_reading(other, first.readings[0].key)
        assert (back.hits, back.bars, back.tempo_bpm) == (first.hits, first.bars, first.tempo_bpm)


def test_half_the_tempo_has_half_the_bars():
    first = readable()
    half = next(one for one in first.readings if one.tempo_bpm == pytest.approx(60, rel=0.01))
    other = take_reading(first, half.key)
    assert len(other.bars) == pytest.approx(len(first.bars) / 2, abs=1)
    assert other.tempo_bpm == pytest.approx(60, rel=0.01)


def test_two_four_splits_each_bar_in_two():
    first = readable()
    two = next(one for one in first.readings if one.meter == Meter(2, 4))
    other = take_reading(first, two.key)
    assert {bar.meter for bar in other.bars} == {Meter(2, 4)}
    assert len(other.bars) == 2 * len(first.bars)


def test_a_reading_that_is_not_there_is_refused():
    with pytest.raises(InvalidTranscription, match="no reading"):
        take_reading(readable(), "tracked/7-4/0")


def test_sections_stay_where_they_were_in_time():
    first = readable()
    two = next(one for one in first.readings if one.meter == Meter(2, 4))
    other = take_reading(first, two.key)
    for before, after in zip(first.sections, other.sections, strict=True):
        assert after.label == before.label
        assert after.start == pytest.approx(before.start)
        assert after.bars == 2 * before.bars


@settings(max_examples=20, deadline=None)
@given(number=st.integers(3, 12), shift=st.floats(-0.12, 0.12))
def test_a_dragged_bar_line_goes_there_and_fixed_ones_stay(number, shift):
    first = readable()
    fixed = [first.bar(number - 2).start, first.bar(number + 2).start]
    wanted = first.bar(number).start + shift
    moved = move_downbeat(first, number, wanted, fixed)
    starts = [bar.start for bar in moved.bars]
    for line in (wanted, *fixed):
        assert min(abs(start - line) for start in starts) < 0.002
    assert by_time(moved) == by_time(first)
    outside = [bar.start for bar in first.bars if bar.start < fixed[0] or bar.start > fixed[1]]
    assert all(min(abs(start - time) for start in starts) < 0.002 for time in outside)


def test_a_bar_line_cannot_cross_a_fixed_one():
    first = readable()
    with pytest.raises(InvalidTranscription, match="fixed"):
        move_downbeat(first, 5, first.bar(7).start + 0.1, [first.bar(7).start])


def test_the_tempo_report_tells_a_click_from_a_band():
    clicked = tempo_report(grid(24, bpm=112))
    assert clicked.click is True
    assert clicked.median == pytest.approx(112)
    bars, start = [], 0.5
    for index in range(24):
        (bar,) = grid(1, bpm=100 + index / 3, start=start)
        bars.append(bar)
        start = bar.end
    played = tempo_report(bars)
    assert played.click is False
    assert "speeds up" in played.words
    assert played.drift > 0.04


def bars_at(*tempi):
    """One bar of four at each tempo."""
    bars, start = [], 0.5
    for bpm in tempi:
        (bar,) = grid(1, bpm=bpm, start=start)
        bars.append(replace(bar, number=len(bars) + 1))
        start = bar.end
    return bars


def test_a_song_that_changes_its_tempo_is_told_tempo_by_tempo():
    report = tempo_report(bars_at(*[170] * 16, 155, 138, *[127.5] * 12, 150, *[170] * 10))
    assert report.click is True
    # Two bars lead from one to the next, one back.
    assert report.words == (
        "The tempo changes: 170.0, 127.5 from bar 18, 170.0 from bar 31. "
        "Steady within each, as to a click."
    )
    assert report.drift < 0.012


def test_a_song_that_only_drifts_has_one_tempo():
    drifting = tempo_report(bars_at(*[120 + index / 4 for index in range(40)]))
    assert "changes" not in drifting.words
    assert "speeds up" in drifting.words


@given(st.lists(st.sampled_from([60.0, 62.0, 96.0, 97.5, 99.0, 110.0, 170.0]), max_size=30))
def test_whatever_the_bars_last_there_is_a_report(tempi):
    report = tempo_report(bars_at(*tempi))
    assert len(report.curve) == len(tempi)
    assert report.words
    assert report.drift >= 0


def test_few_bars_do_not_tell_and_none_have_no_tempo():
    assert tempo_report(grid(3)).click is None
    assert tempo_report(()).median == 0.0


def swung(rows, ratio_16=1.0, late=0.0, bars=8):
    """Strokes of rows whose odd sixteenths are late by the ratio."""
    made = grid(bars)
    strokes = []
    for bar in made:
        for hit in hits(bar, rows):
            cell = hit.position * 16
            shift = (ratio_16 / (1 + ratio_16) - 0.5) * 0.25 if cell % 2 else late
            strokes.append(type(hit)(**{**_values(hit), "time": hit.time + shift}))
    return made, strokes


def _values(hit):
    return {name: getattr(hit, name) for name in hit.__slots__}


def test_a_straight_hat_over_swung_ghosts_is_told_from_a_swung_hat():
    rows = {Instrument.HIHAT_CLOSED: "xxxxxxxxxxxxxxxx", Instrument.SNARE: "....X.......X..."}
    made, hat = swung(rows)
    _, ghosts = swung({Instrument.SNARE: ".g...g.g.g...g.g"}, ratio_16=1.6)
    apart = feel_report(made, [*hat, *ghosts], half_time=False)
    assert apart.hands_16.value == pytest.approx(1.0, abs=0.05)
    assert apart.ghosts_16.value == pytest.approx(1.6, abs=0.08)
    made, all_swung = swung(rows, ratio_16=1.6)
    together = feel_report(made, all_swung, half_time=False)
    assert together.words.startswith("Swung sixteenths over straight eighths")
    assert together.swing_16.value == pytest.approx(1.6, abs=0.05)


def test_straight_eighths_and_half_time_are_said():
    made, strokes = swung({Instrument.HIHAT_CLOSED: "x.x.x.x.x.x.x.x."})
    assert feel_report(made, strokes, half_time=True).words.startswith(
        "Half-time, straight eighths"
    )


@given(st.lists(st.floats(0.1, 0.9), min_size=8, max_size=80))
def test_the_interval_holds_the_ratio_and_narrows_with_pairs(places):
    found = ratio_of(places)
    assert found.low <= found.value <= found.high
    many = ratio_of(places * 10)
    assert many.high - many.low <= found.high - found.low + 1e-9


def test_with_few_pairs_there_is_no_ratio():
    assert ratio_of([0.6] * 7) is None


def drifting(bars=24, bpm=100.0, by=0.05):
    """A song that slows down evenly, its grid lost: one bar of eight seconds after another."""
    beat, time, times = 60.0 / bpm, 0.5, []
    for index in range(4 * bars):
        times.append(time)
        time += beat * (1 + by * index / (4 * bars))
    made = song([GROOVE] * bars)
    edges = np.array([*times, time])
    old = all_edges(made.bars)
    moved = [replace(h, time=float(np.interp(h.time, old, edges))) for h in made.hits]
    return replace(made, hits=tuple(moved), duration=time + 1), edges


def test_a_typed_tempo_is_followed_where_the_record_drifts():
    made, edges = drifting()
    laid = on_tempo(made, 98, 4)
    lines = np.array([bar.start for bar in laid.bars])
    assert all(np.abs(lines - one).min() < 0.03 for one in edges[:-1:4])
    assert by_time(laid) == by_time(made)
    assert laid.readings[0].words == "4/4 at 98, typed"


def test_half_of_it_can_be_typed_too():
    made, _ = drifting(by=0.0)
    assert len(on_tempo(made, 50, 2).bars) == pytest.approx(24, abs=1)


def test_confirmed_stretches_keep_their_beats():
    made, _ = drifting(by=0.0)
    start, end = made.bars[4].start, made.bars[8].start
    laid = on_tempo(made, 140, 4, [(start, end)])
    kept = [beat for bar in laid.bars for beat in bar.beats if start - 1e-3 <= beat < end - 1e-3]
    assert kept == pytest.approx([beat for bar in made.bars[4:8] for beat in bar.beats])


@pytest.mark.parametrize("bpm", [5, 900])
def test_a_tempo_that_nobody_plays_is_refused(bpm):
    with pytest.raises(InvalidTranscription, match="type a tempo"):
        on_tempo(readable(), bpm, 4)


def test_without_strokes_tapping_is_offered():
    with pytest.raises(InvalidTranscription, match="tap along"):
        on_tempo(readable().with_hits([]), 100, 4)


@pytest.mark.parametrize("where", [-1.0, 1e308, float("nan"), float("inf")])
def test_a_bar_line_stays_within_the_recording(where):
    with pytest.raises(InvalidTranscription, match="outside the recording"):
        move_downbeat(readable(), 2, where, [])

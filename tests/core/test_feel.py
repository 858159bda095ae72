"""Feel: a composed pocket, swing, swell and ring come out as they were put in."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.feel.dynamics import (
    backbeat_words,
    dynamics,
    ghost_words,
    hat_words,
    swell_words,
)
from orchesis.feel.pace import pace_words, paces, pushes, ring_words
from orchesis.feel.pocket import expected_place, pocket_advice, pocket_words, pockets
from orchesis.listening.ear import Detail, Onset
from orchesis.listening.evidence import gathered, packed, unpacked
from orchesis.listening.levels import Ring, StrokeLevels, interval_of_median, rings, stroke_levels
from orchesis.music.instruments import Instrument
from orchesis.music.values import Bar, Feel, Meter, Section
from orchesis.rhythm.feel import measured_feel
from tests.composing import ROCK, song

HAT, SNARE, KICK = Instrument.HIHAT_CLOSED, Instrument.SNARE, Instrument.KICK
GHOSTED = {**ROCK, SNARE: ".g..X.g...g.X..g"}


def played(rows, late, *, bars=16, jitter=3.0, drift=0.0, seed=1):
    """A song whose drums are so many milliseconds late, by a hand that is not quite steady."""
    rng = np.random.default_rng(seed)
    piece = song([rows] * bars)
    hits = []
    for hit in piece.hits:
        ms = late.get("ghost" if hit.ghost else hit.instrument, 0.0) + rng.normal(0, jitter)
        ms += drift * hit.time / piece.bars[-1].end if hit.instrument is SNARE else 0.0
        hits.append(replace(hit, time=max(0.0, hit.time + ms / 1000)))
    return piece.with_hits(hits)


def by_voice(piece):
    return {pocket.voice: pocket for pocket in pockets(piece.bars, piece.hits, piece.feel)}


def test_a_backbeat_that_waits_is_measured_to_the_millisecond():
    found = by_voice(played(GHOSTED, {SNARE: 14.0, "ghost": 8.0, HAT: -3.0}))
    assert found["backbeat"].ms == pytest.approx(14.0, abs=2)
    assert found["ghosts"].ms == pytest.approx(8.0, abs=2)
    assert found["hat and ride"].ms == pytest.approx(-3.0, abs=2)
    assert found["kick"].ms == pytest.approx(0.0, abs=2)
    assert found["backbeat"].low <= 14.0 <= found["backbeat"].high
    assert pocket_words(found["backbeat"]).startswith("The backbeat sits 1")
    assert "behind the grid" in pocket_words(found["backbeat"])
    assert "waits 1" in pocket_advice(list(found.values()))


def test_what_is_on_the_grid_is_said_to_be_there():
    found = by_voice(played(ROCK, {}))
    assert pocket_words(found["backbeat"]) == "The backbeat sits on the grid."
    assert pocket_advice(list(found.values())).startswith("Hands and feet fall together")


def test_of_a_few_strokes_nothing_is_said():
    assert "backbeat" not in by_voice(played(ROCK, {SNARE: 14.0}, bars=4))
    assert "too few strokes" in pocket_advice([])


def test_a_backbeat_that_moves_over_the_song_has_a_trend_and_a_steady_one_has_none():
    assert by_voice(played(ROCK, {}, bars=32))["backbeat"].trend is None
    moved = by_voice(played(ROCK, {}, bars=32, drift=20.0))["backbeat"].trend
    assert moved == pytest.approx(20.0, abs=5)


@settings(max_examples=25, deadline=None)
@given(st.floats(-25, 25), st.integers(0, 999))
def test_the_interval_holds_what_was_put_in(late, seed):
    pocket = by_voice(played(ROCK, {SNARE: late}, bars=24, jitter=4.0, seed=seed))["backbeat"]
    assert pocket.ms == pytest.approx(late, abs=2.5)
    assert pocket.low <= pocket.ms <= pocket.high


def test_swing_is_no_pocket():
    """Off-beats of a swung song are due late: that is its feel, and nobody drags."""
    feel = Feel(swing_8=2.0, swing_16=None)
    assert expected_place(Fraction(1, 2), feel) == pytest.approx(2 / 3)
    assert expected_place(Fraction(1, 3), feel) == pytest.approx(1 / 3)
    straight = song([ROCK] * 16)
    swung = straight.with_hits(
        replace(hit, time=hit.time + (0.5 / 6 if (hit.position * 8) % 2 == 1 else 0.0))
        for hit in straight.hits
    )
    found = pockets(swung.bars, swung.hits, feel)
    assert all(abs(pocket.ms) < 1 for pocket in found)


def levels_of(piece, db):
    """Levels as they would be measured: of each note by a function of it."""
    classes = (KICK, SNARE, HAT)
    return StrokeLevels(
        classes,
        np.array([hit.time for hit in piece.hits]),
        np.array([classes.index(hit.instrument) for hit in piece.hits]),
        np.array([db(hit) for hit in piece.hits], np.float32),
    )


def measured(piece, db):
    return dynamics(piece.bars, piece.hits, piece.sections, levels_of(piece, db))


def test_ghosts_and_backbeats_are_told_in_decibels():
    piece = song([GHOSTED] * 8)
    found = measured(piece, lambda hit: -18.0 if hit.ghost else 0.0)
    assert found.ghosts is not None
    assert found.ghosts.db == pytest.approx(18.0)
    assert "18 dB below the backbeats" in ghost_words(found.ghosts)
    assert found.backbeat is not None
    assert "within 0.0 dB" in backbeat_words(found.backbeat)


def test_the_hat_leans_where_it_is_louder():
    piece = song([ROCK] * 8)
    found = measured(piece, lambda hit: 0.0 if (hit.position * 4).denominator == 1 else -6.0)
    words = hat_words(found.hat)
    assert words.startswith("The steady hand leans on 1 and 3 and takes back the & of 1")
    assert "by 6 dB" in words
    assert "2" not in dict(found.hat), "under the backbeat nobody can tell"
    even = measured(piece, lambda hit: 0.0)
    assert "evenly" in hat_words(even.hat)


def test_a_section_that_grows_is_named_and_a_level_one_is_not():
    piece = song([ROCK] * 16)
    end = piece.bars[-1].end
    assert "grows by" in swell_words(measured(piece, lambda hit: 8.0 * hit.time / end).swells)
    assert measured(piece, lambda hit: 0.0).swells == ()


def test_nothing_is_guessed_of_what_was_not_measured():
    piece = song([ROCK] * 2)
    found = measured(piece, lambda hit: 0.0)
    assert found.ghosts is None
    assert "Too few ghosts" in ghost_words(found.ghosts)
    assert "Too few" in backbeat_words(found.backbeat)


def bars_at(tempi):
    start, bars = 0.0, []
    for number, bpm in enumerate(tempi, 1):
        beat = 60.0 / bpm
        beats = tuple(start + index * beat for index in range(4))
        bars.append(Bar(number, start, start + 4 * beat, Meter(4, 4), beats, (4,) * 4))
        start += 4 * beat
    return bars


def test_a_chorus_that_is_hurried_into_is_said():
    bars = bars_at([100.0] * 6 + [103.0] * 2 + [102.0] * 8)
    sections = [
        Section("Verse", 0, bars[7].end, 8, 1),
        Section("Chorus", bars[7].end, bars[-1].end, 8, 9),
    ]
    led = pushes(bars, sections)
    assert [(push.into, round(push.bpm)) for push in led] == [("Chorus", 3)]
    words = pace_words(paces(bars, sections), led)
    assert "Chorus is the fastest at 102.0, Verse the slowest at 100.0" in words
    assert "hurries into Chorus by 3.0 bpm" in words
    level = bars_at([100.0] * 16)
    assert pace_words(paces(level, sections), pushes(level, sections)).startswith("All sections")


FRAME_RATE = 100.0


def struck(times, fall_db_a_second, loud):
    """Features of strokes of one drum that fall at a given rate, and the strokes."""
    frames = np.full((int((times[-1] + 2) * FRAME_RATE), 83), 0.0, np.float32)
    for time, level in zip(times, loud, strict=True):
        at = round(time * FRAME_RATE)
        for step in range(60):
            value = 1.0 + (level - fall_db_a_second * step / FRAME_RATE) / 60.0
            frames[at + step, 10:22] = np.maximum(frames[at + step, 10:22], max(0.0, value))
    classes = (SNARE,)
    curves = np.zeros((len(frames), 1), np.float32)
    onsets = [Onset(time, SNARE, 0.8, 0.9) for time in times]
    return Detail(classes, curves, curves, frames, None), onsets


@pytest.mark.parametrize("seconds", [0.08, 0.15, 0.28])
def test_how_long_a_snare_rings_is_measured(seconds):
    times = [1.0 + index for index in range(12)]
    detail, onsets = struck(times, 20 / seconds, [0.0] * 12)
    (ring,) = rings(onsets, detail, FRAME_RATE)
    assert ring.seconds == pytest.approx(seconds, rel=0.1)
    assert ring.strokes == 12


def test_strokes_under_others_are_not_asked_how_long_they_ring():
    detail, onsets = struck([1.0 + 0.2 * index for index in range(12)], 100, [0.0] * 12)
    assert rings(onsets, detail, FRAME_RATE) == ()


def test_levels_tell_how_much_louder_one_stroke_is_than_another():
    times = [1.0 + index for index in range(12)]
    detail, onsets = struck(times, 150, [0.0, -12.0] * 6)
    levels = stroke_levels(onsets, detail, FRAME_RATE)
    _, decibels = levels.of(SNARE)
    assert decibels[0] - decibels[1] == pytest.approx(12.0, abs=0.5)


def test_levels_and_rings_survive_packing():
    times = [1.0 + index for index in range(12)]
    detail, onsets = struck(times, 150, [0.0, -12.0] * 6)
    before = gathered(detail, FRAME_RATE, onsets)
    after = unpacked(packed(before))
    assert after.levels is not None
    assert before.levels is not None
    assert after.levels.decibels == pytest.approx(before.levels.decibels, abs=0.05)
    assert after.rings == before.rings
    assert unpacked(packed(gathered(detail, FRAME_RATE))).levels is None


def test_words_for_a_ring_say_what_to_do():
    assert "dry" in ring_words(Ring(SNARE, 0.08, 0.07, 0.09, 20))
    assert "rings" in ring_words(Ring(SNARE, 0.5, 0.4, 0.6, 20))
    assert "felt beater" in ring_words(Ring(KICK, 0.1, 0.09, 0.11, 20))


def test_the_interval_of_a_median_narrows_with_more_of_it():
    rng = np.random.default_rng(3)
    few, many = (np.sort(rng.normal(0, 5, count)) for count in (20, 400))
    width = [high - low for low, high in map(interval_of_median, (few, many))]
    assert width[1] < width[0] / 2


@pytest.mark.parametrize("late", [-16.0, 0.0, 16.0])
def test_ghosts_that_sit_with_a_late_backbeat_are_no_swing(late):
    rows = {**ROCK, SNARE: "....X..g....X..g"}
    piece = played(rows, {SNARE: late, "ghost": late}, bars=24)
    found = measured_feel(piece.bars, piece.hits, Feel(1.0, 1.2 if late > 0 else 0.9))
    assert found.swing_16 == pytest.approx(1.0, abs=0.05)


def test_a_feel_that_nothing_speaks_of_stays_as_it_was():
    piece = played({KICK: "x...x...x...x..."}, {})
    assert measured_feel(piece.bars, piece.hits, Feel(1.4, None)) == Feel(1.4, None)

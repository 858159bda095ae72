"""Where fills land."""

import numpy as np
import pytest

from orchesis.music.instruments import Instrument
from orchesis.music.values import Meter
from orchesis.rhythm.bars import beat_evidence, find_bar_lines
from orchesis.rhythm.landing import landings
from orchesis.rhythm.readings import rank_readings
from tests.composing import ROCK, heard, song

SNARE, TOM, HAT = Instrument.SNARE, Instrument.TOM_MID, Instrument.HIHAT_CLOSED
KICK, CROSS_STICK, RIDE = Instrument.KICK, Instrument.CROSS_STICK, Instrument.RIDE
LAST_BEAT = {**ROCK, HAT: "x.x.x.x.x.x.....", SNARE: "....X.......xxxx"}
TWO_BEATS = {**ROCK, HAT: "x.x.x.x.........", SNARE: "....X...xxxx....", TOM: "............xxxx"}


def landed(bars):
    """The beats on which fills land, in the song of these bars."""
    piece = song(bars)
    strokes = [(hit.time, hit.instrument, hit.velocity / 127) for hit in piece.hits]
    beats = np.array(piece.beats)
    found = landings(heard(strokes, piece.duration), beats)
    return [int(beat) for beat in np.flatnonzero(found)]


@pytest.mark.parametrize("fill", [LAST_BEAT, TWO_BEATS])
def test_a_fill_lands_on_the_one_after_it(fill):
    assert landed([ROCK] * 7 + [fill] + [ROCK] * 4) == [32]


def test_a_groove_lands_nowhere():
    assert landed([ROCK] * 12) == []


def test_a_groove_on_the_toms_is_no_fill():
    toms = {KICK: "x.......x.......", TOM: "x.xxx.xxx.xxx.xx"}
    assert landed([ROCK] * 6 + [toms] * 8 + [ROCK] * 2) == []


def test_what_the_song_ends_with_lands_nowhere():
    assert landed([ROCK] * 11 + [TWO_BEATS]) == []


def test_fills_tell_the_one_where_the_groove_is_the_same_from_half_bar_to_half_bar():
    """Half bars that are all alike: only the fills say which of them begins a bar."""
    same = {HAT: "x.x.x.x.x.x.x.x.", KICK: "x.......x.......", SNARE: "....x.......x..."}
    fill = {**same, HAT: "x.x.x.x.........", SNARE: "....x...xxxxxxxx"}
    piece = song([same] * 3 + [fill] + [same] * 3 + [fill] + [same] * 4)
    strokes = [(hit.time, hit.instrument, hit.velocity / 127) for hit in piece.hits]
    beats = np.array(piece.beats)
    lines = find_bar_lines(beat_evidence(heard(strokes, piece.duration), beats), "four")
    assert set(np.array(lines.downbeats) % 4) == {0}


def first_reading(bars, beats=4):
    """The metre in which a song of these bars is counted first."""
    piece = song(bars, beats=beats)
    strokes = [(hit.time, hit.instrument, hit.velocity / 127) for hit in piece.hits]
    return rank_readings(heard(strokes, piece.duration), np.array(piece.beats))[0].meter


SAMBA = {RIDE: "XxxxXxxx", CROSS_STICK: "x..x..x.", KICK: "x..xx..x"}
SAMBA_FILL = {SNARE: "X.xxX.xx", KICK: "x...x..."}


def test_fills_that_land_in_the_middle_of_bars_of_four_say_that_bars_have_two_beats():
    bars = [SAMBA] * 7 + [SAMBA_FILL] + [SAMBA] * 8 + [SAMBA_FILL]
    bars += [SAMBA] * 6 + [SAMBA_FILL] + [SAMBA] * 8 + [SAMBA_FILL] + [SAMBA] * 6
    assert first_reading(bars, beats=2) == Meter(2, 4)


def test_fills_at_the_ends_of_bars_of_four_say_nothing_of_the_kind():
    bars = ([ROCK] * 7 + [TWO_BEATS]) * 4
    assert first_reading(bars) == Meter(4, 4)


def test_one_bar_of_two_beats_does_not_make_the_whole_song_one():
    """Four bars, a half one, and on: later fills land on ones again."""
    piece = song([ROCK] * 7 + [TWO_BEATS] + [ROCK] * 7 + [TWO_BEATS] + [ROCK] * 4)
    strokes = [
        (hit.time + (1.0 if hit.time >= 24.0 else 0.0), hit.instrument, hit.velocity / 127)
        for hit in piece.hits
    ]
    beats = np.arange(0, piece.duration, 0.5)
    assert rank_readings(heard(strokes, piece.duration + 1), beats)[0].meter == Meter(4, 4)

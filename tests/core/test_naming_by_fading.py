"""A crash goes on for seconds, an open hat for some tenths, a closed one not at all."""

from __future__ import annotations

import numpy as np
import pytest

from orchesis.listening.ear import Detail, Onset
from orchesis.listening.features import BANDS
from orchesis.listening.naming import name_of, names_by_fading, relabel_by_share, renamed
from orchesis.listening.second_pass import HeardSong
from orchesis.music.instruments import Instrument

CRASH, OPEN, CLOSED = Instrument.CRASH, Instrument.HIHAT_OPEN, Instrument.HIHAT_CLOSED
RATE = 100.0
BAR = 2.0


def strokes(name: Instrument, each: float, bars: int = 8, confidence: float = 0.8) -> list[Onset]:
    """One stroke every so many seconds, as that name."""
    return [Onset(float(t), name, 0.7, confidence) for t in np.arange(0.5, bars * BAR, each)]


def sounding(onsets: list[Onset], fade: float, bars: int = 8) -> Detail:
    """A song in which every stroke fades by so many decibels a second, in all bands alike."""
    frames = round(bars * BAR * RATE) + 50
    level = np.full((frames, BANDS), -3.0)
    for onset in onsets:
        since = (np.arange(frames) - round(onset.time * RATE)) / RATE
        ringing = np.where(since >= 0, -fade / 20 * np.maximum(since, 0), -3.0)
        level = np.maximum(level, ringing[:, None])
    features = np.clip(level / 3 + 1, 0, 1.4).astype(np.float32)
    classes = (CRASH, OPEN, CLOSED)
    nothing = np.zeros((frames, 3), np.float32)
    return Detail(classes, nothing, nothing, features, np.ones((frames, BANDS), np.float32))


def heard(detail: Detail, bars: int = 8) -> HeardSong:
    """What the network said of a song of so many bars."""
    return HeardSong(
        onsets=detail.onsets,
        rise=np.zeros((0, BANDS), np.float32),
        frame_rate=RATE,
        classes=detail.classes,
        edges=BAR * np.arange(bars + 1.0),
    )


def named(name: Instrument, each: float, fade: float) -> Instrument:
    """What strokes of a name are called in the end."""
    onsets = strokes(name, each, 16)
    detail = sounding(onsets, fade, 16)
    names = names_by_fading(onsets, detail, heard(detail, 16))
    return names.get(name, name)


@pytest.mark.parametrize(
    ("heard", "each", "fade", "called"),
    [
        (CRASH, 0.5, 12.0, CRASH),  # ridden: a chorus on the crash
        (CRASH, 0.5, 42.0, OPEN),
        (CRASH, 0.5, 95.0, CLOSED),
        (CRASH, 5.0, 95.0, CRASH),  # an accent now and then: a splash, or one that is choked
        (OPEN, 0.5, 35.0, OPEN),
        (OPEN, 0.5, 100.0, CLOSED),  # a loose pair, played closed
        (OPEN, 2.0, 100.0, CLOSED),
    ],
)
def test_plates_are_called_what_they_fade_like(
    heard: Instrument, each: float, fade: float, called: Instrument
) -> None:
    assert named(heard, each, fade) is called


@pytest.mark.parametrize(("likely", "called"), [(0.5, {OPEN: CLOSED}), (0.97, {})])
def test_of_open_hats_that_a_band_hides_early_the_sure_network_is_believed(
    likely: float, called: dict[Instrument, Instrument]
) -> None:
    onsets = strokes(OPEN, 0.5)
    detail = sounding(onsets, 90.0)
    for onset in onsets:
        detail.onsets[round(onset.time * RATE) + 1] = (0.0, likely, 0.1)
    assert names_by_fading(onsets, detail, heard(detail)) == called


def test_a_few_strokes_say_nothing_of_a_song() -> None:
    onsets = strokes(OPEN, 0.5)[:5]
    detail = sounding(onsets, 100.0)
    assert names_by_fading(onsets, detail, heard(detail)) == {}


def test_strokes_that_the_next_one_cuts_off_are_not_measured() -> None:
    fades = np.full(12, np.nan)
    assert name_of(OPEN, fades, strokes(OPEN, 0.5)[:12], 8) is OPEN
    fades[:6] = 100.0
    assert name_of(OPEN, fades, strokes(OPEN, 0.5)[:12], 8) is CLOSED


def test_all_strokes_of_the_name_get_the_new_one_and_say_why() -> None:
    onsets = [*strokes(CRASH, 1.0), Onset(0.25, Instrument.SNARE, 0.9, 0.9)]
    onsets.sort(key=lambda onset: onset.time)
    called = renamed(onsets, {CRASH: OPEN})
    assert [o.time for o in called] == [o.time for o in onsets]
    assert {o.instrument for o in called} == {OPEN, Instrument.SNARE}
    assert all((o.reason == "fading") == (o.instrument is OPEN) for o in called)
    assert renamed(onsets, {}) == onsets


@pytest.mark.parametrize(("sure", "left"), [(0.9, OPEN), (0.4, CLOSED)])
def test_of_two_hats_at_once_the_surer_is_kept(sure: float, left: Instrument) -> None:
    both = [Onset(1.0, CRASH, 0.8, sure), Onset(1.01, CLOSED, 0.5, 0.6)]
    assert [o.instrument for o in renamed(both, {CRASH: OPEN})] == [left]


def test_two_hats_of_which_none_was_renamed_are_left_alone() -> None:
    both = [Onset(1.0, OPEN, 0.8, 0.9), Onset(1.01, CLOSED, 0.5, 0.6)]
    assert renamed(both, {CRASH: OPEN}) == both


def voice(instrument, count, *, start=0.0, every=0.25, confidence=0.8):
    return [Onset(start + every * i, instrument, 0.6, confidence) for i in range(count)]


def in_time(*voices):
    return sorted((onset for voice in voices for onset in voice), key=lambda onset: onset.time)


HAT, OPEN, BELL, RIDE = (
    Instrument.HIHAT_CLOSED,
    Instrument.HIHAT_OPEN,
    Instrument.RIDE_BELL,
    Instrument.RIDE,
)


@pytest.mark.parametrize(
    ("opened", "closed", "expected"),
    [(90, 10, {OPEN: HAT}), (70, 30, {}), (8, 0, {}), (0, 40, {})],
)
def test_a_hat_that_is_open_nearly_always_is_a_loose_pair(opened, closed, expected):
    onsets = in_time(voice(OPEN, opened), voice(HAT, closed, start=100))
    assert relabel_by_share(onsets) == expected


def test_a_bell_that_outnumbers_its_ride_is_the_ride():
    assert relabel_by_share(in_time(voice(BELL, 40), voice(RIDE, 10, start=50))) == {BELL: RIDE}
    assert relabel_by_share(in_time(voice(BELL, 20), voice(RIDE, 60, start=50))) == {}


def test_of_toms_without_a_high_one_the_middle_one_is_it():
    high, mid, floor = Instrument.TOM_HIGH, Instrument.TOM_MID, Instrument.TOM_FLOOR
    assert relabel_by_share(in_time(voice(mid, 4), voice(floor, 4, start=9))) == {mid: high}
    both = in_time(voice(mid, 4), voice(high, 4, start=5), voice(floor, 4, start=9))
    assert relabel_by_share(both) == {}


def test_two_strokes_that_get_one_name_are_one():
    onsets = in_time(voice(BELL, 20), voice(RIDE, 5, start=0.001, confidence=0.9))
    named = renamed(onsets, relabel_by_share(onsets), "share")
    assert {onset.instrument for onset in named} == {RIDE}
    assert len(named) == 20

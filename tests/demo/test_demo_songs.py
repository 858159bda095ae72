"""The demo songs: composed as promised, shipped with scores that fit their sound."""

import json
import math
from itertools import pairwise
from pathlib import Path

import jsonschema
import numpy as np
import pytest

from demo.score import beat_times, divisions_of, sounding_time, swung, true_score
from demo.songbook import all_songs
from orchesis.audio.decode import decode
from orchesis.limbs.kit import STANDARD
from orchesis.limbs.playable import problems_of
from orchesis.listening.features import HOP, band_spectrogram
from orchesis.music.instruments import Instrument
from orchesis.music.json import SCHEMA_PATH, loads
from orchesis.practice.material import fill_material, groove_material, has_groove
from orchesis.practice.plans import Method, make_plan

SONGS = Path(__file__).resolve().parents[2] / "demo" / "songs"
BY_SLUG = {song.slug: song for song in all_songs()}


def shipped(slug):
    return loads((SONGS / f"{slug}.score.json").read_text())


DENSE = "last-train-east"


def test_there_are_four_songs_with_sound_and_score():
    assert len(BY_SLUG) == 4
    assert {path.stem for path in SONGS.glob("*.ogg")} == set(BY_SLUG)


@pytest.mark.parametrize("slug", BY_SLUG)
def test_the_shipped_score_is_the_composed_one_and_keeps_to_the_format(slug):
    text = (SONGS / f"{slug}.score.json").read_text()
    jsonschema.validate(json.loads(text), json.loads(SCHEMA_PATH.read_text()))
    score, again = loads(text), true_score(BY_SLUG[slug], {})
    assert [hit.place for hit in score.hits] == [hit.place for hit in again.hits]
    assert len(score.bars) == len(BY_SLUG[slug].bars)


def test_one_song_is_as_long_and_dense_as_a_record():
    score = shipped(DENSE)
    assert 200 <= score.duration <= 220
    assert len(score.sections) == 20
    assert {str(bar.meter) for bar in score.bars} == {"4/4", "7/8"}
    assert len(score.hits) > 16 * len(score.bars)
    lengths = [bar.end - bar.start for bar in score.bars if str(bar.meter) == "4/4"]
    assert max(lengths) / min(lengths) == pytest.approx(4 / 3, abs=0.01)


@pytest.mark.parametrize("slug", BY_SLUG)
def test_each_is_small_and_the_others_last_a_minute_or_two(slug):
    assert slug == DENSE or 60 <= shipped(slug).duration <= 120
    assert (SONGS / f"{slug}.ogg").stat().st_size < 4_000_000


@pytest.mark.parametrize(
    ("slug", "tempo", "meter"),
    [
        ("harbour-lights-out", 112, "4/4"),
        ("rain-on-the-awning", 84, "4/4"),
        ("steps-to-the-market", 96, "2/4"),
        (DENSE, 170, "4/4"),
    ],
)
def test_tempo_and_metre_are_as_announced(slug, tempo, meter):
    score = shipped(slug)
    assert score.tempo_bpm == pytest.approx(tempo, rel=0.01)
    assert str(score.meter) == meter


def test_the_swung_song_breathes_by_three_percent_and_has_ghosts():
    score = shipped("rain-on-the-awning")
    tempo = 60 / np.diff(score.beats)
    assert tempo.max() / tempo.min() == pytest.approx(1.062, abs=0.01)
    assert score.feel.swing_16 == 1.5
    assert sum(hit.ghost for hit in score.hits) > 60


def test_choruses_are_on_the_ride_and_begin_with_a_crash():
    score = shipped("harbour-lights-out")
    for section in score.sections:
        drums = {
            hit.instrument
            for hit in score.hits
            if section.first_bar <= hit.bar < section.first_bar + section.bars
        }
        if section.label.startswith("Chorus"):
            assert {Instrument.RIDE, Instrument.CRASH} <= drums
        if section.label.startswith("Verse"):
            assert Instrument.RIDE not in drums
    assert score.fills


def test_the_market_song_is_a_cross_stick_groove_with_foot_hat():
    score = shipped("steps-to-the-market")
    counts = {i: sum(hit.instrument is i for hit in score.hits) for i in Instrument}
    assert counts[Instrument.CROSS_STICK] > 100
    assert counts[Instrument.HIHAT_FOOT] > 80
    assert counts[Instrument.RIDE] > 350


@pytest.mark.parametrize("slug", BY_SLUG)
def test_the_sound_begins_where_the_score_says(slug):
    """Over all kicks and snares: energy rises at the written time, not 30 ms before or after."""
    recording = decode(SONGS / f"{slug}.ogg")
    bands = band_spectrogram(recording.samples[: 44_100 * 40], 44_100, lambda share: None)
    rise = np.maximum(0, np.diff(np.log10(1e-4 + bands), axis=0)).mean(axis=1)
    drums = {Instrument.KICK, Instrument.SNARE, Instrument.CROSS_STICK}
    times = [h.time for h in shipped(slug).hits if h.instrument in drums and 1 < h.time < 39]
    frames = np.round(np.array(times) * 44_100 / HOP).astype(int)
    profile = [float(np.mean(rise[frames + shift])) for shift in range(-8, 9)]
    assert abs(int(np.argmax(profile)) - 8) <= 3


@pytest.mark.parametrize(
    ("place", "swing_8", "swing_16", "expected"),
    [
        (0.25, 1.0, 1.0, 0.25),
        (0.25, 1.0, 1.5, 0.3),
        (0.75, 1.0, 1.5, 0.8),
        (0.5, 1.0, 1.5, 0.5),
        (0.5, 2.0, 1.0, 2 / 3),
        (1.0, 2.0, 2.0, 1.0),
    ],
)
def test_swing_moves_the_off_beats_and_nothing_else(place, swing_8, swing_16, expected):
    assert swung(place, swing_8, swing_16) == pytest.approx(expected)


def test_beats_follow_the_tempo_curve():
    song = BY_SLUG["rain-on-the-awning"]
    beats = beat_times(song)
    assert len(beats) == 4 * len(song.bars) + 1
    assert beats[0] == song.lead_in
    assert beats[12] - beats[11] == pytest.approx(60 / (84 * (1 + 0.03 * math.sin(1))))
    assert sounding_time(song, beats, 2, 0.0) == pytest.approx(beats[8])


def test_a_beat_is_written_in_the_coarsest_parts_that_hold_it():
    bar = next(bar for bar in BY_SLUG["harbour-lights-out"].bars if bar.fill_from)
    divisions = divisions_of(bar, 4)
    assert divisions[3] == 4
    assert divisions[0] == 2


@pytest.mark.parametrize("slug", BY_SLUG)
def test_every_plan_of_every_section_and_fill_ends_at_all_of_it(slug):
    score = shipped(slug)
    materials = [
        groove_material(score, section) for section in score.sections if has_groove(score, section)
    ]
    materials += [fill_material(score, fill) for fill in score.fills]
    assert len(materials) > len(score.sections) / 2
    for material in materials:
        for method in Method:
            if method is Method.FILL and not material.is_fill:
                continue
            plan = make_plan(material, method)
            whole = {hit.place for hit in plan[-1].hits}
            assert {hit.place for hit in material.hits} <= whole
            for one, other in pairwise(plan):
                assert one.look != other.look
            for step in plan:
                assert not problems_of(step.hits, score.meter.pulses, STANDARD)

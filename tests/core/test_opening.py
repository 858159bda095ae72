"""How far a hat is open: told from its fading, kept in files, shown in the signs."""

import xml.etree.ElementTree as ET
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.chart.key import signs_of
from orchesis.chart.musicxml import to_musicxml
from orchesis.chart.options import ChartOptions, Notation, Reading
from orchesis.chart.reading_pages import chart_pages
from orchesis.chart.readings import make_score
from orchesis.edits.edit import Edit, explain
from orchesis.errors import InvalidTranscription
from orchesis.exchange.musicxml_in import read_musicxml
from orchesis.listening.ear import Detail, Onset
from orchesis.listening.features import BANDS
from orchesis.listening.opening import amount_of, fading, together, with_openings
from orchesis.music.instruments import Instrument
from orchesis.music.json import hit_from_json, hit_to_json
from orchesis.music.values import Hit, written
from tests.composing import song

CLOSED, OPEN = Instrument.HIHAT_CLOSED, Instrument.HIHAT_OPEN
RATE = 100.0
HAT_BANDS = slice(60, BANDS)


def played(strokes, seconds=20.0):
    """Onsets and features of hats (time, drum, decibels a second) that fade as straight lines."""
    features = np.zeros((round(seconds * RATE), BANDS), np.float32)
    for time, _, fade in strokes:
        first = round(time * RATE)
        # A decade of power is 10 dB, and 1/6 in the features.
        fall = 0.9 - fade / 60.0 * np.arange(60) / RATE
        features[first : first + 60, HAT_BANDS] = 0.0
        features[first : first + 60, HAT_BANDS] = np.maximum(0, fall)[: len(features) - first, None]
    onsets = [Onset(time, drum, 0.5, 0.9) for time, drum, _ in strokes]
    curves = np.zeros((len(features), 1), np.float32)
    return onsets, Detail((CLOSED,), curves, curves, features, None, None)


def bars_of(*fades):
    """A second each: three closed strokes, then one that is called open and fades so fast."""
    strokes = []
    for bar, fade in enumerate(fades):
        strokes += [(bar + 0.25 * k, CLOSED, 240.0) for k in range(3)]
        strokes.append((bar + 0.75, OPEN, fade))
    return strokes


def test_fading_is_measured_in_decibels_a_second():
    onsets, detail = played(bars_of(*[30.0] * 8))
    found = fading(onsets, detail, RATE)
    hats = np.array([onset.instrument is OPEN for onset in onsets])
    assert np.median(found[hats]) == pytest.approx(30, rel=0.1)
    assert np.median(found[~hats]) == pytest.approx(240, rel=0.15)


@pytest.mark.parametrize(("fade", "half"), [(25.0, False), (40.0, False), (100.0, True)])
def test_a_pair_that_is_always_struck_the_same_way_gets_one_word(fade, half):
    onsets, detail = played(bars_of(*[fade] * 10))
    heard = [one for one in with_openings(onsets, detail, RATE) if one.instrument is OPEN]
    assert len({one.opening for one in heard}) == 1
    hit = Hit(1.0, OPEN, 80, 1, Fraction(0), opening=heard[0].opening)
    assert hit.is_half_open is half


def test_wide_and_half_open_strokes_of_one_song_are_told_apart():
    fades = [25.0, 110.0] * 6
    onsets, detail = played(bars_of(*fades))
    heard = [one for one in with_openings(onsets, detail, RATE) if one.instrument is OPEN]
    halves = [Hit(1.0, OPEN, 80, 1, Fraction(0), opening=one.opening).is_half_open for one in heard]
    assert halves == [fade > 60 for fade in fades]


def test_strokes_that_another_follows_at_once_say_nothing_and_go_with_the_rest():
    strokes = bars_of(*[30.0] * 8)
    strokes += [(8.0, OPEN, 300.0), (8.05, CLOSED, 240.0)]
    onsets, detail = played(strokes)
    heard = with_openings(onsets, detail, RATE)
    assert np.isnan(fading(onsets, detail, RATE)[-2])
    assert heard[-2].opening == heard[3].opening


def test_of_few_strokes_nothing_is_said():
    onsets, detail = played(bars_of(90.0, 90.0))
    assert all(one.opening is None for one in with_openings(onsets, detail, RATE))


@given(st.lists(st.floats(8, 600), min_size=1, max_size=30), st.floats(120, 600))
def test_what_fades_slower_is_never_less_open(fades, closed):
    amounts = amount_of(np.sort(fades), np.full(8, closed))
    assert ((amounts >= 0) & (amounts <= 1)).all()
    assert (np.diff(amounts) <= 1e-9).all()


@given(st.lists(st.floats(0, 1) | st.just(float("nan")), min_size=1, max_size=30))
def test_every_stroke_gets_an_amount_of_at_most_two(amounts):
    values = np.array(amounts)
    if np.isnan(values).all():
        values[0] = 0.5
    said = together(values)
    assert not np.isnan(said).any()
    assert len(np.unique(said)) <= 2


def half_open_song():
    made = song([{OPEN: "x...x...x...x...", Instrument.KICK: "x.......x......."}] * 2)
    hats = [hit for hit in made.hits if hit.instrument is OPEN]
    halves = {id(hit) for hit in hats[::2]}
    hits = tuple(replace(h, opening=0.4) if id(h) in halves else h for h in made.hits)
    return replace(made, hits=hits)


def test_it_is_kept_in_json_and_bounded():
    hit = Hit(1.0, OPEN, 80, 1, Fraction(0), opening=0.4)
    assert hit_from_json(hit_to_json(hit)) == hit
    before = {name: value for name, value in hit_to_json(hit).items() if name != "opening"}
    assert hit_from_json(before).opening is None, "songs of earlier versions"
    with pytest.raises(InvalidTranscription, match="open by"):
        replace(hit, opening=1.2)


def test_only_a_struck_open_hat_is_half_open():
    assert not Hit(1.0, CLOSED, 80, 1, Fraction(0), opening=0.4).is_half_open
    assert not Hit(1.0, OPEN, 80, 1, Fraction(0)).is_half_open
    assert not Hit(1.0, OPEN, 80, 1, Fraction(0), opening=0.9).is_half_open


def test_an_edit_says_what_it_does():
    wide = Hit(1.0, OPEN, 80, 1, Fraction(0))
    half = replace(wide, opening=0.4)
    meter = half_open_song().meter
    assert explain(Edit(wide, half), meter).endswith("1 half open")
    assert explain(Edit(half, wide), meter).endswith("1 wide open")


def test_musicxml_has_the_sign_and_it_is_read_again():
    made = half_open_song()
    text = to_musicxml(made, ChartOptions(reading=Reading.NOTE_FOR_NOTE))
    root = ET.fromstring(text)
    assert len(list(root.iter("other-technical"))) == 4
    assert len(list(root.iter("open"))) == 4
    back = read_musicxml(text.encode() if isinstance(text, str) else text)
    halves = [hit.is_half_open for hit in written(back.song.hits) if hit.instrument is OPEN]
    assert halves == [True, False] * 4


@pytest.mark.parametrize("notation", list(Notation))
def test_the_chart_draws_it_and_its_key_names_it(notation):
    options = ChartOptions(notation=notation, reading=Reading.NOTE_FOR_NOTE)
    mine = half_open_song()
    wide = replace(mine, hits=tuple(replace(hit, opening=None) for hit in mine.hits))
    words = [[word for _, word in signs_of(make_score(one, options))] for one in (mine, wide)]
    assert "half open" in words[0]
    assert "half open" not in words[1]
    drawn = [
        "".join(page.svg() for page in chart_pages(one, options).pages) for one in (mine, wide)
    ]
    assert drawn[0] != drawn[1]
    if notation is Notation.STAFF:
        assert ["E5E6" in text for text in drawn] == [True, False]

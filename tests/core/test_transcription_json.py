"""The open format: what is written can be read, by us and by its schema."""

import json
from dataclasses import replace
from fractions import Fraction

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import Instrument, Limb, Status
from orchesis.music.json import (
    SCHEMA_PATH,
    dumps,
    from_json,
    hit_from_json,
    hit_to_json,
    loads,
    to_json,
)
from orchesis.music.values import Hit
from tests.composing import ROCK, song

positions = st.builds(
    lambda part, of: Fraction(part % of, of),
    st.integers(0, 200),
    st.sampled_from([4, 8, 12, 16, 24]),
)
any_hit = st.builds(
    Hit,
    time=st.integers(0, 6_000_000).map(lambda n: n / 10_000),
    instrument=st.sampled_from(Instrument),
    velocity=st.integers(1, 127),
    bar=st.integers(1, 3),
    position=positions,
    ghost=st.booleans(),
    accent=st.booleans(),
    confidence=st.integers(0, 1000).map(lambda n: n / 1000),
    status=st.sampled_from(Status),
    limb=st.none() | st.sampled_from(Limb),
    reason=st.text(max_size=20),
)


@given(any_hit)
def test_a_hit_survives_the_format(hit):
    assert hit_from_json(json.loads(json.dumps(hit_to_json(hit)))) == hit


@given(st.lists(any_hit, max_size=30, unique_by=lambda hit: hit.place))
def test_a_song_survives_the_format_without_losing_a_hit(strokes):
    written = song([ROCK] * 3).with_hits(strokes)
    assert loads(dumps(written)) == written


def test_what_is_written_keeps_to_the_schema():
    schema = json.loads(SCHEMA_PATH.read_text())
    jsonschema.validate(to_json(song([ROCK] * 2)), schema)


def test_the_schema_refuses_a_position_that_is_no_fraction():
    data = to_json(song([ROCK]))
    data["hits"][0]["position"] = "0.25"
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(data, json.loads(SCHEMA_PATH.read_text()))


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"format": "something"}, "not a transcription"),
        ({"version": 99}, "version 99"),
        ({"meter": [0, 4]}, "0 beats"),
        ({"bars": []}, "no bar 1"),
        ({"beats": None}, "cannot be read"),
    ],
)
def test_a_broken_file_is_refused_with_its_reason(change, says):
    data = {**to_json(song([ROCK])), **change}
    with pytest.raises(InvalidTranscription, match=says):
        from_json(data)


def test_two_strokes_of_one_drum_at_one_place_are_refused():
    data = to_json(song([ROCK]))
    data["hits"].append(data["hits"][0])
    with pytest.raises(InvalidTranscription, match="two"):
        from_json(data)


def test_text_that_is_not_json_is_refused():
    with pytest.raises(InvalidTranscription, match="not JSON"):
        loads("tempo: 120")


@pytest.mark.parametrize(
    "wrong",
    [
        {"velocity": 0},
        {"velocity": 128},
        {"position": Fraction(1)},
        {"confidence": 1.5},
        {"time": -1.0},
    ],
)
def test_an_impossible_hit_cannot_be_made(wrong):
    hit = Hit(1.0, Instrument.SNARE, 80, 1, Fraction(1, 4))
    with pytest.raises(InvalidTranscription):
        replace(hit, **wrong)

"""Standard MIDI files: every stroke where it sounded, or on the grid."""

import io
from dataclasses import replace
from itertools import pairwise

import mido
import pytest

from orchesis.chart.midi import TICKS_PER_BEAT, to_midi
from orchesis.chart.notation import STAFF
from orchesis.music.instruments import Instrument, Ornament
from orchesis.music.values import Meter, Transcription
from tests.composing import ROCK, song


def midi_of(piece, **options):
    return mido.MidiFile(file=io.BytesIO(to_midi(piece, **options)))


def strokes_of(midi):
    """(seconds, key) of every stroke."""
    now, found = 0.0, []
    for message in midi:
        now += message.time
        if message.type == "note_on" and message.velocity:
            found.append((now, message.note))
    return found


def test_midi_keeps_every_stroke_at_the_time_at_which_it_sounded():
    piece = song([ROCK] * 3)
    late = piece.with_hits(
        type(hit)(
            **{**{n: getattr(hit, n) for n in hit.__dataclass_fields__}, "time": hit.time + 0.013}
        )
        for hit in piece.hits
    )
    found = strokes_of(midi_of(late))
    expected = sorted((hit.time, STAFF[hit.instrument].midi_key) for hit in late.hits)
    assert len(found) == len(expected)
    for (time, key), (true_time, true_key) in zip(sorted(found), expected, strict=True):
        assert key == true_key
        assert time == pytest.approx(true_time, abs=0.002)


def test_midi_on_the_grid_is_evenly_spaced_in_ticks():
    midi = midi_of(song([ROCK] * 2), quantised=True)
    now, hats = 0, []
    for message in midi.tracks[1]:
        now += message.time
        if message.type == "note_on" and message.note == STAFF[Instrument.HIHAT_CLOSED].midi_key:
            hats.append(now)
    assert {after - before for before, after in pairwise(hats)} == {TICKS_PER_BEAT // 2}


def test_midi_names_the_sections_and_plays_on_channel_ten():
    midi = midi_of(song([ROCK]))
    assert [m.text for m in midi.tracks[0] if m.type == "marker"] == ["Verse"]
    assert {m.channel for m in midi.tracks[1] if m.type == "note_on"} == {9}


def test_a_song_without_bars_gives_a_file_without_strokes():
    empty = Transcription(0.0, Meter(4, 4), (), (), title="Nothing")
    assert strokes_of(midi_of(empty)) == []


@pytest.mark.parametrize(
    ("ornament", "strokes"),
    [(Ornament.FLAM, 2), (Ornament.DRAG, 3), (Ornament.BUZZ, 4), (None, 1)],
)
def test_flams_drags_and_buzzes_are_played(ornament, strokes):
    plain = song([{Instrument.SNARE: "....x..........."}])
    made = plain.with_hits(replace(hit, ornament=ornament) for hit in plain.hits)
    heard = [m for m in midi_of(made, quantised=True) if m.type == "note_on" and m.velocity]
    assert len(heard) == strokes
    assert sorted(m.velocity for m in heard)[-1] == 84

"""Songs by people: read from MIDI as they are, cut into stretches, played by somebody."""

import io
import struct
from dataclasses import replace

import mido
import numpy as np
import pytest

from orchesis.music.instruments import Instrument
from training.human import (
    FEWEST_STROKES,
    SongPicker,
    family_of,
    is_kept,
    song_of,
    wad_songs,
)
from training.whole import whole_songs

TICKS = 480
BARS = 24


def midi_bytes(*, metre=(4, 4), drums=True, bpm=120, beat_ticks=TICKS):
    """Bars of kick, snare and hat with a bass under them; a beat of theirs lasts so many ticks."""
    midi = mido.MidiFile(type=1, ticks_per_beat=TICKS)
    head = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(bpm))])
    if metre:
        numerator, denominator = metre
        head.append(
            mido.MetaMessage("time_signature", numerator=numerator, denominator=denominator)
        )
    track = mido.MidiTrack([mido.Message("program_change", channel=1, program=33)])
    for beat in range(4 * BARS):
        keys = [(9, 42), (9, 36 if beat % 2 == 0 else 38)] if drums else []
        for channel, key in [*keys, (1, 40)]:
            track.append(mido.Message("note_on", channel=channel, note=key, velocity=100))
        track.append(mido.Message("note_off", channel=1, note=40, time=beat_ticks))
    midi.tracks += [head, track]
    file = io.BytesIO()
    midi.save(file=file)
    return file.getvalue()


def test_a_song_is_read_with_its_strokes_its_band_and_its_bars():
    song = song_of("plain", midi_bytes())
    assert len(song.strokes) == 2 * 4 * BARS
    assert {stroke.instrument for stroke in song.strokes} == {
        Instrument.KICK,
        Instrument.SNARE,
        Instrument.HIHAT_CLOSED,
    }
    assert [note.program for note in song.notes] == [33] * 4 * BARS
    assert song.beats[:5] == pytest.approx([0, 0.5, 1.0, 1.5, 2.0])
    assert song.downbeats[:3] == pytest.approx([0, 2.0, 4.0])


def test_six_eight_is_felt_in_two():
    song = song_of("six", midi_bytes(metre=(6, 8)))
    assert np.diff(song.beats[:4]) == pytest.approx([0.75] * 3)
    assert np.diff(song.downbeats[:3]) == pytest.approx([1.5] * 2)


def test_a_metre_that_nobody_wrote_down_is_not_made_up():
    """A file that was played in without a click: its tempo says nothing of its beats."""
    song = song_of("bare", midi_bytes(metre=None, beat_ticks=401))
    assert song.beats == ()
    assert len(song.strokes) > FEWEST_STROKES


def test_without_a_metre_a_file_that_keeps_its_own_grid_is_in_four():
    song = song_of("bare", midi_bytes(metre=None))
    assert song.downbeats[:3] == pytest.approx([0, 2.0, 4.0])


def test_a_song_without_drums_is_none():
    assert song_of("strings", midi_bytes(drums=False)) is None


def test_songs_of_a_wad_are_found_each_once(tmp_path):
    body = midi_bytes()
    path = tmp_path / "free.wad"
    lumps = [(b"D_ONE", body), (b"D_TWO", body), (b"PICTURE", b"xx")]
    data, entries = b"", b""
    for name, content in lumps:
        entries += struct.pack("<II8s", 12 + len(data), len(content), name)
        data += content
    path.write_bytes(struct.pack("<4sII", b"IWAD", len(lumps), 12 + len(data)) + data + entries)
    assert wad_songs(path) == {"free-D_ONE": body}


def test_one_song_in_five_is_kept_and_always_the_same():
    names = [f"song-{number}" for number in range(1000)]
    kept = [name for name in names if is_kept(name)]
    assert 150 < len(kept) < 250
    assert kept == [name for name in names if is_kept(name)]


@pytest.mark.parametrize("seed", range(4))
def test_a_stretch_keeps_strokes_band_and_beats_together(seed):
    song = song_of("plain", midi_bytes())
    stretch = SongPicker(np.random.default_rng(seed), [song]).compose(10.0)
    assert stretch.strokes == sorted(stretch.strokes, key=lambda stroke: stroke.time)
    assert all(0 <= stroke.time < 11.0 for stroke in stretch.strokes)
    kicks = [s.time for s in stretch.strokes if s.instrument is Instrument.KICK]
    basses = np.array([note.time for note in stretch.notes])
    away = [np.abs(np.array(stretch.beats) - kick).min() for kick in kicks]
    assert np.median(away) < 0.03
    assert all(np.abs(basses - kick).min() < 0.06 for kick in kicks)


def test_every_program_has_one_of_ours_to_stand_in():
    assert all(family_of(program) for program in range(128))
    assert family_of(33) == (33,)


def test_whole_songs_are_those_written_note_by_note_that_say_where_their_beats_are():
    names = [f"song-{number}" for number in range(20)]
    songs = [song_of(name, midi_bytes()) for name in [*names, "mma-plain-beat"]]
    silent = replace(song_of("without", midi_bytes()), beats=[])
    kept = whole_songs([*songs, silent], kept=True)
    learnt = whole_songs([*songs, silent], kept=False)
    assert sorted(song.name for song in kept + learnt) == sorted(names)
    assert all(is_kept(song.name) for song in kept)
    assert not any(is_kept(song.name) for song in learnt)

"""Parts and bundles from elsewhere: read whole, lined up, or refused in a sentence."""

import io
import json
import zipfile
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import mido
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.chart.midi import to_midi
from orchesis.chart.musicxml import to_musicxml
from orchesis.exchange.bundle import read_bundle, write_bundle
from orchesis.exchange.imported import Refused
from orchesis.exchange.line_up import line_up
from orchesis.exchange.midi_in import read_midi
from orchesis.exchange.musicxml_in import read_musicxml
from orchesis.exchange.read import read_part
from orchesis.music.instruments import Instrument, Limb
from tests.composing import ROCK, song
from tests.hard_songs import hard_songs

I = Instrument  # noqa: E741
FILL = {I.SNARE: "x.x.xxxx........", I.TOM_FLOOR: "........x.x.xxxx"}


def places(piece):
    return [
        sorted((hit.position, hit.instrument) for hit in piece.hits_of(bar.number))
        for bar in piece.bars
    ]


# MIDI


WHOLE = ["sixteenths everywhere", "triplets and sixteenths", "six eight", "two four", "swung",
         "changing metres", "seven eight"]  # fmt: skip


@pytest.mark.parametrize("name", WHOLE)
def test_a_midi_on_the_grid_comes_back_with_every_stroke_where_it_was(name):
    piece = replace(hard_songs()[name], feel=hard_songs()["two four"].feel)
    read = read_midi(to_midi(piece, quantised=True)).song
    # Two toms share no key, but a closed hat by foot and its splash do.
    assert places(read) == places(piece)[: len(read.bars)]
    assert sum(map(len, places(piece)[len(read.bars) :])) == 0
    assert [bar.meter for bar in read.bars] == [b.meter for b in piece.bars[: len(read.bars)]]


def test_played_timing_is_put_on_the_nearest_place():
    piece = song([ROCK] * 4)
    early = piece.with_hits(
        replace(hit, time=hit.time + (0.008 if index % 2 else -0.008))
        for index, hit in enumerate(piece.hits)
    )
    assert places(read_midi(to_midi(early)).song) == places(piece)


def test_the_beats_of_a_midi_fall_where_its_tempo_says():
    read = read_midi(to_midi(song([ROCK] * 4), quantised=True)).song
    assert read.tempo_bpm == pytest.approx(120, abs=0.1)
    lengths = {round(bar.end - bar.start, 3) for bar in read.bars}
    assert lengths == {2.0}


def midi(*messages, channel=9):
    file = mido.MidiFile()
    track = mido.MidiTrack()
    file.tracks.append(track)
    for time, note in messages:
        track.append(mido.Message("note_on", note=note, velocity=80, time=time, channel=channel))
    buffer = io.BytesIO()
    file.save(file=buffer)
    return buffer.getvalue()


def test_keys_that_are_no_drum_of_ours_are_told_of_and_left_out():
    read = read_midi(midi((0, 36), (480, 38), (480, 88), (0, 88)))
    assert {hit.instrument for hit in read.song.hits} == {I.KICK, I.SNARE}
    assert read.remarks == ("2 notes of “key 88” are no drum that is known here: left out.",)


def test_a_midi_without_drums_is_refused():
    with pytest.raises(Refused, match="nothing is on channel 10"):
        read_midi(midi((0, 60), (480, 64), channel=0))


# MusicXML of other programs


def score(*measures, names=""):
    return (
        '<score-partwise version="3.1"><part-list><score-part id="P1"><part-name>Kit</part-name>'
        f"{names}</score-part></part-list><part id='P1'>{''.join(measures)}</part></score-partwise>"
    ).encode()


def measure(*inside, attributes=None, **values):
    first = ATTRIBUTES if attributes is None else attributes
    said = "".join(f" {name}='{value}'" for name, value in values.items())
    return f"<measure{said}>{first}{''.join(inside)}</measure>"


def note(step, octave, duration=1, head="normal", instrument=""):
    extra = f"<instrument id='{instrument}'/>" if instrument else ""
    return (
        f"<note><unpitched><display-step>{step}</display-step><display-octave>{octave}"
        f"</display-octave></unpitched><duration>{duration}</duration>{extra}"
        f"<notehead>{head}</notehead></note>"
    )


KICK, SNARE = note("F", 4), note("C", 5)
ATTRIBUTES = (
    "<attributes><divisions>1</divisions><time><beats>4</beats><beat-type>4</beat-type></time>"
    "<clef><sign>percussion</sign></clef></attributes>"
)


def test_drums_are_told_by_where_they_stand_and_their_heads():
    hat, stick = note("G", 5, head="x"), note("C", 5, head="x")
    read = read_musicxml(score(measure(KICK, SNARE, hat, stick))).song
    assert [(hit.position * 4, hit.instrument) for hit in read.hits] == [
        (0, I.KICK),
        (1, I.SNARE),
        (2, I.HIHAT_CLOSED),
        (3, I.CROSS_STICK),
    ]


def test_drums_are_told_by_their_names_and_unknown_ones_are_listed():
    names = "".join(
        f"<score-instrument id='{key}'><instrument-name>{name}</instrument-name></score-instrument>"
        for key, name in (("a", "Acoustic Bass Drum"), ("b", "Vibraslap"))
    )
    first, second = note("C", 4, instrument="a"), note("C", 4, instrument="b")
    read = read_musicxml(score(measure(first, second, SNARE, SNARE), names=names))
    assert [hit.instrument for hit in read.song.hits] == [I.KICK, I.SNARE, I.SNARE]
    assert "Vibraslap" in read.remarks[0]


def test_a_sign_without_notes_stands_for_the_bar_before_and_repeats_are_played_out():
    style = "<measure-style><measure-repeat type='start'>1</measure-repeat></measure-style>"
    back = "<barline location='right'><repeat direction='backward'/></barline>"
    second = measure(back, attributes=f"<attributes>{style}</attributes>")
    read = read_musicxml(score(measure(KICK, SNARE, KICK, SNARE), second)).song
    assert len(read.bars) == 4
    assert len({tuple(bar) for bar in places(read)}) == 1


def test_three_endings_are_played_each_in_its_turn():
    def ending(number, *inside, back=True):
        left = f"<barline location='left'><ending number='{number}' type='start'/></barline>"
        kind = "stop" if back else "discontinue"
        repeat = "<repeat direction='backward'/>" if back else ""
        right = (
            f"<barline location='right'><ending number='{number}' type='{kind}'/>{repeat}</barline>"
        )
        return measure(left, *inside, right, attributes="")

    body = measure(KICK, KICK, KICK, KICK)
    endings = [
        ending(1, SNARE),
        ending(2, SNARE, SNARE),
        ending(3, SNARE, SNARE, SNARE, back=False),
    ]
    read = read_musicxml(score(body, *endings)).song
    assert [len(bar) for bar in places(read)] == [4, 1, 4, 2, 4, 3]


def test_a_pick_up_ends_where_its_bar_ends():
    read = read_musicxml(score(measure(SNARE, implicit="yes"), measure(note("F", 4, 4)))).song
    assert read.hits[0].position == Fraction(3, 4)


def test_a_jump_is_not_followed_and_that_is_said():
    words = "<direction-type><words>D.S.</words></direction-type>"
    jump = f"<direction>{words}<sound dalsegno='s'/></direction>"
    assert "not followed" in read_musicxml(score(measure(jump, KICK))).remarks[0]


PIANO = score(
    "<measure><attributes><divisions>1</divisions></attributes><note><pitch><step>C</step>"
    "<octave>4</octave></pitch><duration>4</duration></note></measure>"
)
BOMB = b'<?xml version="1.0"?><!DOCTYPE a [<!ENTITY b "bb">]><score-partwise>&b;</score-partwise>'


@pytest.mark.parametrize(
    ("data", "name", "words"),
    [
        (PIANO, "piano.musicxml", "no drum part"),
        (b"hello", "a.musicxml", "cannot be read as XML"),
        (b"<html/>", "a.xml", "does not hold a score"),
        (BOMB, "a.musicxml", "entities"),
        (b"PK\x03\x04rubbish", "a.mxl", "damaged"),
        (b"hello", "a.mid", "not a MIDI file"),
        (b"MThd\x00\x00", "a.mid", "damaged"),
        (b"hello", "a.pdf", "Only MusicXML"),
        (score(measure()), "a.xml", "drum"),
    ],
)
def test_what_is_no_drum_part_is_refused_in_a_sentence(data, name, words):
    with pytest.raises(Refused, match=words):
        read_part(data, name)


def test_a_packed_score_is_read_and_one_that_swells_is_not():
    def packed(text):
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr(
                "META-INF/container.xml", "<container><rootfile full-path='s.xml'/></container>"
            )
            archive.writestr("s.xml", text)
        return buffer.getvalue()

    assert read_part(packed(to_musicxml(song([ROCK]))), "a.mxl").song.hits
    with pytest.raises(Refused, match="larger"):
        read_part(packed(b" " * 21_000_000), "a.mxl")


@settings(max_examples=60, deadline=None)
@given(st.data())
def test_mutated_files_are_read_or_refused_and_nothing_else(data):
    good = data.draw(
        st.sampled_from(
            [to_musicxml(song([ROCK, FILL])).encode(), to_midi(song([ROCK, FILL]), quantised=True)]
        )
    )
    cut = data.draw(st.integers(0, len(good)))
    changed = bytearray(good[:cut] if data.draw(st.booleans()) else good)
    for _ in range(data.draw(st.integers(0, 8))):
        if changed:
            changed[data.draw(st.integers(0, len(changed) - 1))] = data.draw(st.integers(0, 255))
    name = "a.mid" if good[:4] == b"MThd" else "a.musicxml"
    try:
        read_part(bytes(changed), name)
    except Refused as error:
        assert str(error).endswith((".", "!"))


# Lining up


def test_a_part_that_begins_elsewhere_finds_its_bars():
    bars = [{}, {}, ROCK, ROCK, FILL, ROCK, ROCK, FILL]
    piece, part = song(bars), song(bars[2:])
    found = line_up(piece, part, source="a.mid")
    assert found.shift == 2
    assert found.same == tuple(range(3, 9))
    assert found.differing == ()
    assert found.agreement == 1.0
    assert places(found.song) == places(piece)
    assert {hit.source for hit in found.song.hits} == {"a.mid"}


def test_where_it_differs_is_told_and_bars_that_it_lacks_stay():
    piece = song([ROCK, ROCK, FILL, ROCK])
    other = {**ROCK, I.KICK: "x.x....."}
    found = line_up(piece, song([ROCK, other, FILL]))
    assert found.differing == (2,)
    assert found.same == (1, 3)
    assert places(found.song)[3] == places(piece)[3]
    assert len(places(found.song)[1]) == len(places(piece)[1])


def test_bars_of_another_metre_are_left_as_they_are():
    piece, waltz = song([ROCK] * 2), song([{I.KICK: "x..", I.SNARE: ".xx"}] * 2, beats=3)
    found = line_up(piece, waltz)
    assert found.same == found.differing == ()
    assert places(found.song) == places(piece)


# Bundles


@pytest.fixture
def recording(tmp_path):
    path = tmp_path / "source.ogg"
    path.write_bytes(b"OggS" + bytes(range(256)) * 40)
    return path


def bundle(piece, recording=None, **changes):
    buffer = io.BytesIO()
    write_bundle(
        buffer,
        piece,
        decisions={"confirmed": ["tempo"]},
        log=[{"words": "Bar 1: kick"}],
        recording=recording,
    )
    if changes:
        files = {}
        with zipfile.ZipFile(buffer) as archive:
            files = {name: archive.read(name) for name in archive.namelist()}
        files |= changes.pop("files", {})
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
            for name, data in files.items():
                archive.writestr(name, data)
    buffer.seek(0)
    return buffer


def test_a_bundle_comes_back_whole(recording, tmp_path):
    piece = song([ROCK, FILL])
    piece = piece.with_hits(replace(hit, limb=Limb.RIGHT_HAND) for hit in piece.hits)
    read = read_bundle(bundle(piece, recording), tmp_path / "again")
    assert read.song == piece
    assert read.decisions == {"confirmed": ["tempo"]}
    assert read.log == [{"words": "Bar 1: kick"}]
    assert (tmp_path / "again.ogg").read_bytes() == recording.read_bytes()


def test_a_bundle_without_a_recording_says_so():
    assert read_bundle(bundle(song([ROCK]))).recording == ""


@pytest.mark.parametrize(
    "files",
    [
        {"transcription.json": b"{}"},
        {"../../evil.json": b"x"},
        {"/etc/evil": b"x"},
        {"recording.ogg": b"another"},
        {"log.json": b"[1,2"},
        {"manifest.json": b"[]"},
        {"manifest.json": b'{"format": "orchesis-bundle", "version": 1, "files": {}}'},
    ],
)
def test_a_bundle_that_was_tampered_with_is_refused_and_leaves_nothing(files, recording, tmp_path):
    folder = tmp_path / "in"
    folder.mkdir()
    with pytest.raises(Refused):
        read_bundle(bundle(song([ROCK]), recording, files=files), folder / "source")
    assert not [path for path in folder.iterdir() if path.stat().st_size == 0]


def test_a_bundle_that_was_cut_off_or_is_of_a_later_version_is_refused(recording):
    whole = bundle(song([ROCK]), recording).getvalue()
    for cut in (10, len(whole) // 2, len(whole) - 5):
        with pytest.raises(Refused, match="damaged"):
            read_bundle(io.BytesIO(whole[:cut]))
    later = json.dumps({"format": "orchesis-bundle", "version": 2, "files": {}}).encode()
    with pytest.raises(Refused, match="version 2"):
        read_bundle(bundle(song([ROCK]), files={"manifest.json": later}))
    with pytest.raises(Refused, match="no bundle"):
        read_bundle(_zip({"a.txt": b"x"}))


def _zip(files):
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    buffer.seek(0)
    return buffer


def test_a_bundle_that_swells_is_refused_before_it_fills_the_disk(tmp_path, monkeypatch):
    from orchesis.exchange import bundle as module

    monkeypatch.setattr(module, "LARGEST_BYTES", 10_000)
    monkeypatch.setattr(module, "LARGEST_TEXT", 10_000)
    big = tmp_path / "source.ogg"
    big.write_bytes(bytes(5_000_000))
    with pytest.raises(Refused, match="larger"):
        read_bundle(bundle(song([{I.KICK: "x..."}]), big), tmp_path / "out")
    assert not (tmp_path / "out.ogg").exists()
    assert not Path("evil").exists()


def test_metres_that_cannot_be_are_refused():
    odd = ATTRIBUTES.replace("<beats>4", "<beats>99")
    with pytest.raises(Refused, match="99/4"):
        read_musicxml(score(measure(KICK, attributes=odd)))

"""The chart: spelling, MusicXML, MIDI, engraving, paper."""

import io
import re
import subprocess
import xml.etree.ElementTree as ET
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

import mido
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.chart.engrave import PageSize, engrave
from orchesis.chart.midi import TICKS_PER_BEAT, to_midi
from orchesis.chart.musicxml import ChartOptions, to_musicxml
from orchesis.chart.notation import STAFF
from orchesis.chart.pdf import to_pdf
from orchesis.chart.spelling import spell_voice
from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import Instrument, Ornament
from orchesis.music.values import Feel, Hit, Meter, Transcription
from tests.composing import ROCK, grid, hits, song

SNARE = Instrument.SNARE
rows = st.text(alphabet="xXg.", min_size=16, max_size=16)


def spelled(row):
    bar = grid(1)[0]
    return spell_voice(bar, hits(bar, {SNARE: row}))


@given(st.lists(st.sampled_from([1, 2, 3, 4, 6, 8, 12]), min_size=4, max_size=4), st.data())
def test_every_bar_is_filled_exactly_and_every_stroke_is_where_it_was_played(divisions, data):
    bar = grid(1)[0]
    strokes = []
    for beat, parts in enumerate(divisions):
        chosen = data.draw(st.sets(st.integers(0, parts - 1)))
        strokes += [
            Hit(1.0, SNARE, 80, 1, (Fraction(beat) + Fraction(step, parts)) / 4) for step in chosen
        ]
    events = spell_voice(bar, strokes)
    place, found = Fraction(0), set()
    for event in events:
        if event.hits:
            found.add(place)
        place += event.value.sounding
    assert place == 1
    assert found == {hit.position for hit in strokes}


@pytest.mark.parametrize(
    ("row", "values"),
    [
        ("x.x.x.x.x.x.x.x.", "1/8 1/8 1/8 1/8 1/8 1/8 1/8 1/8"),
        ("x...x...x...x...", "1/4 1/4 1/4 1/4"),
        ("x..xx..xx..xx..x", "3/16 1/16 3/16 1/16 3/16 1/16 3/16 1/16"),
        (".x..x...........", "r1/16 3/16 1/4 r1/4 r1/4"),
        ("...xx...........", "r3/16 1/16 1/4 r1/4 r1/4"),
        ("................", "r1"),
    ],
)
def test_rhythms_are_spelled_by_beats(row, values):
    found = [("r" if event.is_rest else "") + str(event.value.written) for event in spelled(row)]
    assert found == values.split()


def test_a_triplet_beat_has_one_bracket_around_three():
    events = [event for event in spelled("xxxxxxxxxxxx") if event.beat == 0]
    assert [event.value.tuplet for event in events] == [(3, 2)] * 3
    assert [(event.tuplet_start, event.tuplet_stop) for event in events] == [
        (True, False),
        (False, False),
        (False, True),
    ]


@settings(max_examples=30, deadline=None)
@given(st.lists(st.tuples(rows, rows), min_size=1, max_size=4))
def test_no_stroke_is_lost_on_the_way_to_musicxml(bars):
    piece = song([{SNARE: hands, Instrument.KICK: feet} for hands, feet in bars])
    root = ET.fromstring(to_musicxml(piece).split("\n", 2)[2])
    notes = [note for note in root.iter("note") if note.find("unpitched") is not None]
    assert len(notes) == len(piece.hits)
    ghosts = root.findall(".//notehead[@parentheses='yes']")
    assert len(ghosts) == sum(hit.ghost for hit in piece.hits)
    for measure in root.iter("measure"):
        total = 0
        for note in measure.iter("note"):
            if note.find("chord") is None and note.findtext("voice") == "1":
                total += int(note.findtext("duration"))
        assert total == 4 * 48


def test_hands_are_above_and_feet_below():
    root = ET.fromstring(to_musicxml(song([ROCK])).split("\n", 2)[2])
    stems = {
        (note.findtext("voice"), note.findtext("stem"))
        for note in root.iter("note")
        if note.find("stem") is not None
    }
    assert stems == {("1", "up"), ("2", "down")}


def test_the_count_is_written_below_when_asked_for():
    text = to_musicxml(song([ROCK]), ChartOptions(show_count=True))
    root = ET.fromstring(text.split("\n", 2)[2])
    assert [item.text for item in root.iter("text")] == ["1", "&", "2", "&", "3", "&", "4", "&"]
    assert "<lyric>" not in to_musicxml(song([ROCK]))


def test_a_swung_song_says_so_over_its_first_bar():
    piece = song([ROCK])
    swung = Transcription(
        **{**{n: getattr(piece, n) for n in piece.__dataclass_fields__}, "feel": Feel(1.0, 1.5)}
    )
    assert "swung sixteenths 1.5 : 1" in to_musicxml(swung)
    assert "swung" not in to_musicxml(piece)


def test_a_title_of_markup_and_control_characters_is_harmless():
    piece = song([ROCK])
    titled = Transcription(
        **{
            **{n: getattr(piece, n) for n in piece.__dataclass_fields__},
            "title": "<script>alert(1)</script>\x00\x0b & co",
        }
    )
    svg = engrave(to_musicxml(titled)).pages[0]
    assert "<script" not in svg
    ET.fromstring(svg)


def test_every_instrument_can_be_engraved():
    everything = dict.fromkeys(Instrument, "x...............")
    svg = engrave(to_musicxml(song([everything]))).pages[0]
    heads = re.findall(r'class="notehead"', svg)
    assert len(heads) == len(Instrument)
    assert len({(place.step, place.octave, place.head) for place in STAFF.values()}) >= 18


def glyphs(svg, kind):
    """The code points drawn within elements of a class, in the order of the page."""
    return [
        glyph
        for element in re.findall(rf'class="{kind}\b.*?</g>', svg, re.DOTALL)
        for glyph in re.findall(r'href="#(E\w{3})', element)
    ]


@pytest.mark.parametrize(
    ("instrument", "head"),
    [
        (Instrument.SNARE, "E0A4"),
        (Instrument.CROSS_STICK, "E0A9"),
        (Instrument.RIDE_BELL, "E0DB"),
        (Instrument.HIHAT_SPLASH, "E0B3"),
        (Instrument.COWBELL, "E0B9"),
    ],
)
def test_what_is_struck_otherwise_has_another_head_on_the_page(instrument, head):
    svg = engrave(to_musicxml(song([{instrument: "x..............."}]))).pages[0]
    assert glyphs(svg, "notehead") == [head]


def test_an_open_hat_has_its_circle_on_the_page_and_a_closed_one_none():
    open_and_closed = {
        Instrument.HIHAT_OPEN: "..............x.",
        Instrument.HIHAT_CLOSED: "x.x.x.x.x.x.x...",
        Instrument.SNARE: "....x.........x.",
    }
    svg = engrave(to_musicxml(song([open_and_closed]))).pages[0]
    assert glyphs(svg, "artic") == ["E5E7"]


def test_accents_and_buzzes_stand_over_the_chord_whichever_drum_plays_them():
    piece = song([{Instrument.HIHAT_CLOSED: "x.x.", Instrument.SNARE: "..X."}])
    piece = piece.with_hits(
        replace(hit, ornament=Ornament.BUZZ if hit.instrument is Instrument.SNARE else None)
        for hit in piece.hits
    )
    svg = engrave(to_musicxml(piece)).pages[0]
    assert glyphs(svg, "artic") == ["E4A0"]
    assert len(re.findall(r'class="bTrem"', svg)) == 1


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


def test_paper_has_the_size_that_was_asked_for_and_its_fonts_inside(tmp_path):
    for size, points in ((PageSize.A4, (595, 842)), (PageSize.LETTER, (612, 792))):
        path = tmp_path / f"{size}.pdf"
        path.write_bytes(to_pdf(engrave(to_musicxml(song([ROCK] * 40)), size), size))
        info = subprocess.run(["pdfinfo", path], capture_output=True, text=True, check=True).stdout
        width, height = map(float, re.search(r"Page size:\s+([\d.]+) x ([\d.]+)", info).groups())
        assert (width, height) == pytest.approx(points, abs=1.5)
        fonts = subprocess.run(
            ["pdffonts", path], capture_output=True, text=True, check=True
        ).stdout
        assert "Spectral" in fonts
    text = subprocess.run(
        ["pdftotext", path, "-"], capture_output=True, text=True, check=True
    ).stdout
    assert "Composed" in text


def test_a_song_without_bars_gives_an_empty_bar_and_no_crash():
    empty = Transcription(0.0, Meter(4, 4), (), (), title="Nothing")
    assert engrave(to_musicxml(empty)).pages
    assert strokes_of(midi_of(empty)) == []


def test_what_is_no_musicxml_is_refused():
    with pytest.raises(InvalidTranscription):
        engrave("hello")


def test_a_phone_gets_one_narrow_sheet():
    pages = engrave(to_musicxml(song([ROCK] * 60)), PageSize.PHONE).pages
    assert len(pages) == 1


@pytest.mark.parametrize(
    ("ornament", "graces", "strokes"),
    [(Ornament.FLAM, 1, 2), (Ornament.DRAG, 2, 3), (Ornament.BUZZ, 0, 4), (None, 0, 1)],
)
def test_flams_drags_and_buzzes_are_written_and_played(ornament, graces, strokes):
    plain = song([{Instrument.SNARE: "....x..........."}])
    made = plain.with_hits(replace(hit, ornament=ornament) for hit in plain.hits)
    text = to_musicxml(made)
    assert text.count("<grace") == graces
    assert text.count('type="unmeasured"') == (ornament is Ornament.BUZZ)
    assert engrave(text).pages
    midi = mido.MidiFile(file=io.BytesIO(to_midi(made, quantised=True)))
    heard = [m for m in midi if m.type == "note_on" and m.velocity]
    assert len(heard) == strokes
    assert sorted(m.velocity for m in heard)[-1] == 84

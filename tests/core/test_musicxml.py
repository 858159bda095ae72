"""MusicXML: valid by its own schema, read back whole by us and by two readers that are not ours."""

import warnings
import xml.etree.ElementTree as ET
from dataclasses import replace
from fractions import Fraction
from functools import cache
from pathlib import Path

import musicxml
import pytest
import xmlschema
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.chart.midi import to_midi
from orchesis.chart.musicxml import to_musicxml, unfolded
from orchesis.chart.options import Beside, ChartOptions, Reading
from orchesis.chart.readings import make_score
from orchesis.exchange.midi_in import read_midi
from orchesis.exchange.musicxml_in import read_musicxml
from orchesis.music.instruments import Instrument, Ornament
from orchesis.music.json import dumps, loads
from orchesis.music.values import Feel, written
from tests.composing import ROCK, song
from tests.hard_songs import hard_songs

SONGS = Path(__file__).resolve().parents[2] / "demo" / "songs"
SNARE = Instrument.SNARE
rows = st.text(alphabet="xXg.", min_size=16, max_size=16)
XLINK = """<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema"
  targetNamespace="http://www.w3.org/1999/xlink">
  <xs:attribute name="href" type="xs:anyURI"/><xs:attribute name="type" type="xs:string"/>
  <xs:attribute name="role" type="xs:string"/><xs:attribute name="title" type="xs:string"/>
  <xs:attribute name="show" type="xs:string"/><xs:attribute name="actuate" type="xs:string"/>
</xs:schema>"""


@cache
def schema():
    """MusicXML 4.0's own schema, as a package ships it; nothing is fetched."""
    folder = Path(musicxml.__file__).parent / "generate_classes"
    return xmlschema.XMLSchema(
        str(folder / "musicxml_4_0.xsd"),
        locations={
            "http://www.w3.org/XML/1998/namespace": str(folder / "xml.xsd"),
            "http://www.w3.org/1999/xlink": XLINK,
        },
        allow="local",
    )


def parsed(text):
    return ET.fromstring(text.split("\n", 2)[2])


def contents(piece):
    """What each bar plays: place, drum, ghost, accent, ornament, doubt."""
    found = {bar.number: [] for bar in piece.bars}
    for hit in written(piece.hits):
        found[hit.bar].append(
            (hit.position, hit.instrument, hit.ghost, hit.accent, hit.ornament, hit.status)
        )
    return [(bar.meter, sorted(found[bar.number])) for bar in piece.bars]


@settings(max_examples=30, deadline=None)
@given(st.lists(st.tuples(rows, rows), min_size=1, max_size=6))
def test_what_is_written_is_read_back_whole(bars):
    piece = song([{SNARE: hands, Instrument.KICK: feet} for hands, feet in bars])
    if piece.hits:
        read = read_musicxml(to_musicxml(piece).encode())
        assert contents(read.song) == contents(piece)
        assert read.remarks == () or "One player" in read.remarks[0]


@pytest.mark.slow
@pytest.mark.parametrize("name", sorted(hard_songs()))
def test_hard_songs_are_valid_and_come_back_whole(name):
    piece = hard_songs()[name]
    text = to_musicxml(piece, ChartOptions(sticking=Beside.BELOW, count=True))
    schema().validate(parsed(text))
    read = read_musicxml(text.encode())
    assert contents(read.song) == contents(piece)
    assert [s.label for s in read.song.sections] == [s.label for s in piece.sections]
    assert read.song.tempo_bpm == pytest.approx(piece.tempo_bpm, abs=0.01)


@pytest.mark.slow
@pytest.mark.parametrize("path", sorted(SONGS.glob("*.score.json")), ids=lambda path: path.name)
def test_demo_songs_are_valid_and_come_back_whole_through_every_format(path):
    piece = loads(path.read_text())
    for reading in (Reading.NOTE_FOR_NOTE, Reading.ESSENCE, Reading.PARTS):
        schema().validate(parsed(to_musicxml(piece, ChartOptions(reading=reading))))
    assert contents(read_musicxml(to_musicxml(piece).encode()).song) == contents(piece)
    assert loads(dumps(piece)).hits == piece.hits
    places = sorted((hit.bar, hit.position, hit.instrument) for hit in written(piece.hits))
    first = min(hit.bar for hit in piece.hits)
    again = read_midi(to_midi(piece, quantised=True)).song
    moved = sorted((hit.bar + first - 1, hit.position, hit.instrument) for hit in again.hits)
    assert moved == places


def test_a_file_with_an_error_is_told_by_the_schema():
    text = to_musicxml(song([ROCK])).replace("<voice>1</voice>", "<vocie>1</vocie>")
    assert not schema().is_valid(parsed(text))


FOLDED = [ROCK, ROCK, ROCK, {SNARE: "xxxx"}] * 3 + [ROCK, ROCK, ROCK, {SNARE: "x.xx"}, {}, {}, {}]


def onsets(piece):
    """(quarters from the start, GM key) of every stroke, repeats played out."""
    found, start = [], Fraction(0)
    keys = {hit.instrument for hit in piece.hits}
    assert keys
    for bar in piece.bars:
        whole = Fraction(4 * bar.meter.beats, bar.meter.unit)
        for hit in piece.hits_of(bar.number):
            found.append((float(start + hit.position * whole), hit.instrument))
        start += whole
    return sorted((round(at, 4), drum.value) for at, drum in found)


def test_repeats_endings_and_signs_are_in_the_file_and_expand_to_the_song():
    piece = song(FOLDED)
    text = to_musicxml(piece)
    root = parsed(text)
    assert root.find(".//repeat[@direction='backward']") is not None
    assert {e.get("number") for e in root.iter("ending")} == {"1,2,3", "4"}
    assert root.find(".//measure-repeat") is not None
    assert root.findtext(".//multiple-rest") == "3"
    schema().validate(root)
    assert contents(read_musicxml(text.encode()).song) == contents(piece)


@pytest.mark.slow
@pytest.mark.parametrize("name", ["folded", "triplets and sixteenths", "six eight", "two four"])
def test_a_first_reader_of_others_hears_the_same(name, tmp_path):
    import music21

    piece = song(FOLDED) if name == "folded" else hard_songs()[name]
    score = music21.converter.parseData(to_musicxml(piece), format="musicxml")
    part = score.parts[0].expandRepeats()
    found = []
    for element in part.recurse().notes:
        if element.duration.isGrace:
            continue
        at = round(float(element.getOffsetInHierarchy(part)), 4)
        notes = element.notes if hasattr(element, "notes") else [element]
        for note in notes:
            found.append((at, note.getInstrument(returnDefault=False)))
    expected = [at for at, _ in onsets(piece)]
    assert sorted(at for at, _ in found) == pytest.approx(expected, abs=1e-3)


@pytest.mark.slow
@pytest.mark.parametrize("name", ["folded", "sextuplets", "changing metres", "three four"])
def test_a_second_reader_of_others_hears_the_same(name, tmp_path):
    import partitura

    piece = song(FOLDED) if name == "folded" else hard_songs()[name]
    path = tmp_path / "part.musicxml"
    path.write_text(to_musicxml(piece))
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        score = partitura.load_musicxml(str(path))
        part = partitura.score.unfold_part_maximal(score.parts[0])
        quarters = part.quarter_map
        notes = list(part.iter_all(partitura.score.UnpitchedNote))
    found = sorted(round(float(quarters(note.start.t)), 4) for note in notes)
    assert found == pytest.approx([at for at, _ in onsets(piece)], abs=1e-3)


@pytest.mark.slow
def test_every_bar_of_a_voice_is_full_and_its_tuplets_close():
    for piece in hard_songs().values():
        for measure in parsed(to_musicxml(piece)).iter("measure"):
            for voice in ("1", "2"):
                total = sum(
                    int(note.findtext("duration"))
                    for note in measure.iter("note")
                    if note.find("chord") is None
                    and note.find("grace") is None
                    and note.findtext("voice") == voice
                )
                lengths = {
                    sum(
                        int(note.findtext("duration"))
                        for note in measure.iter("note")
                        if note.find("chord") is None
                        and note.find("grace") is None
                        and note.findtext("voice") == "1"
                    )
                }
                assert total in {0, *lengths} or lengths == {0}
            starts = measure.findall(".//tuplet[@type='start']")
            assert len(starts) == len(measure.findall(".//tuplet[@type='stop']"))


def test_signs_stand_for_the_bars_before_them():
    measures = make_score(song([ROCK, ROCK, {SNARE: "x..."}, ROCK]), ChartOptions()).measures
    found = unfolded(measures)
    assert [(m.number, sign is not None) for m, sign in found] == [
        (1, False),
        (2, True),
        (3, False),
        (4, False),
    ]
    assert found[1][0].content == found[0][0].content


def test_hands_are_above_and_feet_below():
    stems = {
        (note.findtext("voice"), note.findtext("stem"))
        for note in parsed(to_musicxml(song([ROCK]))).iter("note")
        if note.find("stem") is not None
    }
    assert stems == {("1", "up"), ("2", "down")}


def test_the_count_is_written_below_when_asked_for():
    root = parsed(to_musicxml(song([ROCK]), ChartOptions(count=True)))
    assert [item.text for item in root.iter("text")] == ["1", "&", "2", "&", "3", "&", "4", "&"]
    assert "<lyric>" not in to_musicxml(song([ROCK]))


def test_a_swung_song_says_so_and_is_read_as_one():
    swung = replace(song([ROCK]), feel=Feel(None, 1.5))
    assert "swung sixteenths 1.5 : 1" in to_musicxml(swung)
    assert read_musicxml(to_musicxml(swung).encode()).song.feel.swing_16 == 1.5
    assert "swung" not in to_musicxml(song([ROCK]))


@pytest.mark.parametrize(("ornament", "graces"), [(Ornament.FLAM, 1), (Ornament.DRAG, 2)])
def test_grace_notes_are_written_before_their_stroke(ornament, graces):
    plain = song([{SNARE: "....x..........."}])
    made = plain.with_hits(replace(hit, ornament=ornament) for hit in plain.hits)
    assert to_musicxml(made).count("<grace") == graces

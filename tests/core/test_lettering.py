"""Words on the chart: as wide as the shipped fonts say, cut where they do not fit, safe in XML."""

import xml.etree.ElementTree as ET

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.chart.lettering import ASCENT, DESCENT, FILES, Text, fitted, printable, width_of

STYLES = tuple(FILES)
WORDS = st.text(st.characters(min_codepoint=32, max_codepoint=0x24F), max_size=30)


@given(WORDS, WORDS, st.sampled_from(STYLES))
def test_widths_add_up_and_grow_with_the_size(one, other, style):
    both = width_of(one + other, 300, style)
    assert both == pytest.approx(width_of(one, 300, style) + width_of(other, 300, style))
    assert width_of(one, 600, style) == pytest.approx(2 * width_of(one, 300, style))


def test_letters_are_as_wide_as_they_look():
    assert width_of("iiii", 300) < width_of("mmmm", 300)
    assert width_of("Verse", 300, "bold") > width_of("Verse", 300)
    assert width_of("", 300) == 0
    assert width_of("\u4e00", 300) > 0, "a letter that the font lacks takes room too"


@given(WORDS, st.floats(0, 4000), st.sampled_from(STYLES))
def test_what_is_cut_fits_and_begins_as_the_whole_does(text, room, style):
    made = fitted(text, 300, room, style)
    if made == text:
        return
    assert made.endswith("…")
    assert text.startswith(made[:-1])
    assert width_of(made, 300, style) <= room or made == "…"
    assert width_of(text, 300, style) > room


def test_what_fits_is_left_alone():
    assert fitted("Chorus", 300, 10_000) == "Chorus"
    assert fitted("A very long name of a section", 300, 1500).endswith("…")


@pytest.mark.parametrize(("anchor", "share"), [("start", 0.0), ("middle", 0.5), ("end", 1.0)])
def test_a_text_covers_what_its_anchor_says(anchor, share):
    text = Text("fill 2", 1000, 500, 200, anchor=anchor)
    width = width_of("fill 2", 200)
    assert text.box.left == pytest.approx(1000 - share * width)
    assert text.box.right - text.box.left == pytest.approx(width)
    assert text.box.top == 500 - ASCENT * 200
    assert text.box.bottom == 500 + DESCENT * 200
    said = ET.fromstring(text.svg()).attrib
    assert said.get("text-anchor", "start") == anchor


@given(WORDS)
def test_any_words_are_well_formed_and_come_back_as_they_were(words):
    element = ET.fromstring(Text(words, 0, 0, 200, "italic", ink="0.75", kind="cue").svg())
    assert (element.text or "") == words
    assert element.attrib["class"] == "t-cue"
    assert element.attrib["font-style"] == "italic"
    assert element.attrib["fill-opacity"] == "0.75"


@given(st.text(max_size=40))
def test_what_is_printed_holds_no_sign_that_xml_forbids(text):
    made = printable(text)
    assert made.isprintable()
    assert made == made.strip()
    ET.fromstring(Text(made, 0, 0, 200).svg())


def test_only_what_cannot_be_printed_goes():
    assert printable("  Verse\x00 2\n") == "Verse 2"
    assert printable("Brücke – ruhig") == "Brücke – ruhig"

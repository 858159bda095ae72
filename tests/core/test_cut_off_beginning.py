"""A record that begins within its first bar: that bar is written whole, and all is made of it."""

from dataclasses import replace
from fractions import Fraction

import pytest

from orchesis.chart.files import WRITERS, write_file
from orchesis.chart.options import ChartOptions, Notation, Reading
from orchesis.chart.reading_pages import chart_pages
from orchesis.limbs.assign import assign_limbs
from orchesis.music.instruments import Instrument
from orchesis.music.json import dumps, loads
from orchesis.music.values import Section
from orchesis.rhythm.due import written_time
from tests.composing import ROCK, song

FILL = {Instrument.SNARE: "........xxxxxxxx", Instrument.KICK: "x......."}


def cut_off(earlier=0.9):
    """Sixteen bars of which the recording lacks so many seconds, and what was struck in them."""
    made = song([ROCK, ROCK, ROCK, FILL] * 4)
    bars = tuple(
        replace(
            bar,
            start=bar.start - earlier,
            end=bar.end - earlier,
            beats=tuple(beat - earlier for beat in bar.beats),
        )
        for bar in made.bars
    )
    # What was struck just before is still heard, from the first moment on.
    kept = [
        replace(hit, time=max(0.0, hit.time - earlier))
        for hit in made.hits
        if hit.time >= earlier - 0.01
    ]
    sections = (
        Section("Verse", bars[0].start, bars[7].end, 8, 1, "A"),
        Section("Chorus", bars[8].start, bars[-1].end, 8, 9, "B"),
    )
    return replace(made, bars=bars, sections=sections).with_hits(assign_limbs(kept, 4))


@pytest.mark.parametrize("earlier", [0.9, 0.502])
@pytest.mark.parametrize("notation", Notation)
@pytest.mark.parametrize("reading", Reading)
def test_every_reading_is_engraved(reading, notation, earlier):
    """Also where all but two milliseconds of the first bar are there, and it is typical."""
    options = ChartOptions(reading=reading, notation=notation)
    assert chart_pages(cut_off(earlier), options).pages


@pytest.mark.parametrize("name", WRITERS)
def test_every_file_is_written(name):
    assert write_file(cut_off(), name)


def test_it_is_kept_and_read_back_as_it_is():
    text = dumps(cut_off())
    assert dumps(loads(text)) == text
    assert loads(text).bars[0].start == pytest.approx(-0.4)


def test_a_note_that_is_added_before_the_recording_sounds_as_it_begins():
    made = cut_off()
    assert made.bars[0].start == pytest.approx(-0.4)
    assert written_time(made, 1, Fraction(0)) == 0.0
    assert written_time(made, 1, Fraction(1, 2)) == pytest.approx(0.6)

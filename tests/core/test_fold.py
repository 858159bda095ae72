"""Folding bars into repeats: what a copyist would write, and nothing lost by it."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.chart.fold import BRIEF, EXACT, fold
from orchesis.chart.options import ChartOptions
from orchesis.chart.readings import make_score
from orchesis.chart.score import content_of, play_through
from orchesis.music.instruments import Instrument
from tests.composing import song

BARS = {
    "A": {Instrument.KICK: "x...", Instrument.SNARE: "..x."},
    "B": {Instrument.KICK: "x.x.", Instrument.SNARE: ".x.x"},
    "C": {Instrument.SNARE: "xxxx"},
    "D": {Instrument.TOM_HIGH: "x.x."},
    "-": {},
}


def shown(text, folding):
    """The measures as a line: |: :| repeats, %n signs, Rn rests, [1,2 endings."""
    words = []
    for piece in fold(list(text), [sign == "-" for sign in text], folding):
        word = "|:" if piece.opens_repeat else ""
        word += f"[{','.join(map(str, piece.ending))} " if piece.ending_opens else ""
        if piece.is_rest:
            word += f"R{piece.span}"
        else:
            word += f"%{piece.span}" if piece.span else text[piece.index]
        word += f":|{piece.times}" if piece.times else ""
        words.append(word)
    return " ".join(words)


@pytest.mark.parametrize(
    ("text", "exact", "brief"),
    [
        ("AAAA", "A %1 %1 %1", "|:A:|4"),
        ("AAAB", "A %1 %1 B", "|:A:|3 B"),
        ("AAABAAAB", "A %1 %1 B %4", "|:A %1 %1 B:|2"),
        ("ABAB", "A B %2", "|:A B:|2"),
        ("A" * 16, "|:A %1 %1 %1:|4", "|:A:|16"),
        ("----AAAA", "R4 A %1 %1 %1", "R4 |:A:|4"),
        ("ABCDABCA", "|:A B C [1 D:|2 [2 A", "|:A B C [1 D:|2 [2 A"),
        ("AAAB" * 3 + "AAAC", "|:A %1 %1 [1,2,3 B:|4 [4 C", "|:A %1 %1 [1,2,3 B:|4 [4 C"),
        ("A", "A", "A"),
        ("-", "-", "-"),
    ],
)
def test_bars_are_folded_as_a_copyist_would(text, exact, brief):
    assert shown(text, EXACT) == exact
    assert shown(text, BRIEF) == brief


@settings(max_examples=150, deadline=None)
@given(st.text(alphabet="AABC-", min_size=1, max_size=24), st.sampled_from(["full", "essence"]))
def test_whoever_follows_the_signs_plays_each_bar_that_they_stand_for(text, reading):
    piece = song([BARS[sign] for sign in text])
    score = make_score(piece, ChartOptions(reading=reading))
    played = play_through(score.measures)
    stood_for = sorted(
        first + step for m in score.measures for first in m.plays for step in range(m.span)
    )
    assert stood_for == [bar.number for bar in piece.bars]
    assert len(played) == len(piece.bars)
    if reading == "full":
        assert played == [content_of(bar.meter, piece.hits_of(bar.number)) for bar in piece.bars]


def test_a_sign_never_looks_back_over_the_head_of_a_section():
    from dataclasses import replace

    piece = song([BARS["A"]] * 8)
    first = piece.sections[0]
    halves = tuple(
        replace(first, label=name, bars=4, first_bar=number, start=piece.bar(number).start)
        for name, number in (("Verse", 1), ("Chorus", 5))
    )
    measures = make_score(replace(piece, sections=halves), ChartOptions()).measures
    heads = [measure for measure in measures if measure.heading]
    assert [head.heading.label for head in heads] == ["Verse", "Chorus"]
    assert all(head.kind == "written" for head in heads)

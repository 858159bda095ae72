"""What a person confirmed outlives a new listening run: sections keep place, name and letter."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.form.confirmed import with_confirmed
from orchesis.music.values import Feel, Section
from tests.composing import ROCK, song

BARS = 16
PIECE = song([ROCK] * BARS)


def sections(*rows, piece=PIECE):
    """Sections of (label, mark, bars, confirmed) one after the other."""
    made, first = [], 0
    for label, mark, length, settled in rows:
        bars = piece.bars[first : first + length]
        made.append(
            Section(label, bars[0].start, bars[-1].end, length, first + 1, mark, confirmed=settled)
        )
        first += length
    return tuple(made)


def told(piece):
    return [(s.label, s.mark, s.first_bar, s.bars) for s in piece.sections]


def heard_again(old, new, confirmed=()):
    return with_confirmed(
        replace(PIECE, sections=sections(*old)), replace(PIECE, sections=sections(*new)), confirmed
    )


def test_nothing_confirmed_leaves_what_was_found():
    new = (("Verse", "A", 8, False), ("Chorus", "B", 8, False))
    result = heard_again([("Intro", "A", 16, False)], new)
    assert told(result) == [("Verse", "A", 1, 8), ("Chorus", "B", 9, 8)]


def test_a_confirmed_section_keeps_its_bars_and_name_among_new_ones():
    old = [("Intro", "A", 4, False), ("Bridge", "C", 4, True), ("Outro", "B", 8, False)]
    new = [("Verse", "A", 8, False), ("Chorus", "B", 8, False)]
    assert told(heard_again(old, new)) == [
        ("Verse", "A", 1, 4),
        ("Bridge", "C", 5, 4),
        ("Chorus", "B", 9, 8),
    ]


def test_a_found_section_gives_up_the_letter_of_a_confirmed_one():
    old = [("Bridge", "A", 8, True), ("Outro", "B", 8, False)]
    new = [("Verse", "A", 8, False), ("Chorus", "A", 8, False)]
    result = heard_again(old, new)
    assert told(result) == [("Bridge", "A", 1, 8), ("Chorus", "B", 9, 8)]


def test_found_sections_that_are_alike_stay_alike():
    old = [("Bridge", "A", 4, True), ("Outro", "B", 12, False)]
    new = [("Verse", "B", 4, False), ("Chorus", "A", 4, False), ("Verse", "C", 4, False),
           ("Chorus", "A", 4, False)]  # fmt: skip
    marks = {(s.label, s.first_bar): s.mark for s in heard_again(old, new).sections}
    assert marks["Chorus", 5] == marks["Chorus", 13] != "A"
    assert marks["Bridge", 1] == "A"


def test_a_confirmed_section_in_the_midst_of_a_found_one_leaves_both_its_ends():
    old = [("Verse", "A", 6, False), ("Break", "B", 2, True), ("Verse", "A", 8, False)]
    result = heard_again(old, [("Groove", "A", 16, False)])
    assert told(result) == [("Groove", "A", 1, 6), ("Break", "B", 7, 2), ("Groove", "A", 9, 8)]


@pytest.mark.parametrize("confirmed", [("feel",), ()])
def test_a_confirmed_feel_is_kept_and_another_is_heard_anew(confirmed):
    swung = replace(PIECE, feel=Feel(1.6, 1.0))
    result = with_confirmed(swung, PIECE, confirmed)
    assert result.feel == (swung.feel if confirmed else PIECE.feel)


@given(
    old=st.lists(st.tuples(st.integers(1, 6), st.booleans()), min_size=1, max_size=6),
    new=st.lists(st.integers(1, 6), min_size=1, max_size=6),
)
def test_every_bar_is_in_one_section_whatever_was_confirmed(old, new):
    def rows(lengths, settled):
        made, left = [], BARS
        for index, length in enumerate(lengths):
            length = min(length, left)
            if length:
                made.append((f"S{index}", "ABCDEF"[index], length, settled[index]))
            left -= length
        if left:
            made.append(("Rest", "G", left, False))
        return made

    before = rows([length for length, _ in old], [settled for _, settled in old])
    result = heard_again(before, rows(new, [False] * len(new)))
    covered = [
        bar
        for section in result.sections
        for bar in range(section.first_bar, section.first_bar + section.bars)
    ]
    assert covered == list(range(1, BARS + 1))
    kept = {(s.label, s.first_bar, s.bars) for s in result.sections if s.confirmed}
    assert kept == {(s.label, s.first_bar, s.bars) for s in sections(*before) if s.confirmed}

"""Whose notes count as the bass's when it is asked how many of them are found."""

import pytest

from training.bass_figures import SECONDS, bass_notes
from training.human import Note, SongStretch

BASS, FRETLESS, GUITAR, STRINGS = 33, 35, 27, 48


def stretch(*notes):
    """A stretch whose band plays (seconds, program) notes."""
    made = SongStretch()
    made.notes = [Note(time, 0.4, program, 40, 0.8) for time, program in notes]
    return made


def test_the_notes_of_a_bass_are_in_order_and_those_of_others_are_left_out():
    played = stretch((2.0, BASS), (1.0, BASS), (1.5, GUITAR), (1.25, STRINGS))
    assert bass_notes(played) == [1.0, 2.0]


def test_two_that_begin_together_are_one_beginning():
    assert bass_notes(stretch((1.0, BASS), (1.004, FRETLESS))) == [1.0]


@pytest.mark.parametrize("time", [-0.1, SECONDS, SECONDS + 3])
def test_what_is_not_heard_does_not_count(time):
    assert bass_notes(stretch((time, BASS), (4.0, BASS))) == [4.0]

"""Flams, drags and buzzes are told from the strokes around them; rolls stay strokes."""

import numpy as np
import pytest

from orchesis.listening.ear import Onset
from orchesis.listening.graces import with_graces
from orchesis.music.instruments import Instrument, Ornament

SNARE, HAT, TOM = Instrument.SNARE, Instrument.HIHAT_CLOSED, Instrument.TOM_HIGH
CLASSES = (SNARE, HAT, TOM)


def heard(strokes, drum=SNARE):
    """Curves of strokes (ms, height, loudness), each as wide as the ear shows it."""
    curves, loudness = np.zeros((200, 3), np.float32), np.zeros((200, 3), np.float32)
    column = CLASSES.index(drum)
    for at, height, loud in strokes:
        frame = round(at / 10)
        for step, share in ((-1, 0.5), (0, 1.0), (1, 0.5)):
            place = frame + step
            if height * share > curves[place, column]:
                curves[place, column], loudness[place, column] = height * share, loud
    return curves, loudness


def ornaments(strokes, written=None, drum=SNARE):
    """(ms, ornament) of what is left of the strokes that the picker found."""
    found = written if written is not None else [at for at, _, _ in strokes]
    onsets = [Onset(at / 1000, drum, 0.7, 0.9) for at in found]
    kept = with_graces(onsets, *heard(strokes, drum), CLASSES, 100.0)
    return [(round(onset.time * 1000), onset.ornament) for onset in kept]


@pytest.mark.parametrize("gap", [20, 30, 40])
@pytest.mark.parametrize("drum", [SNARE, TOM])
def test_a_soft_stroke_just_before_a_firm_one_makes_a_flam(gap, drum):
    strokes = [(500 - gap, 0.5, 0.25), (500, 0.9, 0.8)]
    assert ornaments(strokes, drum=drum) == [(500, Ornament.FLAM)]
    # Where the picker took both for one it is a flam all the same.
    assert ornaments(strokes, written=[500], drum=drum) == [(500, Ornament.FLAM)]


def test_two_soft_strokes_before_a_firm_one_make_a_drag():
    strokes = [(420, 0.5, 0.2), (460, 0.5, 0.25), (500, 0.9, 0.8)]
    assert ornaments(strokes) == [(500, Ornament.DRAG)]


def test_bounces_that_die_away_make_a_buzz():
    strokes = [(500, 0.9, 0.8), (540, 0.6, 0.4), (580, 0.4, 0.2), (620, 0.3, 0.1)]
    assert ornaments(strokes) == [(500, Ornament.BUZZ)]


def test_an_echo_or_a_ghost_after_a_stroke_decorates_nothing():
    assert ornaments([(500, 0.9, 0.8), (540, 0.5, 0.3)]) == [(500, None), (540, None)]
    assert ornaments([(500, 0.9, 0.8), (625, 0.5, 0.2)]) == [(500, None), (625, None)]


def test_a_fast_roll_stays_single_strokes():
    even = [(500 + 60 * k, 0.9, 0.7) for k in range(8)]
    assert ornaments(even) == [(at, None) for at, _, _ in even]
    # Accents among soft strokes: the flank of the one before is no grace note.
    accented = [(500 + 60 * k, 0.8, 0.9 if k % 4 == 0 else 0.4) for k in range(8)]
    assert ornaments(accented) == [(at, None) for at, _, _ in accented]


def test_a_loud_stroke_just_before_is_no_grace_note():
    assert ornaments([(460, 0.9, 0.9), (500, 0.8, 0.6)]) == [(460, None), (500, None)]


def test_hats_have_no_grace_notes():
    strokes = [(470, 0.5, 0.25), (500, 0.9, 0.8)]
    assert ornaments(strokes, drum=HAT) == [(470, None), (500, None)]


def test_strokes_at_the_very_ends_are_no_error():
    assert ornaments([(10, 0.9, 0.8), (1970, 0.9, 0.8)]) == [(10, None), (1970, None)]

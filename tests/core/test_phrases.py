"""The typical phrase: its length, its notes, its changes, its variants, its like bars."""

from dataclasses import replace
from fractions import Fraction

import pytest

from orchesis.groove.alike import kinds_of_bars
from orchesis.groove.change import changes_between
from orchesis.groove.phrase import Phrase, Standing, find_phrases, standing_of
from orchesis.groove.variants import find_variants
from orchesis.music.instruments import Instrument, Status
from orchesis.music.values import Fill, Meter
from tests.composing import ROCK, song

KICK, SNARE, HAT = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED
OPEN, RIDE = Instrument.HIHAT_OPEN, Instrument.RIDE
COMMON = Meter(4, 4)
SECOND = {**ROCK, KICK: "x..x......x....."}
OPENS = {**SECOND, HAT: "x.x.x.x.x.x.x...", OPEN: "..............x."}


def phrases_of(piece):
    return find_phrases(piece.bars, piece.hits, piece.fills)


def standings(phrase):
    return {(n.bar, n.position, n.instrument): n.standing for n in phrase.notes}


@pytest.mark.parametrize(
    ("pattern", "length"),
    [
        ([ROCK], 1),
        ([ROCK, SECOND], 2),
        ([ROCK, OPENS], 2),
        ([ROCK, ROCK, ROCK, OPENS], 4),
        ([ROCK, SECOND, ROCK, OPENS], 4),
    ],
)
def test_the_length_of_the_pattern_is_found(pattern, length):
    piece = song(pattern * (16 // len(pattern)))
    (phrase,) = phrases_of(piece)
    assert phrase.length == length
    assert phrase.odds > 1


def test_a_single_odd_bar_is_no_longer_phrase():
    (phrase,) = phrases_of(song([ROCK] * 5 + [SECOND] + [ROCK] * 2))
    assert phrase.length == 1


def test_two_bars_twice_are_too_few_to_swear_by():
    """Two bars that come twice: they may be a phrase of two, and the odds say how sure that is."""
    (phrase,) = phrases_of(song([ROCK, OPENS] * 2))
    (longer,) = phrases_of(song([ROCK, OPENS] * 8))
    assert longer.length == 2
    assert longer.odds > phrase.odds


@pytest.mark.parametrize(
    ("count", "asked", "standing"),
    [
        (8, 8, Standing.CORE),
        (7, 8, Standing.CORE),
        (2, 2, Standing.CORE),
        (1, 1, Standing.USUAL),
        (5, 8, Standing.USUAL),
        (3, 4, Standing.USUAL),
        (2, 8, Standing.OCCASIONAL),
        (1, 2, None),
        (1, 8, None),
        (0, 0, None),
    ],
)
def test_standing_weighs_how_few_bars_it_rests_on(count, asked, standing):
    assert standing_of(count, asked) is standing


def test_a_pick_up_that_is_nothing_but_a_fill_has_no_typical_notes():
    """An excerpt that begins with the end of a fill: no bar says what is usually played there."""
    piece = song([SECOND])
    fill = Fill(piece.bar(1).start, piece.bar(1).end, 1)
    (phrase,) = phrases_of(replace(piece, fills=(fill,)))
    assert phrase.notes == ()


def test_bars_of_rest_do_not_make_a_core_note_less_core():
    (phrase,) = phrases_of(song([ROCK] * 4 + [{}] * 2 + [ROCK] * 2))
    assert set(standings(phrase).values()) == {Standing.CORE}


def test_a_fill_does_not_make_the_groove_less_core():
    fill = {**ROCK, HAT: "x.x.x.x.........", SNARE: "....X...xxxxxxxx"}
    piece = song([ROCK, ROCK, ROCK, fill] * 2)
    fills = tuple(Fill(piece.bar(n).beats[2], piece.bar(n).end, n) for n in (4, 8))
    (phrase,) = phrases_of(replace(piece, fills=fills))
    assert phrase.length == 1
    assert set(standings(phrase).values()) == {Standing.CORE}
    assert all(note.share == 1 for note in phrase.notes)


def test_a_note_left_out_is_no_part_of_the_phrase():
    piece = song([ROCK] * 4)
    silent = piece.with_hits(
        replace(hit, status=Status.LEFT_OUT) if hit.instrument is SNARE else hit
        for hit in piece.hits
    )
    assert all(note.instrument is not SNARE for note in phrases_of(silent)[0].notes)


def test_doubtful_notes_count_as_far_as_they_are_believed():
    piece = song([{**ROCK, SNARE: "....X..g....X..."}] * 8)
    unsure = piece.with_hits(
        replace(hit, status=Status.DOUBTFUL, confidence=0.5) if hit.ghost else hit
        for hit in piece.hits
    )
    found = standings(phrases_of(unsure)[0])
    assert found[0, Fraction(7, 16), SNARE] is Standing.USUAL


def test_loudness_and_articulation_are_part_of_the_phrase():
    (phrase,) = phrases_of(song([ROCK, OPENS] * 4))
    accents = {note.position for note in phrase.notes if note.accent}
    assert accents == {Fraction(1, 4), Fraction(3, 4)}
    assert [note.bar for note in phrase.notes if note.instrument is OPEN] == [1]


OFF_ONE = {**ROCK, KICK: "..x.....x......."}
GHOSTS = {**ROCK, SNARE: "....X..g.g..X..."}


@pytest.mark.parametrize(
    ("first", "second", "words"),
    [
        (ROCK, OFF_ONE, "From bar 9 the kick leaves 1 and plays the & of 1"),
        (ROCK, GHOSTS, "From bar 9 the snare as a ghost plays the a of 2 and the e of 3"),
        (
            ROCK,
            {SNARE: ROCK[SNARE], KICK: ROCK[KICK], RIDE: ROCK[HAT]},
            "From bar 9 the ride takes over from the closed hat",
        ),
    ],
)
def test_a_change_in_mid_section_is_found_and_told(first, second, words):
    piece = song([first] * 8 + [second] * 8)
    found = phrases_of(piece)
    assert [(p.first_bar, p.bars) for p in found] == [(1, 8), (9, 8)]
    (change,) = changes_between(found, piece.bars, piece.hits)
    assert change.words == words
    assert "%" in change.evidence


def test_no_change_is_found_in_a_groove_that_only_varies():
    varied = [{**ROCK, KICK: row} for row in ("x.......x.......", "x.....x.x.......")]
    order = [0, 0, 1, 0, 1, 0, 0, 0, 1, 0, 0, 1, 0, 0, 0, 1]
    assert len(phrases_of(song([varied[i] for i in order]))) == 1


def phrase_of(rows, bars=8):
    return phrases_of(song([rows] * bars))[0]


def test_fuller_forms_are_set_beside_the_loudness_of_their_sections():
    full = {**ROCK, KICK: "x..x..x.x.x....."}
    phrases: dict[str, Phrase] = {
        "Verse 1": phrase_of(ROCK),
        "Chorus 1": phrase_of(full),
        "Verse 2": phrase_of(ROCK),
        "Chorus 2": phrase_of(full),
    }
    levels = {"Verse 1": -20.0, "Verse 2": -19.0, "Chorus 1": -14.0, "Chorus 2": -15.0}
    (kick,) = find_variants(phrases, levels, COMMON)
    assert [v.sections for v in kick.variants] == [
        ("Chorus 1", "Chorus 2"),
        ("Verse 1", "Verse 2"),
    ]
    assert kick.words == (
        "The kick is fullest in Chorus 1 and Chorus 2 (5 a bar) and plays only 1 and 3 in "
        "Verse 1 and Verse 2; the fuller form goes with the louder passage (+5.0 dB)."
    )


def test_sections_that_play_alike_have_no_variants():
    phrases = {"Verse 1": phrase_of(ROCK), "Verse 2": phrase_of(ROCK)}
    assert find_variants(phrases, {"Verse 1": -9.0, "Verse 2": -20.0}, COMMON) == ()


def test_like_bars_are_grouped_and_a_note_more_makes_no_other_kind():
    extra = {**ROCK, KICK: "x..x....x......."}
    far = {**ROCK, KICK: "..xx..xx..xx..xx"}
    piece = song([ROCK, ROCK, extra, far, ROCK, far, {}])
    kinds = kinds_of_bars(piece.bars, piece.hits)
    assert [(kind.exact, kind.near) for kind in kinds] == [((1, 2, 5), (3,)), ((4, 6), ())]


def test_a_single_note_that_comes_and_stays_is_a_change():
    piece = song([ROCK] * 8 + [{**ROCK, KICK: "x.....x.x......."}] * 8)
    assert [p.first_bar for p in phrases_of(piece)] == [1, 9]

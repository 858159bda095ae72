"""Grooves in a drummer's words: named rhythms, what is where, how hard it is and where."""

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.errors import InvalidTranscription
from orchesis.groove.phrase import find_phrases
from orchesis.groove.telling import facts
from orchesis.lexicon.match import entries, entry_of, matches
from orchesis.limbs.difficulty import difficulty, hard_spots
from orchesis.limbs.kit import Player
from orchesis.limbs.rudiments import ROLLS, RUDIMENTS
from orchesis.music.instruments import Instrument, Limb
from tests.composing import ROCK, song

HAT, SNARE, KICK, RIDE = (
    Instrument.HIHAT_CLOSED,
    Instrument.SNARE,
    Instrument.KICK,
    Instrument.RIDE,
)
OPEN, FOOT, BELL = Instrument.HIHAT_OPEN, Instrument.HIHAT_FOOT, Instrument.COWBELL
TOM = Instrument.TOM_FLOOR


def named(*bars, beats=4):
    piece = song(list(bars), beats=beats)
    played = [
        frozenset((hit.position, hit.instrument) for hit in piece.hits_of(bar.number))
        for bar in piece.bars
    ]
    return [match.words for match in matches(played, beats)]


@pytest.mark.parametrize(
    ("bars", "words"),
    [
        ([{SNARE: "x..x..x...x.x..."}], "son clave over sixteenths on the snare"),
        ([{SNARE: "x..x..x."}, {SNARE: "..x.x..."}], "son clave, three-side first on the snare"),
        ([{SNARE: "..x.x..."}, {SNARE: "x..x..x."}], "son clave, two-side first on the snare"),
        ([{SNARE: "x..x..x."}], "the three-side of a clave on the snare"),
        ([{KICK: "x..xx.x."}], "habanera on the kick"),
        ([{BELL: "x.x.xx.x.x.x"}], "standard bell in twelve on the cowbell"),
        ([{RIDE: "x..x.xx..x.x", FOOT: "...x.....x.."}], "jazz ride with the hat on 2 and 4"),
        (
            [{HAT: "x.x.x.x.x.x.x.x.", SNARE: "....x.......x...", KICK: "x.......x......."}],
            "straight rock beat",
        ),
        (
            [{KICK: "x...x...x...x...", SNARE: "....x.......x...", OPEN: "..x...x...x...x."}],
            "disco",
        ),
        (
            [{KICK: "........x.......", SNARE: "........x.......", HAT: "x.x.x.x.x.x.x.x."}],
            "one drop",
        ),
        (
            [
                {
                    RIDE: "x.x.x.x.x.x.x.x.",
                    Instrument.CROSS_STICK: "x..x..x...x..x..",
                    KICK: "x..xx..xx..xx..x",
                }
            ],
            "bossa nova",
        ),
    ],
)
def test_traditional_rhythms_are_called_by_their_names(bars, words):
    assert words in named(*bars)


def test_a_rhythm_that_begins_later_or_is_a_note_apart_is_said_to():
    assert "son clave over sixteenths on the snare, from 2 on" in named({SNARE: "x...x..x..x...x."})
    apart = named({RIDE: "x..x.xx..x.x", FOOT: "...x.....x..", SNARE: "...........x"})
    assert "jazz ride with the hat on 2 and 4" in apart
    near = named({HAT: "x.x.x.x.x.x.x.x.", SNARE: "....x.......x...", KICK: "x.....x.x......."})
    assert any("one note apart" in words or "& of 2" in words for words in near)


def names_of(rows, tempo=None):
    piece = song([rows])
    played = [frozenset((hit.position, hit.instrument) for hit in piece.hits)]
    return matches(played, 4, tempo=tempo)


@given(
    st.text("x.", min_size=16, max_size=16),
    st.sampled_from(["x.x.x.x.x.x.x.x.", "x...x...x...x...", "x" * 16, "..x...x...x...x."]),
    st.sampled_from(
        ["....X.......X...", "....X..g.g..X...", "........X.......", "....X.......X..x"]
    ),
    st.sampled_from([HAT, RIDE, Instrument.CRASH]),
)
def test_over_a_backbeat_no_kick_makes_another_tradition(kick, time, snare, cymbal):
    """A habanera on the kick of a rock song is a coincidence, and nobody's word for it."""
    found = names_of({cymbal: time, SNARE: snare, KICK: "x" + kick[1:]})
    assert [match.words for match in found if match.entry.is_traditional] == []


def test_a_cowbell_over_a_backbeat_may_still_play_a_clave():
    found = names_of({**ROCK, BELL: "x..x..x...x.x..."})
    assert "son clave over sixteenths on the cowbell" in [match.words for match in found]


def test_one_voice_a_note_apart_is_no_name():
    assert named({BELL: "x..x..x...x..x.."}) != []
    assert named({BELL: "x..x..x...x.x.x."}) == []


@pytest.mark.parametrize(("tempo", "is_told"), [(72, True), (150, False), (None, True)])
def test_a_name_keeps_to_its_tempo(tempo, is_told):
    rows = {KICK: "........x.......", SNARE: "........x.......", HAT: "x.x.x.x.x.x.x.x."}
    assert any(match.entry.name == "one drop" for match in names_of(rows, tempo)) is is_told


def test_a_feathered_kick_needs_a_ride():
    quarters = {KICK: "x..x..x..x.."}
    assert all(match.entry.name != "feathered kick" for match in names_of(quarters))
    with_ride = names_of({**quarters, RIDE: "x..x.xx..x.x"})
    assert any(match.entry.name == "feathered kick" for match in with_ride)


def test_what_has_no_name_gets_none():
    assert named({SNARE: "x.xx..xxx.x..x.x", KICK: ".x..xx...x.xx..."}) == []


def test_a_tradition_stands_beside_every_entry_and_names_are_told_once():
    names = [entry.name for entry in entries()]
    assert len(names) == len(set(names))
    assert len(names) + len(RUDIMENTS) + len(ROLLS) >= 120
    assert all(entry.tradition and entry.strokes for entry in entries())


def test_an_entry_of_ones_own_is_found_like_any_other():
    mine = entry_of({"name": "our ending", "beats": 4, "rows": {"kick": "x.xx..x...xx...."}})
    piece = song([{KICK: "x.xx..x...xx...."}])
    played = [frozenset((hit.position, hit.instrument) for hit in piece.hits)]
    assert [m.words for m in matches(played, 4, [mine])] == ["our ending"]
    with pytest.raises(InvalidTranscription):
        entry_of({"name": "none", "beats": 4, "rows": {"gong": "x"}})


def told(*bars, beats=4):
    piece = song(list(bars) * 8, beats=beats)
    (phrase, *_) = find_phrases(piece.bars, piece.hits)
    return {fact.words: fact.places for fact in facts(phrase, piece.meter)}


def test_a_displaced_backbeat_is_told_with_its_note():
    found = told({**ROCK, SNARE: "....X.........X."})
    words = "The backbeat of 4 comes an eighth late, on the & of 4."
    assert found[words] == ((0, Fraction(7, 8), SNARE),)


def test_bars_are_explained_by_the_first():
    found = told(ROCK, {**ROCK, KICK: "x.......x.x....."})
    assert "Bar 2 is bar 1 up to the & of 3." in found


def test_threes_over_sixteenths_are_told():
    found = told({HAT: "x.x.x.x.x.x.x.x.", KICK: "x..x..x..x..x...", SNARE: "....X.......X..."})
    assert any("goes in 3s over sixteenths, 5 times from 1" in words for words in found)


def test_a_linear_stretch_and_a_kick_alone_are_told():
    found = told(
        {
            HAT: "x.x.x.x.........",
            SNARE: "....X...x..x..x.",
            KICK: "x.......",
            TOM: ".........x..x..x",
            BELL: "..........x..x..",
        }
    )
    assert any(words.startswith("Nothing falls together from") for words in found)
    alone = told({HAT: "x.x.x.x...x.x.x.", SNARE: "....X.......X...", KICK: "x.......x......."})
    assert "The kick is alone on 3." in alone


def test_a_ghost_that_answers_and_accents_of_the_hat_are_told():
    found = told({HAT: "X.x.X.x.X.x.X.x.", SNARE: "....Xg......Xg..", KICK: "x.......x......."})
    assert "A ghost answers each backbeat a sixteenth later." in found
    assert "The steady hand accents the beat." in found


def test_of_a_plain_beat_nothing_is_made_up():
    assert told(ROCK) == {}


def hardness(rows, **options):
    piece = song([rows] * 2)
    return difficulty(piece.bars, piece.hits, **options)


def test_what_is_harder_has_a_higher_number():
    eighths = hardness(ROCK).value
    sixteenths = hardness({**ROCK, HAT: "x" * 16, KICK: "x..x..x.x..x..x."}).value
    ghosts = hardness({**ROCK, SNARE: ".g..Xg.g.g..Xg.g"}).value
    assert 1 <= eighths < ghosts
    assert eighths < sixteenths <= 10
    assert hardness({}).value == 1


def test_a_faster_hand_makes_it_easier():
    fast = {**ROCK, HAT: "x" * 16}
    assert hardness(fast, player=Player(comfortable_hz=12)).value < hardness(fast).value


def test_hard_spots_are_named_from_the_notes_themselves():
    piece = song([{HAT: "x.x.x.x.x.x.x.x.", SNARE: "....Xg......X...", KICK: "x........x.xx..."}])
    words = " / ".join(spot.words for spot in hard_spots(piece.bars, piece.hits))
    assert "it wants to slide onto" in words
    assert "The ghost on the e of 2 comes right after the loud stroke on 2" in words
    assert "Two kicks 125 ms apart" in words
    plain = song([ROCK])
    assert hard_spots(plain.bars, plain.hits) == ()


def test_one_hand_on_two_drums_at_one_moment_is_no_way_that_it_goes():
    """Written so by somebody: what cannot be played is said of it elsewhere."""
    piece = song([{Instrument.TOM_HIGH: "x...x...", Instrument.TOM_FLOOR: "x...x..."}] * 2)
    hits = [replace(hit, limb=Limb.RIGHT_HAND) for hit in piece.hits]
    assert not any("cm in 0 ms" in spot.words for spot in hard_spots(piece.bars, hits))

"""Hands in the score: what a drummer would play, of a catalogue of figures and of grooves."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.chart.midi import to_midi
from orchesis.chart.musicxml import to_musicxml
from orchesis.exchange.read import read_part
from orchesis.limbs.assign import assign_limbs
from orchesis.limbs.kit import STANDARD, Player, mirrored
from orchesis.limbs.sticking import strokes_of
from orchesis.limbs.ways import ways
from orchesis.music.instruments import FEET, Instrument
from tests.cases.figures import CATALOGUE
from tests.figuring import BEATS, as_song, hands_in_score, hits_of, letters_of

IDS = [figure.name for figure in CATALOGUE]


def test_the_catalogue_holds_the_rudiments_and_everyday_figures():
    assert len(CATALOGUE) >= 120
    assert len(set(IDS)) == len(IDS)


@pytest.mark.parametrize("figure", CATALOGUE, ids=IDS)
def test_a_score_has_the_hands_that_a_teacher_gives(figure):
    assert hands_in_score(figure.text, figure.parts, figure.bpm) in figure.hands


@pytest.mark.parametrize("figure", CATALOGUE, ids=IDS)
def test_the_hands_are_a_teacher_s_at_every_tempo_between(figure):
    for bpm in np.linspace(*figure.sweep, 6):
        got = hands_in_score(figure.text, figure.parts, float(bpm))
        assert got in figure.hands, f"at {bpm:.0f}"


@pytest.mark.parametrize("figure", CATALOGUE, ids=IDS)
def test_the_first_way_is_what_the_score_has_and_the_taught_one_is_offered(figure):
    hits = hits_of(figure.text, figure.parts, figure.bpm)
    found = [way.letters for way in ways([s for s, _ in strokes_of(hits, BEATS)])]
    assert found[0] == hands_in_score(figure.text, figure.parts, figure.bpm)
    assert set(found) & set(figure.hands)
    assert figure.offered in ("", *found)


@pytest.mark.parametrize("figure", CATALOGUE, ids=IDS)
def test_a_left_handed_player_has_the_catalogue_the_other_way_round(figure):
    right = hands_in_score(figure.text, figure.parts, figure.bpm)
    left = hands_in_score(figure.text, figure.parts, figure.bpm, mirrored(STANDARD))
    assert left == right.translate(str.maketrans("RL", "LR"))


PLAIN = [f for f in CATALOGUE if not any(mark in f.text for mark in "fdz")]


@pytest.mark.parametrize("figure", PLAIN, ids=[figure.name for figure in PLAIN])
def test_a_figure_that_comes_in_as_midi_has_its_hands_in_the_score_and_in_the_files(figure):
    bpm = round(figure.bpm)
    data = to_midi(as_song(hits_of(figure.text, figure.parts, bpm), bpm), quantised=True)
    read = read_part(data, "figure.mid").song
    assert letters_of(read.hits) in figure.hands
    again = read_part(to_musicxml(read).encode(), "figure.musicxml").song
    assert letters_of(again.hits) == letters_of(read.hits)


@pytest.mark.parametrize("bpm", [60, 85, 100])
def test_sixteenths_on_the_hat_are_one_hand_s_while_it_keeps_up(bpm):
    hits = assign_limbs(hits_of("hK h h h hS h h h " * 2, 4, bpm), BEATS)
    assert set(letters_of(hits, only=Instrument.HIHAT_CLOSED)) == {"R"}
    assert set(letters_of(hits, only=Instrument.SNARE)) == {"L"}


@pytest.mark.parametrize("bpm", [110, 130, 160])
def test_faster_ones_are_shared_and_the_leading_hand_has_the_snare(bpm):
    hits = assign_limbs(hits_of("hK h h h S h h h " * 2, 4, bpm), BEATS)
    assert letters_of(hits) == "RLRL" * 4
    own = Player(comfortable_hz=13)
    hits = assign_limbs(hits_of("hK h h h S h h h " * 2, 4, bpm), BEATS, own)
    assert set(letters_of(hits, only=Instrument.HIHAT_CLOSED)) == {"R"}


@pytest.mark.parametrize("bpm", [70, 100, 130, 170])
@pytest.mark.parametrize("text", ["hK h h h hS h h h", "h h hS h", "h S h S", "oK hS hK hS"])
def test_the_other_hand_never_keeps_the_hat_while_the_leading_one_has_the_snare(text, bpm):
    hits = assign_limbs(hits_of(text + " " + text, 4, bpm), BEATS)
    for hit in hits:
        at = {h.instrument: h.limb for h in hits if h.place[:2] == hit.place[:2]}
        if Instrument.SNARE in at and Instrument.HIHAT_CLOSED in at:
            assert at[Instrument.HIHAT_CLOSED] is STANDARD.lead


def test_an_open_handed_player_keeps_the_hat_beside_the_snare():
    hits = assign_limbs(hits_of("hK h hS h", 2, 100), BEATS, Player(open_handed=True))
    assert set(letters_of(hits, only=Instrument.HIHAT_CLOSED)) == {"L"}
    assert letters_of(hits, only=Instrument.SNARE) == "R"


@pytest.mark.parametrize("bpm", [80, 130, 180])
def test_from_the_ride_to_the_hat_the_hand_does_not_change(bpm):
    hits = assign_limbs(hits_of("rK r rS r hK h hS h", 2, bpm), BEATS)
    assert (
        letters_of(hits, only=Instrument.RIDE) + letters_of(hits, only=Instrument.HIHAT_CLOSED)
        == "R" * 8
    )


@pytest.mark.parametrize("fill", ["S S S S", "S S H H", "S H M F", "S . S S"])
@pytest.mark.parametrize("bpm", [80, 110, 140])
def test_the_crash_after_a_fill_is_the_leading_hand_s(fill, bpm):
    text = f"hK . h . hS . h . hK . h . {fill} cK . h . hS . h . hK . h . hS . h ."
    hits = assign_limbs(hits_of(text, 4, bpm), BEATS)
    assert letters_of(hits, only=Instrument.CRASH) == "R"
    assert set(letters_of(hits, only=Instrument.HIHAT_CLOSED)) == {"R"}


def test_a_cross_stick_and_a_clap_pad_are_the_other_hand_s():
    hits = assign_limbs(hits_of("hK h hx h", 2, 100), BEATS)
    assert letters_of(hits, only=Instrument.CROSS_STICK) == "L"
    pads = Player(pads=(Instrument.CLAP,))
    hits = assign_limbs(hits_of("hK h hp h", 2, 100), BEATS, pads)
    assert letters_of(hits, only=Instrument.CLAP) == "L"


TOKENS = st.sampled_from(["h", "S", "hS", "hK", "cS", "H", "F", "K", ".", "rS", "c", "hSF"])


@settings(max_examples=60, deadline=None)
@given(st.lists(TOKENS, min_size=1, max_size=32), st.sampled_from([3, 4]), st.floats(60, 200))
def test_no_hand_ever_has_two_strokes_at_one_time(tokens, parts, bpm):
    hits = hits_of(" ".join(tokens), parts, bpm)
    seen: dict[tuple[int, Fraction], list[object]] = {}
    for hit in assign_limbs(hits, BEATS):
        if hit.instrument not in FEET and hit.limb is not None:
            seen.setdefault(hit.place[:2], []).append(hit.limb)
    assert all(len(set(limbs)) == len(limbs) for limbs in seen.values())


@pytest.mark.parametrize("text", ["S H H S F F . F", "S S S S H H H H F F F F F F F F", "S . S S"])
def test_swung_sixteenths_have_the_hands_of_straight_ones(text):
    beat = 60 / 92
    straight = hits_of(text, 4, 92)
    swung = [
        replace(hit, time=hit.time + 0.05 * beat * ((hit.position * 4).denominator == 4))
        for hit in straight
    ]
    hands = letters_of(assign_limbs(swung, BEATS, STANDARD))
    assert hands == letters_of(assign_limbs(straight, BEATS, STANDARD))


def test_sticking_explains_why_singles_are_not_recommended():
    def reason(text, parts, bpm):
        hits = hits_of(text, parts, bpm)
        return ways([s for s, _ in strokes_of(hits, BEATS)])[0].reason

    assert reason("S S S S", 4, 100) == ""
    assert "six-stroke roll" in reason(">S S S S S >S", 6, 90)
    assert "a hand for each" in reason("F S F F S F S S", 4, 100)
    assert "too fast for singles" in reason("S S S S S S S S", 8, 130)

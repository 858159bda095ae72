"""Playing along: what was played beside what is written, zoom, variation, click, voice, mixes."""

import wave
from fractions import Fraction
from itertools import product
from pathlib import Path

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from orchesis.groove.count import SCHOOLS
from orchesis.groove.phrase import Standing
from orchesis.limbs.kit import STANDARD
from orchesis.limbs.playable import problems_of
from orchesis.music.instruments import Instrument, Limb
from orchesis.music.values import Feel
from orchesis.practice.click import clicks, count_in, mixture
from orchesis.practice.compare import Struck, Wanted, compare, latency_ms
from orchesis.practice.material import groove_material, material
from orchesis.practice.meter import level_at_ear
from orchesis.practice.mix import RATE, Mix, Sounds, render_mix
from orchesis.practice.plans import Method, make_plan
from orchesis.practice.sounding import sounding
from orchesis.practice.stand_in import Errors, play
from orchesis.practice.variation import by_chance, choices, core, on_call
from orchesis.practice.voice import all_words, counted_aloud, sample_name
from orchesis.practice.zoom import zoom
from tests.composing import ROCK, song

I = Instrument  # noqa: E741
PUBLIC = Path(__file__).parents[2] / "frontend" / "public"
SIXTEENTHS = {
    I.HIHAT_CLOSED: "x" * 16,
    I.SNARE: "....X..g.g..X..g",
    I.KICK: "x.....x...x.....",
    I.HIHAT_FOOT: "....x.......x...",
}
LATE = {Limb.RIGHT_HAND: 0.0, Limb.LEFT_HAND: 15.0, Limb.RIGHT_FOOT: -15.0, Limb.LEFT_FOOT: 15.0}


def wanted(rows=None, bpm=120.0, passes=8):
    """So many passes of a bar at a tempo."""
    piece = song([rows or SIXTEENTHS])
    made = material("Groove", piece.bars, piece.hits)
    bar = 240.0 / bpm
    return [
        Wanted(
            (number + float(hit.position)) * bar,
            hit.instrument,
            hit.limb,
            hit.velocity,
            hit.ghost,
            hit.accent,
        )
        for number in range(passes)
        for hit in made.hits
    ]


@pytest.mark.parametrize(("bpm", "seed"), list(product((60, 84, 120, 150, 180), range(4))))
def test_planted_errors_are_found(bpm, seed):
    asked = wanted(bpm=bpm, passes=24)
    errors = Errors(LATE, spread_ms=6.0, missed=0.05, extra=0.03, seed=seed)
    struck, left_out, added = play(asked, errors)
    found = compare(asked, struck)
    assert (len(found.missed), len(found.extra)) == (left_out, added)
    late = {timing.limb: timing.late_ms for timing in found.limbs}
    assert late == pytest.approx(LATE, abs=3.0)


def test_just_the_strokes_that_were_left_out_are_missed():
    asked = wanted(passes=4)
    gone = {3, 17, 40}
    struck = [
        Struck(item.time + 0.004, item.instrument, item.velocity)
        for index, item in enumerate(asked)
        if index not in gone
    ]
    found = compare(asked, struck)
    assert set(found.missed) == gone
    assert found.extra == ()


@pytest.mark.parametrize(
    ("left_out", "says"),
    [((), 1), ((5,), 1), ((5, 9, 11, 15, 20), 0), (tuple(range(0, 24, 2)), -1)],
)
def test_the_tempo_rises_when_it_goes_well_and_falls_when_it_does_not(left_out, says):
    asked = wanted(passes=2)
    struck = [
        Struck(item.time, item.instrument, item.velocity)
        for index, item in enumerate(asked)
        if index not in left_out
    ]
    assert len(asked) >= 24
    assert compare(asked, struck).ladder_step == says


def test_whoever_plays_nothing_is_not_sent_up_the_ladder():
    assert compare(wanted(passes=1), []).ladder_step == -1
    assert compare([], []).ladder_step == 0


def test_a_stroke_too_many_is_not_taken_for_a_late_one():
    asked = [Wanted(beat * 0.5, I.SNARE, Limb.LEFT_HAND, 100) for beat in range(8)]
    struck = [Struck(item.time, I.SNARE, 100) for item in asked] + [Struck(1.25, I.SNARE, 90)]
    found = compare(asked, struck)
    assert found.missed == ()
    assert [struck[index].time for index in found.extra] == [1.25]


def test_who_is_late_as_a_whole_is_met_all_the_same():
    asked = wanted(bpm=120, passes=4)
    struck = [Struck(item.time + 0.045, item.instrument, item.velocity) for item in asked]
    found = compare(asked, struck)
    assert found.is_clean
    assert [timing.late_ms for timing in found.limbs] == pytest.approx([45.0] * 4)
    assert "late" in found.words[0]


def test_a_pad_does_not_tell_an_open_hat_from_a_closed_one():
    found = compare(
        [Wanted(0.0, I.HIHAT_OPEN, Limb.RIGHT_HAND, 100)], [Struck(0.01, I.HIHAT_CLOSED, 90)]
    )
    assert found.is_clean


def test_the_other_hand_is_told_where_the_kit_knows_it():
    asked = [Wanted(n * 0.25, I.SNARE, Limb.LEFT_HAND, 100) for n in range(8)]
    struck = [Struck(item.time, I.SNARE, 100, Limb.RIGHT_HAND) for item in asked[:2]]
    struck += [Struck(item.time, I.SNARE, 100, Limb.LEFT_HAND) for item in asked[2:]]
    found = compare(asked, struck)
    assert found.other_hand == (0, 1)
    assert "2 strokes with the other hand." in found.words


def test_loud_ghosts_and_soft_accents_are_told():
    asked = wanted(passes=8)
    flat = [Struck(item.time, item.instrument, 90) for item in asked]
    found = compare(asked, flat)
    assert any("ghosts are nearly as loud" in words for words in found.words)
    true = [Struck(item.time, item.instrument, 30 if item.ghost else 90) for item in asked]
    assert not any("ghosts" in words for words in compare(asked, true).words)


def test_silence_and_nothing_asked():
    assert compare(wanted(), []).words == ("Nothing was heard from the kit.",)
    assert compare([], [Struck(0.0, I.KICK, 90)]).extra == (0,)


@example([0.0, 5e-324], [0.0])
@given(st.lists(st.floats(0, 20), max_size=30), st.lists(st.floats(0, 20), max_size=30))
def test_every_stroke_is_met_once_or_told(ones, others):
    asked = [Wanted(time, I.SNARE, Limb.LEFT_HAND, 100) for time in ones]
    struck = [Struck(time, I.SNARE, 100) for time in others]
    found = compare(asked, struck)
    met = [one for one, _ in found.pairs]
    used = [other for _, other in found.pairs]
    assert sorted([*met, *found.missed]) == list(range(len(asked)))
    assert sorted([*used, *found.extra]) == list(range(len(struck)))


def test_latency_is_the_median_of_the_claps():
    times = [index * 0.6 for index in range(8)]
    claps = [time + 0.05 for time in times[2:]] + [3.9]
    assert latency_ms(times, claps) == pytest.approx(50.0, abs=1.0)
    with pytest.raises(ValueError, match="four"):
        latency_ms(times, [0.6, 1.2])


def test_zoom_begins_with_two_beats_and_ends_with_all():
    rows = {
        I.HIHAT_CLOSED: "x.x.x.x.x.x.x.x.",
        I.SNARE: "....X...gggg..g.",
        I.KICK: "x.......x.......",
    }
    piece = song([ROCK, rows])
    windows = zoom(piece.bars, piece.hits)
    hardest, bar, whole = windows
    assert hardest.first_bar == 2
    assert hardest.end - hardest.start == Fraction(1, 2)
    # The ghosts lie on the third beat of the second bar.
    assert hardest.start in (Fraction(1, 4), Fraction(1, 2))
    assert (bar.first_bar, bar.last_bar) == (2, 2)
    assert (whole.first_bar, whole.last_bar) == (1, 2)


def varied():
    """Sixteen bars: a kick that most of them have, a ghost that a few have, in no order."""
    hats = {I.HIHAT_CLOSED: "x.x.x.x.x.x.x.x."}
    kicks = ("x.......x.x.....", "x.......x.......")
    snares = ("....X.......X...", "....X..g....X...")
    kick_in = "1101101111011011"
    ghost_in = "0010000100001000"
    return song(
        [
            {**hats, I.KICK: kicks[kick == "0"], I.SNARE: snares[ghost == "1"]}
            for kick, ghost in zip(kick_in, ghost_in, strict=True)
        ]
    )


def test_what_comes_and_goes_is_named():
    piece = varied()
    made = groove_material(piece, piece.sections[0])
    names = {choice.name: choice.standing for choice in choices(made)}
    assert names
    assert all(name.startswith("the ") and " on " in name for name in names)
    assert set(names.values()) <= {Standing.USUAL, Standing.OCCASIONAL}


@pytest.mark.parametrize("seed", range(30))
def test_a_free_pass_keeps_the_core_and_can_be_played(seed):
    piece = varied()
    made = groove_material(piece, piece.sections[0])
    taken = by_chance(made, seed)
    assert {hit.place for hit in core(made)} <= {hit.place for hit in taken}
    free = {choice.hit.place for choice in choices(made)}
    assert {hit.place for hit in taken} <= {hit.place for hit in core(made)} | free
    assert not problems_of(taken, 4, STANDARD)


def test_what_is_called_is_played_and_nothing_else():
    piece = varied()
    made = groove_material(piece, piece.sections[0])
    one = choices(made)[0].hit
    called = on_call(made, {(one.bar, str(one.position), one.instrument.value)})
    assert {hit.place for hit in called} == {hit.place for hit in core(made)} | {one.place}


def test_clicks_of_a_mix_fall_together_once():
    piece = song([ROCK] * 2)
    quarters = clicks(piece, "quarters")
    mixed = clicks(piece, "quarters+triplets")
    assert len(mixed) == 3 * len(quarters)
    assert {click.time for click in quarters} <= {click.time for click in mixed}
    assert [click.strength for click in mixed[:4]] == [2, 0, 0, 1]
    with pytest.raises(KeyError):
        mixture("quarters+fifths")


def test_swung_clicks_lean_also_where_the_song_does_not():
    piece = song([ROCK])
    swung = [click.time for click in clicks(piece, "swung")][:3]
    assert (swung[1] - swung[0]) / (swung[2] - swung[0]) == pytest.approx(2 / 3)


def test_two_bars_are_counted_in():
    points = count_in(song([ROCK]), 1, bars=2)
    assert [point.strength for point in points] == [2, 1, 1, 1, 2, 1, 1, 1]


def test_the_voice_says_every_beat_and_what_is_played():
    piece = song([{I.KICK: "x..x......x.....", I.SNARE: "....x.......x..."}])
    said = counted_aloud(piece.bars, piece.hits)
    assert [item.word for item in said] == ["1", "a", "2", "3", "&", "4"]
    assert [item.time for item in said] == pytest.approx(
        [float(place) / 16 * 2.0 + piece.bars[0].start for place in (0, 3, 4, 8, 10, 12)]
    )


def test_every_word_of_every_school_ships():
    leads = {path.stem for path in (PUBLIC / "voice").glob("*.ogg")}
    assert set(all_words()) == leads
    for school in SCHOOLS.values():
        assert sample_name(school.sixteenths[0]) in leads


def test_pocket_and_dynamics_sound_where_they_are_asked_for():
    piece = song([SIXTEENTHS])
    late = {I.SNARE: 0.012}
    notes = sounding(piece.bars, piece.hits, Feel(), late, with_dynamics=True)
    assert {note.late for note in notes if note.hit.instrument is I.SNARE} == {0.012}
    ghost = next(note for note in notes if note.hit.ghost)
    accent = next(note for note in notes if note.hit.accent)
    assert ghost.velocity < 40 < 110 < accent.velocity
    even = sounding(piece.bars, piece.hits, Feel(), {}, with_dynamics=False)
    assert len({note.velocity for note in even}) == 1


def test_swing_moves_with_the_beat():
    piece = song([{I.HIHAT_CLOSED: "x.x.x.x.x.x.x.x.", I.KICK: "x..............."}])
    notes = sounding(piece.bars, piece.hits, Feel(swing_8=2.0), {}, with_dynamics=False)
    hats = [note.time for note in notes if note.hit.instrument is I.HIHAT_CLOSED]
    assert (hats[1] - hats[0]) / (hats[2] - hats[0]) == pytest.approx(2 / 3)


def test_more_and_louder_strokes_are_more_at_the_ear():
    soft = level_at_ear([(I.SNARE, 50)] * 4, 2.0)
    loud = level_at_ear([(I.SNARE, 100)] * 4, 2.0)
    twice = level_at_ear([(I.SNARE, 100)] * 8, 2.0)
    assert soft < loud
    assert twice - loud == pytest.approx(3.0, abs=0.1)
    assert 85 < loud < 110


def onsets(samples, threshold=0.02):
    """Seconds at which it gets loud after silence."""
    level = np.abs(samples)
    found = []
    at = 0
    while at < len(level):
        hit = np.argmax(level[at:] > threshold)
        if level[at + hit] <= threshold:
            break
        found.append((at + hit) / RATE)
        at += hit + round(0.12 * RATE)
    return found


def test_a_mix_has_its_clicks_left_its_kit_right_and_each_at_its_moment(tmp_path):
    piece = song([{I.SNARE: "....x.......x...", I.KICK: "x.......x......."}])
    made = material("Groove", piece.bars, piece.hits)
    step = make_plan(made, Method.HANDS_THEN_FEET)[-1]
    bar = made.bars[0]
    mix = Mix(
        start=bar.start,
        end=bar.end,
        notes=sounding(made.bars, step.hits, Feel(), {}, with_dynamics=False),
        clicks=clicks(piece, "quarters"),
        count_in=count_in(piece, 1),
        shares=(0.5, 1.0),
        loops=2,
        sides=True,
    )
    target = tmp_path / "mix.wav"
    reports = []
    render_mix(mix, Sounds(PUBLIC / "kit", PUBLIC / "voice"), target, report=reports.append)
    with wave.open(str(target)) as file:
        raw = np.frombuffer(file.readframes(file.getnframes()), "<i2") / 32768
    left, right = raw[::2], raw[1::2]
    assert len(left) / RATE == pytest.approx(mix.seconds, abs=0.01)
    # Half the tempo: a bar of count-in and two passes, a second a beat; then twice as fast.
    expected = [float(beat) for beat in range(12)] + [12 + beat / 2 for beat in range(12)]
    assert onsets(left) == pytest.approx(expected, abs=0.002)
    strokes = [4.0 + beat for beat in range(8)] + [14 + beat / 2 for beat in range(8)]
    assert onsets(right, 0.05) == pytest.approx(strokes, abs=0.006)
    assert reports == [0.5, 1.0]


def test_a_mix_of_more_than_an_hour_is_refused(tmp_path):
    piece = song([ROCK])
    bar = piece.bars[0]
    mix = Mix(bar.start, bar.end, (), (), (), (0.2,), 1000)
    with pytest.raises(ValueError, match="hour"):
        render_mix(mix, Sounds(PUBLIC / "kit", PUBLIC / "voice"), tmp_path / "long.wav")


def test_a_row_of_strokes_is_no_machine():
    sounds = Sounds(PUBLIC / "kit", PUBLIC / "voice")
    one, other = (sounds.stroke(I.HIHAT_CLOSED, 90) for _ in range(2))
    length = min(len(one), len(other))
    assert not np.allclose(one[:length], other[:length], atol=1e-4)
    loud, soft = sounds.stroke(I.SNARE, 120), sounds.stroke(I.SNARE, 25)
    assert np.abs(loud).max() > 4 * np.abs(soft).max()


def test_the_stand_in_errs_as_it_is_told():
    asked = wanted(passes=4)
    struck, left_out, added = play(asked, Errors(missed=0.1, extra=0.1, seed=7))
    assert len(struck) == len(asked) - left_out + added
    assert left_out == round(0.1 * len(asked))

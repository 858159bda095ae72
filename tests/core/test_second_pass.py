"""The second pass and relearning: bars repeat, a kit sounds alike, corrections teach."""

import time
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.errors import OrchesisError
from orchesis.listening.candidates import find_candidates
from orchesis.listening.decide import keep
from orchesis.listening.ear import Detail
from orchesis.listening.evidence import gathered, packed, unpacked
from orchesis.listening.fitting import fit_logistic
from orchesis.listening.judge import Judge, context
from orchesis.listening.relearn import listen_again
from orchesis.listening.second_pass import (
    TERMS,
    HeardSong,
    Model,
    describe,
    drum_shares,
    pattern,
    reasons,
    rises,
)
from orchesis.music.instruments import Instrument

KICK, SNARE, HAT = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED
CLASSES = (KICK, SNARE, HAT)
BAR = 200
"""Frames: bars of two seconds."""

SOUNDS = {KICK: slice(0, 8), SNARE: slice(8, 20), HAT: slice(20, 30)}
PLAIN = Model((1.0, 0.0, 0.8, 0.0, 2.0, 0.0, 0.0), 0.5)
MODELS = {name.value: PLAIN for name in CLASSES}


def plain_judge():
    """A judge that weighs as PLAIN does, and has learnt nothing else."""
    width = context(*described(song_of(GROOVE))[:2]).shape[1]
    return Judge(
        centre=np.zeros(width, np.float32),
        spread=np.ones(width, np.float32),
        weights=(np.zeros((width, len(CLASSES)), np.float32),),
        offsets=(np.zeros(len(CLASSES), np.float32),),
        straight=np.tile(np.array(PLAIN.weights, np.float32)[:, None], len(CLASSES)),
        threshold=np.full(len(CLASSES), 0.5, np.float32),
    )


def song_of(notes, bars=12, sounds_like=lambda bar, note: note[1], height=lambda bar, note: 0.9):
    """Curves and features of a song whose every bar has these (frame in bar, drum) notes."""
    rng = np.random.default_rng(5)
    onsets = np.zeros((bars * BAR + 50, len(CLASSES)), np.float32)
    features = rng.uniform(0, 0.05, (len(onsets), 30)).astype(np.float32)
    for bar in range(bars):
        for note in notes:
            peak = height(bar, note)
            if peak:
                frame = bar * BAR + note[0]
                onsets[frame - 1 : frame + 2, CLASSES.index(note[1])] = (
                    np.array([0.4, 1, 0.4]) * peak
                )
                features[frame : frame + 8, SOUNDS[sounds_like(bar, note)]] += 0.8
    return Detail(CLASSES, onsets, np.full_like(onsets, 0.6), features, None)


GROOVE = [(4, KICK), (104, KICK), (54, SNARE), (154, SNARE), *((4 + 25 * k, HAT) for k in range(8))]
EDGES = np.arange(13) * 2.0


def described(detail, edges=EDGES):
    found = find_candidates(detail.onsets, detail.loudness, 100.0)
    song = HeardSong(detail.onsets, rises(detail.features, found.frame), 100.0, CLASSES, edges)
    return song, found, describe(song, found)


def test_drums_alone_are_all_of_the_sound_and_a_band_takes_its_share():
    detail = song_of(GROOVE)
    frames = np.arange(4, 12 * BAR, 25, dtype=np.int32)

    def shares(masks):
        return drum_shares(detail.features, masks, frames)

    alone = shares(np.ones_like(detail.features))
    assert alone == pytest.approx(1.0)
    assert shares(None) == pytest.approx(alone)
    # The drums' upper bands only, the band below: kicks are not theirs any more, hats are.
    upper = np.zeros_like(detail.features)
    upper[:, SOUNDS[HAT]] = 1.0
    mixed = shares(upper)
    kick, off_beat = mixed[0], mixed[1]
    assert off_beat[0] > 0.9 > 0.6 > kick[0]
    assert (mixed[:, 1] == mixed[0, 1]).all(), "the song's own share is the same everywhere"
    assert 0.0 < mixed[0, 1] < 1.0
    assert shares(np.zeros_like(upper)) == pytest.approx(0.0)


def at(found, bar, note):
    frame = bar * BAR + note[0]
    column = CLASSES.index(note[1])
    return int(np.flatnonzero((found.frame == frame) & (found.column == column))[0])


def test_a_weak_stroke_that_all_other_bars_have_is_kept_for_the_pattern():
    weak = (54, SNARE)
    detail = song_of(GROOVE, height=lambda b, n: 0.35 if (b, n) == (6, weak) else 0.9)
    song, found, terms = described(detail)
    probability = plain_judge().probabilities(context(song, found), found)
    index = at(found, 6, weak)
    assert found.peak[index] < 0.5 < probability[index]
    assert reasons(terms, found, CLASSES, MODELS)[index] in ("pattern", "kit")


def test_nothing_is_invented_where_the_sound_says_no():
    """A bar that leaves out a note keeps leaving it out: there is no peak to be lifted."""
    gone = (154, SNARE)
    detail = song_of(GROOVE, height=lambda b, n: 0.0 if (b, n) == (6, gone) else 0.9)
    song, found, _ = described(detail)
    probability = plain_judge().probabilities(context(song, found), found)
    kept = keep(found, probability, np.full(len(found), 0.5), CLASSES)
    assert sum(1 for o in kept if o.instrument is SNARE) == 2 * 12 - 1


def test_a_weak_peak_that_no_other_bar_has_is_less_likely_than_the_network_says():
    stray = (80, KICK)
    detail = song_of(
        [*GROOVE, stray],
        height=lambda b, n: (0.5 if b == 3 else 0.0) if n == stray else 0.9,
        sounds_like=lambda b, n: HAT if n == stray else n[1],
    )
    song, found, _ = described(detail)
    probability = plain_judge().probabilities(context(song, found), found)
    assert probability[at(found, 3, stray)] < 0.3


def test_what_sounds_like_another_drum_of_this_kit_counts_as_less_likely():
    odd = (54, SNARE)
    detail = song_of(GROOVE, sounds_like=lambda b, n: KICK if (b, n) == (6, odd) else n[1])
    _, found, terms = described(detail)
    column = TERMS.index("kit")
    assert terms[at(found, 6, odd), column] < 0 < terms[at(found, 5, odd), column]


def test_the_pattern_says_nothing_without_a_grid_or_with_too_few_bars():
    detail = song_of(GROOVE)
    for edges in (np.empty(0), EDGES[:2]):
        song, found, _ = described(detail, edges)
        share, seen = pattern(song, found)
        assert (share == 0).all()
        assert (seen == 0).all()


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 1000), st.floats(0.05, 1.0))
def test_terms_are_finite_whatever_is_heard(seed, scale):
    rng = np.random.default_rng(seed)
    onsets = (scale * rng.random((700, 3))).astype(np.float32)
    detail = Detail(CLASSES, onsets, onsets, rng.random((700, 30)).astype(np.float32), None)
    _, found, terms = described(detail, np.arange(4) * 2.0)
    assert terms.shape == (len(found), len(TERMS))
    assert np.isfinite(terms).all()


def test_fitting_moves_towards_the_truth_and_stays_at_the_prior_without_data():
    start = np.array(PLAIN.weights)
    nothing = fit_logistic(np.empty((0, 7)), np.empty(0, bool), start=start)
    assert nothing == pytest.approx(start)
    rng = np.random.default_rng(1)
    terms = rng.normal(size=(300, 7))
    right = terms[:, 2] > 0
    learnt = fit_logistic(terms, right, start=start)
    assert learnt[2] > start[2]
    assert abs(learnt[0]) < abs(start[0])


def test_evidence_survives_packing_and_is_small():
    evidence = gathered(song_of(GROOVE), 100.0)
    data = packed(evidence)
    again = unpacked(data)
    assert again.classes == CLASSES
    assert (again.found.frame == evidence.found.frame).all()
    assert np.abs(again.rise - evidence.rise).max() < 0.01
    assert again.strength(KICK, 0.0, 0.08) > 0.85
    assert again.strength(KICK, 0.3, 0.45) == 0.0
    # 24 s: a song of five minutes stays far below 3 MB.
    assert len(data) * 300 / 24 < 3_000_000


def test_damaged_evidence_is_refused_with_what_to_do():
    data = packed(gathered(song_of(GROOVE), 100.0))
    for broken in (b"", b"nonsense", data[: len(data) // 2]):
        with pytest.raises(OrchesisError, match="listen to the song again"):
            unpacked(broken)


def test_correcting_a_few_bars_teaches_the_rest():
    """The ear takes the soft kick on the and for nothing; the user adds it in three bars."""
    missed = (129, KICK)
    false = (79, SNARE)
    detail = song_of(
        [*GROOVE, missed, false],
        height=lambda b, n: 0.25 if n == missed else (0.62 if n == false else 0.9),
        sounds_like=lambda b, n: HAT if n == false else n[1],
    )
    evidence = unpacked(packed(gathered(detail, 100.0)))
    truth = [*GROOVE, missed]
    settled = [(0.01 * (b * BAR + n[0]), n[1]) for b in (0, 1, 2, 3) for n in truth]

    def errors(onsets):
        heard = {(round(o.time * 100), o.instrument) for o in onsets if o.time > 8}
        wanted = {(b * BAR + n[0], n[1]) for b in range(4, 12) for n in truth}
        return len(heard ^ wanted)

    before = errors(listen_again(evidence, EDGES, [], [], plain_judge()))
    after = errors(listen_again(evidence, EDGES, [0, 1, 2, 3], settled, plain_judge()))
    assert before >= 8
    assert after < 0.3 * before


def test_a_song_heard_again_is_as_sure_of_a_stroke_as_it_was_the_first_time():
    """Both say of what they keep that it has won; the same strokes are kept."""
    evidence = gathered(song_of(GROOVE), 100.0)
    judge = plain_judge()
    plain = listen_again(evidence, EDGES, [], [], judge)
    surer = listen_again(evidence, EDGES, [], [], replace(judge, won=0.5))
    assert [onset.time for onset in surer] == [onset.time for onset in plain]
    said = np.array([onset.confidence for onset in plain])
    assert [onset.confidence for onset in surer] == pytest.approx(
        np.exp(0.5) * said / (1 - said + np.exp(0.5) * said), abs=1e-3
    )


def test_what_a_voice_was_called_all_song_long_stays_unless_settled_bars_say_otherwise():
    detail = replace(song_of(GROOVE), names={HAT: Instrument.RIDE})
    evidence = unpacked(packed(gathered(detail, 100.0)))
    assert evidence.names == {HAT: Instrument.RIDE}

    def drums(settled):
        bars = [0, 1] if settled else []
        heard = listen_again(evidence, EDGES, bars, settled, plain_judge())
        return {onset.instrument for onset in heard}

    assert Instrument.RIDE in drums([])
    assert HAT not in drums([])
    as_hats = [(0.01 * (b * BAR + n[0]), n[1]) for b in (0, 1) for n in GROOVE]
    as_rides = [(t, Instrument.RIDE if drum is HAT else drum) for t, drum in as_hats]
    assert HAT in drums(as_hats)
    assert HAT not in drums(as_rides)


def test_relearning_a_long_song_takes_less_than_three_seconds():
    detail = song_of(GROOVE, bars=200)
    evidence = gathered(detail, 100.0)
    edges = np.arange(201) * 2.0
    settled = [(0.01 * (b * BAR + n[0]), n[1]) for b in range(6) for n in GROOVE]
    # Of work, which is the same beside others.
    began = time.process_time()
    listen_again(evidence, edges, range(6), settled, plain_judge())
    assert time.process_time() - began < 3.0

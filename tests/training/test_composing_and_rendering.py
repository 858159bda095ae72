"""Training data: composed music that is music, labels that are right to the sample. No torch."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.listening.features import BANDS, HOP, LOW_BANDS
from orchesis.music.instruments import Instrument
from training.band import Band
from training.bank import BEFORE, KEYS, RATE, cut, normalised, synthesised
from training.composer import STYLES, Composer, Stretch, Stroke
from training.labels import CLASSES, INDEX
from training.plain import NewKitRenderer, PlainRenderer
from training.render import (
    CLASS_LEVEL,
    TOMS_DOWN,
    Renderer,
    pitch_of,
    put_in_order,
    softened,
    toms_apart,
)

KICK, SNARE, HAT = Instrument.KICK, Instrument.SNARE, Instrument.HIHAT_CLOSED


def compose(seed, style=None, seconds=30.0):
    rng = np.random.default_rng(seed)
    return Composer(rng, (style,) if style else STYLES).compose(seconds)


@pytest.mark.parametrize("style", STYLES)
def test_every_style_composes_strokes_on_known_drums(style):
    strokes = [stroke for seed in range(4) for stroke in compose(seed, style).strokes]
    assert len(strokes) > 60
    assert {stroke.instrument for stroke in strokes} <= set(CLASSES)
    assert all(0 < stroke.velocity <= 1 and stroke.time >= 0 for stroke in strokes)


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000))
def test_beats_rise_steadily_and_bars_begin_on_beats(seed):
    stretch = compose(seed)
    gaps = [after - before for before, after in pairwise(stretch.beats)]
    assert min(gaps) > 0.15
    assert max(gaps) / min(gaps) < 1.6
    for downbeat in stretch.downbeats:
        assert min(abs(downbeat - beat) for beat in stretch.beats) < 0.01


@pytest.mark.parametrize(
    ("style", "beats"), [("waltz", 3), ("six8", 2), ("samba", 2), ("sixteenth", 4)]
)
def test_bars_have_as_many_beats_as_their_style(style, beats):
    stretch = compose(3, style)
    assert stretch.bar_beats == beats
    assert len(stretch.beats) == beats * len(stretch.downbeats)


def test_the_same_seed_composes_the_same_song():
    assert compose(5).strokes == compose(5).strokes
    assert compose(5).strokes != compose(6).strokes


def test_human_strokes_stray_but_stay_near_the_grid():
    """Backbeats of a plain style: within some 30 ms of a beat."""
    offsets = []
    for seed in range(6):
        stretch = compose(seed, "fourfloor")
        beats = np.array(stretch.beats)
        for stroke in stretch.strokes:
            if stroke.instrument is KICK and stroke.velocity > 0.9:
                offsets.append(np.abs(beats - stroke.time).min())
    assert np.median(offsets) < 0.03


@pytest.mark.parametrize("instrument", list(KEYS))
def test_every_drum_can_be_synthesised_with_its_attack_marked(instrument):
    for seed in range(3):
        (layer,) = synthesised(np.random.default_rng(seed), instrument)
        level = np.abs(layer.samples)
        assert level.max() == pytest.approx(1.0, abs=1e-4)
        assert layer.attack <= BEFORE
        assert level[: max(1, layer.attack - 40)].max(initial=0) < 0.09
        assert np.isfinite(layer.samples).all()


def test_a_stroke_is_cut_at_its_attack_wherever_its_file_begins():
    samples = np.zeros(RATE, np.float32)
    samples[10_000:14_000] = np.exp(-np.arange(4000) / 800)
    layer = cut(samples, 0, False, 0.8)
    assert layer.attack == BEFORE
    assert layer.samples[layer.attack] > 0.9
    assert cut(np.zeros(RATE, np.float32), 0, False, 0.8) is None


def test_layers_keep_their_relative_loudness():
    quiet, loud = np.zeros(RATE, np.float32), np.zeros(RATE, np.float32)
    quiet[500:2000], loud[500:2000] = 0.1, 0.4
    sound = normalised([cut(quiet, 0, False, 0.2), cut(loud, 0, False, 1.0)])
    assert np.abs(sound[0].samples).max() == pytest.approx(0.25, abs=0.01)
    assert np.abs(sound[1].samples).max() == pytest.approx(1.0)


def test_softer_strokes_of_a_drum_with_one_recording_are_duller():
    rng = np.random.default_rng(2)
    sound = softened(synthesised(rng, Instrument.SNARE), rng)
    assert [layer.velocity for layer in sound] == sorted(layer.velocity for layer in sound)

    def brightness(layer):
        power = np.abs(np.fft.rfft(layer.samples[:8192])) ** 2
        return (power * np.arange(len(power))).sum() / power.sum()

    assert brightness(sound[0]) < 0.8 * brightness(sound[-1])
    assert {layer.attack for layer in sound} == {sound[-1].attack}


def test_plain_clips_have_the_kit_as_it_is_and_nothing_but_drums_in_a_stem(bank):
    rng = np.random.default_rng(6)
    renderer = PlainRenderer(bank, ["synth"], Band({}, rng), rng, [], 4.0)
    made = renderer.sound(Composer(rng, ("straight8",)).compose(4.0), stem=True)
    assert not made.rest.any()
    assert np.abs(made.mix).max() <= 0.7 + 1e-6
    kit = renderer._kit()
    assert all(any(sound is own for own in bank["synth"][drum]) for drum, sound in kit.items())


def upside_down(bank):
    """A source that names its toms upside down, and another one whose toms are all alike."""
    own = bank["synth"]
    low, mid, high = (own[drum] for drum in reversed(TOMS_DOWN))
    turned = own | dict(zip(TOMS_DOWN, (low, mid, high), strict=True))
    return {"turned": turned, "alike": own | dict.fromkeys(TOMS_DOWN, mid)}


def test_a_new_kit_is_plain_but_none_of_its_drums_has_been_recorded_as_it_is(bank):
    rng = np.random.default_rng(6)
    renderer = NewKitRenderer(bank, ["synth"], Band({}, rng), rng, [], 4.0)
    recorded = [layer.samples for sounds in bank["synth"].values() for s in sounds for layer in s]
    kit = renderer._kit()
    assert set(kit) == set(bank["synth"])
    for sound in kit.values():
        for layer in sound:
            assert not any(np.array_equal(layer.samples, known) for known in recorded)
    made = renderer.sound(Composer(rng, ("straight8",)).compose(4.0), stem=True)
    assert not made.rest.any()


@pytest.mark.parametrize("kind", [PlainRenderer, NewKitRenderer, Renderer])
def test_the_high_tom_is_pitched_above_the_middle_one_and_that_above_the_floor_tom(bank, kind):
    rng = np.random.default_rng(9)
    sources = upside_down(bank)
    renderer = kind(sources, list(sources), Band({}, rng), rng, [], 4.0)
    for _ in range(12):
        kit = renderer._kit()
        pitches = [pitch_of(kit[drum][-1]) for drum in TOMS_DOWN]
        assert pitches == sorted(pitches, reverse=True)


def test_toms_of_one_pitch_are_not_apart(bank):
    sources = upside_down(bank)
    assert not toms_apart({drum: sources["alike"][drum][0] for drum in TOMS_DOWN})
    kit = {drum: sources["turned"][drum][0] for drum in TOMS_DOWN}
    assert not toms_apart(kit)
    put_in_order(kit)
    assert toms_apart(kit)


def test_a_whole_song_can_be_rendered_instead_of_a_clip(bank):
    rng = np.random.default_rng(4)
    renderer = Renderer(bank, ["synth"], Band({}, rng), rng, seconds=5.0)
    clip = renderer.render(Composer(rng).compose(5.0), stem=True)
    assert len(clip.features) == len(clip.onsets) == 5 * RATE // HOP + 1


@pytest.fixture(scope="module")
def bank():
    rng = np.random.default_rng(1)
    return {"synth": {drum: [synthesised(rng, drum)] for drum in KEYS}}


class Unbent(Renderer):
    """A renderer whose kit is as it is and whose room and tape do nothing."""

    def _bent(self, sound):
        return sound

    def _room(self, sound):
        return sound

    def _tape(self, mix):
        return mix


def one_by_one(instruments):
    strokes = [Stroke(1.0 + 1.1 * k, drum, 0.9) for k, drum in enumerate(instruments)]
    return Stretch(strokes, [0.5, 1.0, 1.5], [0.5], 4, 20.0)


def test_labels_fall_on_the_frame_in_which_the_sound_begins(bank):
    rng = np.random.default_rng(2)
    drums = [KICK, SNARE, HAT, Instrument.TOM_MID, Instrument.CRASH]
    clip = Unbent(bank, ["synth"], Band({}, rng), rng).render(one_by_one(drums), stem=True)
    energy = (10 ** clip.features[:, :BANDS].astype(float)).sum(axis=1)
    for k, drum in enumerate(drums):
        labelled = np.flatnonzero(clip.onsets[:, INDEX[drum]])
        assert list(labelled) == [round((1.0 + 1.1 * k) * RATE / HOP)]
        frame = int(labelled[0])
        # A window of 46 ms sees an attack from two frames before its centre on; before that only
        # the drum before still rings.
        assert energy[frame - 4] < 0.5 * energy[frame : frame + 4].max()


def test_a_clip_has_the_shape_that_the_network_expects(bank):
    rng = np.random.default_rng(3)
    renderer = Renderer(bank, ["synth"], Band({}, rng), rng)
    clip = renderer.render(compose(9, seconds=20.0), stem=True)
    frames = renderer.length // HOP + 1
    assert clip.features.shape == (frames, BANDS + LOW_BANDS)
    assert clip.onsets.shape == clip.loudness.shape == (frames, len(CLASSES))
    assert clip.beats.shape == (frames, 2)
    assert np.isfinite(clip.features.astype(np.float32)).all()
    assert ((clip.loudness > 0) <= (clip.onsets > 0)).all()


def test_a_harder_stroke_has_a_larger_loudness_label(bank):
    rng = np.random.default_rng(4)
    strokes = [Stroke(1.0, SNARE, 0.2), Stroke(2.0, SNARE, 0.9)]
    clip = Renderer(bank, ["synth"], Band({}, rng), rng).render(
        Stretch(strokes, [0.5, 1.0], [0.5], 4, 20.0), stem=True
    )
    soft, hard = clip.loudness[[100, 200], INDEX[SNARE]]
    assert 0 < soft < hard <= 1


def test_an_open_hat_is_choked_by_the_next_closed_one(bank):
    rng = np.random.default_rng(5)
    open_hat = Instrument.HIHAT_OPEN
    levels = dict.fromkeys(CLASS_LEVEL, 1.0)

    def ringing(strokes):
        renderer = Unbent(bank, ["synth"], Band({}, rng), np.random.default_rng(6))
        mix, _ = renderer._drums(Stretch(strokes, [], [], 4, 5.0), 4 * RATE, levels)
        return float(np.square(mix[round(1.22 * RATE) : round(1.4 * RATE)]).mean())

    free = ringing([Stroke(1.0, open_hat, 0.9)])
    choked = ringing([Stroke(1.0, open_hat, 0.9), Stroke(1.15, HAT, 0.05)])
    assert choked < 0.3 * free


def test_a_drum_that_the_sources_lack_is_neither_played_nor_labelled(bank):
    rng = np.random.default_rng(7)
    only_kick = {"few": {KICK: bank["synth"][KICK]}}
    clip = Unbent(only_kick, ["few"], Band({}, rng), rng).render(
        one_by_one([KICK, SNARE]), stem=True
    )
    assert clip.onsets[:, INDEX[KICK]].sum() == 1
    assert clip.onsets[:, INDEX[SNARE]].sum() == 0


def test_the_band_plays_on_the_beats_and_stays_within_the_clip():
    rng = np.random.default_rng(8)
    tone = np.sin(2 * np.pi * 220 * np.arange(RATE) / RATE).astype(np.float16)
    notes = {("font", program): {40: tone, 60: tone} for program in (33, 0, 73)}
    stretch = compose(2, seconds=10.0)
    sounds = [Band(notes, rng).play(stretch, 10 * RATE) for _ in range(6)]
    assert all(len(sound) == 10 * RATE and np.abs(sound).max() <= 1.0 for sound in sounds)
    assert any(np.abs(sound).max() > 0.5 for sound in sounds)

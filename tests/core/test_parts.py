"""Drums forward, drums down: masks applied without gaps, shifts or loss."""

import numpy as np
import pytest
from scipy.io import wavfile

from orchesis.audio.decode import SAMPLE_RATE, decode
from orchesis.errors import Cancelled, OrchesisError
from orchesis.listening import parts
from orchesis.listening.features import HOP, band_centres
from orchesis.listening.parts import Part, blocks, decoded, gains, sharpened, write_parts

BANDS = len(band_centres(SAMPLE_RATE))


def music(seconds=7.0, seed=1):
    rng = np.random.default_rng(seed)
    return 0.2 * rng.normal(size=(round(seconds * SAMPLE_RATE), 2)).astype(np.float32)


def in_pieces(samples, size):
    return iter([samples[at : at + size] for at in range(0, len(samples), size)])


def joined(samples, masks, part, size=50_001):
    return np.concatenate([made[0] for made in blocks(in_pieces(samples, size), masks, [part])])


@pytest.mark.parametrize("frames", [100, 333, 5000])
def test_all_let_through_is_the_record_itself_however_it_is_cut(frames, monkeypatch):
    monkeypatch.setattr(parts, "BLOCK_FRAMES", frames)
    samples = music()
    masks = np.ones((len(samples) // HOP + 1, BANDS), np.float32)
    whole = joined(samples, masks, Part.DRUMS_FORWARD)
    assert whole.shape == samples.shape
    assert np.abs(whole - samples)[200:-200].max() < 1e-3


def test_forward_and_down_share_the_record_between_them_where_nothing_is_in_doubt():
    samples = music()
    rng = np.random.default_rng(2)
    masks = np.round(rng.random((len(samples) // HOP + 1, BANDS))).astype(np.float32)
    both = sum(joined(samples, masks, part) for part in (Part.DRUMS_FORWARD, Part.DRUMS_DOWN))
    # The least gain lets a little of each through twice.
    assert np.sqrt(np.mean((both - samples) ** 2)) < 0.1 * np.sqrt(np.mean(samples**2))


def test_what_is_in_doubt_counts_as_drums_when_drums_are_taken_away():
    doubt = np.full((1, BANDS), 0.5, np.float32)
    forward = gains(doubt, Part.DRUMS_FORWARD, SAMPLE_RATE)
    assert gains(doubt, Part.DRUMS_DOWN, SAMPLE_RATE).max() < 0.2 < forward.min()


def test_a_drum_at_a_known_moment_stays_there_and_the_rest_sinks():
    samples = np.zeros((SAMPLE_RATE * 4, 2), np.float32)
    samples[SAMPLE_RATE * 2 : SAMPLE_RATE * 2 + 3000] = music(1)[:3000]
    masks = np.zeros((len(samples) // HOP + 1, BANDS), np.float32)
    masks[195:215] = 1.0
    forward = joined(samples + music(4, seed=3), masks, Part.DRUMS_FORWARD)
    during = np.abs(forward[SAMPLE_RATE * 2 : SAMPLE_RATE * 2 + 3000]).mean()
    before = np.abs(forward[: SAMPLE_RATE * 2 - 9000]).mean()
    assert before < 0.06 * during


def test_bass_forward_lifts_the_low_and_lowers_the_rest():
    nothing = np.zeros((1, BANDS), np.float32)
    gain = gains(nothing, Part.BASS_FORWARD, SAMPLE_RATE)[0]
    hertz = np.arange(len(gain)) * SAMPLE_RATE / 2048
    assert gain[(hertz > 50) & (hertz < 200)].min() > 1.0
    assert gain[hertz > 500].max() < 0.5


def test_sharpening_keeps_what_is_decided_and_a_half():
    assert sharpened(np.float32([[0.0, 0.5, 1.0]]))[0] == pytest.approx([0.0, 0.5, 1.0], abs=1e-6)
    assert sharpened(np.float32([[0.8]]))[0, 0] > 0.85


def test_every_part_is_written_as_long_as_the_record(tmp_path):
    wavfile.write(tmp_path / "song.wav", SAMPLE_RATE, music(25.0))
    masks = np.full((2501, BANDS), 0.5, np.float32)
    told = []
    write_parts(decoded(tmp_path / "song.wav"), masks, tmp_path, report=told.append)
    assert told == sorted(told)
    assert told[-1] == pytest.approx(1.0, abs=0.01)
    for part in Part:
        made = decode(tmp_path / f"{part.value}.ogg")
        assert made.duration == pytest.approx(25.0, abs=0.01)
    assert not list(tmp_path.glob("*.part"))


def test_a_cancelled_separation_leaves_nothing(tmp_path):
    wavfile.write(tmp_path / "song.wav", SAMPLE_RATE, music(25.0))
    masks = np.full((2501, BANDS), 0.5, np.float32)
    with pytest.raises(Cancelled):
        write_parts(decoded(tmp_path / "song.wav"), masks, tmp_path, cancelled=lambda: True)
    assert [path.name for path in tmp_path.iterdir()] == ["song.wav"]


def test_a_separation_cancelled_midway_leaves_nothing_either(tmp_path):
    wavfile.write(tmp_path / "song.wav", SAMPLE_RATE, music(25.0))
    masks = np.full((2501, BANDS), 0.5, np.float32)
    asked = iter([False, False, True])
    with pytest.raises(Cancelled):
        write_parts(decoded(tmp_path / "song.wav"), masks, tmp_path, cancelled=lambda: next(asked))
    assert [path.name for path in tmp_path.iterdir()] == ["song.wav"]


def test_an_encoder_that_dies_is_said_and_nothing_is_left(tmp_path, monkeypatch):
    wavfile.write(tmp_path / "song.wav", SAMPLE_RATE, music(25.0))
    masks = np.full((2501, BANDS), 0.5, np.float32)
    started = parts.subprocess.Popen

    def dying(command, **options):
        child = started(command, **options)
        if Part.DRUMS_DOWN.value in str(command[-1]):
            child.kill()
            child.wait()
        return child

    monkeypatch.setattr(parts.subprocess, "Popen", dying)
    with pytest.raises(OrchesisError, match="disk full"):
        write_parts(decoded(tmp_path / "song.wav"), masks, tmp_path)
    assert [path.name for path in tmp_path.iterdir()] == ["song.wav"]

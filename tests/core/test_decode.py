"""Recordings: what is taken sounds right, what is not is refused with its reason."""

import errno
import subprocess
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest
from scipy.io import wavfile

from orchesis.audio.decode import (
    SAMPLE_RATE,
    Probe,
    _check_probe,
    decode,
    probe,
    write_listening_copy,
)
from orchesis.audio.peaks import loudness_curve
from orchesis.audio.programs import ProgramFailed
from orchesis.errors import Cancelled, RefusedAudio

SONGS = Path(__file__).resolve().parents[2] / "demo" / "songs"


def tone(seconds=3.0, rate=44_100, hertz=440.0):
    return (0.5 * np.sin(2 * np.pi * hertz * np.arange(int(seconds * rate)) / rate)).astype(
        np.float32
    )


@pytest.fixture
def wav(tmp_path):
    path = tmp_path / "tone.wav"
    wavfile.write(path, 44_100, tone())
    return path


def convert(source, target, *options):
    subprocess.run(["ffmpeg", "-v", "error", "-y", "-i", source, *options, target], check=True)
    return target


@pytest.mark.parametrize("ending", ["wav", "flac", "ogg", "mp3", "m4a", "aiff"])
def test_every_format_is_read_at_its_true_length_and_level(wav, tmp_path, ending):
    recording = decode(convert(wav, tmp_path / f"copy.{ending}"))
    assert recording.sample_rate == SAMPLE_RATE
    assert recording.duration == pytest.approx(3.0, abs=0.1)
    assert np.sqrt(np.mean(recording.samples**2)) == pytest.approx(0.354, abs=0.03)


@pytest.mark.parametrize("channels", [1, 2, 6])
@pytest.mark.parametrize("rate", [8_000, 96_000])
def test_every_rate_and_number_of_channels_becomes_mono_at_one_rate(wav, tmp_path, channels, rate):
    path = convert(wav, tmp_path / "other.wav", "-ac", str(channels), "-ar", str(rate))
    recording = decode(path)
    assert recording.samples.ndim == 1
    assert recording.duration == pytest.approx(3.0, abs=0.01)


def test_one_pass_gives_the_samples_and_their_copy(tmp_path):
    rng = np.random.default_rng(5)
    samples = rng.uniform(-0.3, 0.3, (3 * 44_100, 2)).astype(np.float32)
    wavfile.write(tmp_path / "noise.wav", 44_100, samples)
    mono = write_listening_copy(tmp_path / "noise.wav", tmp_path / "listening.ogg")
    assert np.array_equal(mono, decode(tmp_path / "noise.wav").samples)
    assert decode(tmp_path / "listening.ogg").duration == pytest.approx(3.0, abs=0.01)


@pytest.mark.parametrize("name", ["harbour-lights-out", "steps-to-the-market"])
def test_a_file_whose_time_stamps_go_back_by_a_hair_is_copied_all_the_same(name, tmp_path):
    """As they do in some of the demo's own recordings."""
    path = SONGS / f"{name}.ogg"
    samples = write_listening_copy(path, tmp_path / "listening.ogg")
    copy = decode(tmp_path / "listening.ogg")
    assert len(copy.samples) == pytest.approx(len(samples), abs=44)
    lag = np.argmax(np.correlate(copy.samples[:44_100], samples[2_000:42_000]))
    assert lag == 2_000, "no sample earlier or later than in the analysis"


def test_a_full_disk_is_not_taken_for_a_broken_recording(wav, monkeypatch, tmp_path):
    def full(command, **options):
        raise ProgramFailed("failed", ["av_write_frame(): No space left on device", "failed"])

    monkeypatch.setattr("orchesis.audio.decode.run_limited", full)
    monkeypatch.setattr("orchesis.audio.decode.probe", lambda path: Probe("pcm", 44_100, 2, 3.0))
    with pytest.raises(OSError, match="No space left") as caught:
        write_listening_copy(wav, tmp_path / "listening.ogg")
    assert caught.value.errno == errno.ENOSPC


def test_the_listening_copy_has_the_same_time_as_the_analysis(tmp_path):
    """An attack at 1.5 s is at 1.5 s in both, whatever the format pads at its start."""
    samples = np.zeros(3 * 44_100, np.float32)
    samples[66_150:66_650] = 0.9
    wavfile.write(tmp_path / "attack.wav", 44_100, samples)
    mp3 = convert(tmp_path / "attack.wav", tmp_path / "attack.mp3")
    analysed = write_listening_copy(mp3, tmp_path / "listening.ogg")
    heard = decode(tmp_path / "listening.ogg").samples
    first = [int(np.argmax(np.abs(sound) > 0.4)) / 44_100 for sound in (analysed, heard)]
    assert first[0] == pytest.approx(first[1], abs=0.002)
    assert first[0] == pytest.approx(1.5, abs=0.003)


def write_header_only(path):
    """A WAV header that says three hours, and next to nothing behind it."""
    size = 3 * 3600 * 8000
    header = b"RIFF" + (size + 36).to_bytes(4, "little") + b"WAVEfmt " + (16).to_bytes(4, "little")
    header += (1).to_bytes(2, "little") * 2 + (8000).to_bytes(4, "little") * 2
    header += (1).to_bytes(2, "little") + (8).to_bytes(2, "little")
    path.write_bytes(header + b"data" + size.to_bytes(4, "little") + b"\0" * 1000)


def make_bad(kind, folder):
    path = folder / "bad.wav"
    if kind == "empty":
        path.write_bytes(b"")
    elif kind == "text":
        path.write_text("This is a shopping list: sticks, heads, wing nuts.\n" * 50)
    elif kind == "noise":
        path.write_bytes(np.random.default_rng(1).bytes(200_000))
    elif kind == "playlist":
        path.write_text("#EXTM3U\n#EXT-X-TARGETDURATION:5\nfile:///etc/passwd\n")
    elif kind == "three hours":
        source = ["-f", "lavfi", "-i", "anullsrc=r=8000:cl=mono", "-t", "10800"]
        subprocess.run(["ffmpeg", "-v", "error", *source, path], check=True)
    elif kind == "0 Hz":
        wavfile.write(path, 44_100, tone())
        data = bytearray(path.read_bytes())
        data[24:28] = (0).to_bytes(4, "little")
        path.write_bytes(data)
    elif kind == "NaN":
        samples = tone()
        samples[5000] = np.nan
        wavfile.write(path, 44_100, samples)
    elif kind == "short":
        wavfile.write(path, 44_100, tone(0.5))
    elif kind == "cut off":
        write_header_only(path)
    elif kind == "192 kHz":
        wavfile.write(path, 192_000, tone(rate=192_000))
    return path


@pytest.mark.parametrize(
    ("kind", "says"),
    [
        ("empty", "empty"),
        ("text", "not audio"),
        ("noise", "not audio"),
        ("playlist", "not audio"),
        ("three hours", "180:00 minutes"),
        ("0 Hz", "sample rate is 0|not audio"),
        ("NaN", "not numbers"),
        ("short", r"0\.50 s"),
        ("cut off", "minutes|cut off"),
        ("192 kHz", "192000 Hz"),
    ],
)
def test_a_bad_file_is_refused_with_its_reason(tmp_path, kind, says):
    with pytest.raises(RefusedAudio, match=says):
        decode(make_bad(kind, tmp_path))


def test_a_compressed_file_cut_in_the_middle_is_refused_or_read_to_the_cut(wav, tmp_path):
    flac = convert(wav, tmp_path / "whole.flac")
    cut = tmp_path / "cut.flac"
    cut.write_bytes(flac.read_bytes()[: flac.stat().st_size // 2])
    with pytest.raises(RefusedAudio, match=r"damaged|cut off"):
        decode(cut)


def written_to_a_pipe(source):
    """A WAV whose length nobody knew when its header was written."""
    command = ["ffmpeg", "-v", "error", "-i", source, "-f", "wav", "-"]
    return subprocess.run(command, check=True, capture_output=True).stdout


@pytest.mark.parametrize("options", [("raw.aac",), ("plain.mp3", "-write_xing", "0", "-q:a", "2")])
def test_a_file_whose_length_is_only_an_estimate_is_read_to_its_end(tmp_path, options):
    name, *more = options
    # A pure tone, then noise: the estimate from the first packets is far from the truth.
    noise = np.random.default_rng(1).normal(0, 0.1, 44_100 * 9).astype(np.float32)
    wavfile.write(tmp_path / "both.wav", 44_100, np.concatenate([0 * tone(3.0), noise]))
    path = convert(tmp_path / "both.wav", tmp_path / name, *more)
    assert probe(path).duration is None
    assert decode(path).duration == pytest.approx(12.0, abs=0.1)


def test_a_wav_that_was_written_to_a_pipe_is_read_to_its_end(wav, tmp_path):
    path = tmp_path / "piped.wav"
    path.write_bytes(written_to_a_pipe(wav))
    assert decode(path).duration == pytest.approx(3.0, abs=0.01)


@pytest.mark.parametrize("ending", ["ogg", "opus"])
@pytest.mark.parametrize("share", [0.3, 0.5, 0.97])
def test_part_of_an_ogg_file_is_not_taken_for_the_whole(tmp_path, ending, share):
    noise = np.random.default_rng(1).normal(0, 0.1, 44_100 * 8).astype(np.float32)
    wavfile.write(tmp_path / "noise.wav", 44_100, noise)
    whole = convert(tmp_path / "noise.wav", tmp_path / f"whole.{ending}")
    assert decode(whole).duration == pytest.approx(8.0, abs=0.1)
    cut = tmp_path / f"cut.{ending}"
    cut.write_bytes(whole.read_bytes()[: round(share * whole.stat().st_size)])
    with pytest.raises(RefusedAudio, match="cut off"):
        decode(cut)


def silent_flac(path, seconds, *, says=True):
    source = ["-f", "lavfi", "-i", "anullsrc=r=8000:cl=mono", "-t", str(seconds)]
    subprocess.run(["ffmpeg", "-v", "error", *source, path], check=True)
    if not says:
        data = bytearray(path.read_bytes())
        # The number of samples in STREAMINFO: 36 bits, 0 where it is not known.
        data[21] &= 0xF0
        data[22:26] = bytes(4)
        path.write_bytes(data)
    return path


@pytest.mark.parametrize(
    ("seconds", "says"), [(1200.04, None), (1203, "it lasts 20:03 minutes"), (1.99, r"1\.99 s; at")]
)
def test_lengths_at_the_limits_are_told_as_they_are(tmp_path, seconds, says):
    path = silent_flac(tmp_path / "edge.flac", seconds)
    if says is None:
        assert decode(path).duration == pytest.approx(seconds, abs=0.01)
        return
    with pytest.raises(RefusedAudio, match=says):
        decode(path)


def test_three_hours_without_a_length_cost_no_minutes(tmp_path):
    path = silent_flac(tmp_path / "long.flac", 10_800, says=False)
    began = time.process_time()
    with pytest.raises(RefusedAudio, match="over 20 minutes"):
        write_listening_copy(path, tmp_path / "listening.ogg")
    assert time.process_time() - began < 20
    assert not (tmp_path / "listening.ogg").exists()


def test_a_codec_that_cannot_be_read_is_called_so():
    with pytest.raises(RefusedAudio, match="coded in a way that cannot be read"):
        _check_probe(Probe(codec="none", sample_rate=44_100, channels=2, duration=9.0))


def test_a_picture_is_not_a_recording_of_0_hz(tmp_path):
    path = tmp_path / "cover.mp3"
    path.write_text('<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10"/>\n' * 300)
    with pytest.raises(RefusedAudio, match="not audio"):
        decode(path)


def test_a_missing_file_is_refused(tmp_path):
    with pytest.raises(RefusedAudio, match="no such file"):
        probe(tmp_path / "nowhere.wav")


def test_two_who_make_the_same_copy_at_once_both_have_it(tmp_path):
    """The listening run makes it where it is ready before the job that is for it."""
    noise = np.random.default_rng(3).normal(0, 3000, 44_100 * 20).astype(np.int16)
    wavfile.write(tmp_path / "take.wav", 44_100, noise)
    target = tmp_path / "listening.ogg"
    with ThreadPoolExecutor(4) as at_once:
        made = [
            at_once.submit(write_listening_copy, tmp_path / "take.wav", target) for _ in range(4)
        ]
        assert all(len(one.result()) == len(noise) for one in made)
    assert len(decode(target).samples) == pytest.approx(len(noise), abs=2)
    assert [path.name for path in tmp_path.glob("*.part")] == []


def test_decoding_stops_when_it_is_cancelled(tmp_path):
    long = tmp_path / "long.wav"
    wavfile.write(long, 44_100, np.zeros(44_100 * 600, np.int16))
    with pytest.raises(Cancelled):
        decode(long, cancelled=lambda: True)


def test_a_failed_listening_copy_leaves_nothing_behind(tmp_path):
    bad = make_bad("text", tmp_path)
    with pytest.raises(RefusedAudio):
        write_listening_copy(bad, tmp_path / "listening.ogg")
    assert [path.name for path in tmp_path.iterdir()] == ["bad.wav"]


def test_the_loudness_curve_follows_the_sound():
    samples = np.concatenate([np.zeros(1000), np.ones(1000), 0.5 * np.ones(1000)]).astype(
        np.float32
    )
    assert loudness_curve(samples, 3) == [0.0, 1.0, 0.5]
    assert loudness_curve(np.zeros(100, np.float32), 4) == [0.0] * 4

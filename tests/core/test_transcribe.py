"""The main job on real sound: the demo songs, and what is no song."""

import json
import os
import subprocess
import sys
from pathlib import Path

import jsonschema
import mido
import numpy as np
import pytest
from scipy.io import wavfile
from scipy.signal import resample_poly

from benchmarks.listening import times_of
from benchmarks.scores import BEAT_TOLERANCE, HIT_TOLERANCE, f_measure
from orchesis.audio.decode import decode
from orchesis.cli import main, title_of
from orchesis.errors import Cancelled, RefusedAudio
from orchesis.music.instruments import CYMBALS, STRUCK_HATS, Instrument
from orchesis.music.json import SCHEMA_PATH, loads
from orchesis.pipeline import transcribe
from orchesis.rhythm.rewrite import take_reading
from tests.composing import click_track

SONGS = Path(__file__).resolve().parents[2] / "demo" / "songs"
SLUGS = ["harbour-lights-out", "rain-on-the-awning", "steps-to-the-market"]

pytestmark = pytest.mark.slow


@pytest.fixture(scope="module")
def transcribed():
    return {slug: transcribe(SONGS / f"{slug}.ogg").transcription for slug in SLUGS}


def truth(slug):
    return loads((SONGS / f"{slug}.score.json").read_text())


@pytest.mark.parametrize("slug", SLUGS)
def test_the_beats_of_each_demo_song_are_followed(transcribed, slug):
    assert f_measure(truth(slug).beats, transcribed[slug].beats, BEAT_TOLERANCE) > 0.93


@pytest.mark.parametrize("slug", SLUGS)
def test_the_tempo_of_each_demo_song_is_the_felt_one(transcribed, slug):
    assert transcribed[slug].tempo_bpm == pytest.approx(truth(slug).tempo_bpm, rel=0.01)


@pytest.mark.parametrize("slug", SLUGS)
def test_a_demo_song_has_its_bars_however_it_is_counted(transcribed, slug):
    song = transcribed[slug]
    assert len(song.beats) == len(truth(slug).beats)
    again = take_reading(song, song.readings[0].key)
    assert [bar.start for bar in again.bars] == pytest.approx([bar.start for bar in song.bars])
    in_two = take_reading(song, "tracked/2-4/0")
    assert 2 * len(song.bars) - 1 <= len(in_two.bars) <= 2 * len(song.bars)


def test_swung_sixteenths_are_told_from_straight_ones(transcribed):
    assert transcribed["rain-on-the-awning"].feel.swing_16 == pytest.approx(1.5, abs=0.15)
    assert transcribed["steps-to-the-market"].feel.swing_16 == pytest.approx(1.0, abs=0.1)
    assert transcribed["harbour-lights-out"].feel.swing_8 == pytest.approx(1.0, abs=0.1)


@pytest.mark.parametrize(
    ("family", "least"),
    [
        ({Instrument.KICK}, 0.93),
        ({Instrument.SNARE, Instrument.CROSS_STICK}, 0.88),
        (STRUCK_HATS | CYMBALS | {Instrument.HIHAT_FOOT}, 0.96),
    ],
)
def test_the_drums_of_the_demo_songs_are_heard(transcribed, family, least):
    """Their kit is among those trained on; other kits are in docs/measurements.md."""
    scores = []
    for slug in SLUGS:
        reference, estimate = times_of(truth(slug), family), times_of(transcribed[slug], family)
        scores.append(f_measure(reference, estimate, HIT_TOLERANCE))
    assert np.mean(scores) > least


def write(path, samples):
    wavfile.write(path, 44_100, samples.astype(np.float32))
    return path


def test_silence_has_neither_beats_nor_hits(tmp_path):
    song = transcribe(write(tmp_path / "silence.wav", np.zeros(44_100 * 10))).transcription
    assert (song.hits, song.bars) == ((), ())
    assert "No steady beat" in song.findings[0]


def test_a_steady_tone_has_no_grid(tmp_path):
    tone = 0.3 * np.sin(2 * np.pi * 220 * np.arange(44_100 * 12) / 44_100)
    song = transcribe(write(tmp_path / "tone.wav", tone)).transcription
    assert song.bars == ()


@pytest.mark.parametrize("seconds", [2.1, 5.0])
def test_a_very_short_recording_gives_a_sound_result(tmp_path, seconds):
    samples = click_track(list(np.arange(0.2, seconds, 0.5)), seconds)
    song = transcribe(write(tmp_path / "short.wav", samples)).transcription
    assert song.duration == pytest.approx(seconds, abs=0.01)


def test_progress_rises_to_one_and_names_its_stages():
    told = []
    transcribe(SONGS / f"{SLUGS[2]}.ogg", report=lambda stage, share: told.append((stage, share)))
    shares = [share for _, share in told]
    assert shares == sorted(shares)
    assert shares[-1] == pytest.approx(1.0)
    assert {"decode", "listen", "beats", "bars", "write"} <= {stage for stage, _ in told}


def test_a_cancelled_run_stops():
    with pytest.raises(Cancelled):
        transcribe(SONGS / f"{SLUGS[0]}.ogg", cancelled=lambda: True)


def test_the_command_writes_every_file(tmp_path, capsys):
    assert main(["transcribe", str(SONGS / f"{SLUGS[2]}.ogg"), "--out", str(tmp_path)]) == 0
    folder = tmp_path / SLUGS[2]
    names = {path.name for path in folder.iterdir()}
    assert names == {"transcription.json", "drums.mid", "chart.musicxml", "chart.pdf"}
    data = json.loads((folder / "transcription.json").read_text())
    jsonschema.validate(data, json.loads(SCHEMA_PATH.read_text()))
    strokes = [m for m in mido.MidiFile(folder / "drums.mid") if m.type == "note_on" and m.velocity]
    assert len(strokes) == len(data["hits"])
    assert (folder / "chart.pdf").read_bytes().startswith(b"%PDF")
    assert [path.name for path in tmp_path.iterdir()] == [SLUGS[2]]
    assert "bpm" in capsys.readouterr().out


def test_the_command_says_where_there_is_no_beat(tmp_path, capsys):
    hum = np.sin(2 * np.pi * 220 * np.arange(44_100 * 6) / 44_100).astype(np.float32)
    path = write(tmp_path / "hum.wav", 0.3 * hum)
    assert main(["transcribe", str(path), "--out", str(tmp_path / "out")]) == 0
    told = capsys.readouterr().out
    assert "hum.wav: No steady beat was found" in told
    assert "bpm" not in told
    assert (tmp_path / "out" / "hum" / "chart.pdf").is_file()


def test_bad_input_is_one_line_and_leaves_nothing(tmp_path, capsys):
    bad = tmp_path / "list.wav"
    bad.write_text("sticks, heads, wing nuts")
    out = tmp_path / "out"
    assert main(["transcribe", str(bad), "--out", str(out)]) == 2
    complaint = capsys.readouterr().err.strip()
    assert complaint.count("\n") == 0
    assert "not audio" in complaint
    assert not out.exists()


def test_one_bad_file_does_not_keep_the_others_from_being_written(tmp_path):
    good = SONGS / f"{SLUGS[2]}.ogg"
    code = main(["transcribe", str(tmp_path / "no.wav"), str(good), "--out", str(tmp_path / "out")])
    assert code == 2
    assert (tmp_path / "out" / SLUGS[2] / "chart.pdf").exists()


def test_two_songs_of_one_name_are_refused_before_any_work(tmp_path, capsys):
    for folder in ("a", "b"):
        (tmp_path / folder).mkdir()
        (tmp_path / folder / "take.wav").write_bytes(b"")
    songs = [str(tmp_path / folder / "take.wav") for folder in ("a", "b")]
    assert main(["transcribe", *songs, "--out", str(tmp_path / "out")]) == 2
    assert "same folder" in capsys.readouterr().err


def test_a_place_that_cannot_be_written_is_said(tmp_path, capsys):
    blocked = tmp_path / "file"
    blocked.write_text("")
    assert main(["transcribe", str(SONGS / f"{SLUGS[2]}.ogg"), "--out", str(blocked)]) == 2
    assert "cannot be written" in capsys.readouterr().err


def test_the_core_runs_without_django(tmp_path):
    """The main job must not drag the web in: it is asked in a process of its own."""
    code = (
        "import sys, orchesis.cli\n"
        "assert not {'django', 'celery', 'rest_framework', 'torch'} & set(sys.modules)"
    )
    environment = {**os.environ, "PYTHONPATH": str(SONGS.parents[1] / "src")}
    subprocess.run([sys.executable, "-c", code], check=True, env=environment)


@pytest.mark.parametrize(
    ("name", "title"),
    [("rain-on-the-awning.ogg", "Rain on the awning"), ("My_Song.WAV", "My Song"), ("x.mp3", "X")],
)
def test_titles_come_from_file_names(name, title):
    assert title_of(Path(name)) == title


@pytest.fixture(scope="module")
def excerpt():
    """Forty seconds of a demo song, mono."""
    return decode(SONGS / f"{SLUGS[0]}.ogg").samples[: 44_100 * 40]


def test_silence_before_and_after_a_song_has_no_bars(tmp_path, excerpt):
    plain = transcribe(write(tmp_path / "plain.wav", excerpt)).transcription
    silent = np.pad(excerpt, (44_100 * 5, 44_100 * 8))
    padded = transcribe(write(tmp_path / "padded.wav", silent)).transcription
    assert len(padded.bars) == len(plain.bars)
    starts = [bar.start - 5.0 for bar in padded.bars]
    assert starts == pytest.approx([bar.start for bar in plain.bars], abs=0.03)
    assert [one.label for one in padded.sections] == [one.label for one in plain.sections]


def test_one_silent_channel_changes_next_to_nothing(tmp_path, excerpt):
    both = transcribe(write(tmp_path / "both.wav", np.stack([excerpt, excerpt], axis=1)))
    half = transcribe(write(tmp_path / "half.wav", np.stack([excerpt, 0 * excerpt], axis=1)))
    one, other = both.transcription, half.transcription
    assert other.tempo_bpm == pytest.approx(one.tempo_bpm, rel=0.005)
    times = [[hit.time for hit in song.hits] for song in (one, other)]
    assert f_measure(sorted(times[0]), sorted(times[1]), HIT_TOLERANCE) > 0.95


def test_a_telephone_s_eight_kilohertz_still_have_their_beat(tmp_path, excerpt):
    path = tmp_path / "thin.wav"
    wavfile.write(path, 8000, resample_poly(excerpt, 80, 441).astype(np.float32))
    song = transcribe(path).transcription
    whole = transcribe(write(tmp_path / "whole.wav", excerpt)).transcription
    assert song.tempo_bpm == pytest.approx(whole.tempo_bpm, rel=0.01)
    assert song.hits


def test_more_than_the_longest_is_refused_with_the_limit(tmp_path):
    path = tmp_path / "long.wav"
    wavfile.write(path, 8000, np.zeros(8000 * 60 * 40, np.int16))
    with pytest.raises(RefusedAudio, match="40:00 minutes; at most 20 minutes"):
        transcribe(path)

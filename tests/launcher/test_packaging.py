"""The core as a package: installed by pip into a clean virtualenv, it transcribes."""

import json
import subprocess
import sys
import tomllib
from pathlib import Path

import pytest

import orchesis

ROOT = Path(__file__).resolve().parents[2]
SONG = ROOT / "demo" / "songs" / "steps-to-the-market.ogg"


@pytest.fixture(scope="module")
def installed(tmp_path_factory):
    """A virtualenv that knows nothing but what pip put into it; gives back its `bin`."""
    folder = tmp_path_factory.mktemp("clean")
    subprocess.run([sys.executable, "-m", "venv", folder / "venv"], check=True)
    python = folder / "venv" / "bin" / "python"
    # A copy without what a checkout has lying about, as the build would leave it.
    source = folder / "source"
    source.mkdir()
    tracked = subprocess.run(
        ["git", "ls-files", "-z", "src", "pyproject.toml", "README.md", "LICENSE", "requirements"],
        cwd=ROOT,
        capture_output=True,
        check=True,
    ).stdout
    for name in filter(None, tracked.decode().split("\0")):
        (source / name).parent.mkdir(parents=True, exist_ok=True)
        (source / name).write_bytes((ROOT / name).read_bytes())
    command = [python, "-m", "pip", "install", "--quiet", "--disable-pip-version-check", source]
    subprocess.run(command, check=True, cwd=folder)
    return python.parent


def test_the_installed_command_transcribes_a_song(installed, tmp_path):
    short = tmp_path / "market.ogg"
    cut = ["ffmpeg", "-v", "error", "-i", SONG, "-t", "20", "-c", "copy", short]
    subprocess.run(cut, check=True)
    command = [installed / "orchesis", "transcribe", short, "--out", tmp_path / "out"]
    done = subprocess.run(command, capture_output=True, text=True, check=False, cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    made = {path.name for path in (tmp_path / "out" / "market").iterdir()}
    assert made == {"transcription.json", "drums.mid", "chart.musicxml", "chart.pdf"}
    song = json.loads((tmp_path / "out" / "market" / "transcription.json").read_text())
    assert song["tempo_bpm"] == pytest.approx(96, abs=1)
    assert len(song["hits"]) > 40


def test_bad_input_ends_with_a_sentence_there_too(installed, tmp_path):
    command = [installed / "orchesis", "transcribe", tmp_path / "nowhere.wav", "--out", tmp_path]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert (done.returncode, "no such file" in done.stderr) == (2, True)


def test_there_is_one_version():
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())
    assert "version" in project["project"]["dynamic"]
    assert f"## {orchesis.__version__}" in (ROOT / "CHANGELOG.md").read_text()

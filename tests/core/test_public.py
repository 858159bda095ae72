"""The public face: its examples run, and the command line says the same."""

import doctest
import json
import subprocess
import sys
from pathlib import Path

import pytest

import orchesis
from orchesis import cli, public
from orchesis.errors import InvalidTranscription, Missing

ROOT = Path(__file__).resolve().parents[2]
SCORE = ROOT / "demo" / "songs" / "rain-on-the-awning.score.json"


@pytest.mark.parametrize("module", [orchesis, public], ids=lambda one: one.__name__)
def test_the_examples_of_the_documentation_run(module, monkeypatch):
    monkeypatch.chdir(ROOT)
    result = doctest.testmod(module)
    assert result.attempted > 0
    assert result.failed == 0


def test_every_public_name_has_a_docstring_with_an_example():
    for name in orchesis.__all__:
        documented = getattr(orchesis, name).__doc__
        assert name == "Beats" or "Examples\n" in documented.replace("    ", ""), name


def test_the_package_is_typed_and_light_to_import():
    assert (Path(orchesis.__file__).parent / "py.typed").exists()
    asked = "import sys, orchesis; sys.exit('numpy' in sys.modules)"
    environment = {"PYTHONPATH": str(ROOT / "src")}
    assert (
        subprocess.run([sys.executable, "-c", asked], env=environment, check=False).returncode == 0
    )


def test_what_does_not_exist_is_refused_with_what_does():
    song = orchesis.load(SCORE)
    with pytest.raises(InvalidTranscription, match=r"chart\.pdf"):
        orchesis.render_chart(song, "chart.doc")
    with pytest.raises(InvalidTranscription, match="essence"):
        orchesis.render_chart(song, reading="poem")
    with pytest.raises(Missing, match="there are"):
        orchesis.practice_plan(song, "Solo")
    with pytest.raises(Missing, match="no fill"):
        orchesis.practice_plan(song, 1)
    with pytest.raises(AttributeError, match="no attribute"):
        orchesis.transcribble  # noqa: B018


def test_a_failed_write_leaves_the_file_that_was_there(tmp_path, monkeypatch):
    song = orchesis.load(SCORE)
    kept = tmp_path / "song.json"
    kept.write_text("mine")
    monkeypatch.setattr(Path, "replace", lambda *_: (_ for _ in ()).throw(OSError("full")))
    with pytest.raises(OSError, match="full"):
        orchesis.save(song, kept)
    assert kept.read_text() == "mine"
    assert [path.name for path in tmp_path.iterdir()] == ["song.json"], "and nothing else is left"


def test_a_chart_is_written_from_a_transcription(tmp_path):
    out = tmp_path / "chart.txt"
    command = [
        "chart",
        str(SCORE),
        "--file",
        "chart.txt",
        "--reading",
        "essence",
        "--out",
        str(out),
    ]
    assert cli.main(command) == 0
    assert out.read_text().strip()


def test_a_plan_and_a_comparison_are_printed_as_json(capsys):
    label = orchesis.load(SCORE).sections[1].label
    assert cli.main(["plan", str(SCORE), label, "--json"]) == 0
    steps = json.loads(capsys.readouterr().out)
    assert steps[-1]["title"] == "All of it"
    assert cli.main(["compare", str(SCORE), str(SCORE), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["agreement"] == 1.0
    assert cli.main(["compare", str(SCORE), str(SCORE)]) == 0
    assert "100% of the strokes agree" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("command", "said"),
    [
        (["chart", "nowhere.json", "--out", "x.pdf"], "nowhere.json"),
        (["plan", str(SCORE), "Solo"], "there is no section"),
        (["transcribe", "a.wav", "b.wav", "--json"], "one song"),
    ],
)
def test_bad_input_ends_in_one_line_and_code_two(command, said, capsys):
    assert cli.main(command) == cli.BAD_INPUT
    errors = capsys.readouterr().err
    assert said in errors
    assert errors.count("\n") == 1


def test_beats_of_a_recording_are_printed(capsys):
    song = ROOT / "demo" / "songs" / "steps-to-the-market.ogg"
    assert cli.main(["beats", str(song), "--json"]) == 0
    beats = json.loads(capsys.readouterr().out)
    assert beats["tempo_bpm"] == pytest.approx(96, abs=1)
    assert set(beats["downbeats"]) <= set(beats["beats"])

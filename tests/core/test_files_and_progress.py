"""The files that are written, and what is told meanwhile."""

import io
import json
import sys

import pytest

from orchesis.chart.files import COMMAND_LINE_FILES, WRITERS, write_file
from orchesis.cli import ProgressBar
from orchesis.errors import Cancelled
from orchesis.music.json import loads
from orchesis.pipeline import STAGES, _Progress
from tests.composing import ROCK, song

BEGINNINGS = {
    ".json": b"{",
    ".mid": b"MThd",
    ".musicxml": b"<?xml",
    ".pdf": b"%PDF",
    ".csv": b"time,bar,",
    ".txt": b"Composed",
    ".svg": b"<svg",
    ".png": b"\x89PNG",
}


@pytest.mark.parametrize("name", WRITERS)
def test_every_file_is_what_its_ending_says(name):
    body = write_file(song([ROCK] * 2), name)
    assert body.startswith(BEGINNINGS["." + name.rsplit(".", 1)[1]])


def test_the_command_line_writes_known_files_only():
    assert set(COMMAND_LINE_FILES) <= set(WRITERS)
    with pytest.raises(KeyError):
        write_file(song([ROCK]), "drums.doc")


def test_the_json_file_can_be_read_back_and_by_eyes():
    piece = song([ROCK] * 2)
    text = write_file(piece, "transcription.json").decode()
    assert loads(text) == piece
    assert text.count('"instrument"') == len(piece.hits)
    assert max(len(line) for line in text.splitlines()) < 300
    json.loads(text)


def test_the_stages_are_the_whole_work():
    assert sum(share for _, share in STAGES) == pytest.approx(1.0)


def test_progress_maps_each_stage_onto_its_share():
    told = []
    progress = _Progress(lambda stage, share: told.append((stage, round(share, 3))), lambda: False)
    for stage, _ in STAGES:
        progress(stage, 0.0)
        progress(stage, 1.0)
    shares = [share for _, share in told]
    assert shares[0] == 0.0
    assert shares[-1] == 1.0
    assert shares == sorted(shares)


def test_a_wish_to_stop_is_heard_at_the_next_report():
    progress = _Progress(lambda stage, share: None, lambda: True)
    with pytest.raises(Cancelled):
        progress("decode", 0.5)


class Terminal(io.StringIO):
    def isatty(self):
        return True


def test_the_bar_moves_in_place_on_a_terminal(monkeypatch):
    screen = Terminal()
    monkeypatch.setattr(sys, "stderr", screen)
    bar = ProgressBar("take.wav")
    bar("listen", 0.5)
    bar("done", 1.0)
    bar.close()
    text = screen.getvalue()
    assert text.count("\r") == 2
    assert "50% listening" in text
    assert text.endswith("\n")


def test_it_is_silent_where_nobody_watches(monkeypatch):
    pipe = io.StringIO()
    monkeypatch.setattr(sys, "stderr", pipe)
    bar = ProgressBar("take.wav")
    bar("listen", 0.5)
    bar.close()
    assert pipe.getvalue() == ""

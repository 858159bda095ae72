"""Boxes of ink and what reaches beyond them; a chart that needs no server."""

import base64
import io
import json
import re
import xml.etree.ElementTree as ET
import zipfile
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.chart.ink import Box, Skyline, around, boxes_of, glyph_box, glyph_path
from orchesis.chart.options import ChartOptions
from orchesis.chart.score import Credits
from orchesis.chart.standalone import FOLDER, standalone
from orchesis.errors import Missing
from orchesis.music.instruments import Instrument, Status
from tests.composing import ROCK, song

PLACES = st.floats(-500, 500)
BOXES = st.builds(
    lambda left, top, wide, high: Box(left, top, left + wide, top + high),
    PLACES,
    PLACES,
    st.floats(1, 300),
    st.floats(1, 300),
)
NOTEHEAD = "E0A4"
NOBODY = Credits()


@given(BOXES, BOXES)
def test_two_boxes_overlap_each_other_or_neither(one, other):
    assert one.overlaps(other) == other.overlaps(one)
    assert one.overlaps(one)
    assert not one.overlaps(one.moved(one.right - one.left, 0)), "side by side they only touch"


@given(st.lists(BOXES, min_size=1, max_size=8))
def test_the_box_around_others_holds_them_all(boxes):
    whole = around(boxes, "all")
    assert whole.what == "all"
    for box in boxes:
        assert whole.left <= box.left
        assert whole.right >= box.right
        assert whole.top <= box.top
        assert whole.bottom >= box.bottom
    assert around([]) is None


@given(st.lists(BOXES, max_size=8), PLACES, st.floats(1, 200))
def test_what_is_put_beyond_the_skyline_lies_on_nothing(boxes, left, wide):
    sky = Skyline(list(boxes))
    right = left + wide
    top, bottom = sky.top(left, right, default=0.0), sky.bottom(left, right, default=0.0)
    above, below = Box(left, top - 50, right, top), Box(left, bottom, right, bottom + 50)
    assert not any(above.overlaps(box, 1e-6) or below.overlaps(box, 1e-6) for box in boxes)


def test_where_nothing_is_the_skyline_is_what_it_is_told():
    sky = Skyline([Box(0, -100, 50, -20)])
    assert sky.top(60, 90, default=7.0) == 7.0
    sky.add(Box(70, -300, 80, 0))
    assert sky.top(60, 90, default=7.0) == -300


def test_a_glyph_is_as_large_as_it_is_drawn():
    small, large = (glyph_box(NOTEHEAD, 100, 200, scale=scale) for scale in (0.5, 1.0))
    assert large.right - large.left == pytest.approx(2 * (small.right - small.left))
    assert small.left <= 101
    assert small.top < 200 < small.bottom, "a head stands on its line"
    assert glyph_path(NOTEHEAD).startswith("M")
    with pytest.raises(KeyError):
        glyph_path("0000")


def test_what_is_hidden_has_no_ink_and_lines_are_as_thick_as_drawn():
    svg = ET.fromstring(
        '<svg xmlns="http://www.w3.org/2000/svg">'
        '<g class="beam"><polygon points="0,0 100,0 100,20 0,20"/></g>'
        '<g class="stem"><path d="M10 0 L10 90" stroke-width="8"/></g>'
        '<g class="staff"><path d="M0 5 L900 5"/></g>'
        '<g class="rest" visibility="hidden"><rect x="0" y="0" width="9" height="9"/></g>'
        '<ellipse class="dot" cx="50" cy="60" rx="5" ry="4"/></svg>'
    )
    found = {box.what: box for box in boxes_of(svg)}
    assert set(found) == {"beam", "stem", "dot"}
    assert (found["stem"].left, found["stem"].right) == (6, 14)
    assert (found["dot"].top, found["dot"].bottom) == (56, 64)


@pytest.fixture
def sounds(tmp_path):
    """A kit of two drums, of which one is in the song."""
    (tmp_path / "kit.json").write_text('{"velocities": {"hard": 110}, "variants": {"kick": 1}}')
    for name in ("kick-hard-1", "cowbell-hard-1"):
        (tmp_path / f"{name}.ogg").write_bytes(name.encode())
    return tmp_path


def opened(piece, sounds, title="Slow Ferry", signature=NOBODY):
    """The files of the folder, and what the player is given."""
    held = zipfile.ZipFile(io.BytesIO(standalone(piece, ChartOptions(), signature, title, sounds)))
    files = {name.removeprefix(f"{FOLDER}/"): held.read(name) for name in held.namelist()}
    text = files["data.js"].decode()
    return files, json.loads(text.removeprefix("window.DATA = ")), text


def test_a_chart_to_take_along_has_its_pages_strokes_and_the_sounds_that_it_needs(sounds):
    piece = song([ROCK] * 3)
    files, data, _ = opened(piece, sounds)
    assert {"index.html", "player.js", "page-1.svg"} <= set(files)
    assert any(name.endswith(".ttf") for name in files)
    assert len(data["strokes"]) == len(piece.hits)
    assert data["strokes"] == sorted(data["strokes"])
    assert [bar["number"] for bar in data["bars"]] == [1, 2, 3]
    assert {name: base64.b64decode(held) for name, held in data["sounds"].items()} == {
        "kick-hard-1": b"kick-hard-1"
    }


def test_what_was_left_out_is_not_played(sounds):
    piece = song([ROCK])
    silent = piece.with_hits(
        [
            replace(hit, status=Status.LEFT_OUT) if hit.instrument is Instrument.KICK else hit
            for hit in piece.hits
        ]
    )
    _, data, _ = opened(silent, sounds)
    assert "kick" not in {drum for _, drum, _ in data["strokes"]}
    assert data["sounds"] == {}


def test_no_title_and_no_name_can_end_the_page_or_the_script(sounds):
    evil = "</script><b>Ferry & Sons"
    files, _, text = opened(song([ROCK]), sounds, evil, Credits("<i>ada", 2, "1 May"))
    page = files["index.html"].decode()
    assert evil not in page
    assert "&lt;/script&gt;&lt;b&gt;Ferry &amp; Sons" in page
    assert "Transcribed by &lt;i&gt;ada, 1 May." in page
    assert "<" not in text


def test_it_fetches_nothing(sounds):
    files, _, _ = opened(song([ROCK]), sounds)
    page = files["index.html"].decode() + files["player.js"].decode()
    assert not re.search(r"(src|href)=\"https?:|fetch\(|XMLHttpRequest", page)


def test_a_song_without_bars_has_nothing_to_take_along(sounds):
    piece = replace(song([ROCK]), bars=())
    with pytest.raises(Missing, match="no bars yet"):
        standalone(piece, ChartOptions(), Credits(), "Slow Ferry", sounds)

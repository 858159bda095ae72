"""The engraved pages: every head is there, each with its identity, and nothing lies on anything."""

import itertools
import re
import subprocess
import xml.etree.ElementTree as ET
from dataclasses import replace
from fractions import Fraction
from random import Random

import pytest

from orchesis.chart.engrave import engrave_system
from orchesis.chart.excerpt import excerpt_svg
from orchesis.chart.mei import note_id
from orchesis.chart.notation import STAFF
from orchesis.chart.options import (
    Beside,
    ChartOptions,
    CrossStick,
    Ghosts,
    HatFoot,
    Notation,
    PageSize,
    Reading,
    Voices,
)
from orchesis.chart.pages import measure_boxes
from orchesis.chart.pdf import to_pdf, to_png
from orchesis.chart.reading_pages import chart_pages
from orchesis.chart.score import Credits
from orchesis.music.instruments import Instrument, Limb, Ornament, Status
from orchesis.music.values import Cue, Feel, Meter, Section, Transcription
from tests.composing import ROCK, song
from tests.hard_songs import hard_songs
from tests.overlaps import LOOKS, boxes_apart, heads_apart

I = Instrument  # noqa: E741


def page(piece, **options):
    return chart_pages(piece, ChartOptions(**options)).pages[0].svg()


def varied(count):
    """Bars of which hardly two are the same, always the same ones."""
    random = Random(1)
    rows = ["".join(random.choice("x..") for _ in range(8)) for _ in range(count)]
    return [{**ROCK, I.KICK: row} for row in rows]


def glyphs(svg, kind):
    """The code points drawn within elements of a class, in the order of the page."""
    return [
        glyph
        for element in re.findall(rf'class="{kind}\b.*?</g>', svg, re.DOTALL)
        for glyph in re.findall(r'href="#(\w+)"', element)
    ]


def test_every_stroke_has_a_head_with_its_bar_its_place_and_its_drum():
    piece = song([ROCK, {**ROCK, I.KICK: "x..x..x....x...."}])
    svg = page(piece, key=False)
    found = re.findall(r'id="(n\d[^"]*)"', svg)
    assert sorted(found) == sorted(note_id(hit) for hit in piece.hits)
    assert len(found) == len(set(found))


def test_every_instrument_can_be_engraved():
    everything = dict.fromkeys(Instrument, "x...............")
    assert len(glyphs(page(song([everything]), key=False), "notehead")) == len(Instrument)
    assert len({(place.step, place.octave, place.head) for place in STAFF.values()}) >= 18


@pytest.mark.parametrize(
    ("instrument", "head"),
    [
        (I.SNARE, "E0A4"),
        (I.CROSS_STICK, "E0A9"),
        (I.RIDE_BELL, "E0DB"),
        (I.HIHAT_SPLASH, "E0B3"),
        (I.COWBELL, "Ht"),
        (I.TAMBOURINE, "Hi"),
    ],
)
def test_what_is_struck_otherwise_has_another_head_on_the_page(instrument, head):
    svg = page(song([{instrument: "x..............."}]), key=False)
    assert glyphs(svg, "notehead") == [head]
    assert f'id="{head}"' in svg


def test_an_open_hat_has_its_circle_and_the_stroke_that_closes_it_its_plus():
    hats = {
        I.HIHAT_OPEN: "......x.........",
        I.HIHAT_CLOSED: "x.x.x...x.x.x.x.",
        I.SNARE: "....x...",
    }
    assert glyphs(page(song([hats]), key=False), "artic") == ["E5E7", "E5E5"]
    assert glyphs(page(song([hats]), key=False, closing_sign=False), "artic") == ["E5E7"]


def test_accents_and_buzzes_stand_over_the_chord_whichever_drum_plays_them():
    piece = song([{I.HIHAT_CLOSED: "x.x.", I.SNARE: "..X."}])
    piece = piece.with_hits(
        replace(hit, ornament=Ornament.BUZZ if hit.instrument is I.SNARE else None)
        for hit in piece.hits
    )
    svg = page(piece, key=False)
    assert glyphs(svg, "artic") == ["E4A0"]
    assert "E22A" in svg


@pytest.mark.parametrize(("ornament", "graces"), [(Ornament.FLAM, 1), (Ornament.DRAG, 2)])
def test_flams_and_drags_have_their_grace_notes(ornament, graces):
    plain = song([{I.SNARE: "....x..........."}])
    made = plain.with_hits(replace(hit, ornament=ornament) for hit in plain.hits)
    assert len(glyphs(page(made, key=False), "notehead")) == 1 + graces


def test_signs_of_other_schools_are_written_as_they_ask():
    piece = song([{I.SNARE: "..g.", I.CROSS_STICK: "x...", I.HIHAT_FOOT: ".x.."}])
    first = page(piece, key=False)
    other = page(piece, key=False, ghosts=Ghosts.SMALL, cross_stick=CrossStick.ROUND)
    assert "E26A" in first
    assert "E26A" not in other
    assert "E0B3" in other

    def height(options):
        svg = page(piece, key=False, **options)
        head = re.search(r'id="n1-1_4-hihat_foot".*?translate\(\d+, (-?\d+)\)', svg).group(1)
        return int(head)

    assert height({"hat_foot": HatFoot.LINE}) < height({"hat_foot": HatFoot.UNDER})
    lines = page(piece, key=False, voices=Voices.FOOT_APART)
    assert lines.count('class="staff"') == 2 * first.count('class="staff"')


def test_what_is_beside_the_kit_has_a_line_of_its_own_above():
    piece = song([{**ROCK, I.SHAKER: "xxxxxxxxxxxxxxxx"}])
    drawing = engrave_system(
        chart_pages(piece, ChartOptions()).score.measures,
        piece.feel,
        ChartOptions(),
        width=9000,
        before=None,
    )
    shaken = [head.box for head in drawing.heads if head.name.endswith("shaker")]
    assert len(shaken) == 16
    assert max(box.bottom for box in shaken) < drawing.staff_top


def test_a_title_of_markup_and_control_characters_is_harmless():
    piece = replace(song([ROCK]), title="<script>alert(1)</script>\x00\x0b & co")
    cued = replace(piece, cues=(Cue(0.5, "<b>stop</b>"),), sections=(
        replace(piece.sections[0], label="A & <i>B</i>"),))  # fmt: skip
    svg = page(cued)
    assert "<script" not in svg
    assert "<b>" not in svg
    ET.fromstring(svg)


@pytest.mark.slow
@pytest.mark.parametrize("name", sorted(hard_songs()))
def test_nothing_lies_on_anything_in_twenty_hard_songs(name):
    piece = hard_songs()[name]
    # Each song in three looks, each look in eight songs; all of both: `python -m benchmarks.chart`.
    turn = sorted(hard_songs()).index(name)
    for look in [LOOKS[turn % len(LOOKS)], LOOKS[(turn + 3) % len(LOOKS)], LOOKS[0]]:
        engraving = chart_pages(piece, ChartOptions(**look), Credits("Wanda", 3, "1 May 2027"))
        assert boxes_apart(engraving) == [], look
        assert heads_apart(engraving) == [], look


def test_the_hard_songs_are_twenty_and_hard():
    assert len(hard_songs()) >= 20
    assert {hit.ornament for piece in hard_songs().values() for hit in piece.hits} >= set(Ornament)
    assert len({bar.meter for piece in hard_songs().values() for bar in piece.bars}) >= 6


def test_the_test_for_overlaps_can_fail():
    piece = song([ROCK] * 4)
    sheet = chart_pages(piece, ChartOptions()).pages[0]
    block = sheet.placed[0]
    twice = replace(sheet, placed=(block, replace(block, y=block.y + 300)))
    engraving = replace(chart_pages(piece, ChartOptions()), pages=(twice,))
    assert boxes_apart(engraving)


def test_measures_are_where_their_heads_are():
    piece = song([ROCK, {**ROCK, I.KICK: "x..x............"}, ROCK])
    engraving = chart_pages(piece, ChartOptions(key=False))
    for measure, box in measure_boxes(engraving.pages[0]):
        for placed in engraving.pages[0].placed:
            for head in placed.block.dressed.drawing.heads:
                if head.name.startswith(f"n{measure.number}-"):
                    middle = placed.moved(head.box)
                    assert box.left < (middle.left + middle.right) / 2 < box.right


def test_a_bar_that_is_changed_leaves_every_other_line_as_it_was():
    bars = varied(24)
    before = chart_pages(song(bars), ChartOptions())
    bars[13] = {**ROCK, I.KICK: "x.............x."}
    after = chart_pages(song(bars), ChartOptions())
    names = [[p.block.name for p in e.pages[0].placed] for e in (before, after)]
    assert 1 <= len(set(names[1]) - set(names[0])) <= 3
    assert len(set(names[1]) & set(names[0])) >= 2


def test_a_phone_gets_one_narrow_sheet():
    pages = chart_pages(song(varied(30)), ChartOptions(size=PageSize.PHONE)).pages
    assert len(pages) == 1
    assert pages[0].height > 2 * pages[0].width


def test_a_song_without_bars_gives_an_empty_page_and_no_crash():
    empty = Transcription(0.0, Meter(4, 4), (), (), title="Nothing")
    for reading in Reading:
        assert "Nothing" in page(empty, reading=reading)


def test_a_swung_song_says_so_over_its_first_bar():
    assert "swung sixteenths 1.5 : 1" in page(replace(song([ROCK]), feel=Feel(1.0, 1.5)))
    assert "swung" not in page(song([ROCK]))


def test_the_key_has_the_signs_that_occur_and_no_others():
    svg = page(song([{I.SNARE: "x.g.", I.RIDE: "xxxx"}]))
    words = re.findall(r'class="t-keyword"[^>]*>([^<]*)<', svg)
    assert words == ["snare", "ride", "ghost note"]


def test_an_excerpt_has_the_hands_that_are_asked_for_below():
    piece = song([ROCK, {I.SNARE: "xxxx............"}])
    hands = {(2, Fraction(step, 16)): letter for step, letter in enumerate("RLRL")}
    options = ChartOptions(first_bar=2, last_bar=2, sticking=Beside.BELOW)
    svg = excerpt_svg(piece, options, hands)
    assert re.findall(r'class="t-hand"[^>]*>(\w)<', svg) == list("RLRL")


def test_paper_has_the_size_that_was_asked_for_and_its_fonts_inside(tmp_path):
    piece = song(varied(60))
    for size, points in ((PageSize.A4, (595, 842)), (PageSize.LETTER, (612, 792))):
        path = tmp_path / f"{size}.pdf"
        path.write_bytes(to_pdf(chart_pages(piece, ChartOptions(size=size)), size))
        assert path.stat().st_size < 1_000_000
        info = subprocess.run(["pdfinfo", path], capture_output=True, text=True, check=True).stdout
        width, height = map(float, re.search(r"Page size:\s+([\d.]+) x ([\d.]+)", info).groups())
        assert (width, height) == pytest.approx(points, abs=1.5)
        told = subprocess.run(["pdffonts", path], capture_output=True, text=True, check=True)
        assert "Spectral" in told.stdout
    text = subprocess.run(["pdftotext", path, "-"], capture_output=True, text=True, check=True)
    assert "Composed" in text.stdout


def test_a_picture_is_a_page_on_white():
    assert to_png(page(song([ROCK]))).startswith(b"\x89PNG")


def test_a_doubtful_head_is_in_square_brackets():
    piece = song([ROCK])
    marked = piece.with_hits(
        replace(hit, status=Status.DOUBTFUL if hit.instrument is I.KICK else hit.status)
        for hit in piece.hits
    )
    assert page(marked, key=False).count('class="bracket"') == 2
    assert page(piece, key=False).count('class="bracket"') == 0


def test_limb_lines_put_each_stroke_on_the_line_of_its_limb():
    limbs = {I.KICK: Limb.RIGHT_FOOT, I.SNARE: Limb.LEFT_HAND, I.HIHAT_CLOSED: Limb.RIGHT_HAND}
    piece = song([ROCK])
    piece = piece.with_hits(replace(hit, limb=limbs[hit.instrument]) for hit in piece.hits)
    engraving = chart_pages(piece, ChartOptions(notation=Notation.LIMBS, key=False))
    heads = engraving.pages[0].placed[0].block.dressed.drawing.heads
    heights = {
        drum: {round(head.box.top + head.box.bottom) for head in heads if head.name.endswith(drum)}
        for drum in ("hihat_closed", "snare", "kick")
    }
    assert all(len(found) == 1 for found in heights.values())
    hat, snare, kick = (found.pop() for found in heights.values())
    assert hat < snare < kick
    beats = [head.box.left for head in heads if head.name.endswith("hihat_closed")]
    steps = {round(after - before) for before, after in itertools.pairwise(beats)}
    assert max(steps) - min(steps) <= 2


def test_sections_begin_a_line():
    piece = song([{**ROCK, I.KICK: row} for row in ("x...x...........", "x.......x.x.....") * 6])
    spans = (("Verse", 1, 7), ("Chorus", 8, 12))
    sections = tuple(
        Section(label, piece.bar(first).start, piece.bar(last).end, last - first + 1, first)
        for label, first, last in spans
    )
    engraving = chart_pages(replace(piece, sections=sections), ChartOptions(key=False))
    heads = [placed.block.measures[0].number for placed in engraving.pages[0].placed]
    assert {1, 8} <= set(heads)


def test_grace_notes_of_a_one_stand_before_its_bar_line():
    rows = [{I.SNARE: "x.x.x.x."}, {I.SNARE: "x.xxx.x."}]
    piece = song(rows)
    flam = piece.with_hits(
        replace(hit, ornament=Ornament.FLAM) if hit.bar == 2 and hit.position == 0 else hit
        for hit in piece.hits
    )
    drawing = chart_pages(flam, ChartOptions(key=False)).pages[0].placed[0].block.dressed.drawing
    grace = [box for box in drawing.boxes if box.what == "notehead" and box.right - box.left < 160]
    line = drawing.spans[1].left
    assert len(grace) == 1
    assert line - 900 < grace[0].left < line
    # Within the bar it stands before its stroke, as ever.
    inside = piece.with_hits(
        replace(hit, ornament=Ornament.FLAM) if hit.bar == 2 and hit.position > 0.6 else hit
        for hit in piece.hits
    )
    drawing = chart_pages(inside, ChartOptions(key=False)).pages[0].placed[0].block.dressed.drawing
    graces = [box for box in drawing.boxes if box.what == "notehead" and box.right - box.left < 160]
    assert graces
    assert all(box.left > drawing.spans[1].left for box in graces)

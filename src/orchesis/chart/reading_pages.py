"""Any reading of a song on its pages: what every screen and every printed file is made from."""

from __future__ import annotations

from orchesis.chart.key import key_block
from orchesis.chart.lettering import Text
from orchesis.chart.options import ChartOptions, PageSize, Reading
from orchesis.chart.pages import (
    MARGIN,
    SIZES,
    SUBTITLE_SIZE,
    Block,
    Engraving,
    Page,
    Placed,
    engrave,
    foot_texts,
    title_texts,
)
from orchesis.chart.readings import make_score
from orchesis.chart.roadmap import draw_rows, make_rows, road_map_score
from orchesis.chart.score import Credits
from orchesis.music.values import Transcription

ROW_GAP = 330.0
LARGEST_MAP = 1.18
SMALLEST_MAP = 0.6
"""A map that would be smaller than this says its fills in words instead."""


def chart_pages(
    song: Transcription, options: ChartOptions, signature: Credits | None = None
) -> Engraving:
    """The chart that these options ask for. Raises InvalidTranscription, see `pages.engrave`."""
    signature = signature or Credits()
    if options.reading is Reading.ROAD_MAP:
        return _road_map(song, options, signature)
    starts = {bar.number: bar.start for bar in song.bars}
    return engrave(make_score(song, options, signature), starts)


def _road_map(song: Transcription, options: ChartOptions, signature: Credits) -> Engraving:
    score = road_map_score(song, options, signature)
    rows = make_rows(song, options)
    width, height = SIZES[options.size]
    margin = MARGIN[options.size]
    inner = width - 2 * margin
    title = title_texts(score, width, margin)
    head = max(text.box.bottom for text in title) + 250
    about = Text(_about(score.tempo_bpm, str(score.meter), score.feel_words), margin,
                 head + SUBTITLE_SIZE, SUBTITLE_SIZE * 1.1, "bold", kind="tempo")  # fmt: skip
    head += SUBTITLE_SIZE + 500
    room = height - head - margin - 500

    def drawn(scale: float, *, with_fills: bool) -> list[tuple[Block, float]]:
        blocks = []
        for dressed, measure in draw_rows(
            song, rows, options, width=inner / scale, with_fills=with_fills
        ):
            blocks.append((Block(dressed, (measure,)), dressed.height * scale))
        return blocks

    scale, with_fills = LARGEST_MAP if options.size is not PageSize.PHONE else 1.0, True
    blocks = drawn(scale, with_fills=True)
    while options.size is not PageSize.PHONE and _tall(blocks, scale) > room:
        scale -= 0.06
        if scale < SMALLEST_MAP and with_fills:
            scale, with_fills = 0.94, False
        if scale < 0.3:
            break
        blocks = drawn(scale, with_fills=with_fills)
    placed = []
    y = head
    for block, tall in blocks:
        placed.append(Placed(block, margin, y - block.dressed.top * scale, scale))
        y += tall + ROW_GAP * scale
    key = key_block(score, inner) if options.key else None
    if key is not None and (options.size is PageSize.PHONE or y + key.height < head + room):
        placed.append(Placed(Block(key, ()), margin, y + 200 - key.top))
        y += 200 + key.height
    if options.size is PageSize.PHONE:
        height = y + 500 + margin
    texts = (*title, about, *foot_texts(score, 1, 1, width, height))
    return Engraving((Page(width, height, texts, tuple(placed)),), score)


def _tall(blocks: list[tuple[Block, float]], scale: float) -> float:
    return sum(tall for _, tall in blocks) + ROW_GAP * scale * (len(blocks) - 1)


def _about(tempo_bpm: float, meter: str, feel: str) -> str:
    words = [meter, f"{round(tempo_bpm)} beats a minute"]
    if feel:
        words.append(feel)
    return "  ·  ".join(words)

"""A song with fewer notes, for who begins: what the chart of a level shows is practised."""

from __future__ import annotations

from dataclasses import replace

from orchesis.chart.levels import at_level
from orchesis.chart.options import ChartOptions, Doubts, Level
from orchesis.music.values import Transcription

LEVEL_WORDS: dict[Level, str] = {
    Level.NO_GHOSTS: "without ghosts",
    Level.HANDS: "hands only",
    Level.BACKBEAT: "kick and backbeat",
}


def thinned(song: Transcription, level: Level) -> Transcription:
    """The song with the notes of a level only; its bars, sections and fills stay where they are."""
    if level is Level.ALL:
        return song
    options = ChartOptions(level=level, doubts=Doubts.PLAIN)
    meters = {bar.number: bar.meter for bar in song.bars}
    kept = (hit for hit in song.hits if at_level([hit], meters[hit.bar], options))
    return replace(song, hits=tuple(kept))

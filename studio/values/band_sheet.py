"""The band sheet: the road map of each song of a list, on a page of its own."""

from __future__ import annotations

from collections.abc import Sequence

from orchesis.chart.options import ChartOptions, Reading
from orchesis.chart.pdf import sheets_to_pdf
from orchesis.chart.reading_pages import chart_pages
from orchesis.errors import Missing
from studio.models import Song
from studio.people import Group
from studio.values.access import edition_of
from studio.values.charts import charted, signature

MOST_SHEETS = 40
"""A night has no more songs, and nobody waits longer for them."""


def sheet_songs(group: Group) -> list[Song]:
    """The songs of a list that have a chart, in its order. Raises Missing where none has."""
    seen = [edition_of(put.song) for put in group.songs.select_related("song")]
    songs = [song for song in seen if song.has_score][:MOST_SHEETS]
    if not songs:
        raise Missing("none of these songs has a chart yet: put some there that have")
    return songs


def band_sheet(songs: Sequence[Song]) -> bytes:
    """A PDF of these songs: the road map of each on a page of its own."""
    options = ChartOptions(reading=Reading.ROAD_MAP)
    return sheets_to_pdf(
        [chart_pages(charted(song, options)[0], options, signature(song)) for song in songs]
    )

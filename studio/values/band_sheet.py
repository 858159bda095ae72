"""The band sheet: the road map of each song of a list, on a page of its own."""

from __future__ import annotations

from orchesis.chart.options import ChartOptions, Reading
from orchesis.chart.pdf import sheets_to_pdf
from orchesis.chart.reading_pages import chart_pages
from orchesis.errors import Missing
from studio.people import Group
from studio.values.access import edition_of
from studio.values.charts import charted, signature

MOST_SHEETS = 40
"""A night has no more songs, and nobody waits longer for them."""


def band_sheet(group: Group) -> bytes:
    """A PDF of the list in its order. Raises Missing where none of its songs has a chart."""
    options = ChartOptions(reading=Reading.ROAD_MAP)
    seen = [edition_of(put.song) for put in group.songs.select_related("song")]
    songs = [song for song in seen if song.has_score][:MOST_SHEETS]
    if not songs:
        raise Missing("none of these songs has a chart yet: put some there that have")
    return sheets_to_pdf(
        [chart_pages(charted(song, options)[0], options, signature(song)) for song in songs]
    )

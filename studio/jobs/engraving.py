"""The works that engravers do, by name: see `studio.engravers`."""

from __future__ import annotations

import struct
from typing import Any

from rest_framework.renderers import JSONRenderer

from orchesis.errors import Missing
from orchesis.listening.picture import sound_picture
from studio import artefacts
from studio.engravers import WORKS
from studio.models import Song
from studio.values.charts import chart_values, options_from_json
from studio.values.grooves import relisten_values
from studio.values.page import reading_page
from studio.values.stored import load_transcription

Asked = dict[str, Any]


def _song(song_id: str) -> Song:
    song = Song.objects.select_related("owner", "kit").filter(pk=song_id).first()
    if song is None:
        raise Missing("this song does not exist any more")
    return song


def _json(values: Any) -> bytes:
    return bytes(JSONRenderer().render(values))


def draw_chart(song_id: str, asked: Asked) -> bytes:
    """The chart on its pages, as JSON; of lines whose names are known the names alone."""
    options = options_from_json(asked["options"])
    return _json(chart_values(_song(song_id), options, frozenset(asked["known"])))


def hear_otherwise(song_id: str, asked: Asked) -> bytes:
    """What would be written otherwise, now that some bars are settled, as JSON."""
    song = _song(song_id)
    return _json(relisten_values(song, load_transcription(song)))


def read_otherwise(song_id: str, asked: Asked) -> bytes:
    """The song as it would be in another reading, as JSON."""
    return reading_page(_song(song_id), asked["key"])


def draw_picture(song_id: str, asked: Asked) -> bytes:
    """The sound of a bar: bands and frames, then a byte each."""
    song = _song(song_id)
    bar = load_transcription(song).bar(asked["bar"])
    if not artefacts.have(song.listening_path):
        raise Missing("this recording cannot be shown yet")
    picture = sound_picture(song.listening_path, bar.start, bar.end)
    return struct.pack("<II", *picture.shape) + picture.tobytes()


WORKS |= {
    "chart": draw_chart,
    "relisten": hear_otherwise,
    "reading": read_otherwise,
    "picture": draw_picture,
}

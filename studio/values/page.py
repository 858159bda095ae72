"""The large answers of the song page, as JSON: worked out once a revision (`values.shown`)."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

from orchesis.chart.options import ChartOptions
from orchesis.rhythm.rewrite import take_reading
from studio.models import OwnRhythm, Song
from studio.values.charts import chart_values
from studio.values.evidence import own_evidence
from studio.values.feel import feel_values
from studio.values.fills import fills_values
from studio.values.grooves import groove_values
from studio.values.kits import song_player, stamp_of
from studio.values.presenting import written_values
from studio.values.shown import shown, shown_before, shown_path
from studio.values.stored import load_transcription

Kept = tuple[Path, bytes]
"""Where an answer is kept, if it could be, and the JSON."""


def score_page(song: Song) -> Kept:
    """All that the song page shows of the written part: the same for everybody who may see it."""
    body = shown(song, "score", lambda: written_values(song, load_transcription(song)))
    return shown_path(song, "score"), body


def reading_path(song: Song, key: str) -> Path:
    """Where `reading_page` keeps its answer."""
    return shown_path(song, _reading_name(key))


def reading_page(song: Song, key: str) -> bytes:
    """The same of the song as it would be in one of its readings. `key` must be one of theirs."""
    return shown(
        song,
        _reading_name(key),
        lambda: written_values(song, take_reading(load_transcription(song), key)),
    )


def _reading_name(key: str) -> str:
    return "reading-" + key.replace("/", "-")


def grooves_page(song: Song) -> Kept:
    """All that is found about the grooves; what an edit has not touched is not found again."""
    name = grooves_name(song)

    def made() -> dict[str, Any]:
        before = shown_before(song, name)
        return {
            "revision": song.revision,
            **groove_values(song, load_transcription(song), before),
        }

    return shown_path(song, name), shown(song, name, made)


def grooves_name(song: Song) -> str:
    """What the answer rests on besides the song: its kit, and the lexicon of its owner."""
    own = list(OwnRhythm.objects.filter(owner=song.owner_id).values_list("pk", flat=True))
    told = f"{stamp_of(song_player(song))} {own}"
    return f"grooves-{hashlib.sha256(told.encode()).hexdigest()[:8]}"


def fills_page(song: Song, school: str) -> Kept:
    """All that is said of the fills, for the player that the song is for."""
    player = song_player(song)
    name = f"fills-{school}-{stamp_of(player)}"

    def made() -> dict[str, Any]:
        told = fills_values(load_transcription(song), player, school)
        return {"revision": song.revision, **told}

    return shown_path(song, name), shown(song, name, made)


def feel_page(song: Song) -> Kept:
    """All that is measured of how it is played."""

    def made() -> dict[str, Any]:
        told = feel_values(load_transcription(song), own_evidence(song))
        return {"revision": song.revision, **told}

    return shown_path(song, "feel"), shown(song, "feel", made)


LONG_BARS = 150
"""From so many bars on a page that nothing is kept of takes a worker: seconds on a slow machine."""

PAGES: dict[str, Callable[[Song, str], Kept]] = {
    "score": lambda song, _: score_page(song),
    "grooves": lambda song, _: grooves_page(song),
    "fills": fills_page,
    "feel": lambda song, _: feel_page(song),
}
"""By name; the second argument is the school of counting."""


def is_cold(song: Song, page: str, school: str = "") -> bool:
    """Whether a page would take a web process for long: nothing of a long song is kept yet."""
    if len((song.header or {}).get("bars", [])) < LONG_BARS:
        return False
    names = {
        "grooves": lambda: grooves_name(song),
        "fills": lambda: f"fills-{school}-{stamp_of(song_player(song))}",
    }
    name = names.get(page, lambda: page)()
    # What an edit has not touched is not worked out again: one that is kept makes the next cheap.
    kept = shown_before(song, name) if page == "grooves" else shown_path(song, name).exists()
    return not kept


def prepare_page(song: Song) -> None:
    """Work them out before anybody opens the song."""
    score_page(song)
    grooves_page(song)
    # Its lines are then there for every process.
    chart_values(song, ChartOptions(), frozenset())

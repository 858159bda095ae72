"""Printed charts: made by a worker, kept for the song as it is, found by what they show."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction

from orchesis.chart.files import write_file
from orchesis.chart.options import ChartOptions
from orchesis.chart.standalone import standalone
from orchesis.errors import OrchesisError
from studio import artefacts
from studio.models import OPEN_STATES, Job, JobKind, Song
from studio.people import Group
from studio.queueing import has_just_failed, queue_job, take_up
from studio.storage import need_room, told_when_full, write_whole
from studio.values.band_sheet import band_sheet, sheet_songs
from studio.values.charts import charted, options_name, options_to_json, signature
from studio.values.kits import song_player, stamp_of
from studio.values.shown import code_stamp

FOLDER, SHEET = "pages.zip", "sheet.pdf"
"""The chart with its player as a folder; the road maps of a list of songs, a page each."""

MADE_BY_WORKER = ("chart.pdf", "chart-letter.pdf", "chart.png", "chart.svg", FOLDER)
FULL = "the chart was not printed"
LOOKED_AT = 16
PRINTS_KEPT = 6
"""Of each file: one reader wants the essence, another every note."""


def print_path(song: Song, name: str, options: ChartOptions, code: str = "") -> Path:
    """Where the print of the song as it is now lies, whether it is made yet or not.

    code : the version of the code that asks for it, where that is another than this one.
    """
    kit = stamp_of(song_player(song)) if options.for_kit else ""
    shown = f"{song.revision} {song.title} {code or code_stamp()} {kit}"
    stamp = hashlib.sha256(shown.encode()).hexdigest()[:16]
    kind = f"{Path(name).stem}-{options_name(options)}"
    return song.folder / "prints" / f"{kind}-{stamp}{Path(name).suffix}"


def printed(song: Song, name: str, options: ChartOptions) -> Path | None:
    """The print of the song as it is now; None where it is being made, from this moment on.

    Raises OrchesisError where making it has just failed.
    """
    path = print_path(song, name, options)
    return _ordered(song, path, {"name": name, "options": options_to_json(options)})


def printed_sheet(group: Group) -> Path | None:
    """The band sheet of a list as it is now; None while it is being made.

    Raises Missing where none of its songs has a chart, OrchesisError as `printed` does.
    """
    songs = sheet_songs(group)
    path = _sheet_path(group, songs)
    return _ordered(songs[0], path, {"name": SHEET, "group": group.pk})


def _sheet_path(group: Group, songs: Sequence[Song], code: str = "") -> Path:
    told = " ".join(f"{song.pk} {song.revision} {song.title}" for song in songs)
    stamp = hashlib.sha256(f"{told} {code or code_stamp()}".encode()).hexdigest()[:16]
    return songs[0].folder / "prints" / f"sheet-{group.pk}-{stamp}.pdf"


def _ordered(song: Song, path: Path, asked: dict[str, Any]) -> Path | None:
    if artefacts.have(path):
        return path
    # While hosts are brought to a new version one after the other, an old one may make the print.
    asked = {**asked, "stamp": path.stem, "code": code_stamp()}
    job = _asked_for(song, asked)
    if job is not None and job.state in OPEN_STATES:
        # Many ask again and again while it is being made: nobody waits for anybody here.
        return None
    with transaction.atomic():
        Song.objects.select_for_update().only("pk").get(pk=song.pk)
        job = _asked_for(song, asked)
        if job is not None:
            if job.state in OPEN_STATES:
                return None
            if has_just_failed(job):
                raise OrchesisError(job.message or "The chart could not be printed. Try again.")
        queue_job(song, JobKind.PRINT, options=asked)
    return None


def _asked_for(song: Song, asked: dict[str, Any]) -> Job | None:
    """The newest job for just this print; others may have asked for another page size since."""
    recent = song.jobs.filter(kind=JobKind.PRINT)[:LOOKED_AT]
    job = next((job for job in recent if job.options == asked), None)
    if job is not None and job.is_stale:
        take_up(job)
    return job


def make_print(song: Song, name: str, options: ChartOptions, code: str = "") -> Path:
    """Print the chart, for whoever runs this version of the code; the oldest of its kind go."""
    song.refresh_from_db()
    path = print_path(song, name, options, code)
    score = charted(song, options)[0]
    if name == FOLDER:
        sounds = settings.PLAYER_SOUNDS / "kit"
        body = standalone(score, options, signature(song), song.title, sounds)
    else:
        body = write_file(score, name, options, signature(song))
    _keep(path, body)
    return path


def make_sheet(group: Group, code: str = "") -> Path:
    """Print the band sheet; what it was before goes."""
    songs = sheet_songs(group)
    path = _sheet_path(group, songs, code)
    _keep(path, band_sheet(songs))
    return path


def _keep(path: Path, body: bytes) -> None:
    need_room(len(body), FULL)
    with told_when_full(FULL):
        path.parent.mkdir(exist_ok=True)
        write_whole(path, body)
    # Of what is chosen alike only the newest, and of what is not the last few.
    same = path.name.rpartition("-")[0]
    for old in path.parent.glob(f"{same}-*{path.suffix}"):
        if old != path:
            artefacts.withdraw(old)
    kind = path.name.partition("-")[0]
    made = sorted(path.parent.glob(f"{kind}-*{path.suffix}"), key=_made_at)
    for old in made[:-PRINTS_KEPT]:
        artefacts.withdraw(old)


def _made_at(path: Path) -> int:
    return path.stat().st_mtime_ns

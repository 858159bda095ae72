"""A song once more, with its files by second names: for editions, and for visitors of the demo."""

from __future__ import annotations

import contextlib
import os
import shutil
from collections.abc import Iterable

from django.contrib.auth.models import User

from studio import artefacts
from studio.models import Song, SongBar

COPIED_FIELDS = (
    "title",
    "performer",
    "file_name",
    "suffix",
    "duration",
    "tempo_bpm",
    "meter",
    "header",
    "loudness",
    "revision",
    "counted_at",
    "feel",
    "bar_count",
    "doubt_count",
    "difficulty",
    "rhythms",
)
KEPT_FILES = ("*.ogg", "*.npz", "peaks.bin")
"""What of a song's folder a copy needs: by second names, not by copying."""


def copy_song(song: Song, rows: Iterable[SongBar], owner: User, **values: object) -> Song:
    """A song of somebody's with the same notes and files, stored within the caller's transaction.

    song, rows : held by the caller. values : what is otherwise than in the song.

    The caller removes the copy's folder where the transaction fails afterwards.
    """
    same = {name: getattr(song, name) for name in COPIED_FIELDS}
    made = Song(owner=owner, **{**same, **values})
    try:
        made.folder.mkdir(parents=True)
        link_files(song, made)
        made.save()
        artefacts.publish(made)
        copy_bars(rows, made)
    except BaseException:
        shutil.rmtree(made.folder, ignore_errors=True)
        raise
    return made


def copy_bars(rows: Iterable[SongBar], copy: Song) -> None:
    """The same notes in the bars of a copy, which has none yet."""
    SongBar.objects.bulk_create(
        SongBar(song=copy, number=row.number, hits=row.hits, revision=row.revision) for row in rows
    )


def link_files(song: Song, copy: Song) -> None:
    """Give the files of a song second names in the folder of its copy."""
    artefacts.fetch(song)
    for pattern in KEPT_FILES:
        for path in song.folder.glob(pattern):
            with contextlib.suppress(FileNotFoundError, FileExistsError):
                os.link(path, copy.folder / path.name)
    if song.source_path.exists() and not (copy.folder / song.source_path.name).exists():
        os.link(song.source_path, copy.folder / song.source_path.name)

"""`manage.py store_score USER TITLE FILE`: put a transcription.json, with its audio, on a shelf."""

from __future__ import annotations

import shutil
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from django.core.management.base import BaseCommand, CommandError

from orchesis.errors import InvalidTranscription
from orchesis.music.json import loads
from orchesis.pipeline import Result
from studio import artefacts
from studio.actions.store import store_transcription
from studio.models import Job, RunState, Song
from studio.values.page import prepare_page


class Command(BaseCommand):
    """Store a transcription as a song of a user's; nothing is listened to."""

    help = "Store a transcription.json as a song on a user's shelf."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Who, what, where."""
        parser.add_argument("user")
        parser.add_argument("title")
        parser.add_argument("file", type=Path)
        parser.add_argument("--audio", type=Path, help="an Ogg file to play")

    def handle(self, *args: Any, **options: Any) -> None:
        """Run."""
        owner = User.objects.filter(username=options["user"]).first()
        if owner is None:
            raise CommandError(f"there is no user {options['user']}")
        try:
            score = loads(options["file"].read_text(encoding="utf-8"))
        except (OSError, InvalidTranscription) as error:
            raise CommandError(f"{options['file']} cannot be read: {error}") from error
        song = Song.objects.create(
            owner=owner, title=options["title"], file_name=options["file"].name, suffix=".ogg"
        )
        song.folder.mkdir(parents=True)
        if options["audio"]:
            shutil.copy(options["audio"], song.listening_path)
            shutil.copy(options["audio"], song.source_path)
        artefacts.publish(song)
        store_transcription(song, Result(score, (1.0,)))
        song.refresh_from_db()
        prepare_page(song)
        Job.objects.create(song=song, state=RunState.DONE, progress=1.0)
        self.stdout.write(str(song.pk))

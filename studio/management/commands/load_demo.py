"""`manage.py load_demo`: the demo account, with the demo songs queued for listening."""

from __future__ import annotations

import json
from typing import Any

from django.conf import settings
from django.core.files import File
from django.core.management.base import BaseCommand

from studio.actions.accounts import demo_account, remove_email, sign_out_everywhere
from studio.actions.importing import import_recording
from studio.models import Song


class Command(BaseCommand):
    """Import each demo song that the demo account does not have. No answer is planted."""

    help = "Make the demo account and import the demo songs into it."

    def handle(self, *args: Any, **options: Any) -> None:
        """Run."""
        user = demo_account()
        # Visitors have accounts of their own: nobody is in this one, and no mail leads there.
        sign_out_everywhere(user)
        remove_email(user)
        for path in sorted((settings.ROOT / "demo" / "songs").glob("*.ogg")):
            if Song.objects.filter(owner=user, file_name=path.name, is_copy_for=None).exists():
                continue
            score = json.loads(path.with_suffix(".score.json").read_text())
            with path.open("rb") as file:
                import_recording(user, File(file, name=path.name), score["title"])
            self.stdout.write(f"imported {path.name}")

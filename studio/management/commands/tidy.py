"""`manage.py tidy`: remove what was left behind."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand

from studio.actions.tidying import tidy


class Command(BaseCommand):
    """Tidy once, and say what went."""

    help = "Remove what kills and removed songs left behind; keep caches bounded."

    def handle(self, *args: Any, **options: Any) -> None:
        """Run."""
        self.stdout.write(tidy().words())

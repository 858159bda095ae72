"""Kits of an account: made, changed, removed; and which of them a song is played on."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User
from django.db import IntegrityError, transaction

from orchesis.errors import OrchesisError
from studio.models import Kit, Song
from studio.queueing import NotNow
from studio.values.kits import player_of

MOST_KITS = 20


def save_kit(owner: User, name: str, values: dict[str, Any], kit: Kit | None = None) -> Kit:
    """Make a kit, or change one.

    Raises OrchesisError for what no kit is, for a name that is taken, and for too many.
    """
    name = " ".join(name.split())
    if not name:
        raise OrchesisError("Give the kit a name.")
    player_of(values, name)
    if kit is None and Kit.objects.filter(owner=owner).count() >= MOST_KITS:
        raise NotNow(f"You have {MOST_KITS} kits: remove one first.")
    kit = kit or Kit(owner=owner)
    kit.name, kit.values = name, values
    try:
        with transaction.atomic():
            kit.save()
    except IntegrityError as error:
        raise NotNow("You have a kit of that name: choose another one.") from error
    return kit


def choose_kit(song: Song, kit: Kit | None) -> None:
    """Say on which kit a song is played; None: the standard one."""
    song.kit = kit
    song.save(update_fields=["kit", "updated_at"])

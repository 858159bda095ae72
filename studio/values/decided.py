"""What people have decided of a song, by its log and its confirmations."""

from __future__ import annotations

from typing import Any

from orchesis.edits.gesture import gesture_from_json
from orchesis.edits.merge import Decided
from studio.models import Song, SongChange

GRID_KEYS = {"bars", "beats", "readings", "tracked_beats"}

BY_EAR = "Heard again"
"""How the words of a listening run's own change begin: it decides nothing."""


def decided_of(song: Song) -> Decided:
    """What people have decided of a song, by its log and its confirmations."""
    bars: set[int] = set()
    for data in song.edits.filter(undone=False).values_list("edit", flat=True):
        bars.update(gesture_from_json(data).bars)
    header = song.header or {}
    parts = set(header.get("decided", []))
    standing = SongChange.objects.filter(song=song, undone=False)
    standing = standing.exclude(words__startswith=BY_EAR)
    for before, after in standing.values_list("before", "after"):
        parts |= decided_parts(before["header"], after["header"])
    numbers = {bar["number"] for bar in header.get("bars", [])}
    return Decided(
        confirmed=tuple(header.get("confirmed", [])),
        bars=frozenset(bars & numbers),
        grid="grid" in parts,
        sections="sections" in parts,
    )


def decided_parts(before: dict[str, Any], after: dict[str, Any]) -> set[str]:
    """What a change of the header decides: the grid, or the sections (not: that one is confirmed).

    A change of the grid moves the sections too; that decides nothing about them.
    """
    keys = changed_keys(before, after)
    if keys & GRID_KEYS:
        return {"grid"}
    if "sections" in keys and _unconfirmed(before) != _unconfirmed(after):
        return {"sections"}
    return set()


def _unconfirmed(header: dict[str, Any]) -> list[dict[str, Any]]:
    return [
        {name: value for name, value in section.items() if name != "confirmed"}
        for section in header.get("sections", [])
    ]


def changed_keys(before: dict[str, Any], after: dict[str, Any]) -> set[str]:
    """The values of a header that a change changed."""
    names = before.keys() | after.keys()
    return {name for name in names if before.get(name) != after.get(name)}

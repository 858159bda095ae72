"""Edits of single hits: add, remove, change.

An edit carries the hit as it was and as it shall be, so that it can be checked before it is
applied, inverted without looking anything up, and told in a sentence. Undo, the log and the
detection of conflicts all rest on this.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from orchesis.errors import InvalidTranscription
from orchesis.groove.count import said_in_full
from orchesis.music.instruments import SPOKEN_NAMES
from orchesis.music.json import hit_from_json, hit_to_json
from orchesis.music.values import Hit, Meter, in_order


class EditConflict(InvalidTranscription):
    """The bar no longer holds what the edit expects: somebody else has changed it."""


@dataclass(frozen=True, slots=True)
class Edit:
    """One change in one bar: `before` is None for an addition, `after` for a removal."""

    before: Hit | None
    after: Hit | None

    def __post_init__(self) -> None:
        if self.before is None and self.after is None:
            raise InvalidTranscription("an edit must add, remove or change a hit")
        if self.before is not None and self.after is not None and self.before.bar != self.after.bar:
            raise InvalidTranscription("an edit stays within one bar")

    @property
    def bar(self) -> int:
        """The number of the bar that it changes."""
        hit = self.before or self.after
        assert hit is not None
        return hit.bar


def inverse(edit: Edit) -> Edit:
    """The edit that takes this one back."""
    return Edit(before=edit.after, after=edit.before)


def apply_to_bar(hits: Sequence[Hit], edit: Edit) -> tuple[Hit, ...]:
    """The hits of the edited bar after the edit, in order.

    Raises
    ------
    EditConflict
        When `before` is not there as it was, or another hit is already where `after` goes.
    """
    rest = list(hits)
    if edit.before is not None:
        if edit.before not in rest:
            raise EditConflict(f"bar {edit.bar} has changed meanwhile")
        rest.remove(edit.before)
    if edit.after is not None:
        if any(hit.place == edit.after.place for hit in rest):
            raise EditConflict(f"bar {edit.bar} already has that note")
        rest.append(edit.after)
    return tuple(sorted(rest, key=in_order))


def explain(edit: Edit, meter: Meter) -> str:
    """The edit in a drummer's words: "Bar 5: snare on the a of 2 made a ghost"."""
    hit = edit.after or edit.before
    assert hit is not None
    what = f"{SPOKEN_NAMES[hit.instrument]} on {said_in_full(hit.position, meter)}"
    if edit.before is None:
        return f"Bar {edit.bar}: {what} added"
    if edit.after is None:
        return f"Bar {edit.bar}: {what} removed"
    return f"Bar {edit.bar}: {what} {_difference(edit.before, edit.after, meter)}"


def _difference(before: Hit, after: Hit, meter: Meter) -> str:
    if before.instrument is not after.instrument:
        return f"instead of {SPOKEN_NAMES[before.instrument]}"
    if before.position != after.position:
        return f"moved there from {said_in_full(before.position, meter)}"
    if before.ornament is not after.ornament:
        return f"with a {after.ornament.value}" if after.ornament else "played plain"
    if before.is_half_open != after.is_half_open:
        return "half open" if after.is_half_open else "wide open"
    if before.ghost != after.ghost:
        return "made a ghost" if after.ghost else "no longer a ghost"
    if before.accent != after.accent:
        return "accented" if after.accent else "no longer accented"
    if before.status is not after.status:
        return f"marked {after.status.value.replace('_', ' ')}"
    if before.limb is not after.limb:
        return f"given to {after.limb.value if after.limb else 'no limb'}"
    if before.settled != after.settled:
        return "confirmed" if after.settled else "open again"
    if before.velocity != after.velocity:
        return f"played {'louder' if after.velocity > before.velocity else 'softer'}"
    return "changed"


def edit_to_json(edit: Edit) -> dict[str, Any]:
    """As plain JSON values: {"before": hit or null, "after": hit or null}."""
    return {
        "before": hit_to_json(edit.before) if edit.before else None,
        "after": hit_to_json(edit.after) if edit.after else None,
    }


def edit_from_json(data: dict[str, Any]) -> Edit:
    """Read an edit. Raises InvalidTranscription."""
    before, after = data.get("before"), data.get("after")
    return Edit(
        before=hit_from_json(before) if before else None,
        after=hit_from_json(after) if after else None,
    )

"""Gestures: edits that are made, undone and told together, in one bar or in many."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from orchesis.edits.edit import (
    Edit,
    EditConflict,
    apply_to_bar,
    edit_from_json,
    edit_to_json,
    explain,
    inverse,
)
from orchesis.errors import InvalidTranscription
from orchesis.music.values import Hit, Meter

MOST_EDITS = 20_000
LONGEST_WORDS = 200


class BarConflict(EditConflict):
    """As EditConflict, naming the bars that have changed meanwhile."""

    def __init__(self, message: str, bars: Sequence[int]) -> None:
        super().__init__(message)
        self.bars = tuple(bars)


@dataclass(frozen=True, slots=True)
class Gesture:
    """Edits in the order in which they are applied. `words`: what was done, in a sentence."""

    edits: tuple[Edit, ...]
    words: str = ""

    def __post_init__(self) -> None:
        if not self.edits:
            raise InvalidTranscription("there is nothing to change here")
        if len(self.edits) > MOST_EDITS:
            raise InvalidTranscription(f"more than {MOST_EDITS} notes cannot be changed at once")

    @property
    def bars(self) -> tuple[int, ...]:
        """The numbers of the bars that it changes, in order."""
        return tuple(sorted({edit.bar for edit in self.edits}))


def inverted(gesture: Gesture) -> Gesture:
    """The gesture that takes this one back."""
    return Gesture(tuple(inverse(edit) for edit in reversed(gesture.edits)), gesture.words)


def apply_gesture(
    bars: Mapping[int, Sequence[Hit]], gesture: Gesture
) -> dict[int, tuple[Hit, ...]]:
    """The hits of each bar that changes, after the gesture: all of it or nothing.

    Raises
    ------
    BarConflict
        When any of the bars no longer holds what an edit expects; all such bars are named.
    InvalidTranscription
        When there is no such bar.
    """
    changed: dict[int, tuple[Hit, ...]] = {}
    conflicts: list[int] = []
    for edit in gesture.edits:
        if edit.bar not in bars:
            raise InvalidTranscription(f"this song has no bar {edit.bar}")
        if edit.bar in conflicts:
            continue
        try:
            changed[edit.bar] = apply_to_bar(changed.get(edit.bar, tuple(bars[edit.bar])), edit)
        except EditConflict:
            conflicts.append(edit.bar)
    if conflicts:
        named = ", ".join(map(str, conflicts))
        many = "bars" if len(conflicts) > 1 else "bar"
        have = "have" if len(conflicts) > 1 else "has"
        raise BarConflict(f"{many} {named} {have} changed meanwhile", conflicts)
    return changed


def explain_gesture(gesture: Gesture, meter: Meter) -> str:
    """The gesture in a drummer's words, at most LONGEST_WORDS of them."""
    if gesture.words:
        return gesture.words[:LONGEST_WORDS]
    first = explain(gesture.edits[0], meter)
    rest = len(gesture.edits) - 1
    if rest == 0:
        return first[:LONGEST_WORDS]
    bars = len(gesture.bars)
    where = f", in {bars} bars" if bars > 1 else ""
    return f"{first}, and {rest} more{where}"[:LONGEST_WORDS]


def gesture_to_json(gesture: Gesture) -> dict[str, Any]:
    """As plain JSON values: {"edits": [...], "words": "..."}."""
    return {"edits": [edit_to_json(edit) for edit in gesture.edits], "words": gesture.words}


def gesture_from_json(data: dict[str, Any]) -> Gesture:
    """Read a gesture, or a single edit as it was stored before. Raises InvalidTranscription."""
    if "edits" not in data:
        return Gesture((edit_from_json(data),))
    return Gesture(
        tuple(edit_from_json(item) for item in data["edits"]), str(data.get("words", ""))
    )

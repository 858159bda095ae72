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
from orchesis.music.values import Bar, Hit, Meter

MOST_EDITS = 20_000
LONGEST_WORDS = 200
FAR_FROM_BAR = 2.0
"""Seconds by which a note may sound before or after its bar: pushes, and a grid that is off."""

COMMON_DIVISION = 2**6 * 3**2 * 5 * 7
"""Each beat is divided by a divisor of this: into 64ths, and into triplets, fives and sevens of
those. What divides no such number has no spelling, and spoils everybody's common denominator."""


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


def check_places(gesture: Gesture, bars: Mapping[int, Bar]) -> None:
    """See that what a gesture writes can be meant: within its bar's time, on a playable place.

    Parameters
    ----------
    bars : the bars that it changes, by number.

    Raises
    ------
    InvalidTranscription
        When a note is written far from where its bar sounds, or between all divisions of a beat.
    """
    for edit in gesture.edits:
        hit = edit.after
        if hit is None or hit == edit.before:
            continue
        if edit.bar not in bars:
            raise InvalidTranscription(f"this song has no bar {edit.bar}")
        bar = bars[edit.bar]
        if not bar.start - FAR_FROM_BAR <= hit.time <= bar.end + FAR_FROM_BAR:
            raise InvalidTranscription(
                f"a note of bar {edit.bar} cannot sound at {hit.time:.2f} s: the bar lasts from "
                f"{bar.start:.2f} to {bar.end:.2f} s"
            )
        parts = (hit.position * bar.meter.pulses).denominator
        if COMMON_DIVISION % parts:
            raise InvalidTranscription(f"{hit.position} of bar {edit.bar} is no place of a beat")


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

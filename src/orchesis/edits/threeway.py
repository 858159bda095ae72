"""Three-way merge of plain values: taking back one change and leaving alone what came after it.

`expected` is how a value was left by the change, `target` how it shall be, `current` how it is by
now. Where nobody touched it since, it becomes the target. Sets of words and lists of like items are
merged item by item; anything else that was touched on both sides clashes.
"""

from __future__ import annotations

from typing import Any

MISSING: Any = object()
"""Stands for a value that is not there: JSON's null is a value."""


class Clash(Exception):
    """The value was changed on both sides, and differently."""


def merged_value(current: Any, *, expected: Any, target: Any) -> Any:
    """The current value with the step from `expected` to `target` made in it.

    All three are JSON values, or MISSING. A list of words is a set, in order; a list of as many
    objects each time is merged object by object.

    Raises
    ------
    Clash
        Where what the step changes is neither as expected nor at its target already.
    """
    if current in (expected, target) or expected == target:
        return target if expected != target else current
    parts = [[] if value is MISSING else value for value in (current, expected, target)]
    if all(isinstance(part, list) and all(isinstance(x, str) for x in part) for part in parts):
        now, old, new = map(set, parts)
        return sorted((now - (old - new)) | (new - old))
    if all(isinstance(value, dict) for value in (current, expected, target)):
        names = sorted(current.keys() | expected.keys() | target.keys())
        made = {
            name: merged_value(
                current.get(name, MISSING),
                expected=expected.get(name, MISSING),
                target=target.get(name, MISSING),
            )
            for name in names
        }
        return {name: value for name, value in made.items() if value is not MISSING}
    lists = all(isinstance(value, list) for value in (current, expected, target))
    alike = lists and len(current) == len(expected) == len(target)
    if alike and all(isinstance(item, dict) for item in [*current, *expected, *target]):
        return [
            merged_value(now, expected=before, target=after)
            for now, before, after in zip(current, expected, target, strict=True)
        ]
    raise Clash

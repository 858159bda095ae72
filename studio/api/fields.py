"""Fields of request bodies that hold what a song can mean, and nothing beyond it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from rest_framework import serializers
from rest_framework.exceptions import ValidationError

from orchesis.audio.decode import LONGEST_SECONDS

MOST_BARS_OF_A_SONG = 10_000
"""More than twenty minutes of 2/4 at 300 have."""

LATEST = float(LONGEST_SECONDS + 60)
"""Seconds: a grid may run on a little beyond the longest recording."""


class FiniteField(serializers.FloatField):
    """A number that is one: not infinite, not NaN, not thousands of digits long."""

    def to_internal_value(self, data: Any) -> float:
        """The number. Raises ValidationError."""
        try:
            value = super().to_internal_value(data)
        except OverflowError:
            value = math.inf
        if not math.isfinite(value):
            self.fail("invalid")
        return value


class SecondsField(FiniteField):
    """Seconds of a recording."""

    def __init__(self, **options: Any) -> None:
        super().__init__(**{"min_value": 0, "max_value": LATEST, **options})


class BarField(serializers.IntegerField):
    """The number of a bar; pick-ups may come before the first."""

    def __init__(self, **options: Any) -> None:
        super().__init__(
            **{"min_value": -MOST_BARS_OF_A_SONG, "max_value": MOST_BARS_OF_A_SONG, **options}
        )


class ListOf(serializers.ListField):
    """A list in a request: its length is looked at before its elements, the first error ends it.

    Checking an element costs tens of microseconds: half a million of them, in a body that is small
    enough to be taken, would hold a web process for seconds.
    """

    def __init__(
        self, child: serializers.Field[Any, Any, Any, Any], *, max_length: int, **options: Any
    ) -> None:
        super().__init__(child=child, max_length=max_length, **options)

    def to_internal_value(self, data: Any) -> list[Any]:
        """The elements. Raises ValidationError for the first that is wrong."""
        if isinstance(data, (str, Mapping)) or not hasattr(data, "__len__"):
            self.fail("not_a_list", input_type=type(data).__name__)
        assert self.max_length is not None
        if len(data) > self.max_length:
            raise ValidationError(f"At most {self.max_length} are taken at once.")
        if not self.allow_empty and not data:
            self.fail("empty")
        found = []
        for index, item in enumerate(data):
            try:
                found.append(self.child.run_validation(item))
            except ValidationError as error:
                raise ValidationError({str(index): error.detail}) from error
        return found


class SparseMap(serializers.DictField):
    """A mapping in a request, no larger than what it can name."""

    def __init__(
        self, child: serializers.Field[Any, Any, Any, Any], *, max_length: int, **options: Any
    ) -> None:
        super().__init__(child=child, **options)
        self.max_length = max_length

    def to_internal_value(self, data: Any) -> dict[Any, Any]:
        """The mapping. Raises ValidationError."""
        if isinstance(data, Mapping) and len(data) > self.max_length:
            raise ValidationError(f"At most {self.max_length} are taken at once.")
        found: dict[Any, Any] = super().to_internal_value(data)
        return found

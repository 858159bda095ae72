"""Fields of request bodies that hold what a song can mean, and nothing beyond it."""

from __future__ import annotations

import math
from typing import Any

from rest_framework import serializers

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

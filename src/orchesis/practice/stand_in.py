"""A player that stands in for a real one at a kit: it plays what is written, with known errors.

For trying out the comparison without a kit, on the screen and in the tests.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from orchesis.music.instruments import Limb
from orchesis.practice.compare import Struck, Wanted


@dataclass(frozen=True, slots=True)
class Errors:
    """How it errs. late_ms : of each limb. missed, extra : shares of the strokes."""

    late_ms: Mapping[Limb, float] = field(default_factory=dict)
    spread_ms: float = 6.0
    missed: float = 0.0
    extra: float = 0.0
    seed: int = 1


def play(wanted: Sequence[Wanted], errors: Errors) -> tuple[tuple[Struck, ...], int, int]:
    """The strokes as it plays them, in time; how many it left out, how many it added.

    What it adds lies between two strokes of that drum that are far enough apart to be told.
    """
    rng = np.random.default_rng(errors.seed)
    left_out = {
        int(i)
        for i in rng.choice(len(wanted), size=round(errors.missed * len(wanted)), replace=False)
    }
    struck = [
        Struck(
            item.time
            + errors.late_ms.get(item.limb, 0.0) / 1000
            + float(
                np.clip(
                    rng.normal(0, errors.spread_ms), -3 * errors.spread_ms, 3 * errors.spread_ms
                )
            )
            / 1000
            if item.limb is not None
            else item.time,
            item.instrument,
            int(np.clip(item.velocity + rng.normal(0, 5), 1, 127)),
        )
        for index, item in enumerate(wanted)
        if index not in left_out
    ]
    added = _added(wanted, round(errors.extra * len(wanted)), rng)
    return (
        tuple(sorted([*struck, *added], key=lambda item: item.time)),
        len(left_out),
        len(added),
    )


ROOM_SECONDS = 0.3


def _added(wanted: Sequence[Wanted], count: int, rng: np.random.Generator) -> list[Struck]:
    by_drum: dict[object, list[Wanted]] = {}
    for item in sorted(wanted, key=lambda one: one.time):
        by_drum.setdefault(item.instrument, []).append(item)
    places = [
        Struck((one.time + other.time) / 2, one.instrument, one.velocity)
        for items in by_drum.values()
        for one, other in pairwise(items)
        if other.time - one.time >= ROOM_SECONDS
    ]
    if not places:
        return []
    chosen = rng.choice(len(places), size=min(count, len(places)), replace=False)
    return [places[int(index)] for index in np.atleast_1d(chosen)]

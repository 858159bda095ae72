"""Which limb plays which note: a right-handed drummer, in this version.

Feet are given by the instrument. The steady limb and the cymbals belong to the right hand, the
backbeat to the left. Where the steady limb rests, as in a fill, hands alternate from the right.
A third note for two hands has no limb: it is an overdub on the record, and stays without one.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from orchesis.music.instruments import CYMBALS, FEET, TIMEKEEPERS, Instrument, Limb, Status
from orchesis.music.values import Hit

RIGHT_FIRST: tuple[Instrument, ...] = (
    Instrument.CRASH,
    Instrument.CHINA,
    Instrument.SPLASH,
    Instrument.RIDE_BELL,
    Instrument.RIDE,
    Instrument.HIHAT_OPEN,
    Instrument.HIHAT_CLOSED,
    Instrument.COWBELL,
    Instrument.TOM_FLOOR,
    Instrument.TOM_LOW,
    Instrument.TOM_MID,
    Instrument.TOM_HIGH,
    Instrument.SNARE,
    Instrument.CROSS_STICK,
)
"""Of two notes for the hands, the one named first goes to the right."""


def foot_of(instrument: Instrument) -> Limb:
    """The foot that plays a pedal."""
    return Limb.RIGHT_FOOT if instrument is Instrument.KICK else Limb.LEFT_FOOT


def assign_limbs(hits: Sequence[Hit], beats_a_bar: int) -> tuple[Hit, ...]:
    """The same hits, in the same order, each with its limb (None: no hand is free)."""
    at: dict[tuple[int, Fraction], list[int]] = defaultdict(list)
    steady: set[tuple[int, int]] = set()
    for index, hit in enumerate(hits):
        if hit.status is Status.LEFT_OUT:
            continue
        at[hit.bar, hit.position].append(index)
        if hit.instrument in TIMEKEEPERS:
            steady.add((hit.bar, int(hit.position * beats_a_bar)))
    result = list(hits)
    leading = Limb.LEFT_HAND
    for (bar, position), indices in sorted(at.items()):
        hands = [i for i in indices if hits[i].instrument not in FEET]
        for i in indices:
            if hits[i].instrument in FEET:
                result[i] = replace(hits[i], limb=foot_of(hits[i].instrument))
        hands.sort(key=lambda i: _rank(hits[i].instrument))
        if len(hands) == 1:
            only = hits[hands[0]]
            if only.instrument in TIMEKEEPERS or only.instrument in CYMBALS:
                leading = Limb.RIGHT_HAND
            elif (bar, int(position * beats_a_bar)) in steady:
                leading = Limb.LEFT_HAND
            else:
                leading = _other(leading)
            result[hands[0]] = replace(only, limb=leading)
            continue
        limbs = [Limb.RIGHT_HAND, Limb.LEFT_HAND] + [None] * len(hands)
        for i, limb in zip(hands, limbs, strict=False):
            result[i] = replace(hits[i], limb=limb)
        if hands:
            leading = Limb.LEFT_HAND
    return tuple(result)


def _rank(instrument: Instrument) -> int:
    return RIGHT_FIRST.index(instrument) if instrument in RIGHT_FIRST else len(RIGHT_FIRST)


def _other(hand: Limb) -> Limb:
    return Limb.LEFT_HAND if hand is Limb.RIGHT_HAND else Limb.RIGHT_HAND

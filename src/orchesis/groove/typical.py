"""The typical bar: which notes are always there, usually there, or there now and then.

A note is *core* when nearly every bar of the section has it, *usual* when most have it and
*occasional* when some do; single appearances are not part of the typical bar.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction

import numpy as np

from orchesis.music.instruments import Instrument, Limb
from orchesis.music.values import Hit, written

CORE_SHARE, USUAL_SHARE, OCCASIONAL_SHARE = 0.8, 0.5, 0.15
FEWEST_BARS = 2


class Standing(StrEnum):
    """How firmly a note belongs to the groove."""

    CORE = "core"
    USUAL = "usual"
    OCCASIONAL = "occasional"


@dataclass(frozen=True, slots=True)
class TypicalNote:
    """A note of the typical bar, and the share of bars that have it."""

    position: Fraction
    instrument: Instrument
    standing: Standing
    share: float
    velocity: int
    ghost: bool
    accent: bool
    limb: Limb | None


def typical_bar(hits: Sequence[Hit], bars: Sequence[int]) -> tuple[TypicalNote, ...]:
    """The typical bar of the bars with these numbers, in order of position.

    Bars without any stroke (a break, the intro) do not count.
    """
    numbers = set(bars)
    at: dict[tuple[Fraction, Instrument], list[Hit]] = defaultdict(list)
    sounding = set()
    for hit in written(hits):
        if hit.bar in numbers:
            at[hit.position, hit.instrument].append(hit)
            sounding.add(hit.bar)
    notes = []
    for (position, instrument), members in at.items():
        share = len({hit.bar for hit in members}) / len(sounding)
        standing = _standing(share, len(members))
        if standing is None:
            continue
        notes.append(
            TypicalNote(
                position=position,
                instrument=instrument,
                standing=standing,
                share=share,
                velocity=int(np.median([hit.velocity for hit in members])),
                ghost=2 * sum(hit.ghost for hit in members) > len(members),
                accent=2 * sum(hit.accent for hit in members) > len(members),
                # As most bars play it: notes that exclude each other share a hand.
                limb=Counter(hit.limb for hit in members).most_common(1)[0][0],
            )
        )
    return tuple(sorted(notes, key=lambda note: (note.position, note.instrument.value)))


def _standing(share: float, count: int) -> Standing | None:
    if count < FEWEST_BARS:
        return None
    if share >= CORE_SHARE:
        return Standing.CORE
    if share >= USUAL_SHARE:
        return Standing.USUAL
    return Standing.OCCASIONAL if share >= OCCASIONAL_SHARE else None

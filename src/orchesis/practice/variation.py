"""Free variation: the core of a groove stays, its usual and occasional notes come and go.

As it is taught: what makes the groove what it is is never left out; of the rest some is played,
some not, by chance or on call ("now the & of 3"). The notes are those of the song's own bars.
"""

from __future__ import annotations

import random
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from orchesis.groove.count import DEFAULT_SCHOOL, SCHOOLS, CountWords, said_in_full
from orchesis.groove.phrase import Standing
from orchesis.limbs.kit import STANDARD, Player
from orchesis.limbs.playable import playable
from orchesis.music.instruments import SPOKEN_NAMES
from orchesis.music.values import Hit, in_order
from orchesis.practice.material import Material

SHARE_OF_USUAL = 0.7
SHARE_OF_OCCASIONAL = 0.3


@dataclass(frozen=True, slots=True)
class Choice:
    """A note that may come or go. name : as it is called ("the kick on the & of 3")."""

    hit: Hit
    standing: Standing
    name: str


def choices(
    material: Material,
    words: CountWords = SCHOOLS[DEFAULT_SCHOOL],
) -> tuple[Choice, ...]:
    """The notes of a groove that are not its core, in order."""
    meters = {bar.number: bar.meter for bar in material.bars}
    found = [
        Choice(
            hit,
            standing,
            f"the {SPOKEN_NAMES[hit.instrument]} on "
            f"{said_in_full(hit.position, meters[hit.bar], words)}",
        )
        for hit, standing in (*material.optional, *material.occasional)
    ]
    return tuple(sorted(found, key=lambda choice: in_order(choice.hit)))


def by_chance(material: Material, seed: int, player: Player = STANDARD) -> tuple[Hit, ...]:
    """One pass: the core, and of the rest what chance gives; always playable by one player.

    The same seed gives the same pass.
    """
    rng = random.Random(seed)
    taken = [
        choice.hit
        for choice in choices(material)
        if rng.random()
        < (SHARE_OF_USUAL if choice.standing is Standing.USUAL else SHARE_OF_OCCASIONAL)
    ]
    return _with(material, taken, player)


def on_call(
    material: Material, called: Collection[tuple[int, str, str]], player: Player = STANDARD
) -> tuple[Hit, ...]:
    """The core and just the notes that are called: bar, place and drum as text each."""
    taken = [
        choice.hit
        for choice in choices(material)
        if (choice.hit.bar, str(choice.hit.position), choice.hit.instrument.value) in called
    ]
    return _with(material, taken, player)


def core(material: Material) -> tuple[Hit, ...]:
    """The notes that are never left out."""
    free = {hit.place for hit, _ in material.optional}
    return tuple(hit for hit in material.hits if hit.place not in free)


def _with(material: Material, taken: Sequence[Hit], player: Player) -> tuple[Hit, ...]:
    kept = core(material)
    allowed: list[Hit] = []
    for hit in taken:
        done = playable(
            sorted([*kept, *allowed, hit], key=in_order), material.bars[0].meter.pulses, player
        )
        if not done.overdubs:
            allowed.append(hit)
    return tuple(sorted([*kept, *allowed], key=in_order))

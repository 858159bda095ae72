"""Two pedals: assumed where the kicks of a song cannot be meant for one foot."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

from orchesis.limbs.kit import STANDARD, Player
from orchesis.music.instruments import Instrument
from orchesis.music.values import Hit, written

RUN = 6
"""So many kicks in a row beyond one foot's tempo are no quick double and no triple."""

FEWEST_RUNS = 2
"""One run may be a mistake of hearing; one of twelve counts twice."""

TWO_PEDALS = replace(STANDARD, name="Standard kit, two pedals", double_pedal=True)


def needs_two_pedals(hits: Sequence[Hit], player: Player = STANDARD) -> bool:
    """Whether the kicks of these hits go on for longer, and faster, than one foot keeps up.

    So they do where any of them is written for the foot of the hat: the song has two pedals, also
    in a section that hardly needs them.

    hits : in order.
    """
    both = {hit.limb for hit in hits if hit.instrument is Instrument.KICK}
    if player.hat_foot in both:
        return True
    kicks = [hit.time for hit in written(hits) if hit.instrument is Instrument.KICK]
    runs, run = 0, 1
    for before, after in pairwise(kicks):
        run = run + 1 if after - before < 1.0 / player.pedal_hz else 1
        runs += run % RUN == 0
    return runs >= FEWEST_RUNS


def player_for(hits: Sequence[Hit], player: Player = STANDARD) -> Player:
    """The player who plays these hits: nobody's own kit gets the second pedal that it needs.

    A kit that somebody chose stays as it is.
    """
    return TWO_PEDALS if player == STANDARD and needs_two_pedals(hits) else player

"""Which limb plays which note of a song.

Feet are given by the instrument. The hands are found by the search of `sticking` over all that they
strike, in one go: so the steady limb stays on its surface, sixteenths are taken by one hand or by
two as fast as they are, and fills go on from where the groove leaves the hands. What is shaken or
clapped beside a kit that keeps time is an overdub: it takes nobody's hand. A third thing at once
has no hand either.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

from orchesis.limbs.figures import Hands, find_figures, share_hihat_hands
from orchesis.limbs.kit import STANDARD, Player
from orchesis.limbs.sticking import Stroke, best_hands, stroke_of
from orchesis.limbs.ways import first_hands
from orchesis.music.instruments import (
    FEET,
    Instrument,
    Limb,
    Status,
)
from orchesis.music.values import Hit

FIRST_TO_KEEP: tuple[Instrument, ...] = (
    Instrument.SNARE,
    Instrument.CROSS_STICK,
    Instrument.CRASH,
    Instrument.CHINA,
    Instrument.TOM_HIGH,
    Instrument.TOM_MID,
    Instrument.TOM_LOW,
    Instrument.TOM_FLOOR,
    Instrument.RIDE_BELL,
    Instrument.RIDE,
    Instrument.HIHAT_OPEN,
    Instrument.HIHAT_CLOSED,
    Instrument.SPLASH,
    Instrument.COWBELL,
)
"""Of more than two things at once the hands play those named first."""

BESIDE_THE_KIT = frozenset({Instrument.SHAKER, Instrument.TAMBOURINE, Instrument.CLAP})
"""Overdubs wherever the kit keeps time without them."""

PAUSE_SECONDS = 2.0
"""After so long a rest the hands begin anew: what is before has no bearing on what follows."""

DOUBLE_PEDAL_SECONDS = 0.6
"""Kicks nearer together than the foot's own time go to both feet, where there are two pedals; after
such a pause the foot that has the kick begins again."""

Place = tuple[int, Fraction]


def foot_of(instrument: Instrument, player: Player = STANDARD) -> Limb:
    """The foot that plays a pedal."""
    return player.kick_foot if instrument is Instrument.KICK else player.hat_foot


def assign_limbs(
    hits: Sequence[Hit], beats_a_bar: int, player: Player = STANDARD
) -> tuple[Hit, ...]:
    """The same hits, in the same order, each with its limb (None: no hand is free)."""
    limbs: dict[int, Limb | None] = {}
    at: dict[Place, list[int]] = {}
    kept_time = bars_with_time(hits)
    after_feet = _after_feet(hits)
    for index, hit in enumerate(hits):
        if hit.status is Status.LEFT_OUT:
            limbs[index] = hit.limb
        elif hit.instrument in FEET:
            limbs[index] = foot_of(hit.instrument, player)
        elif is_overdub(hit, kept_time, player):
            limbs[index] = None
        else:
            at.setdefault((hit.bar, hit.position), []).append(index)
    for passage in _passages(hits, at):
        strokes = []
        struck = []
        for place, indices in passage:
            kept = sorted(indices, key=lambda i: _rank(hits[i].instrument))[:2]
            limbs.update(dict.fromkeys(set(indices) - set(kept)))
            stroke = stroke_of([hits[i] for i in kept], beats_a_bar)
            strokes.append(replace(stroke, after_foot=place in after_feet))
            struck.append(kept)
        for kept, choice in zip(struck, hands_of(strokes, player), strict=True):
            limbs.update(zip(kept, choice, strict=True))
    if player.double_pedal:
        limbs.update(_both_feet(hits, player))
    return tuple(replace(hit, limb=limbs[index]) for index, hit in enumerate(hits))


def hands_of(strokes: Sequence[Stroke], player: Player = STANDARD) -> Hands:
    """The hands of a passage: figures as teachers stick them, all else around them as it comes."""
    like: list[tuple[Limb, ...] | None] = [None] * len(strokes)
    for figure in find_figures(strokes):
        found = first_hands(strokes[figure.start : figure.stop], player)
        if found is not None:
            like[figure.start : figure.stop] = found
    for run, shared in share_hihat_hands(strokes, player):
        like[run.start : run.stop] = shared
    hands, _ = best_hands(strokes, player, like=like)
    return hands


def _after_feet(hits: Sequence[Hit]) -> frozenset[Place]:
    """The places of hands before which a foot has played alone, since the hands did."""
    found = set()
    by_place: dict[Place, bool] = {}
    for hit in hits:
        if hit.status is not Status.LEFT_OUT:
            place = (hit.bar, hit.position)
            by_place[place] = by_place.get(place, False) or hit.instrument not in FEET
    foot_alone = False
    for place, is_struck in sorted(by_place.items()):
        if is_struck and foot_alone:
            found.add(place)
        foot_alone = not is_struck
    return frozenset(found)


def is_overdub(hit: Hit, kept_time: frozenset[int], player: Player = STANDARD) -> bool:
    """Whether this is played beside the kit, by nobody who sits at it.

    kept_time : the bars in which the kit keeps time by itself, see `bars_with_time`.
    """
    beside = hit.instrument in BESIDE_THE_KIT and hit.instrument not in player.pads
    return beside and hit.bar in kept_time


def bars_with_time(hits: Sequence[Hit]) -> frozenset[int]:
    """The bars in which sticks play anything but what is shaken or clapped."""
    return frozenset(
        hit.bar
        for hit in hits
        if hit.status is not Status.LEFT_OUT
        and hit.instrument not in FEET
        and hit.instrument not in BESIDE_THE_KIT
    )


def _passages(
    hits: Sequence[Hit], at: dict[Place, list[int]]
) -> list[list[tuple[Place, list[int]]]]:
    """The places that hands strike, cut at long rests."""
    found: list[list[tuple[Place, list[int]]]] = []
    before = -1e9
    for place, indices in sorted(at.items()):
        time = hits[indices[0]].time
        if time - before > PAUSE_SECONDS or not found:
            found.append([])
        found[-1].append((place, indices))
        before = time
    return found


def _both_feet(hits: Sequence[Hit], player: Player) -> dict[int, Limb]:
    """Kicks that are too fast for one foot, by both in turn, the kick's own first."""
    kicks = [
        index
        for index, hit in enumerate(hits)
        if hit.instrument is Instrument.KICK and hit.status is not Status.LEFT_OUT
    ]
    result: dict[int, Limb] = {}
    foot = player.kick_foot
    for one, other in pairwise(kicks):
        fast = hits[other].time - hits[one].time < 1.0 / player.pedal_hz
        foot = player.hat_foot if fast and foot is player.kick_foot else player.kick_foot
        result[other] = foot
    return result


def _rank(instrument: Instrument) -> int:
    return FIRST_TO_KEEP.index(instrument) if instrument in FIRST_TO_KEEP else len(FIRST_TO_KEEP)

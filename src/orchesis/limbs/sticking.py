"""Sticking: which hand plays which stroke, by search over the player's kit.

Every way of playing a figure is a path through hands; a path costs what is hard about it: a hand
that goes faster than it likes to, a long way between two drums, arms that cross, two strokes in a
row where one could alternate, an accent with the hand that does not lead, a beat that begins with
it. The cheapest path is found by dynamic programming (Viterbi, IEEE Trans. Inf. Theory 1967; for
fingerings: Parncutt et al., Music Perception 1997). Several schools weigh these differently: each
gives a way, with what it costs.

As in rudiments, three strokes in a row by one hand are no double: only the second one bounces.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from math import hypot

from orchesis.limbs.kit import DOUBLE_HZ, REACH_CM_A_SECOND, STANDARD, Player, other_hand
from orchesis.music.instruments import (
    CYMBALS,
    FEET,
    STRUCK_HATS,
    TIMEKEEPERS,
    Instrument,
    Limb,
    Ornament,
)
from orchesis.music.values import Hit

R, L = Limb.RIGHT_HAND, Limb.LEFT_HAND
LETTER = {R: "R", L: "L"}
NEVER = 1e6
"""What nobody is asked to play costs so much."""

WORKED = 0.25
"""What a stroke costs at the rate that a hand keeps up for a song; it grows with its 6th power."""

STEADY_SECONDS = 0.6
"""A hand that kept time so shortly before is keeping time."""

BY_WISH = 3.5
"""What it costs to take steady sixteenths otherwise than the player said."""

SIXTEENTH_SECONDS = 0.2
"""Strokes of a steady hand that follow so fast are sixteenths: 75 beats a minute and more."""

SIDE_BY_SIDE_CM = 20.0
"""Sticks reach so far past each other before the arms cross."""

OTHERWISE = 100.0
"""What a stroke costs that is not played by the hand that was asked for."""


AT_LEISURE = 2.0
"""Times the time of one hand's stroke: after so long any hand may begin again."""

HAT_IS_KEPT = 8.0
"""What it costs to take the hat by the other hand while the one that keeps it strikes a drum."""

OVER_THE_SNARE = STRUCK_HATS | {Instrument.CRASH, Instrument.SPLASH}
"""What the leading hand reaches over the snare hand every day."""

TOGETHER_SECONDS = 0.25
"""Arms that cross are in each other's way when both move within this time."""


@dataclass(frozen=True, slots=True)
class Stroke:
    """What the hands play at one place: one thing or two.

    time : seconds. strength : 2 on a beat, 1 halfway between two, 0 elsewhere. place : where in its
    beat, as a fraction. after_foot : a foot has played since the stroke before.
    """

    time: float
    drums: tuple[Instrument, ...]
    accent: bool = False
    ghost: bool = False
    ornament: Ornament | None = None
    strength: int = 0
    place: Fraction = Fraction(0)
    after_foot: bool = False


@dataclass(frozen=True, slots=True)
class School:
    """What a way of sticking tries to avoid, as prices."""

    name: str
    double: float
    accent: float
    beat: float
    travel: float


NEUTRAL = School("", double=0.35, accent=0.8, beat=0.15, travel=1.0)


@dataclass(slots=True)
class _Path:
    """A path so far: where each hand was last (index of its stroke), and how often in a row."""

    cost: float
    last: dict[Limb, int]
    drum: dict[Limb, Instrument]
    run: int
    before: _Path | None
    choice: tuple[Limb, ...]


def strokes_of(hits: Sequence[Hit], beats_a_bar: int) -> list[tuple[Stroke, list[int]]]:
    """What the hands play, place by place, with the indices of the hits; feet left out.

    hits : in order; those of feet only say where a foot plays between two strokes.
    """
    found: list[tuple[Stroke, list[int]]] = []
    groups: dict[tuple[int, Fraction], list[int]] = {}
    for index, hit in enumerate(hits):
        groups.setdefault((hit.bar, hit.position), []).append(index)
    a_foot_played = False
    for _, indices in sorted(groups.items()):
        struck = [index for index in indices if hits[index].instrument not in FEET]
        if struck:
            stroke = stroke_of([hits[i] for i in struck], beats_a_bar)
            found.append((replace(stroke, after_foot=a_foot_played), struck))
            a_foot_played = False
        else:
            a_foot_played = True
    return found


def stroke_of(hits: Sequence[Hit], beats_a_bar: int) -> Stroke:
    """What the hands play at one place, from its hits."""
    return Stroke(
        time=min(hit.time for hit in hits),
        drums=tuple(hit.instrument for hit in hits),
        accent=any(hit.accent for hit in hits),
        ghost=all(hit.ghost for hit in hits),
        ornament=next((hit.ornament for hit in hits if hit.ornament), None),
        strength=strength_of(hits[0].position, beats_a_bar),
        place=(hits[0].position * beats_a_bar) % 1,
    )


def strength_of(position: Fraction, beats_a_bar: int) -> int:
    """2 on a beat, 1 halfway to the next, 0 elsewhere."""
    place = position * beats_a_bar
    return 2 if place.denominator == 1 else 1 if place.denominator == 2 else 0


def best_hands(
    strokes: Sequence[Stroke],
    player: Player = STANDARD,
    school: School = NEUTRAL,
    *,
    first: Limb | None = None,
    last: Limb | None = None,
    like: Sequence[tuple[Limb, ...] | None] | None = None,
) -> tuple[tuple[tuple[Limb, ...], ...], float]:
    """The cheapest hands for a figure, and what they cost.

    Parameters
    ----------
    strokes : in order of time; one or two things struck at each.
    first, last : the hand of the first and of the last stroke, where that is wanted.
    like : a sticking; what differs from it costs more than anything but the impossible. None for a
        stroke: as it comes.

    Returns
    -------
    Of every stroke the hand of each thing struck; the cost, NEVER or more where it cannot be done.
    """
    paths: dict[tuple[str, int], _Path] = {("", 0): _Path(0.0, {}, {}, 0, None, ())}
    end = len(strokes) - 1
    for index, stroke in enumerate(strokes):
        fresh: dict[tuple[str, int], _Path] = {}
        options = _options(stroke)
        if index == 0 and first is not None and len(stroke.drums) == 1:
            options = ((first,),)
        if index == end and last is not None and len(stroke.drums) == 1:
            options = tuple(o for o in options if o == (last,)) or options
        for choice in options:
            fixed = _fixed_cost(stroke, choice, player, school)
            if like is not None and like[index] is not None and like[index] != choice:
                fixed += OTHERWISE
            for path in paths.values():
                cost = (
                    path.cost + fixed + _moving_cost(strokes, index, choice, path, player, school)
                )
                both = len(choice) == 2
                again = not both and path.choice == choice
                run = min(3, path.run + 1) if again else 1
                key = ("B" if both else LETTER[choice[0]], run)
                best = fresh.get(key)
                if best is None or cost < best.cost:
                    fresh[key] = _Path(
                        cost,
                        {**path.last, **dict.fromkeys(choice, index)},
                        {**path.drum, **dict(zip(choice, stroke.drums, strict=True))},
                        run,
                        path,
                        choice,
                    )
        paths = fresh
    best = min(paths.values(), key=lambda path: path.cost)
    hands: list[tuple[Limb, ...]] = []
    step: _Path | None = best
    while step is not None and step.before is not None:
        hands.append(step.choice)
        step = step.before
    return tuple(reversed(hands)), best.cost


def step_costs(
    strokes: Sequence[Stroke],
    hands: Sequence[tuple[Limb, ...]],
    player: Player = STANDARD,
    school: School = NEUTRAL,
) -> list[float]:
    """What each stroke of a given sticking costs; NEVER or more where a hand cannot do it."""
    path = _Path(0.0, {}, {}, 0, None, ())
    costs = []
    for index, (stroke, choice) in enumerate(zip(strokes, hands, strict=True)):
        cost = _fixed_cost(stroke, choice, player, school)
        costs.append(cost + _moving_cost(strokes, index, choice, path, player, school))
        again = len(choice) == 1 and path.choice == choice
        path = _Path(
            0.0,
            {**path.last, **dict.fromkeys(choice, index)},
            {**path.drum, **dict(zip(choice, stroke.drums, strict=True))},
            min(3, path.run + 1) if again else 1,
            None,
            choice,
        )
    return costs


def cost_of(
    strokes: Sequence[Stroke],
    hands: Sequence[tuple[Limb, ...]],
    player: Player = STANDARD,
    school: School = NEUTRAL,
) -> float:
    """What a given sticking costs; NEVER or more where a hand cannot do it."""
    return sum(step_costs(strokes, hands, player, school))


def _options(stroke: Stroke) -> tuple[tuple[Limb, ...], ...]:
    if len(stroke.drums) == 1:
        return ((R,), (L,))
    return ((R, L), (L, R))


def _fixed_cost(stroke: Stroke, choice: tuple[Limb, ...], player: Player, school: School) -> float:
    """What a stroke costs by itself: whose drum it is, accents, beats, arms that cross."""
    cost = 0.0
    for hand, drum in zip(choice, stroke.drums, strict=True):
        cost += _whose(drum, hand, player)
    alone = len(choice) == 1 and stroke.drums[0] not in TIMEKEEPERS
    weak = choice[0] is not player.lead
    if alone and weak:
        cost += school.accent if stroke.accent else 0.0
        cost += school.beat * stroke.strength / 2
    elif alone and stroke.ghost:
        cost += 0.1
    if len(choice) == 2:
        held = dict(zip(stroke.drums, choice, strict=True))
        for drum, hand in held.items():
            if drum in STRUCK_HATS and hand is not player.hat_hand:
                # Only an open-handed player has the hat in that hand and a drum in the other.
                cost += HAT_IS_KEPT
        cost += _crossing(dict(zip(choice, stroke.drums, strict=True)), player)
    return cost


def _whose(drum: Instrument, hand: Limb, player: Player) -> float:
    """How far a drum is the other hand's."""
    if drum in STRUCK_HATS:
        other = BY_WISH if player.sixteenths == "one hand" else 0.5
        return 0.0 if hand is player.hat_hand else other
    if drum in CYMBALS or drum is Instrument.COWBELL:
        return 0.0 if hand is player.lead else 2.5
    if drum in (Instrument.SHAKER, Instrument.TAMBOURINE):
        return 0.0 if hand is player.lead else 1.0
    if drum in (Instrument.CROSS_STICK, Instrument.CLAP):
        return 1.5 if hand is player.lead else 0.0
    if drum is Instrument.TOM_FLOOR:
        return 0.0 if hand is player.lead else 0.05
    return 0.0


def _crossing(held: dict[Limb, Instrument], player: Player) -> float:
    """Arms that cross: the hand from the far side over the other. Hat over snare is everyday."""
    x = {hand: player.places.get(drum, (0.0, 0.0))[0] for hand, drum in held.items()}
    over = x[L] - x[R]
    if over <= SIDE_BY_SIDE_CM:
        return 0.0
    lead = held[player.lead]
    other = held[other_hand(player.lead)]
    if lead in OVER_THE_SNARE and other in (Instrument.SNARE, Instrument.CROSS_STICK):
        return 0.0
    return 0.4 + over / 40


def _moving_cost(
    strokes: Sequence[Stroke],
    index: int,
    choice: tuple[Limb, ...],
    path: _Path,
    player: Player,
    school: School,
) -> float:
    """What it costs to get there from what each hand did before."""
    stroke = strokes[index]
    cost = 0.0
    for hand, drum in zip(choice, stroke.drums, strict=True):
        if hand not in path.last:
            continue
        apart = max(1e-3, stroke.time - strokes[path.last[hand]].time)
        before = path.drum[hand]
        same = before is drum or {before, drum} <= STRUCK_HATS
        again = path.choice == (hand,) and len(choice) == 1
        bounces = again and path.run == 1 and same
        limit = player.double_limit if bounces else player.hand_limit
        if apart < limit - 1e-9:
            cost += NEVER
        cost += _worked(apart, DOUBLE_HZ if bounces else player.comfortable_hz)
        if drum in TIMEKEEPERS and same:
            shared = player.sixteenths == "two hands" and again and apart < SIXTEENTH_SECONDS
            cost += BY_WISH if shared else 0.0
        elif again:
            cost += school.double * (1.0 if apart < 0.3 else 0.3 if apart < 0.6 else 0.0)
            # An accent is easier by itself than as either stroke of a double.
            cost += 0.1 * strokes[index - 1].accent + 0.15 * stroke.accent
        if drum in STRUCK_HATS and hand is not player.hat_hand and apart >= SIXTEENTH_SECONDS:
            # Only what is too fast for one hand is shared.
            cost += 1.5
        if not same:
            cost += school.travel * _way(before, drum, apart, player)
            if before in TIMEKEEPERS and apart < STEADY_SECONDS and drum not in CYMBALS:
                # The steady limb stays on its surface.
                cost += 1.0
    if len(choice) == 1 and path.last:
        other = other_hand(choice[0])
        if other in path.last and stroke.time - strokes[path.last[other]].time < TOGETHER_SECONDS:
            held = {choice[0]: stroke.drums[0], other: path.drum[other]}
            cost += 0.5 * _crossing(held, player)
    if stroke.ornament is Ornament.FLAM and path.last:
        # The grace note takes the other hand, from where it is.
        other = other_hand(choice[0])
        if other in path.last and stroke.time - strokes[path.last[other]].time < 0.1:
            cost += 0.4
    return cost


def _worked(apart: float, comfortable_hz: float) -> float:
    """What a hand's rate costs: little up to what it keeps up, soon very much."""
    return float(WORKED * min(1.0 / (apart * comfortable_hz), 3.0) ** 6)


def _way(before: Instrument, drum: Instrument, apart: float, player: Player) -> float:
    """What the way between two drums costs in the time there is."""
    (x, y), (to_x, to_y) = (player.places.get(i, (0.0, 0.0)) for i in (before, drum))
    distance = hypot(to_x - x, to_y - y)
    needed = distance / REACH_CM_A_SECOND
    if needed > apart:
        return NEVER if needed > 1.5 * apart else 8.0
    return distance / 200 + 0.5 * (needed / apart) ** 2

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
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import lru_cache
from itertools import groupby
from math import hypot

from orchesis.limbs.kit import DOUBLE_HZ, REACH_CM_A_SECOND, STANDARD, Player, other_hand
from orchesis.music.instruments import CYMBALS, STRUCK_HATS, TIMEKEEPERS, Instrument, Limb, Ornament
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

BEGINS_OTHERWISE = 1.0

AT_LEISURE = 2.0
"""Times the time of one hand's stroke: after so long any hand may begin again."""

TOGETHER_SECONDS = 0.25
"""Arms that cross are in each other's way when both move within this time."""


@dataclass(frozen=True, slots=True)
class Stroke:
    """What the hands play at one place: one thing or two.

    time : seconds. strength : 2 on a beat, 1 halfway between two, 0 elsewhere.
    """

    time: float
    drums: tuple[Instrument, ...]
    accent: bool = False
    ghost: bool = False
    ornament: Ornament | None = None
    strength: int = 0


@dataclass(frozen=True, slots=True)
class School:
    """What a way of sticking tries to avoid, as prices."""

    name: str
    double: float
    accent: float
    beat: float
    travel: float


NEUTRAL = School("", double=0.35, accent=0.8, beat=0.15, travel=1.0)
SCHOOLS: tuple[School, ...] = (
    School("alternating", double=3.0, accent=0.05, beat=0.1, travel=0.5),
    School("accents by the leading hand", double=0.2, accent=4.0, beat=0.05, travel=0.5),
    School("leading hand on every beat", double=0.2, accent=0.1, beat=4.0, travel=0.5),
    School("shortest ways", double=0.2, accent=0.1, beat=0.05, travel=5.0),
)


@dataclass(frozen=True, slots=True)
class Closing:
    """How a figure repeats: whether its end leads to its beginning, and what would make it so.

    closes : the first stroke of the repeat falls to a hand that is free for it, and the figure
    begins as it began. changed : the hands of the nearest sticking that closes; None where it
    closes as it is, or none does.
    """

    closes: bool
    words: str
    changed: tuple[tuple[Limb, ...], ...] | None = None


@dataclass(frozen=True, slots=True)
class Way:
    """One way of playing a figure: of every stroke the hand of each thing struck."""

    school: str
    hands: tuple[tuple[Limb, ...], ...]
    cost: float
    parts: dict[str, float] = field(default_factory=dict)
    closing: Closing | None = None

    @property
    def letters(self) -> str:
        """R and L in order; B for both hands together."""
        return "".join(LETTER[h[0]] if len(h) == 1 else "B" for h in self.hands)

    @property
    def is_playable(self) -> bool:
        """Whether no stroke asks for what a hand cannot do."""
        return self.cost < NEVER


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

    hits : in order, all of them things that hands strike.
    """
    found: list[tuple[Stroke, list[int]]] = []
    groups: dict[tuple[int, Fraction], list[int]] = {}
    for index, hit in enumerate(hits):
        groups.setdefault((hit.bar, hit.position), []).append(index)
    for indices in groups.values():
        found.append((stroke_of([hits[i] for i in indices], beats_a_bar), indices))
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
    like: Sequence[tuple[Limb, ...]] | None = None,
) -> tuple[tuple[tuple[Limb, ...], ...], float]:
    """The cheapest hands for a figure, and what they cost.

    Parameters
    ----------
    strokes : in order of time; one or two things struck at each.
    first, last : the hand of the first and of the last stroke, where that is wanted.
    like : a sticking; what differs from it costs more than anything but the impossible.

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
            if like is not None and like[index] != choice:
                fixed += 100.0
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
        cost += _crossing(dict(zip(choice, stroke.drums, strict=True)), player)
    return cost


def _whose(drum: Instrument, hand: Limb, player: Player) -> float:
    """How far a drum is the other hand's."""
    if drum in STRUCK_HATS:
        other = BY_WISH if player.sixteenths == "one hand" else 0.5
        return 0.0 if hand is player.hat_hand else other
    if drum in (Instrument.RIDE, Instrument.RIDE_BELL, Instrument.CHINA, Instrument.COWBELL):
        return 0.0 if hand is player.lead else 2.5
    if drum in (Instrument.SHAKER, Instrument.TAMBOURINE):
        return 0.0 if hand is player.lead else 1.0
    if drum is Instrument.CROSS_STICK:
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
    if lead in STRUCK_HATS and other in (Instrument.SNARE, Instrument.CROSS_STICK):
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
            cost += school.double * (1.0 if apart < 0.3 else 0.3)
            # An accent is easier by itself than as either stroke of a double.
            cost += 0.1 * strokes[index - 1].accent + 0.15 * stroke.accent
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


def ways(
    strokes: Sequence[Stroke], player: Player = STANDARD, *, length: float | None = None
) -> tuple[Way, ...]:
    """The ways to play a figure, the most natural first; none asks for what a hand cannot do.

    Figures that were asked about before are not thought through again: an edit costs what it
    touches.

    length : seconds from its beginning to that of its repeat; by default it is not repeated.
    """
    start = strokes[0].time if strokes else 0.0
    moved = tuple(replace(stroke, time=round(stroke.time - start, 4)) for stroke in strokes)
    return _ways(moved, player, None if length is None else round(length, 4))


@lru_cache(maxsize=512)
def _ways(strokes: tuple[Stroke, ...], player: Player, length: float | None) -> tuple[Way, ...]:
    natural, _ = best_hands(strokes, player)
    schools: dict[tuple[tuple[Limb, ...], ...], list[str]] = {natural: []}
    regular = _the_same_in_every_group(strokes, player)
    if regular is not None:
        schools.setdefault(regular, []).append(IN_GROUPS)
    apart = _each_on_its_own(strokes, player)
    if apart is not None:
        schools.setdefault(apart, []).append(ON_ITS_OWN)
    for school in SCHOOLS:
        hands, _ = best_hands(strokes, player, school)
        schools.setdefault(hands, []).append(school.name)
    found = []
    for hands, names in schools.items():
        cost = cost_of(strokes, hands, player)
        if cost >= NEVER:
            continue
        parts = cost_parts(strokes, hands, player)
        closing = closing_of(strokes, hands, player, length) if length is not None else None
        found.append(Way(_called(names, strokes, parts), hands, cost, parts, closing))
    return tuple(
        sorted(
            found,
            key=lambda way: (
                way.cost - EVEN_PAYS * (way.hands == regular) - APART_PAYS * (way.hands == apart)
            ),
        )
    )


def _each_on_its_own(
    strokes: Sequence[Stroke], player: Player
) -> tuple[tuple[Limb, ...], ...] | None:
    """Between two drums a hand for each, where no hand has too many in a row.

    So a rudiment is put on the kit: its right hand on one drum, its left on another.
    """
    drums = {drum for stroke in strokes for drum in stroke.drums}
    if len(drums) != 2 or any(len(stroke.drums) > 1 for stroke in strokes):
        return None
    # As a player sees it: what stands farther to the leading hand's side is that hand's.
    side = -1 if player.left_handed else 1
    inner, outer = sorted(drums, key=lambda d: side * player.places.get(d, (0.0, 0.0))[0])
    if STRUCK_HATS & drums and not player.open_handed:
        # The hand that keeps time crosses over to the hat, and the other has what is under it.
        outer = next(drum for drum in drums if drum in STRUCK_HATS)
        inner = next(drum for drum in drums if drum is not outer) if len(drums) == 2 else inner
    hand = {outer: player.lead, inner: other_hand(player.lead)}
    hands = tuple((hand[stroke.drums[0]],) for stroke in strokes)
    run = max(len(list(group)) for _, group in groupby(hands))
    if run > MOST_ON_ONE or cost_of(strokes, hands, player) >= NEVER:
        return None
    return hands


def _the_same_in_every_group(
    strokes: Sequence[Stroke], player: Player
) -> tuple[tuple[Limb, ...], ...] | None:
    """Hands that come round with the drums and accents, where those do: a rudiment as it is taught.

    Found over three turns, of which the middle one knows what is before and after it.
    """
    looks = [(stroke.drums, stroke.accent, stroke.ornament) for stroke in strokes]
    turns = [
        size
        for size in range(2, len(strokes) // 2 + 1)
        if all(a == b for a, b in zip(looks, looks[size:], strict=False))
    ]
    for size in turns:
        length = strokes[size].time - strokes[0].time
        turn = strokes[:size]
        three = [
            Stroke(s.time + k * length, s.drums, s.accent, s.ghost, s.ornament, s.strength)
            for k in range(3)
            for s in turn
        ]
        hands, cost = best_hands(three, player)
        once = hands[size : 2 * size]
        tiled = tuple(once[i % size] for i in range(len(strokes)))
        if cost < NEVER and cost_of(strokes, tiled, player) < NEVER:
            return tiled
    return None


IN_GROUPS = "the same in every group"

ON_ITS_OWN = "each hand stays on its drum"
MOST_ON_ONE = 3
"""Strokes in a row by one hand: more are a row of strokes, not a rudiment between two drums."""

APART_PAYS = 6.0
"""Neither arm moves: that is worth the doubles that it takes."""

EVEN_PAYS = 0.75
"""A sticking that is the same in every group is learnt once: two doubles more are worth it."""


def _called(names: Sequence[str], strokes: Sequence[Stroke], parts: dict[str, float]) -> str:
    """The school that a way is of: only where the figure shows what that school is about."""
    if not parts["doubles"]:
        return SCHOOLS[0].name
    if ON_ITS_OWN in names:
        return ON_ITS_OWN
    if IN_GROUPS in names:
        return IN_GROUPS
    with_accents = any(stroke.accent for stroke in strokes)
    told = [name for name in names if name != SCHOOLS[0].name]
    if not with_accents:
        told = [name for name in told if name != SCHOOLS[1].name]
    return told[0] if told else "as it lies in the hands"


def cost_parts(
    strokes: Sequence[Stroke], hands: Sequence[tuple[Limb, ...]], player: Player = STANDARD
) -> dict[str, float]:
    """What a sticking costs, in a drummer's words: how many of what."""
    doubles = accents = beats = 0
    fastest, farthest = 0.0, 0.0
    last: dict[Limb, tuple[float, Instrument]] = {}
    for index, (stroke, choice) in enumerate(zip(strokes, hands, strict=True)):
        single = len(choice) == 1 and stroke.drums[0] not in TIMEKEEPERS
        weak = single and choice[0] is not player.lead
        doubles += single and index > 0 and hands[index - 1] == choice
        accents += weak and stroke.accent
        beats += weak and stroke.strength == 2
        for hand, drum in zip(choice, stroke.drums, strict=True):
            if hand in last:
                apart = max(1e-3, stroke.time - last[hand][0])
                fastest = max(fastest, 1 / apart)
                (x, y), (to_x, to_y) = (
                    player.places.get(i, (0.0, 0.0)) for i in (last[hand][1], drum)
                )
                farthest = max(farthest, hypot(to_x - x, to_y - y))
            last[hand] = (stroke.time, drum)
    return {
        "doubles": float(doubles),
        "accents by the other hand": float(accents),
        "beats by the other hand": float(beats),
        "strokes a second of one hand": round(fastest, 1),
        "longest way in cm": round(farthest),
    }


def closing_of(
    strokes: Sequence[Stroke],
    hands: Sequence[tuple[Limb, ...]],
    player: Player,
    length: float,
) -> Closing:
    """Whether a figure that is repeated after `length` seconds comes out, and if not, what helps.

    The nearest sticking that closes is found among all: the fewest strokes change hands.
    """
    if closes(strokes, hands, player, length):
        return Closing(True, "It comes out: the repeat begins with the same hand.")
    best: tuple[tuple[int, float], tuple[tuple[Limb, ...], ...]] | None = None
    for first in (R, L):
        for last in (R, L):
            changed, cost = best_hands(
                strokes, player, NEUTRAL, first=first, last=last, like=tuple(hands)
            )
            if cost < NEVER and closes(strokes, changed, player, length):
                moved = sum(a != b for a, b in zip(changed, hands, strict=True))
                # Of two as near the one that begins as before is the smaller change.
                cost += BEGINS_OTHERWISE * (changed[0] != tuple(hands[0]))
                if best is None or (moved, cost) < best[0]:
                    best = ((moved, cost), changed)
    if best is None:
        return Closing(False, "It does not come out with any sticking at this tempo.")
    changed = best[1]
    where = [i for i, (a, b) in enumerate(zip(changed, hands, strict=True)) if a != b]
    if len(where) == len(hands):
        start = "left" if changed[0] == (L,) else "right"
        words = f"It comes out when one begins with the {start}."
    elif where == [len(hands) - 1]:
        words = "It comes out when the last stroke is played by the other hand."
    elif where == [0]:
        words = "It comes out when the first stroke is played by the other hand."
    else:
        named = ", ".join(str(i + 1) for i in where[:4]) + (" …" if len(where) > 4 else "")
        strokes_word = "stroke" if len(where) == 1 else "strokes"
        words = f"It comes out with the other hand on {strokes_word} {named}."
    return Closing(False, words, changed)


def closes(
    strokes: Sequence[Stroke], hands: Sequence[tuple[Limb, ...]], player: Player, length: float
) -> bool:
    """Whether the figure can be repeated as it is: no hand is asked for the end and the beginning.

    The hand of the last stroke does not play the first again, unless there is time for it as for
    any other stroke of one hand, and nothing in the repeat is beyond a hand.
    """
    if not hands:
        return True
    again = [
        *strokes,
        *(
            Stroke(s.time + length, s.drums, s.accent, s.ghost, s.ornament, s.strength)
            for s in strokes
        ),
    ]
    if cost_of(again, [*hands, *hands], player) >= NEVER:
        return False
    apart = strokes[0].time + length - strokes[-1].time
    shared = set(hands[-1]) & set(hands[0])
    return not shared or apart >= AT_LEISURE / player.comfortable_hz

"""How hard a groove or a fill is, and where: one number with its parts, and the spots with reasons.

The parts are what teachers name: how fast a hand and a foot have to go, how many ways of falling
together the limbs have, what falls between the others, soft strokes beside loud ones of the same
hand, ways round the kit. Each is scaled so that a first rock beat at 90 is 1 to 2 and what only
professionals play is 8 and more; it orders exercises, it is no measurement.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import combinations, pairwise

import numpy as np

from orchesis.groove.count import place_words
from orchesis.limbs.assign import assign_limbs
from orchesis.limbs.kit import STANDARD, Player
from orchesis.music.instruments import STRUCK_HATS, TIMEKEEPERS, Instrument, Limb, Status
from orchesis.music.values import Bar, Hit, written

EASIEST, HARDEST = 1.0, 10.0
AT_ONCE = 4
"""Strokes over which a rate is measured: a limb that goes fast for fewer recovers."""

CLOSE_SECONDS = 0.17
"""What follows so soon after another limb wants to slide onto it."""

SAME_HAND_SECONDS = 0.3
ONE_MOMENT = 0.01
MOST_SPOTS = 4
HANDS = (Limb.RIGHT_HAND, Limb.LEFT_HAND)


@dataclass(frozen=True, slots=True)
class Difficulty:
    """1 easy to 10 hard, and how much of it each part is. words : what makes it so."""

    value: float
    parts: dict[str, float]
    words: str


@dataclass(frozen=True, slots=True)
class Spot:
    """A place that resists, and why, as a teacher warns of it. weight : the harder the more."""

    bar: int
    position: Fraction
    words: str
    weight: float


def difficulty(bars: Sequence[Bar], hits: Sequence[Hit], player: Player = STANDARD) -> Difficulty:
    """How hard it is to play these notes at their tempo.

    bars, hits : what is to be played, in order; limbs are found where a note has none.

    A whole is never easier than some of its limbs or bars: each part of the number is that of the
    hardest bar, and the whole has at least what its hardest choice of limbs has.
    """
    notes = _with_limbs(bars, hits, player)
    if not notes:
        return Difficulty(EASIEST, {}, "nothing to play")
    limbs = sorted({note.limb for note in notes if note.limb is not None})
    best: dict[str, float] = {}
    for count in range(len(limbs), 0, -1):
        for chosen in combinations(limbs, count):
            parts = _parts([note for note in notes if note.limb in chosen], player)
            if sum(parts.values()) > sum(best.values()) + 1e-9:
                best = parts
    value = min(HARDEST, EASIEST + sum(best.values()))
    most = sorted((share, name) for name, share in best.items() if share >= 0.3)[::-1][:2]
    words = " and ".join(name for _, name in most) or "nothing that resists"
    return Difficulty(round(value, 1), {n: round(s, 2) for n, s in best.items()}, words)


def _parts(notes: Sequence[Hit], player: Player) -> dict[str, float]:
    """What makes notes hard, each as a share of the number."""
    by_limb: dict[Limb, list[Hit]] = defaultdict(list)
    by_bar: dict[int, list[Hit]] = defaultdict(list)
    for note in notes:
        by_bar[note.bar].append(note)
        if note.limb is not None:
            by_limb[note.limb].append(note)
    hand = max((_rate(by_limb[limb]) for limb in HANDS), default=0.0)
    both = _rate(sorted((n for limb in HANDS for n in by_limb[limb]), key=lambda n: n.time))
    foot = _rate(by_limb[player.kick_foot])

    def hardest_bar(of: Callable[[Sequence[Hit]], float]) -> float:
        return max((of(mine) for mine in by_bar.values()), default=0.0)

    return {
        "hand speed": min(2.5, 1.6 * (hand / player.comfortable_hz) ** 2),
        "speed of both hands": min(3.0, 2.4 * (both / (2 * player.comfortable_hz)) ** 2),
        "speed of the foot": min(2.5, 1.5 * (foot / player.pedal_hz) ** 2),
        "endurance": min(1.5, 1.5 * _endurance(by_limb, player)),
        "independence": min(2.5, 0.3 * max(0, len(_combinations(notes)) - 2)),
        "kicks between the hands": min(1.5, 0.2 * hardest_bar(_kicks_between)),
        "ghost notes": min(1.4, 0.16 * hardest_bar(lambda mine: sum(n.ghost for n in mine))),
        "soft beside loud": min(1.2, 0.6 * hardest_bar(_count_ghosts_beside_loud)),
        "moving round the kit": min(1.0, 0.06 * hardest_bar(_count_moves)),
        "doubles": min(1.5, 0.25 * hardest_bar(_count_doubles)),
        "ornaments": min(1.5, 0.4 * hardest_bar(_count_ornaments)),
    }


def _count_ghosts_beside_loud(notes: Sequence[Hit]) -> int:
    return len(_soft_beside_loud(_limbs_of(notes)))


def _count_moves(notes: Sequence[Hit]) -> int:
    return _drum_changes(_limbs_of(notes))


def _count_ornaments(notes: Sequence[Hit]) -> int:
    return sum(note.ornament is not None for note in notes)


def _limbs_of(notes: Sequence[Hit]) -> dict[Limb, list[Hit]]:
    found: dict[Limb, list[Hit]] = defaultdict(list)
    for note in notes:
        if note.limb is not None:
            found[note.limb].append(note)
    return found


ENDURANCE_FROM = 0.6
"""Times the rate that a limb keeps up: less tires nobody."""

ENDURANCE_BARS = 4


def _endurance(by_limb: Mapping[Limb, Sequence[Hit]], player: Player) -> float:
    """How near one limb is for bars on end to what it keeps up."""
    worst = 0.0
    for limb, notes in by_limb.items():
        if len({note.bar for note in notes}) < ENDURANCE_BARS:
            continue
        seconds = notes[-1].time - notes[0].time
        kept_up = player.comfortable_hz if limb in HANDS else player.pedal_hz
        rate = (len(notes) - 1) / max(1e-3, seconds) / kept_up
        worst = max(worst, (rate - ENDURANCE_FROM) / (1 - ENDURANCE_FROM))
    return worst


def hard_spots(
    bars: Sequence[Bar], hits: Sequence[Hit], player: Player = STANDARD
) -> tuple[Spot, ...]:
    """Where it resists, the hardest first, each place once; named from the notes themselves."""
    notes = _with_limbs(bars, hits, player)
    by_number = {bar.number: bar for bar in bars}

    def place(note: Hit) -> str:
        return place_words(note.position, by_number[note.bar].meter)

    spots: list[Spot] = []
    hands = [note for note in notes if note.limb in HANDS]
    kicks = [note for note in notes if note.limb is player.kick_foot]
    struck = {note.place[:2] for note in hands}
    for kick in kicks:
        if kick.place[:2] in struck:
            continue
        near = min(hands, key=lambda h: abs(h.time - kick.time), default=None)
        if near is None or abs(near.time - kick.time) > CLOSE_SECONDS:
            continue
        apart = 1000 * abs(near.time - kick.time)
        side = "after" if near.time < kick.time else "before"
        what = "ghost" if near.ghost else "hand"
        words = (
            f"The kick is on {place(kick)}, {apart:.0f} ms {side} a {what}: it wants to slide onto "
            f"{place(near)}"
        )
        spots.append(Spot(kick.bar, kick.position, words, 1.0 + 0.1 / max(0.03, apart / 1000)))
    for one, other in pairwise(kicks):
        gap = other.time - one.time
        if gap < 1.0 / player.pedal_hz:
            words = f"Two kicks {1000 * gap:.0f} ms apart, on {place(one)} and {place(other)}"
            spots.append(Spot(other.bar, other.position, words, 0.15 / max(0.05, gap)))
    by_limb: dict[Limb, list[Hit]] = defaultdict(list)
    for note in hands:
        by_limb[note.limb or Limb.RIGHT_HAND].append(note)
    for loud, soft in _soft_beside_loud(by_limb):
        words = (
            f"The ghost on {place(soft)} comes right after the loud stroke on {place(loud)}, by "
            "the same hand: let the stick come down before it"
        )
        spots.append(Spot(soft.bar, soft.position, words, 1.5))
    for limb in HANDS:
        for one, other in pairwise(by_limb[limb]):
            gap = other.time - one.time
            (x, y), (to_x, to_y) = (
                player.places.get(note.instrument, (0.0, 0.0)) for note in (one, other)
            )
            way = ((to_x - x) ** 2 + (to_y - y) ** 2) ** 0.5
            # At one moment no hand goes anywhere: `playable` says what cannot be played.
            if way > 40 and ONE_MOMENT < gap < SAME_HAND_SECONDS:
                words = (
                    f"One hand goes {way:.0f} cm in {1000 * gap:.0f} ms, from {place(one)} to "
                    f"{place(other)}"
                )
                spots.append(Spot(other.bar, other.position, words, way / 60 * 0.2 / gap))
    kept: dict[tuple[int, Fraction], Spot] = {}
    for spot in sorted(spots, key=lambda spot: -spot.weight):
        kept.setdefault((spot.bar, spot.position), spot)
    return tuple(list(kept.values())[:MOST_SPOTS])


def _with_limbs(bars: Sequence[Bar], hits: Sequence[Hit], player: Player) -> list[Hit]:
    numbers = {bar.number for bar in bars}
    mine = [h for h in written(hits) if h.bar in numbers and h.status is not Status.LEFT_OUT]
    mine.sort(key=lambda hit: hit.time)
    if any(hit.limb is None for hit in mine) and bars:
        return list(assign_limbs(mine, len(bars[0].beats), player))
    return mine


def _rate(notes: Sequence[Hit]) -> float:
    """Strokes a second, over the fastest AT_ONCE of one limb."""
    times = [note.time for note in notes]
    spans = [b - a for a, b in zip(times, times[AT_ONCE - 1 :], strict=False)]
    return (AT_ONCE - 1) / max(1e-3, min(spans)) if spans else 0.0


def _combinations(notes: Sequence[Hit]) -> set[frozenset[Limb]]:
    at: dict[tuple[int, Fraction], set[Limb]] = defaultdict(set)
    for note in notes:
        if note.limb is not None:
            at[note.place[:2]].add(note.limb)
    return {frozenset(limbs) for limbs in at.values()}


def _kicks_between(notes: Sequence[Hit]) -> float:
    """How many kicks fall with no hand, and soon before or after one; two in a row are one."""
    hands = np.array(sorted(note.time for note in notes if note.limb in HANDS))
    if not hands.size:
        return 0.0
    kicks = [note for note in notes if note.instrument is Instrument.KICK]
    between = [
        kick for kick in kicks if ONE_MOMENT < np.abs(hands - kick.time).min() < SLIDES_SECONDS
    ]
    pairs = sum(other.time - one.time < PAIR_SECONDS for one, other in pairwise(between))
    return len(between) - 0.5 * pairs


SLIDES_SECONDS = 0.3
"""A kick that is farther from every hand is a beat of its own, and easy."""

PAIR_SECONDS = 0.25


def _count_doubles(notes: Sequence[Hit]) -> int:
    """How often one hand plays twice in a row on a drum, fast, with the other hand in play."""
    hands = [n for n in notes if n.limb in HANDS and n.instrument not in TIMEKEEPERS]
    if len({note.limb for note in hands}) < 2:
        return 0
    return sum(
        one.limb is other.limb and other.time - one.time < SAME_HAND_SECONDS
        for one, other in pairwise(hands)
    )


def _soft_beside_loud(by_limb: dict[Limb, list[Hit]]) -> list[tuple[Hit, Hit]]:
    """Loud strokes and the ghosts that follow them by the same hand, soon."""
    return [
        (one, other)
        for limb in HANDS
        for one, other in pairwise(by_limb[limb])
        if other.ghost and not one.ghost and other.time - one.time < SAME_HAND_SECONDS
    ]


def _drum_changes(by_limb: dict[Limb, list[Hit]]) -> int:
    """How often a hand goes to another drum; open and closed hats are one."""
    return sum(
        one.instrument is not other.instrument
        and not {one.instrument, other.instrument} <= STRUCK_HATS
        for limb in HANDS
        for one, other in pairwise(by_limb[limb])
    )

"""How hard a groove or a fill is, and where: one number with its parts, and the spots with reasons.

The parts are what teachers name: how fast a hand and a foot have to go, how many ways of falling
together the limbs have, what falls between the others, soft strokes beside loud ones of the same
hand, ways round the kit. Each is scaled so that a first rock beat at 90 is 1 to 2 and what only
professionals play is 8 and more; it orders exercises, it is no measurement.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from orchesis.groove.count import place_words
from orchesis.limbs.assign import assign_limbs
from orchesis.limbs.kit import STANDARD, Player
from orchesis.music.instruments import STRUCK_HATS, Instrument, Limb, Status
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
    """
    notes = _with_limbs(bars, hits, player)
    if not notes:
        return Difficulty(EASIEST, {}, "nothing to play")
    by_limb: dict[Limb, list[Hit]] = defaultdict(list)
    for note in notes:
        if note.limb is not None:
            by_limb[note.limb].append(note)
    hand = max((_rate(by_limb[limb]) for limb in HANDS), default=0.0)
    foot = _rate(by_limb[player.kick_foot])
    parts = {
        "speed of a hand": min(3.5, 2.2 * (hand / player.comfortable_hz) ** 2),
        "speed of the foot": min(2.5, 1.5 * (foot / player.pedal_hz) ** 2),
        "independence": min(2.5, 0.3 * max(0, len(_combinations(notes)) - 2)),
        "off the hands": min(1.5, 2.0 * _kicks_between(notes)),
        "soft beside loud": min(1.2, 0.5 * len(_soft_beside_loud(by_limb)) / max(1, len(bars))),
        "ways round the kit": min(1.8, 0.25 * _drum_changes(by_limb) / max(1, len(bars))),
    }
    value = min(HARDEST, EASIEST + sum(parts.values()))
    most = sorted((share, name) for name, share in parts.items() if share >= 0.3)[::-1][:2]
    words = " and ".join(name for _, name in most) or "nothing that resists"
    return Difficulty(round(value, 1), {n: round(s, 2) for n, s in parts.items()}, words)


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
    """The share of kicks that fall with no hand."""
    struck = {note.place[:2] for note in notes if note.limb in HANDS}
    kicks = [note for note in notes if note.instrument is Instrument.KICK]
    return sum(k.place[:2] not in struck for k in kicks) / len(kicks) if kicks else 0.0


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

"""The hands of a fill: which it has in the score, and which others it can be played with.

What the score has is the truth that every view shows. The ways of `limbs.ways` are offered beside
it; choosing one is an edit of the strokes (`edits.sticking`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis.fills.describe import is_inside
from orchesis.limbs.assign import bars_with_time, is_overdub
from orchesis.limbs.kit import Player
from orchesis.limbs.sticking import NEVER, Stroke, cost_of, strokes_of
from orchesis.limbs.ways import Way, closing_of, cost_parts, ways
from orchesis.music.instruments import FEET, Limb
from orchesis.music.values import Fill, Hit

HANDS = (Limb.RIGHT_HAND, Limb.LEFT_HAND)
AS_WRITTEN = "as it is written"


@dataclass(frozen=True, slots=True)
class FillHands:
    """The strokes of a fill that hands play, and the ways to play them.

    groups : the hits of each stroke. ways : the most natural first. current : the place among them
    of the one that the score has; None where its hands are not known.
    """

    strokes: tuple[Stroke, ...]
    groups: tuple[tuple[Hit, ...], ...]
    ways: tuple[Way, ...]
    current: int | None


def hand_hits_of_fill(fill: Fill, hits: Sequence[Hit], player: Player) -> list[Hit]:
    """What hands and feet play in a fill, at most two things a place by hands.

    hits : of its bars, in order.
    """
    kept_time = bars_with_time(hits)
    kept: list[Hit] = []
    at: dict[tuple[int, Fraction], int] = {}
    for hit in hits:
        if not is_inside(hit, fill):
            continue
        if hit.instrument in FEET:
            kept.append(hit)
            continue
        if is_overdub(hit, kept_time, player):
            continue
        place = hit.place[:2]
        at[place] = at.get(place, 0) + 1
        if at[place] <= 2:
            kept.append(hit)
    return kept


def hands_of_fill(fill: Fill, hits: Sequence[Hit], beats_a_bar: int, player: Player) -> FillHands:
    """The hands of a fill in the score and beside it.

    hits : of its bars, in order.
    """
    struck = hand_hits_of_fill(fill, hits, player)
    found = strokes_of(struck, beats_a_bar)
    strokes = tuple(stroke for stroke, _ in found)
    groups = tuple(tuple(struck[index] for index in indices) for _, indices in found)
    if len(strokes) < 2:
        return FillHands(strokes, groups, (), None)
    length = max(fill.end - fill.start, strokes[-1].time - strokes[0].time + 0.05)
    offered = ways(strokes, player, length=length)
    written = written_hands(groups)
    if written is None:
        return FillHands(strokes, groups, offered, None)
    known = next((index for index, way in enumerate(offered) if way.hands == written), None)
    if known is not None:
        return FillHands(strokes, groups, offered, known)
    cost = cost_of(strokes, written, player)
    parts = cost_parts(strokes, written, player)
    closing = closing_of(strokes, written, player, length) if cost < NEVER else None
    own = Way(AS_WRITTEN, written, cost, parts, closing)
    return FillHands(strokes, groups, (own, *offered), 0)


def written_hands(groups: Sequence[Sequence[Hit]]) -> tuple[tuple[Limb, ...], ...] | None:
    """The hands that the score has for strokes; None where one of them has none, or one has two."""
    hands = []
    for group in groups:
        limbs = tuple(hit.limb for hit in group if hit.limb in HANDS)
        if len(limbs) < len(group) or len(set(limbs)) < len(limbs):
            return None
        hands.append(tuple(limb for limb in limbs if limb is not None))
    return tuple(hands)


def letters_of(hands: Sequence[Sequence[Limb]]) -> str:
    """R, L, or B for both, of each stroke."""
    return "".join(
        "B" if len(choice) == 2 else "R" if choice[0] is Limb.RIGHT_HAND else "L"
        for choice in hands
    )

"""The ways to play a figure, the one that a teacher gives first, and how each of them repeats."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from math import hypot

from orchesis.limbs.figures import (
    Hands,
    alternate_singles,
    are_natural,
    double_strokes,
    is_beyond_singles,
    is_pattern,
    list_rudiments,
    match_rudiment,
    repeat_sticking,
    split_hands_by_drum,
)
from orchesis.limbs.kit import STANDARD, Player
from orchesis.limbs.sticking import LETTER, NEUTRAL, NEVER, School, Stroke, best_hands, cost_of
from orchesis.music.instruments import TIMEKEEPERS, Instrument, Limb

R, L = Limb.RIGHT_HAND, Limb.LEFT_HAND
BEGINS_OTHERWISE = 1.0

AT_LEISURE = 2.0
"""Times the time of one hand's stroke: after so long any hand may begin again."""

MOST_WAYS = 8
"""More are not compared by anybody."""

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
    reason: str = ""
    """Why it comes first although it is no singles; empty where it is, or does not."""

    @property
    def letters(self) -> str:
        """R and L in order; B for both hands together."""
        return "".join(LETTER[h[0]] if len(h) == 1 else "B" for h in self.hands)

    @property
    def is_playable(self) -> bool:
        """Whether no stroke asks for what a hand cannot do."""
        return self.cost < NEVER


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


def first_hands(strokes: Sequence[Stroke], player: Player = STANDARD) -> Hands | None:
    """The hands of the first way; None where a figure cannot be played by one player."""
    start = strokes[0].time if strokes else 0.0
    moved = tuple(replace(stroke, time=round(stroke.time - start, 4)) for stroke in strokes)
    found = _first(moved, player)
    return found[0] if found is not None else None


@lru_cache(maxsize=2048)
def _first(strokes: tuple[Stroke, ...], player: Player) -> tuple[Hands, str, str] | None:
    """The first way: its hands, its school, and why it is no singles."""
    plain = alternate_singles(strokes, player)
    apart = split_hands_by_drum(strokes, player)
    if apart is not None and apart != plain and is_pattern(strokes, apart):
        return apart, ON_ITS_OWN, "two drums, a hand for each: neither arm moves"
    signed = match_rudiment(strokes, player)
    if signed is not None:
        name, hands = signed
        return hands, name, f"its accents and ornaments make a {name}"
    if is_beyond_singles(strokes, player):
        fast = double_strokes(strokes, player)
        if fast is not None:
            return fast, DOUBLES, "too fast for singles: the strokes of a double bounce"
    if plain is not None and are_natural(strokes, plain, player):
        return plain, SCHOOLS[0].name, ""
    if apart is not None:
        return apart, ON_ITS_OWN, "singles would cross the arms; neither moves so"
    even = repeat_sticking(strokes, player)
    if even is not None:
        return even, IN_GROUPS, "singles would cross the arms; this is the same in every group"
    hands, cost = best_hands(strokes, player)
    if cost >= NEVER:
        return None
    return hands, "", "" if plain is None else "singles would cross the arms"


@lru_cache(maxsize=512)
def _ways(strokes: tuple[Stroke, ...], player: Player, length: float | None) -> tuple[Way, ...]:
    if not strokes:
        return ()
    names: dict[Hands, list[str]] = {}

    def offer(hands: Hands | None, name: str) -> None:
        if hands is not None:
            names.setdefault(hands, []).append(name)

    first = _first(strokes, player)
    if first is not None:
        offer(first[0], first[1])
    offer(alternate_singles(strokes, player), SCHOOLS[0].name)
    offer(split_hands_by_drum(strokes, player), ON_ITS_OWN)
    for name, hands in list_rudiments(strokes, player):
        offer(hands, name)
    offer(repeat_sticking(strokes, player), IN_GROUPS)
    offer(best_hands(strokes, player)[0], "")
    for school in SCHOOLS:
        offer(best_hands(strokes, player, school)[0], school.name)
    offer(left_lead(strokes, player), LEFT_LEADS)
    found = []
    for hands, called in names.items():
        cost = cost_of(strokes, hands, player)
        if cost >= NEVER:
            continue
        parts = cost_parts(strokes, hands, player)
        closing = closing_of(strokes, hands, player, length) if length is not None else None
        is_first = first is not None and hands == first[0]
        reason = first[2] if is_first and first is not None else ""
        found.append(Way(_called(called, strokes, parts), hands, cost, parts, closing, reason))
    order = {way.hands: index for index, way in enumerate(found)}
    plain = alternate_singles(strokes, player)

    def rank(way: Way) -> tuple[int, float]:
        if first is not None and way.hands == first[0]:
            return (0, 0.0)
        # The same figure in singles is always to be had, and so is what was found by its name.
        return (1 if way.hands == plain else 2, order[way.hands])

    return tuple(sorted(found, key=rank)[:MOST_WAYS])


def left_lead(strokes: Sequence[Stroke], player: Player) -> Hands | None:
    """Singles that begin with the other hand."""
    plain = alternate_singles(strokes, player)
    if plain is None:
        return None
    swapped = tuple((L if hand[0] is R else R,) for hand in plain)
    return swapped if are_natural(strokes, swapped, player) else None


IN_GROUPS = "the same in every group"
ON_ITS_OWN = "each hand stays on its drum"
DOUBLES = "double strokes"
LEFT_LEADS = "the other hand leads"


def _called(names: Sequence[str], strokes: Sequence[Stroke], parts: dict[str, float]) -> str:
    """What a way is called: by what it is first, then by the school that the figure shows."""
    if LEFT_LEADS in names and len(names) == 1:
        return LEFT_LEADS
    if not parts["doubles"] and not any(name in (ON_ITS_OWN, LEFT_LEADS) for name in names):
        return SCHOOLS[0].name
    with_accents = any(stroke.accent for stroke in strokes)
    told = [name for name in names if name and name != SCHOOLS[0].name]
    if not with_accents:
        told = [name for name in told if name != SCHOOLS[1].name]
    return told[0] if told else SCHOOLS[0].name if not parts["doubles"] else AS_IT_LIES


AS_IT_LIES = "as it lies in the hands"


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

"""Stickings by what a figure is: singles, a rudiment, a hand for each drum, the same each time.

Teachers begin with alternating singles, placed on the grid: the leading hand on the beat, the other
on what is between, so that a rest leaves the hands where they are ("natural sticking"; Chapin,
Advanced Techniques for the Modern Drummer, 1948). They leave them for a reason that can be said:
accents or ornaments that make a rudiment, two drums that a hand each has, a tempo that is beyond
singles, or a way that no arm goes. Here each such sticking is found; `ways` puts them in order.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import groupby, pairwise

from orchesis.limbs.kit import Player, other_hand
from orchesis.limbs.rudiments import ROLLS, RUDIMENTS, SIGNATURES, Token
from orchesis.limbs.sticking import NEVER, Stroke, best_hands, cost_of
from orchesis.music.instruments import STRUCK_HATS, TIMEKEEPERS, Instrument, Limb

Hands = tuple[tuple[Limb, ...], ...]

EVEN_WITHIN = 0.2
"""Of a gap: strokes are even whose gaps differ by less."""

MOST_ON_ONE = 3
"""Strokes in a row of a hand that stays on its drum: more are a row of strokes, not a pattern."""

CROSSED_CM = 35.0
"""So far past the right hand the left one is in its way; with the right on the middle tom it is not
yet on the floor tom."""

MOST_CROSSED = 0.3
"""Of the strokes of a figure: where arms cross at more of them, singles are no natural way."""

RUDIMENT_HZ = 3.0
"""Strokes a second: what is slower than that is no rudiment, whatever its accents."""


def is_even(strokes: Sequence[Stroke]) -> bool:
    """Whether strokes follow each other at one rate, without rests."""
    gaps = gaps_of(strokes)
    return bool(gaps) and max(gaps) <= (1 + EVEN_WITHIN) * min(gaps)


def gaps_of(strokes: Sequence[Stroke]) -> list[float]:
    """Seconds between each stroke and the next."""
    return [max(1e-3, after.time - before.time) for before, after in pairwise(strokes)]


def alternate_singles(strokes: Sequence[Stroke], player: Player) -> Hands | None:
    """Alternating singles on the grid; None where two things are struck at once."""
    if any(len(stroke.drums) > 1 for stroke in strokes):
        return None
    lead, other = player.lead, other_hand(player.lead)
    hand = lead
    if _begins_between(strokes):
        hand = other
    hands = [(hand,)]
    for steps, stroke in zip(_steps_between(strokes), strokes[1:], strict=True):
        if stroke.after_foot:
            # A foot that played between takes the place of nobody's stroke.
            hand = other if hand is lead else lead
        elif steps > 1 and _is_binary(strokes):
            hand = (other if hand is lead else lead) if steps % 2 else hand
        elif steps > 1:
            hand = lead if stroke.strength == 2 else other if hand is lead else lead
        else:
            hand = other if hand is lead else lead
        hands.append((hand,))
    return tuple(hands)


def _steps_between(strokes: Sequence[Stroke]) -> list[int]:
    """Steps of the grid from each stroke to the next; of a binary figure only odd or even is right.

    Places count where they can: the gaps of a swung figure are long and short by turns.
    """
    if _is_binary(strokes):
        unit = max(stroke.place.denominator for stroke in strokes)
        steps = [int((after.place - before.place) * unit) for before, after in pairwise(strokes)]
        if any(step % 2 for step in steps):
            return [2 - step % 2 for step in steps]
    gaps = gaps_of(strokes)
    return [max(1, round(gap / min(gaps))) for gap in gaps]


def _begins_between(strokes: Sequence[Stroke]) -> bool:
    """Whether the first stroke is the other hand's by its place: the e or the a of a beat."""
    first = strokes[0]
    if first.after_foot or len(strokes) < 2 or not _is_binary(strokes):
        return False
    return first.place.denominator == 4 and min(gaps_of(strokes)) < 0.3


def _is_binary(strokes: Sequence[Stroke]) -> bool:
    return all(stroke.place.denominator in (1, 2, 4, 8) for stroke in strokes)


def is_beyond_singles(strokes: Sequence[Stroke], player: Player) -> bool:
    """Whether a figure is faster than two hands in turn keep up."""
    gaps = sorted(gaps_of(strokes))
    return bool(gaps) and gaps[len(gaps) // 2] < 0.5 / player.comfortable_hz - 1e-9


def are_natural(strokes: Sequence[Stroke], hands: Hands, player: Player) -> bool:
    """Whether a sticking can be played and asks for no arm over the other again and again."""
    if cost_of(strokes, hands, player) >= NEVER:
        return False
    crossed = sum(
        _is_crossed(before, after, one[0], other[0], player)
        for (before, one), (after, other) in pairwise(zip(strokes, hands, strict=True))
    )
    return crossed <= MOST_CROSSED * len(strokes)


def _is_crossed(before: Stroke, after: Stroke, one: Limb, other: Limb, player: Player) -> bool:
    """Whether two strokes that follow each other have the left hand to the right of the right."""
    if one is other or after.time - before.time > 0.3:
        return False
    at = {one: before.drums[0], other: after.drums[0]}
    left, right = (
        player.places.get(at[limb], (0.0, 0.0))[0] for limb in (Limb.LEFT_HAND, Limb.RIGHT_HAND)
    )
    return left - right > 30.0


def accents_lead(strokes: Sequence[Stroke], hands: Hands, player: Player) -> bool:
    """Whether every accent falls to the leading hand."""
    return all(
        hand[0] is player.lead for stroke, hand in zip(strokes, hands, strict=True) if stroke.accent
    )


def match_rudiment(strokes: Sequence[Stroke], player: Player) -> tuple[str, Hands] | None:
    """The rudiment that accents or ornaments make of a figure, and its hands; None where none do.

    Only where they are what makes it: accents that singles have on the leading hand anyway are no
    reason for a double.
    """
    if not _can_be_rudiment(strokes) or not is_even(strokes):
        return None
    if 1 / min(gaps_of(strokes)) < RUDIMENT_HZ:
        return None
    strokes = with_drums_as_accents(strokes)
    plain = alternate_singles(strokes, player)
    explained = plain is not None and accents_lead(strokes, plain, player)
    for name, turn in SIGNATURES:
        accents = any(token.accent for token in turn)
        ornaments = any(token.ornament for token in turn)
        if not ornaments and explained:
            continue
        if _is_signed(strokes, turn, accents=accents or not ornaments):
            hands = _tiled(turn, len(strokes), player)
            if cost_of(strokes, hands, player) < NEVER:
                return name, hands
    return None


def with_drums_as_accents(strokes: Sequence[Stroke]) -> Sequence[Stroke]:
    """A figure whose strokes off its main drum count as accents: so they are heard.

    Where accents are played on toms over a snare the rudiment is the one of the accents.
    """
    drums = [stroke.drums[0] for stroke in strokes]
    main = max(set(drums), key=lambda drum: (drums.count(drum), drum.value))
    if len(set(drums)) == 1 or drums.count(main) < MAIN_SHARE * len(drums):
        return strokes
    return [
        replace(stroke, accent=stroke.accent or stroke.drums[0] is not main) for stroke in strokes
    ]


MAIN_SHARE = 0.6
"""Of the strokes of a figure: so many are on its main drum, where it has one."""


def _is_signed(strokes: Sequence[Stroke], turn: Sequence[Token], *, accents: bool) -> bool:
    """Whether a figure is whole turns of a rudiment by its ornaments, and accents if they count."""
    if len(strokes) < len(turn) or len(strokes) % len(turn):
        return False
    return all(
        stroke.ornament is turn[index % len(turn)].ornament
        and (not accents or stroke.accent == turn[index % len(turn)].accent)
        for index, stroke in enumerate(strokes)
    )


def _can_be_rudiment(strokes: Sequence[Stroke]) -> bool:
    return len(strokes) >= 2 and all(
        len(stroke.drums) == 1 and stroke.drums[0] not in TIMEKEEPERS for stroke in strokes
    )


def _tiled(turn: Sequence[Token], count: int, player: Player) -> Hands:
    """A turn over and over, for this player's leading hand."""
    lead, other = player.lead, other_hand(player.lead)
    return tuple((lead if turn[i % len(turn)].letter == "R" else other,) for i in range(count))


def list_rudiments(strokes: Sequence[Stroke], player: Player) -> list[tuple[str, Hands]]:
    """Rudiments that can be made of a figure on one drum: with its ornaments, whole turns of it."""
    drums = {drum for stroke in strokes for drum in stroke.drums}
    if not _can_be_rudiment(strokes) or len(drums) > 1 or not is_even(strokes):
        return []
    found = []
    own = [stroke.ornament for stroke in strokes]
    for name, text in (*RUDIMENTS, *ROLLS.items()):
        turn = [Token.read(token) for token in text.split()]
        half = len(turn) // 2
        mirrored = len(turn) % 2 == 0 and all(
            one.ornament is other.ornament and one.letter != other.letter
            for one, other in zip(turn[:half], turn[half:], strict=True)
        )
        size = half if mirrored and half > 1 else len(turn)
        fits = len(strokes) % size == 0 and len(turn) > 1
        if fits and own == [turn[i % len(turn)].ornament for i in range(len(strokes))]:
            found.append((name, _tiled(turn, len(strokes), player)))
    return [(name, hands) for name, hands in found if cost_of(strokes, hands, player) < NEVER]


def double_strokes(strokes: Sequence[Stroke], player: Player) -> Hands | None:
    """Double strokes from the leading hand; None where they cannot be played."""
    if any(len(stroke.drums) > 1 for stroke in strokes):
        return None
    lead, other = player.lead, other_hand(player.lead)
    hands = tuple((lead if index % 4 < 2 else other,) for index in range(len(strokes)))
    return hands if cost_of(strokes, hands, player) < NEVER else None


def split_hands_by_drum(strokes: Sequence[Stroke], player: Player) -> Hands | None:
    """Between two drums a hand for each; None where a hand would have too many in a row.

    So a rudiment is put on the kit: its right hand on one drum, its left on another.
    """
    drums = {drum for stroke in strokes for drum in stroke.drums}
    if len(drums) != 2 or any(len(stroke.drums) > 1 for stroke in strokes):
        return None
    # As a player sees it: what stands farther to the leading hand's side is that hand's.
    side = -1 if player.left_handed else 1
    inner, outer = sorted(drums, key=lambda d: side * player.places.get(d, (0.0, 0.0))[0])
    if Instrument.SNARE in drums:
        # The snare is under the other hand, whichever side the second drum is on.
        inner = Instrument.SNARE
        outer = next(drum for drum in drums if drum is not inner)
    if STRUCK_HATS & drums and not player.open_handed:
        # The hand that keeps time crosses over to the hat, and the other has what is under it.
        outer = next(drum for drum in drums if drum in STRUCK_HATS)
        inner = next(drum for drum in drums if drum is not outer)
    hand = {outer: player.lead, inner: other_hand(player.lead)}
    hands = tuple((hand[stroke.drums[0]],) for stroke in strokes)
    if longest_run(hands) > MOST_ON_ONE or cost_of(strokes, hands, player) >= NEVER:
        return None
    return hands


def longest_run(hands: Hands) -> int:
    """How often one hand plays in a row, at most."""
    return max((len(list(group)) for _, group in groupby(hands)), default=0)


def is_pattern(strokes: Sequence[Stroke], hands: Hands) -> bool:
    """Whether two drums with a hand for each are a pattern of the hands, and not a row of strokes.

    The mark of the paradiddles is one stroke of a hand here and more there. Doubles over and over
    are a pattern where they begin on the leading hand's drum: a fill by twos begins on the snare.
    And whoever has a hand on the hat keeps it there.
    """
    if any(drum in STRUCK_HATS for stroke in strokes for drum in stroke.drums):
        return True
    if any(stroke.ornament for stroke in strokes):
        return True
    runs = [len(list(group)) for _, group in groupby(hands)]
    inside = runs[1:-1]
    if set(runs) == {1}:
        return True
    if 1 in inside and max(runs) > 1 and max(inside) <= MOST_ON_ONE:
        return True
    if set(inside) == {2} and len(strokes) >= FEWEST_OF_PATTERN:
        return runs[0] == 1 or strokes[0].drums[0] is not Instrument.SNARE
    return len(runs) >= FEWEST_RUNS and runs[0] == 1 and set(runs) == {1, 2}


FEWEST_OF_PATTERN = 5
FEWEST_RUNS = 4


def repeat_sticking(strokes: Sequence[Stroke], player: Player) -> Hands | None:
    """Hands that come round with the drums and accents, where those do: the same in every group.

    Found over three turns, of which the middle one knows what is before and after it.
    """
    gaps = [round(gap, 3) for gap in gaps_of(strokes)]
    looks = [(stroke.drums, stroke.accent, stroke.ornament) for stroke in strokes]
    turns = [
        size
        for size in range(2, len(strokes) // 2 + 1)
        if all(a == b for a, b in zip(looks, looks[size:], strict=False))
        and all(abs(a - b) < 2e-3 for a, b in zip(gaps, gaps[size:], strict=False))
    ]
    for size in turns:
        length = strokes[size].time - strokes[0].time
        three = [
            replace(stroke, time=stroke.time + turn * length)
            for turn in range(3)
            for stroke in strokes[:size]
        ]
        hands, cost = best_hands(three, player)
        once = hands[size : 2 * size]
        tiled = tuple(once[i % size] for i in range(len(strokes)))
        if cost < NEVER and cost_of(strokes, tiled, player) < NEVER:
            return tiled
    return None


def find_figures(strokes: Sequence[Stroke]) -> list[range]:
    """Where hands play figures: rows of single strokes on drums, nothing that keeps time between.

    strokes : of a passage, in order. Gives back ranges of their indices.
    """
    found: list[range] = []
    start = 0
    for index in range(len(strokes) + 1):
        ends = index == len(strokes) or not _is_figure_stroke(strokes[index])
        gap = strokes[index].time - strokes[index - 1].time if 0 < index < len(strokes) else 0.0
        if ends or gap > LONGEST_GAP:
            if index - start >= FEWEST_STROKES:
                found.append(range(start, index))
            start = index + 1 if ends else index
    return found


def share_hihat_hands(strokes: Sequence[Stroke], player: Player) -> list[tuple[range, Hands]]:
    """Where sixteenths on the hat are too fast for one hand, and the hands that share them.

    The hand that keeps time has the beats and the places halfway, on whatever is struck there; the
    other what is between, on the hat too. Where a drum and the hat sound together each has one.
    """
    if player.sixteenths == "one hand":
        return []
    fastest = SHARED_SECONDS if player.sixteenths == "two hands" else 1 / player.comfortable_hz
    found = []
    start = 0
    for index in range(1, len(strokes) + 1):
        gap = strokes[index].time - strokes[index - 1].time if index < len(strokes) else 1e9
        if gap < fastest and _has_hat_or_drum(strokes[index]):
            continue
        run = range(start, index)
        start = index
        hats = sum(any(drum in STRUCK_HATS for drum in strokes[i].drums) for i in run)
        if len(run) >= FEWEST_SHARED and hats >= MOSTLY_HATS * len(run):
            found.append((run, _shared([strokes[i] for i in run], player)))
    return found


def _has_hat_or_drum(stroke: Stroke) -> bool:
    return not any(drum in TIMEKEEPERS - STRUCK_HATS for drum in stroke.drums)


def _shared(run: Sequence[Stroke], player: Player) -> Hands:
    keeps, other = player.hat_hand, other_hand(player.hat_hand)
    binary = _is_binary(run)
    hands: list[tuple[Limb, ...]] = []
    for index, stroke in enumerate(run):
        if len(stroke.drums) > 1:
            hands.append(tuple(keeps if drum in STRUCK_HATS else other for drum in stroke.drums))
            continue
        first = stroke.place.denominator <= 2 if binary else index % 2 == 0
        hands.append((keeps if first else other,))
    return tuple(hands)


SHARED_SECONDS = 0.2
"""Strokes of a steady hand that follow so fast are sixteenths: 75 beats a minute and more."""

FEWEST_SHARED = 6
MOSTLY_HATS = 0.6

FEWEST_STROKES = 2
LONGEST_GAP = 0.8
"""Seconds: an eighth rest at 60 and more; after it hands begin anew."""


def _is_figure_stroke(stroke: Stroke) -> bool:
    return len(stroke.drums) == 1 and stroke.drums[0] not in TIMEKEEPERS | BREAKS


BREAKS = frozenset(
    {Instrument.CRASH, Instrument.SPLASH, Instrument.CHINA, Instrument.CROSS_STICK, Instrument.CLAP}
)
"""What has a hand of its own: a figure ends before it."""

"""Playability: what one drummer cannot play, why, and what he can play instead.

Records are overdubbed: three hands at once, a shaker under the whole kit, a fill over a groove that
goes on. Each such place is found and explained. The playable version leaves out what no limb is
free for and keeps it as an overdub line, note for note, so that nothing is lost.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from fractions import Fraction
from itertools import pairwise
from math import hypot

from orchesis.limbs.assign import assign_limbs, bars_with_time, is_overdub
from orchesis.limbs.kit import REACH_CM_A_SECOND, STANDARD, Player
from orchesis.limbs.pedals import player_for
from orchesis.limbs.sticking import NEVER, step_costs, stroke_of
from orchesis.music.instruments import (
    FEET,
    SPOKEN_NAMES,
    TOMS,
    Instrument,
    Limb,
    Ornament,
    Status,
)
from orchesis.music.values import Hit, written

PEDAL_BURST = 1.5
"""Times the rate of one foot: two kicks so near are a quick double, three are beyond it."""

LONGEST_BURST = 2

Place = tuple[int, Fraction]


class Kind(StrEnum):
    """What makes a place unplayable."""

    HANDS = "hands"
    FEET = "feet"
    PEDAL = "pedal"
    REACH = "reach"


@dataclass(frozen=True, slots=True)
class Problem:
    """A place that one player cannot play as written.

    hits : the notes that are left for an overdub in the playable version.
    """

    kind: Kind
    bar: int
    position: Fraction
    words: str
    remedy: str
    hits: tuple[Hit, ...]


@dataclass(frozen=True, slots=True)
class Playable:
    """A song for one player: what he plays, what is an overdub, and why."""

    played: tuple[Hit, ...]
    overdubs: tuple[Hit, ...]
    problems: tuple[Problem, ...]
    words: tuple[str, ...]


def playable(hits: Sequence[Hit], beats_a_bar: int, player: Player = STANDARD) -> Playable:
    """The playable version of these hits for a player, and what stands in the way of the rest.

    hits : in order. Every one of them comes back, played or as an overdub.
    """
    player = player_for(hits, player)
    sounding = written(hits)
    kept_time = bars_with_time(sounding)
    beside = [hit for hit in sounding if is_overdub(hit, kept_time, player)]
    kit = [hit for hit in sounding if not is_overdub(hit, kept_time, player)]
    assigned = assign_limbs(kit, beats_a_bar, player)
    assigned, late, out_of_reach = _out_of_reach(assigned, beats_a_bar, player)
    problems = [*_third_hands(assigned), *out_of_reach, *_feet(assigned, player)]
    away = {hit.place for problem in problems for hit in problem.hits}
    away |= {assigned[index].place for index in late}
    played = tuple(hit for hit in assigned if hit.place not in away)
    over = tuple(replace(hit, limb=None) for hit in assigned if hit.place in away)
    order = sorted(problems, key=lambda problem: (problem.bar, problem.position))
    return Playable(played, (*beside, *over), tuple(order), _overdub_words(beside))


def problems_of(
    hits: Sequence[Hit], beats_a_bar: int, player: Player = STANDARD
) -> tuple[Problem, ...]:
    """What stands in the way of playing these notes: quick where the limbs that they have can."""
    if is_plain(hits, player):
        return ()
    return playable(hits, beats_a_bar, player).problems


def overdub_words(hits: Sequence[Hit], player: Player = STANDARD) -> tuple[str, ...]:
    """What is played beside the kit, and by nobody who sits at it."""
    sounding = written(hits)
    kept_time = bars_with_time(sounding)
    return _overdub_words([hit for hit in sounding if is_overdub(hit, kept_time, player)])


def _overdub_words(beside: Sequence[Hit]) -> tuple[str, ...]:
    return tuple(
        f"{_many(count, instrument)} beside the kit: an overdub, which takes nobody's hand."
        for instrument, count in Counter(hit.instrument for hit in beside).items()
    )


def is_plain(hits: Sequence[Hit], player: Player = STANDARD) -> bool:
    """Whether these notes can be played by the limbs that they have: quickly told of most songs.

    False says only that it takes a closer look.
    """
    player = player_for(hits, player)
    sounding = written(hits)
    kept_time = bars_with_time(sounding)
    kit = [hit for hit in sounding if not is_overdub(hit, kept_time, player)]
    at: dict[Place, list[Hit]] = defaultdict(list)
    for hit in kit:
        if hit.limb is None:
            return False
        at[hit.bar, hit.position].append(hit)
    if any(len({hit.limb for hit in mine}) < len(mine) for mine in at.values()):
        return False
    if _feet(kit, player):
        return False
    return all(_is_in_time([h for h in kit if h.limb is hand], player) for hand in HANDS)


HANDS = (Limb.RIGHT_HAND, Limb.LEFT_HAND)


def _is_in_time(hits: Sequence[Hit], player: Player) -> bool:
    """Whether one hand has time for each of its strokes, doubles not thought of."""
    nowhere = (0.0, 0.0)
    for one, other in pairwise(hits):
        apart = other.time - one.time
        if apart < player.hand_limit:
            return False
        if one.instrument is not other.instrument:
            (x, y), (to_x, to_y) = (player.places.get(h.instrument, nowhere) for h in (one, other))
            if hypot(to_x - x, to_y - y) > REACH_CM_A_SECOND * apart:
                return False
    return True


def _third_hands(hits: Sequence[Hit]) -> list[Problem]:
    at: dict[Place, list[Hit]] = defaultdict(list)
    for hit in hits:
        if hit.instrument not in FEET:
            at[hit.bar, hit.position].append(hit)
    found = []
    for (bar, position), mine in at.items():
        left = tuple(hit for hit in mine if hit.limb is None)
        if not left:
            continue
        names = _listed([SPOKEN_NAMES[hit.instrument] for hit in mine])
        found.append(
            Problem(
                Kind.HANDS,
                bar,
                position,
                f"{names} at once: that is {len(mine)} hands",
                f"leave the {_listed([SPOKEN_NAMES[hit.instrument] for hit in left])} "
                "to an overdub",
                left,
            )
        )
    return found


def _out_of_reach(
    hits: tuple[Hit, ...], beats_a_bar: int, player: Player
) -> tuple[tuple[Hit, ...], list[int], list[Problem]]:
    """Strokes for which the hand is not there in time, or is asked for too soon again.

    What is left out may free the hand for what follows: so hands are found anew after each. Given
    back are the hits with the hands that they have then, the indices of those that are left out,
    and why.
    """
    result = list(hits)
    handed = [i for i, hit in enumerate(hits) if hit.limb in (Limb.RIGHT_HAND, Limb.LEFT_HAND)]
    away: list[int] = []
    found: list[Problem] = []
    since = 0.0
    while (late := _first_late(result, handed, since, beats_a_bar, player)) is not None:
        before, mine = late
        here = [result[i] for i in mine]
        gap = 1000 * (here[0].time - result[before[0]].time)
        names = _listed([SPOKEN_NAMES[hit.instrument] for hit in here])
        found.append(
            Problem(
                Kind.REACH,
                here[0].bar,
                here[0].position,
                f"{names} {gap:.0f} ms after "
                f"{_listed([SPOKEN_NAMES[result[i].instrument] for i in before])}: no hand is "
                "there in time",
                "leave it to an overdub, or play it on the drum where the hand is",
                tuple(here),
            )
        )
        away += mine
        handed = [i for i in handed if i not in mine]
        since = here[0].time - SETTLED_SECONDS
        for index, hit in _handed_anew(result, handed, since, beats_a_bar, player).items():
            result[index] = hit
    return tuple(result), away, found


SETTLED_SECONDS = 2.0
"""Hands so long before are not thought over again."""

ANEW_SECONDS = 8.0
"""For so long hands are found anew at first; for longer where they have not come to agree by then
with what they were."""

AGREED_STROKES = 8


def _handed_anew(
    hits: Sequence[Hit], handed: Sequence[int], since: float, beats_a_bar: int, player: Player
) -> dict[int, Hit]:
    """Hits by index with the hands that are best from `since` on, as far as they change any."""
    rest = [i for i in handed if hits[i].time > since]
    reach = ANEW_SECONDS
    while True:
        near = [i for i in rest if hits[i].time <= since + reach]
        fresh = assign_limbs([hits[i] for i in near], beats_a_bar, player)
        anew = dict(zip(near, fresh, strict=True))
        last = near[-AGREED_STROKES:]
        if len(near) == len(rest) or all(anew[i].limb is hits[i].limb for i in last):
            return anew
        reach *= 2


PLACES_AT_ONCE = 64


def _first_late(
    hits: Sequence[Hit], handed: Sequence[int], since: float, beats_a_bar: int, player: Player
) -> tuple[list[int], list[int]] | None:
    """The first place that no hand reaches, and the one before it, as indices of hits.

    since : seconds; places before that are known to be reached.
    """
    at: dict[Place, list[int]] = defaultdict(list)
    for index in handed:
        if hits[index].time > since - SETTLED_SECONDS:
            at[hits[index].place[:2]].append(index)
    places = list(at)
    first = 0
    while first < len(places):
        # Each hand has struck at most so many places ago, or so long ago that it has all the time.
        there = places[max(0, first - PLACES_AT_ONCE // 2) : first + PLACES_AT_ONCE]
        strokes = [stroke_of([hits[i] for i in at[place]], beats_a_bar) for place in there]
        hands = [tuple(limb for i in at[place] if (limb := hits[i].limb)) for place in there]
        for index, cost in enumerate(step_costs(strokes, hands, player)):
            if cost >= NEVER:
                return at[there[index - 1]], at[there[index]]
        first += PLACES_AT_ONCE
    return None


def _feet(hits: Sequence[Hit], player: Player) -> list[Problem]:
    """Kicks beyond one foot; and two feet on the kick while a third would hold the hat."""
    kicks = [hit for hit in hits if hit.instrument is Instrument.KICK]
    comfortable = 1.0 / player.pedal_hz
    found: list[Problem] = []
    run = 1
    last: Hit | None = None
    hats = {hit.place[:2] for hit in hits if hit.limb is player.hat_foot and hit not in kicks}
    for kick in kicks:
        gap = kick.time - last.time if last else 1e9
        run = run + 1 if gap < comfortable else 1
        too_fast = gap < comfortable / PEDAL_BURST or (run > LONGEST_BURST and gap < comfortable)
        if too_fast and not player.double_pedal:
            rate = 1.0 / max(gap, 1e-3)
            found.append(
                Problem(
                    Kind.PEDAL,
                    kick.bar,
                    kick.position,
                    f"{rate:.1f} kicks a second: one foot keeps up {player.pedal_hz:g}",
                    "two pedals play it; with one, leave every other kick to an overdub",
                    (kick,),
                )
            )
            # It is left out: the next one follows the one before.
            run -= 1
            continue
        if player.double_pedal and kick.limb is player.hat_foot and kick.place[:2] in hats:
            hat = tuple(
                hit
                for hit in hits
                if hit.place[:2] == kick.place[:2]
                and hit.instrument is not Instrument.KICK
                and hit.limb is player.hat_foot
            )
            found.append(
                Problem(
                    Kind.FEET,
                    kick.bar,
                    kick.position,
                    "both feet are on the kick while the hat is stepped on: three feet",
                    "leave the foot hat to an overdub while the double kick lasts",
                    hat,
                )
            )
        last = kick
    return found


def folded(hits: Sequence[Hit], player: Player) -> tuple[tuple[Hit, ...], tuple[str, ...]]:
    """A song on the kit that a player has: which tom for which, claps to a pad or to the rim.

    The order of the toms by pitch is kept where there are enough of them; of more toms than the
    kit has, neighbours share one. Nothing is lost without saying so: what would fall on the same
    drum at the same time is said. The hits given are not changed.
    """
    used = [tom for tom in PITCH_ORDER if any(hit.instrument is tom for hit in written(hits))]
    table = _tom_table(used, player.toms)
    words = [
        f"The {SPOKEN_NAMES[tom]} is played on the {SPOKEN_NAMES[target]}."
        for tom, target in table.items()
        if tom is not target
    ]
    claps = Instrument.CLAP
    if claps not in player.pads and any(hit.instrument is claps for hit in written(hits)):
        table[claps] = Instrument.CROSS_STICK
        words.append("Claps are played on the rim, as a cross-stick.")
    if player.brushes:
        words += _brushed(written(hits))
    taken: dict[Place, set[Instrument]] = defaultdict(set)
    result, doubled = [], Counter[Instrument]()
    for hit in hits:
        target = table.get(hit.instrument, hit.instrument)
        if hit.status is Status.LEFT_OUT:
            result.append(hit)
            continue
        if target in taken[hit.bar, hit.position]:
            doubled[hit.instrument] += 1
            continue
        taken[hit.bar, hit.position].add(target)
        result.append(hit if target is hit.instrument else replace(hit, instrument=target))
    words += [
        f"{_many(count, instrument)} fall together with another stroke of the same drum and are "
        "not played twice."
        for instrument, count in doubled.items()
    ]
    return tuple(result), tuple(words)


def _brushed(hits: Sequence[Hit]) -> list[str]:
    """What becomes of strokes that a brush does otherwise than a stick."""
    pressed = sum(hit.ornament is Ornament.BUZZ for hit in hits)
    words = []
    if pressed:
        words.append(f"{pressed} pressed stroke{'s are' if pressed > 1 else ' is'} swept.")
    if any(hit.instrument is Instrument.CROSS_STICK for hit in hits):
        words.append("Cross-sticks are played on the rim with the handle of the brush.")
    if any(hit.instrument is Instrument.RIDE_BELL for hit in hits):
        words.append("The bell is struck with the handle of the brush.")
    return words


PITCH_ORDER: tuple[Instrument, ...] = (
    Instrument.TOM_HIGH,
    Instrument.TOM_MID,
    Instrument.TOM_LOW,
    Instrument.TOM_FLOOR,
)
assert set(PITCH_ORDER) == TOMS


def _tom_table(
    used: Sequence[Instrument], toms: Sequence[Instrument]
) -> dict[Instrument, Instrument]:
    """For each tom of the song one of the kit: itself where there are as many, else by rank."""
    if set(used) <= set(toms):
        return {tom: tom for tom in used}
    mine = sorted(toms, key=PITCH_ORDER.index)
    if len(used) <= 1:
        return {
            tom: min(mine, key=lambda m: abs(PITCH_ORDER.index(m) - PITCH_ORDER.index(tom)))
            for tom in used
        }
    # The highest on the highest, the lowest on the lowest, the others between in proportion.
    return {
        tom: mine[round(rank * (len(mine) - 1) / (len(used) - 1))] for rank, tom in enumerate(used)
    }


def _many(count: int, instrument: Instrument) -> str:
    name = SPOKEN_NAMES[instrument]
    return f"{count} {name if count == 1 else name + ('es' if name.endswith('sh') else 's')}"


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"

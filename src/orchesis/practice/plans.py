"""Plans by method: from what a student can play at once to the whole groove, a layer at a time.

The methods are those that teachers use; each ends at all of it. What comes next is ordered by how
hard it makes what is there already, and each step has the trap that its own notes set.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from fractions import Fraction
from itertools import combinations

from orchesis.groove.count import DEFAULT_SCHOOL, SCHOOLS, CountWords, place_words, spoken_count
from orchesis.limbs.difficulty import difficulty, hard_spots
from orchesis.limbs.kit import STANDARD, Player
from orchesis.limbs.lanes import LIMB_NAMES
from orchesis.music.instruments import FEET, SPOKEN_NAMES, Instrument, Limb
from orchesis.music.values import Bar, Hit
from orchesis.practice.ladder import Ladder, ladder
from orchesis.practice.material import Material


class Method(StrEnum):
    """How one gets there."""

    LIMB_BY_LIMB = "limb_by_limb"
    HANDS_THEN_FEET = "hands_then_feet"
    ONE_NOTE_AT_A_TIME = "one_note_at_a_time"
    BACKBEAT_FIRST = "backbeat_first"
    PAIRS = "pairs"
    FILL = "fill"


METHOD_WORDS: dict[Method, str] = {
    Method.LIMB_BY_LIMB: "limb by limb",
    Method.HANDS_THEN_FEET: "hands, then feet",
    Method.ONE_NOTE_AT_A_TIME: "add one note at a time",
    Method.BACKBEAT_FIRST: "kick and snare first",
    Method.PAIRS: "each pair of limbs",
    Method.FILL: "the fill: hands, feet, together, in context",
}

SNARES = frozenset({Instrument.SNARE, Instrument.CROSS_STICK})
MOST_ADDED = 24
"""Notes that are added one at a time; of more, those of one place of all bars come together."""


@dataclass(frozen=True, slots=True)
class Step:
    """One step of a plan.

    hits : what is played. with_dynamics : accents and ghosts are asked for; before, all is even.
    bars : of the loop. start, end : of the loop, as shares of the first and last bar.
    count : as it is spoken.
    sticking : R and L of the hands in order, "" where feet play alone. trap : what to watch for.
    """

    title: str
    hits: tuple[Hit, ...]
    with_dynamics: bool
    start: Fraction
    end: Fraction
    count: str
    sticking: str
    trap: str
    difficulty: float
    ladder: Ladder
    bars: tuple[Bar, ...]

    @property
    def look(self) -> tuple[object, ...]:
        """What is asked of the player: two steps in a row never have the same."""
        return (tuple(hit.place for hit in self.hits), self.with_dynamics, self.start, self.end)


def make_plan(
    material: Material,
    method: Method,
    player: Player = STANDARD,
    words: CountWords = SCHOOLS[DEFAULT_SCHOOL],
    *,
    asked: float | None = None,
) -> tuple[Step, ...]:
    """The steps of a method for a groove or a fill; the last one asks for all of it.

    asked : the share of the record's tempo that a teacher asks for.
    """
    makers = {
        Method.LIMB_BY_LIMB: _limb_by_limb,
        Method.HANDS_THEN_FEET: _hands_then_feet,
        Method.ONE_NOTE_AT_A_TIME: _one_note_at_a_time,
        Method.BACKBEAT_FIRST: _backbeat_first,
        Method.PAIRS: _pairs,
        Method.FILL: _fill,
    }
    drafts = [draft for draft in makers[method](material, player) if draft.hits]
    every = _Draft("All of it", material.hits, with_dynamics=True)
    if not drafts or drafts[-1].look != every.look:
        drafts.append(every)
    else:
        drafts[-1] = replace(drafts[-1], title="All of it")
    steps: list[Step] = []
    before = 0.0
    for draft in drafts:
        if steps and steps[-1].look == draft.look:
            continue
        step = _step(material, draft, player, words, before=before, asked=asked)
        before = step.ladder.rungs[-1]
        steps.append(step)
    if method is Method.FILL:
        for loop in material.loops:
            draft = _Draft(f"Groove and fill, {len(loop.bars)} bars", loop.hits, with_dynamics=True)
            steps.append(_step(loop, draft, player, words, before=0.0, asked=asked))
    return tuple(steps)


@dataclass(frozen=True, slots=True)
class _Draft:
    title: str
    hits: tuple[Hit, ...]
    with_dynamics: bool = False
    start: Fraction = Fraction(0)
    end: Fraction = Fraction(1)

    @property
    def look(self) -> tuple[object, ...]:
        return (tuple(hit.place for hit in self.hits), self.with_dynamics, self.start, self.end)


def _step(
    material: Material,
    draft: _Draft,
    player: Player,
    words: CountWords,
    *,
    before: float,
    asked: float | None,
) -> Step:
    hard = difficulty(material.bars, draft.hits, player).value
    return Step(
        title=draft.title,
        hits=draft.hits,
        with_dynamics=draft.with_dynamics,
        start=draft.start,
        end=draft.end,
        count=spoken_count(material.bars, draft.hits, words),
        sticking=_sticking(draft.hits),
        trap=trap_of(material, draft.hits, player, with_dynamics=draft.with_dynamics, words=words),
        difficulty=hard,
        ladder=ladder(material, hard, with_layer_after=before, asked=asked),
        bars=material.bars,
    )


def _sticking(hits: Iterable[Hit]) -> str:
    letters = {Limb.RIGHT_HAND: "R", Limb.LEFT_HAND: "L"}
    at: dict[tuple[int, Fraction], set[str]] = {}
    for hit in hits:
        if hit.limb in letters:
            at.setdefault((hit.bar, hit.position), set()).add(letters[hit.limb])
    return " ".join("+".join(sorted(hands, reverse=True)) for _, hands in sorted(at.items()))


def trap_of(
    material: Material,
    hits: Sequence[Hit],
    player: Player,
    *,
    with_dynamics: bool,
    words: CountWords,
) -> str:
    """What goes wrong here first, named from the notes themselves; "" where nothing does."""
    if with_dynamics and (words_of_hands := _uneven_hands(hits)):
        return words_of_hands
    spots = hard_spots(material.bars, hits, player)
    if spots:
        return spots[0].words
    kicks = [hit for hit in hits if hit.instrument is Instrument.KICK]
    hands = {(hit.bar, hit.position) for hit in hits if hit.instrument not in FEET}
    alone = next((kick for kick in kicks if hands and (kick.bar, kick.position) not in hands), None)
    if alone is not None:
        meter = material.bars[0].meter
        place = place_words(alone.position, meter, words)
        return f"The kick is alone on {place}: it wants to slide onto the hand beside it."
    return ""


def _uneven_hands(hits: Sequence[Hit]) -> str:
    """Where one hand is loud while the other whispers."""
    soft = {hit.limb for hit in hits if hit.ghost}
    loud = {hit.limb for hit in hits if not hit.ghost and hit.instrument not in FEET}
    pairs = [(a, b) for a in loud for b in soft if a is not None and b is not None and a != b]
    if not pairs:
        return ""
    one, other = pairs[0]
    return f"The {LIMB_NAMES[one]} stays as loud as it is while the {LIMB_NAMES[other]} ghosts."


def steady_limb(hits: Sequence[Hit]) -> Limb:
    """The limb that keeps time: of the hands the one with most strokes off the snare."""
    hands = [hit for hit in hits if hit.limb in (Limb.RIGHT_HAND, Limb.LEFT_HAND)]
    counts = {
        limb: sum(hit.limb is limb and hit.instrument not in SNARES for hit in hands)
        for limb in (Limb.RIGHT_HAND, Limb.LEFT_HAND)
    }
    if any(counts.values()):
        return max(counts, key=lambda limb: counts[limb])
    used = [hit.limb for hit in hits if hit.limb is not None]
    return max(set(used), key=used.count)


def _of(hits: Iterable[Hit], limbs: Iterable[Limb]) -> tuple[Hit, ...]:
    wanted = set(limbs)
    return tuple(hit for hit in hits if hit.limb in wanted)


def _limbs_in_order(hits: Sequence[Hit]) -> list[Limb]:
    """As one listens: the steady limb, the other hand, the kick, the other foot."""
    first = steady_limb(hits)
    order = [first, Limb.LEFT_HAND, Limb.RIGHT_HAND, Limb.RIGHT_FOOT, Limb.LEFT_FOOT]
    return [limb for limb in dict.fromkeys(order) if _of(hits, [limb])]


def _limb_by_limb(material: Material, player: Player) -> list[_Draft]:
    hits = material.hits
    drafts: list[_Draft] = []
    known: list[Limb] = []
    for limb in _limbs_in_order(hits):
        drafts.append(_Draft(f"The {LIMB_NAMES[limb]} alone", _of(hits, [limb])))
        known.append(limb)
        if len(known) > 1:
            others = " and ".join(LIMB_NAMES[one] for one in known)
            drafts.append(_Draft(others.capitalize(), _of(hits, known)))
    return [*drafts, *_dynamics(hits)]


def _dynamics(hits: Sequence[Hit]) -> list[_Draft]:
    """All notes, first even, then as loud and as soft as they are: where that is not the same."""
    even = _Draft("All notes, evenly loud", tuple(hits))
    if any(hit.ghost or hit.accent for hit in hits):
        return [even]
    return []


def _hands_then_feet(material: Material, player: Player) -> list[_Draft]:
    hands = tuple(hit for hit in material.hits if hit.instrument not in FEET)
    feet = tuple(hit for hit in material.hits if hit.instrument in FEET)
    if not hands or not feet:
        return _dynamics(material.hits)
    return [
        _Draft("Hands", hands),
        _Draft("Feet", feet),
        *_dynamics(material.hits),
    ]


def _one_note_at_a_time(material: Material, player: Player) -> list[_Draft]:
    """Each added note makes what is there harder by as little as any other would."""
    hits = material.hits
    steady = steady_limb(hits)
    here = list(_of(hits, [steady]))
    drafts = [_Draft(f"The {LIMB_NAMES[steady]} alone", tuple(here))]
    left = _groups([hit for hit in hits if hit.limb is not steady])
    while left:
        best = min(
            left,
            key=lambda group: (
                difficulty(material.bars, _sorted([*here, *group]), player).value,
                group[0].bar,
                group[0].position,
            ),
        )
        left.remove(best)
        here += best
        meter = material.bars[0].meter
        name, place = SPOKEN_NAMES[best[0].instrument], place_words(best[0].position, meter)
        drafts.append(_Draft(f"And the {name} on {place}", tuple(_sorted(here))))
    return drafts


def _groups(hits: Sequence[Hit]) -> list[list[Hit]]:
    """Notes one by one; where there are very many, those of one drum and place of all bars."""
    if len(hits) <= MOST_ADDED:
        return [[hit] for hit in hits]
    found: dict[tuple[Fraction, Instrument], list[Hit]] = {}
    for hit in hits:
        found.setdefault((hit.position, hit.instrument), []).append(hit)
    return list(found.values())


def _sorted(hits: Iterable[Hit]) -> list[Hit]:
    return sorted(hits, key=lambda hit: (hit.bar, hit.position, hit.instrument.value))


def _backbeat_first(material: Material, player: Player) -> list[_Draft]:
    hits = material.hits
    backbeat = [hit for hit in hits if hit.instrument in SNARES and not hit.ghost]
    kicks = [hit for hit in hits if hit.instrument is Instrument.KICK]
    core = _sorted([*kicks, *backbeat])
    steady = [hit for hit in _of(hits, [steady_limb(hits)]) if hit not in core and not hit.ghost]
    rest = [hit for hit in hits if hit not in core and hit not in steady and not hit.ghost]
    ghosts = [hit for hit in hits if hit.ghost]
    drafts = [_Draft("Kick and backbeat", tuple(core))]
    here = list(core)
    for title, layer in (
        ("And the steady hand", steady),
        ("And the rest", rest),
        ("And the ghosts, still as loud as all else", ghosts),
    ):
        if layer:
            here = _sorted([*here, *layer])
            drafts.append(_Draft(title, tuple(here)))
    return drafts


def _pairs(material: Material, player: Player) -> list[_Draft]:
    limbs = _limbs_in_order(material.hits)
    drafts = [
        _Draft(f"{LIMB_NAMES[one].capitalize()} and {LIMB_NAMES[other]}", hits)
        for one, other in combinations(limbs, 2)
        if (hits := _of(material.hits, [one, other]))
    ]
    drafts.sort(key=lambda draft: difficulty(material.bars, draft.hits, player).value)
    return [*drafts, *_dynamics(material.hits)]


def _fill(material: Material, player: Player) -> list[_Draft]:
    own = material.fill_hits
    hands = tuple(hit for hit in own if hit.instrument not in FEET)
    feet = tuple(hit for hit in own if hit.instrument in FEET)
    drafts = []
    if hands and feet:
        drafts = [_Draft("The fill, hands", hands), _Draft("The fill, feet", feet)]
    is_all = material.start == Fraction(0) and material.end == Fraction(1)
    if len(own) < len(material.hits) or not is_all:
        drafts.append(_Draft("The fill, together", own, with_dynamics=True))
    return [replace(draft, start=material.start, end=material.end) for draft in drafts]

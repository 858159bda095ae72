"""What falls together and what falls between: the facts by which coordination is learnt."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from fractions import Fraction

from orchesis.groove.count import DEFAULT_SCHOOL, SCHOOLS, CountWords, place_words
from orchesis.music.instruments import Instrument, Limb
from orchesis.music.values import Bar, Hit, written

NAMES = {
    Limb.RIGHT_HAND: "right hand",
    Limb.LEFT_HAND: "left hand",
    Limb.RIGHT_FOOT: "kick foot",
    Limb.LEFT_FOOT: "hat foot",
}
ORDER = (Limb.RIGHT_HAND, Limb.RIGHT_FOOT, Limb.LEFT_HAND, Limb.LEFT_FOOT)
MANY = 6
Places = dict[Limb, set[tuple[int, Fraction]]]
Said = Callable[[set[tuple[int, Fraction]]], str]


def coordination(
    bars: Sequence[Bar], hits: Iterable[Hit], words: CountWords = SCHOOLS[DEFAULT_SCHOOL]
) -> tuple[str, ...]:
    """Sentences about each pair of limbs that play in these bars, then what sounds alone."""
    step_of = {bar.number: step for step, bar in enumerate(bars)}
    at: Places = defaultdict(set)
    counted = written(list(hits))
    for hit in counted:
        if hit.bar in step_of and hit.limb is not None:
            at[hit.limb].add((step_of[hit.bar], hit.position))
    limbs = [limb for limb in ORDER if at[limb]]
    called = _names(counted)

    def said(places: set[tuple[int, Fraction]]) -> str:
        if len(places) > MANY:
            return f"{len(places)} places"
        names = []
        for step, position in sorted(places):
            name = place_words(position, bars[step].meter, words)
            names.append(f"{name} of bar {bars[step].number}" if len(bars) > 1 else name)
        return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"

    sentences = []
    for index, one in enumerate(limbs):
        for other in limbs[index + 1 :]:
            sentences.append(_pair(one, other, at, said, called))
    for limb in limbs:
        others = set().union(*(at[item] for item in limbs if item is not limb))
        alone = at[limb] - others
        if alone and len(limbs) > 1 and len(alone) < len(at[limb]):
            sentences.append(f"{called[limb].capitalize()} alone on {said(alone)}.")
    return tuple(sentences)


def _names(hits: Sequence[Hit]) -> dict[Limb, str]:
    """What the limbs are called: the kick's foot is whichever plays it more."""
    kicks = [hit.limb for hit in hits if hit.instrument is Instrument.KICK]
    if kicks.count(Limb.LEFT_FOOT) <= kicks.count(Limb.RIGHT_FOOT):
        return NAMES
    right, left = NAMES[Limb.RIGHT_FOOT], NAMES[Limb.LEFT_FOOT]
    return {**NAMES, Limb.RIGHT_FOOT: left, Limb.LEFT_FOOT: right}


def _pair(one: Limb, other: Limb, at: Places, said: Said, called: dict[Limb, str]) -> str:
    first, second = at[one], at[other]
    together = first & second
    name = called[other].capitalize()
    if not together:
        return f"{name} and {called[one]} never together: it falls between."
    if together == second:
        return f"{name} always lands with the {called[one]}."
    between = second - together
    beside = f"{name} with the {called[one]} on {said(together)}"
    return f"{beside}; between its strokes on {said(between)}."

"""Parts: the few distinctive stretches from which nearly all of a song can be played.

The smallest set of stretches of one to four bars whose repetitions cover nine tenths of the bars
in which something is played. Finding it is weighted set cover; the greedy choice of what covers
most for what it costs is within a logarithm of the best (Chvatal, "A greedy heuristic for the
set-covering problem", Math. Oper. Res. 4, 1979), and what turns out to be covered by later choices
is taken out again.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from orchesis.groove.alike import kinds_of_bars
from orchesis.music.values import Bar, PartDecision, Transcription

COVERED = 0.9
LENGTHS = (1, 2, 4)
COST_PER_BAR = 0.35
"""What each further bar of a part costs: four bars to learn cost twice what one does."""


@dataclass(frozen=True, slots=True)
class Part:
    """A stretch to learn: its first bar, its length, where it is played, and its share.

    places : the number of the first bar of each time it is played. wanted : a person added it.
    """

    first_bar: int
    bars: int
    places: tuple[int, ...]
    share: float
    wanted: bool = False

    @property
    def words(self) -> str:
        """Where else it is played."""
        others = [str(number) for number in self.places if number != self.first_bar]
        if not others:
            return f"bar {self.first_bar}, once"
        shown = others[:MOST_NAMED]
        more = f" and {len(others) - len(shown)} more" if len(others) > len(shown) else ""
        return f"bar {self.first_bar}, again in {', '.join(shown)}{more}"


MOST_NAMED = 6


def chosen_parts(song: Transcription) -> tuple[Part, ...]:
    """What is proposed, without what a person dropped and with what he added, in song order."""
    added = [_decided(song, d) for d in song.part_decisions if d.wanted]
    dropped = {
        (part.first_bar, part.bars)
        for d in song.part_decisions
        if not d.wanted and (part := _decided(song, d))
    }
    kept = [p for p in proposed_parts(song) if (p.first_bar, p.bars) not in dropped]
    here = {(part.first_bar, part.bars) for part in kept}
    kept += [part for part in added if part and (part.first_bar, part.bars) not in here]
    return tuple(sorted(kept, key=lambda part: (part.first_bar, part.bars)))


def proposed_parts(song: Transcription) -> tuple[Part, ...]:
    """The smallest set that covers nine tenths of the bars with notes, in song order."""
    names = _names(song.bars, song)
    sounding = [index for index, name in enumerate(names) if name >= 0]
    if not sounding:
        return ()
    candidates = _candidates(names, _starts(song))
    left = set(sounding)
    asked = COVERED * len(sounding)
    chosen: list[tuple[tuple[int, ...], tuple[int, ...]]] = []
    while len(sounding) - len(left) < asked:
        pattern, places = max(
            candidates.items(),
            key=lambda item: (
                len(left & _covered(item[0], item[1])) / _cost(item[0]),
                len(item[0]),
                -item[1][0],
            ),
        )
        if not left & _covered(pattern, places):
            break
        left -= _covered(pattern, places)
        chosen.append((pattern, places))
    chosen = _without_the_needless(chosen, sounding, asked)
    numbers = [bar.number for bar in song.bars]
    parts = [
        Part(
            first_bar=numbers[places[0]],
            bars=len(pattern),
            places=tuple(numbers[index] for index in places),
            share=len(_covered(pattern, places)) / len(sounding),
        )
        for pattern, places in chosen
    ]
    return tuple(sorted(parts, key=lambda part: part.first_bar))


def _decided(song: Transcription, decision: PartDecision) -> Part | None:
    """The bars that a person meant, wherever they are counted now."""
    inside = [
        bar
        for bar in song.bars
        if (bar.start + bar.end) / 2 > decision.start and (bar.start + bar.end) / 2 < decision.end
    ]
    if not inside:
        return None
    names = _names(song.bars, song)
    first = song.bars.index(inside[0])
    pattern = tuple(names[first : first + len(inside)])
    places = _candidates(names, _starts(song), [len(inside)]).get(pattern, (first,))
    own = tuple(sorted({first, *places}))
    numbers = tuple(song.bars[index].number for index in own)
    share = len(_covered(pattern, own)) / len(song.bars)
    return Part(inside[0].number, len(inside), numbers, share, wanted=True)


def _names(bars: Sequence[Bar], song: Transcription) -> list[int]:
    """For each bar which kind it is; silent ones are -1."""
    kinds = kinds_of_bars(bars, song.hits)
    home = {number: index for index, kind in enumerate(kinds) for number in kind.bars}
    return [home.get(bar.number, -1) for bar in bars]


def _starts(song: Transcription) -> list[int]:
    """For each bar its place in its section: parts of several bars begin where phrases do."""
    places = []
    for bar in song.bars:
        section = song.section_of(bar.number)
        places.append(bar.number - section.first_bar if section else bar.number - 1)
    return places


def _candidates(
    names: Sequence[int], starts: Sequence[int], lengths: Sequence[int] = LENGTHS
) -> dict[tuple[int, ...], tuple[int, ...]]:
    """Every stretch without silence, and the indices where it begins; none overlaps itself."""
    found: dict[tuple[int, ...], list[int]] = defaultdict(list)
    for length in lengths:
        for first in range(len(names) - length + 1):
            pattern = tuple(names[first : first + length])
            if min(pattern) < 0 or starts[first] % length:
                continue
            if length > 1 and len(set(pattern)) == 1:
                continue
            if not found[pattern] or first >= found[pattern][-1] + length:
                found[pattern].append(first)
    return {pattern: tuple(places) for pattern, places in found.items() if places}


def _covered(pattern: Sequence[int], places: Sequence[int]) -> set[int]:
    return {first + step for first in places for step in range(len(pattern))}


def _cost(pattern: Sequence[int]) -> float:
    return 1.0 + COST_PER_BAR * (len(pattern) - 1)


def _without_the_needless(
    chosen: list[tuple[tuple[int, ...], tuple[int, ...]]], sounding: Sequence[int], asked: float
) -> list[tuple[tuple[int, ...], tuple[int, ...]]]:
    """Without what the others cover as well, the dearest first."""
    kept = list(chosen)
    for one in sorted(chosen, key=lambda item: -_cost(item[0])):
        others = [item for item in kept if item is not one]
        covered = set().union(*(_covered(*item) for item in others)) if others else set()
        if len(covered & set(sounding)) >= asked:
            kept = others
    return kept

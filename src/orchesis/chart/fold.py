"""Bars folded into repeats: what a copyist writes once, and the signs that stand for the rest.

The cheapest way of writing a stretch of bars is found by dynamic programming: a bar written out
costs one, a sign costs less, and a repeat with or without endings costs what is inside it once,
and a little for the eye that has to go back. It is the idea of the smallest grammar, kept to the
signs that drum charts have and without nesting (Charikar et al., "The smallest grammar problem",
IEEE Trans. Inf. Theory 51, 2005).
"""

from __future__ import annotations

from collections.abc import Hashable, Iterator, Sequence
from dataclasses import dataclass, replace

WRITTEN = 1.0
EMPTY = 0.5
SIGN_COST = {1: 0.45, 2: 0.6, 4: 0.8}
"""By the bars that a repeat sign stands for."""

REST_COST = 0.6
ENDING_COST = 0.3
MOST_ENDINGS = 3
LONGEST_ENDING = 4
STEP_COST = 0.01
"""A trifle, so that of two ways that cost the same the one in fewer stretches is taken."""

ODD_COST = 0.6
"""What repeats cost more that cut across phrases."""

PHRASE = 4
PHRASES = (1, 2, 4, 8, 16)
MOST_TIMES = 16
BODIES = (1, 2, 3, 4, 5, 6, 7, 8, 12, 16)
"""Bars between repeat signs."""


@dataclass(frozen=True, slots=True)
class Folding:
    """How readily bars are folded.

    repeat : what going back costs. short_repeat : what it costs more to count many repeats of
    less than a phrase.
    """

    repeat: float = 1.0
    short_repeat: float = 1.5


EXACT = Folding()
BRIEF = Folding(repeat=0.4, short_repeat=0.0)


@dataclass(frozen=True, slots=True)
class Piece:
    """A measure to be written: `index` of the bar whose content it is or stands for.

    span : bars that a sign or a rest stands for; 0: the bar is written out. passes : the index of
    the bar that it is in each pass.
    """

    index: int
    span: int = 0
    is_rest: bool = False
    passes: tuple[int, ...] = ()
    opens_repeat: bool = False
    times: int = 0
    ending: tuple[int, ...] = ()
    ending_opens: bool = False
    ending_closes: bool = False


@dataclass(frozen=True, slots=True)
class _Step:
    """The last measure of a stretch: what all of it costs, and where the measure begins."""

    cost: float
    first: int
    piece: Piece | None


@dataclass(frozen=True, slots=True)
class _Block:
    """A repeat: its first bar, the bars between its signs, how often, and its endings.

    tail : bars of each ending. groups : the passes, from 0, that share an ending.
    """

    start: int
    length: int
    times: int
    tail: int
    groups: tuple[tuple[int, ...], ...]
    cost: float


def fold(
    contents: Sequence[Hashable], empty: Sequence[bool], folding: Folding = EXACT
) -> tuple[Piece, ...]:
    """The measures that stand for these bars.

    Parameters
    ----------
    contents : what each bar looks like; equal ones are written alike.
    empty : for each bar whether nothing is played in it.
    """
    return _Folder(contents, empty, folding).pieces()


class _Folder:
    def __init__(
        self, contents: Sequence[Hashable], empty: Sequence[bool], folding: Folding
    ) -> None:
        names: dict[Hashable, int] = {}
        self.bars = [names.setdefault(content, len(names)) for content in contents]
        self.empty = list(empty)
        self.folding = folding
        self.alike = _common_starts(self.bars)
        self._stretches: dict[int, list[_Step]] = {}

    def pieces(self) -> tuple[Piece, ...]:
        count = len(self.bars)
        # best[k]: the cheapest way for the first k bars, where its last step began, and the repeat
        # that this was. A stretch without repeat bars is one step: its signs look back at its own.
        best: list[tuple[float, int, _Block | None]] = [(0.0, 0, None)]
        for end in range(1, count + 1):
            candidates: list[tuple[float, int, _Block | None]] = [
                (best[start][0] + self._stretch(start, end).cost + STEP_COST, start, None)
                for start in range(end)
            ]
            candidates += [
                (best[block.start][0] + block.cost + STEP_COST, block.start, block)
                for block in self._blocks(end)
            ]
            best.append(min(candidates, key=lambda item: item[:2]))
        written: list[Piece] = []
        end = count
        while end:
            _, start, block = best[end]
            written[:0] = self._flat(start, end) if block is None else self._written(block)
            end = start
        return tuple(written)

    def _stretch(self, start: int, end: int) -> _Step:
        """The last step of the cheapest way to write these bars without repeat bars."""
        steps = self._stretches.setdefault(start, [_Step(0.0, 0, None)])
        while len(steps) <= end - start:
            steps.append(min(self._steps(start, start + len(steps)), key=lambda step: step.cost))
        return steps[end - start]

    def _steps(self, start: int, stop: int) -> list[_Step]:
        bars, last = self.bars, stop - 1
        steps = self._stretches[start]

        def step(first: int, price: float, piece: Piece) -> _Step:
            return _Step(steps[first - start].cost + price, first, piece)

        price = EMPTY if self.empty[last] else WRITTEN
        found = [step(last, price, Piece(last, passes=(last,)))]
        for span, price in SIGN_COST.items():
            first = stop - span
            if first - span < start or bars[first - span : first] != bars[first:stop]:
                continue
            alike = len(set(bars[first:stop])) == 1
            if any(self.empty[first:stop]) or (span == 2 and alike):
                continue
            found.append(step(first, price, Piece(first, span, passes=(first,))))
        first = last
        while first > start and self.empty[last] and bars[first - 1] == bars[last]:
            first -= 1
        if first < last:
            rest = Piece(first, stop - first, is_rest=True, passes=(first,))
            found.append(step(first, REST_COST, rest))
        return found

    def _flat(self, start: int, end: int) -> tuple[Piece, ...]:
        """How these bars are written without repeat bars."""
        pieces: list[Piece] = []
        while end > start:
            step = self._stretch(start, end)
            assert step.piece is not None
            pieces.append(step.piece)
            end = step.first
        return tuple(reversed(pieces))

    def _blocks(self, end: int) -> Iterator[_Block]:
        """Every repeat that ends here."""
        for length in BODIES:
            times = 2
            while times <= MOST_TIMES and (start := end - length * times) >= 0:
                block = self._block(start, length, times)
                if block is None:
                    break
                yield block
                times += 1

    def _block(self, start: int, length: int, times: int) -> _Block | None:
        """What a repeat of so many bars, so often, costs; None: it is none."""
        starts = range(start, start + length * times, length)
        same = min(self.alike[start][other] for other in starts)
        tail = max(0, length - same)
        if tail > min(LONGEST_ENDING, length // 2):
            return None
        groups: list[list[int]] = [[0]]
        for number in range(1, times if tail else 1):
            before = starts[groups[-1][-1]] + length - tail
            if self.alike[before][starts[number] + length - tail] >= tail:
                groups[-1].append(number)
            else:
                groups.append([number])
        # The last ending is played once: it is where one goes on.
        if len(groups) > MOST_ENDINGS or (tail and len(groups[-1]) > 1):
            return None
        cost = self.folding.repeat + self._stretch(start, start + length - tail).cost
        for group in groups if tail else []:
            low = starts[group[0]] + length - tail
            cost += ENDING_COST + self._stretch(low, low + tail).cost
        if length not in PHRASES:
            cost += ODD_COST
        if start % min(length, PHRASE):
            cost += ODD_COST
        if length < PHRASE and times > 2:
            cost += self.folding.short_repeat
        return _Block(start, length, times, tail, tuple(map(tuple, groups)), cost)

    def _written(self, block: _Block) -> tuple[Piece, ...]:
        """The measures of a repeat."""
        length, times, tail = block.length, block.times, block.tail
        body = self._flat(block.start, block.start + length - tail)
        written = [
            replace(
                piece,
                passes=tuple(piece.index + number * length for number in range(times)),
                opens_repeat=not order,
                times=times if not tail and order + 1 == len(body) else 0,
            )
            for order, piece in enumerate(body)
        ]
        for order, group in enumerate(block.groups if tail else ()):
            low = block.start + (group[0] + 1) * length - tail
            pieces = self._flat(low, low + tail)
            last = order + 1 == len(block.groups)
            for place, piece in enumerate(pieces):
                closes = place + 1 == len(pieces)
                written.append(
                    replace(
                        piece,
                        passes=tuple(
                            piece.index + (number - group[0]) * length for number in group
                        ),
                        ending=tuple(number + 1 for number in group),
                        ending_opens=not place,
                        ending_closes=closes,
                        times=times if closes and not last else 0,
                    )
                )
        return tuple(written)


def _common_starts(bars: Sequence[int]) -> list[list[int]]:
    """For each two bars, how many from there on are the same."""
    count = len(bars)
    same = [[0] * (count + 1) for _ in range(count + 1)]
    for one in range(count - 1, -1, -1):
        for other in range(count - 1, -1, -1):
            if bars[one] == bars[other]:
                same[one][other] = same[one + 1][other + 1] + 1
    return same

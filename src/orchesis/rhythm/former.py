"""The grid that a song had, where another one is laid: what of it stays."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orchesis.music.values import Transcription
from orchesis.rhythm.beats import Times
from orchesis.rhythm.levels import in_parts
from orchesis.rhythm.strokes import Strokes

FEWEST = 4
"""Beats by which two grids can be told to be the same."""

AGREED, AGREED_WITHIN, MOSTLY = 8, 0.15, 0.8
"""Beats beyond the taps that are looked at, and by how much of a beat how many of them may be off
where the grid of before is the same pulse."""

AS_WELL = 0.95
"""So much of what is struck on the beats that were followed must be struck on those of before."""


@dataclass(frozen=True, slots=True)
class FormerGrid:
    """Where it was. beats, starts : seconds of its beats and of its bars, ascending."""

    beats: Times
    starts: Times
    end: float

    @classmethod
    def of(cls, song: Transcription) -> FormerGrid:
        """That of a song; nothing where it has none."""
        beats = np.array([beat for bar in song.bars for beat in bar.beats])
        starts = np.array([bar.start for bar in song.bars])
        return cls(beats, starts, song.bars[-1].end if song.bars else 0.0)

    def turned(self) -> FormerGrid:
        """The same heard backwards."""
        return FormerGrid(-self.beats[::-1], -self.starts[::-1], 0.0)

    def instead(self, followed: Times, last: float, strokes: Strokes) -> Times | None:
        """Its own beats after `last`, where they go on as those that were followed do.

        They may be half or twice as fast as those. Further on the strokes decide: it may have
        slipped, or what was followed has, over a break. None where they do not.
        """
        if len(self.beats) < FEWEST or len(followed) < FEWEST:
            return None
        enough = AS_WELL * strokes.on(followed)
        for beats in (self.beats, in_parts(self.beats, 2), self.beats[::2], self.beats[1::2]):
            own = beats[beats > last + 1e-6]
            if _go_together(own, followed) and strokes.on(own) >= enough:
                return own
        return None

    def where_it_sounds(self, beats: Times, inside: Times) -> Times:
        """The beats without those before its first bar and after its last: nothing sounds there."""
        if not len(self.beats):
            return beats
        beat = float(np.median(np.diff(beats)))
        first = min(self.starts[0], inside[0]) - beat / 2
        last = max(self.end, inside[-1] + beat) - beat / 2
        return np.asarray(beats[(beats > first) & (beats < last)])

    def ones(
        self,
        beats: Times,
        first: int,
        last: int,
        beats_a_bar: int,
        fixed: Sequence[tuple[float, float]],
    ) -> list[int]:
        """Which beats are ones: counted on from the first tap, odd bars of before among them.

        first, last : the beats of the first and the last tap.
        """
        known = self._found_in(beats)
        sure = {one for one in known if any(a - 0.1 < beats[one] < b + 0.1 for a, b in fixed)}
        later = _counted_on(first, last, len(beats), beats_a_bar, known, sure)
        mirror = len(beats) - 1
        sooner = _counted_on(
            mirror - first,
            mirror - first,
            len(beats),
            beats_a_bar,
            sorted(mirror - one for one in known),
            {mirror - one for one in sure},
        )
        return sorted({*later, *(mirror - one for one in sooner)})

    def _found_in(self, beats: Times) -> list[int]:
        """The beats on which its bars begin."""
        near = np.abs(beats[None] - self.starts[:, None])
        within = near.min(axis=1, initial=np.inf) < AGREED_WITHIN * np.median(np.diff(beats))
        return sorted({int(one) for one in near.argmin(axis=1)[within]}) if within.any() else []


def _go_together(own: Times, followed: Times) -> bool:
    """Whether both begin as the same pulse."""
    count = min(AGREED, len(own), len(followed))
    if count < FEWEST:
        return False
    beat = float(np.median(np.diff(followed[:count])))
    same = np.abs(own[:count] - followed[:count]) < AGREED_WITHIN * beat
    return bool(same.mean() >= MOSTLY)


def _counted_on(
    first: int, last: int, count: int, beats_a_bar: int, known: Sequence[int], sure: set[int]
) -> list[int]:
    """The ones from a one on. Beyond `last` those known, if the next one is among them."""
    usual = np.median(np.diff(known)) if len(known) > 1 else 0
    ones = [first]
    while ones[-1] + beats_a_bar < count:
        following = ones[-1] + beats_a_bar
        between = [one for one in sure if ones[-1] < one <= following]
        ones.append(min(between, default=following))
        if usual == beats_a_bar and ones[-1] > last and not sure and ones[-1] in known:
            return [*ones, *(one for one in known if one > ones[-1])]
    return ones

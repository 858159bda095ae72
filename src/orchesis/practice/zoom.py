"""A step that resists is cut to its hardest two beats, and grown again.

Two beats first, then a bar, then all of it; windows begin on beats. What is hard is told by the
difficulty of the notes in the window.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis.groove.count import said_in_full
from orchesis.limbs.difficulty import difficulty
from orchesis.limbs.kit import STANDARD, Player
from orchesis.music.values import Bar, Hit

WINDOW_BEATS = 2


@dataclass(frozen=True, slots=True)
class Window:
    """A part of a loop: from a place in one bar to a place in another (1 is the bar's end)."""

    first_bar: int
    start: Fraction
    last_bar: int
    end: Fraction
    words: str

    def has(self, hit: Hit) -> bool:
        """Whether a note lies in it."""
        return (self.first_bar, self.start) <= (hit.bar, hit.position) and (
            hit.bar < self.last_bar or (hit.bar == self.last_bar and hit.position < self.end)
        )


def zoom(bars: Sequence[Bar], hits: Sequence[Hit], player: Player = STANDARD) -> tuple[Window, ...]:
    """From the hardest two beats to the whole loop; empty where the loop is as short already."""
    windows = [window for bar in bars for window in _two_beats(bar)]
    filled = [window for window in windows if any(window.has(hit) for hit in hits)]
    if len(windows) < 2 or not filled:
        return ()

    def hardness(window: Window) -> float:
        inside = [hit for hit in hits if window.has(hit)]
        return difficulty(
            [bar for bar in bars if bar.number == window.first_bar], inside, player
        ).value

    hardest = max(filled, key=hardness)
    grown = [hardest]
    bar = Window(
        hardest.first_bar, Fraction(0), hardest.first_bar, Fraction(1), "the bar around it"
    )
    if (bar.start, bar.end) != (hardest.start, hardest.end):
        grown.append(bar)
    if len(bars) > 1:
        whole = Window(bars[0].number, Fraction(0), bars[-1].number, Fraction(1), "all of it again")
        grown.append(whole)
    return tuple(grown)


def _two_beats(bar: Bar) -> list[Window]:
    pulses = bar.meter.pulses
    if pulses <= WINDOW_BEATS:
        return [Window(bar.number, Fraction(0), bar.number, Fraction(1), "this bar")]
    return [
        Window(
            bar.number,
            start := Fraction(beat, pulses),
            bar.number,
            Fraction(beat + WINDOW_BEATS, pulses),
            f"two beats from {said_in_full(start, bar.meter)} of bar {bar.number}",
        )
        for beat in range(pulses - WINDOW_BEATS + 1)
    ]

"""What a person says of fills: here is one, from here to there; this is none."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction

from orchesis.errors import InvalidTranscription
from orchesis.fills.find import LONGEST_BARS, with_decisions
from orchesis.groove.count import place_words
from orchesis.music.values import FillDecision, Transcription

LONGEST_DRAWN_BARS = 2 * LONGEST_BARS
"""Four bars of drums alone are a solo; more is no fill in any school."""


@dataclass(frozen=True, slots=True)
class FillAsked:
    """A stretch from one place to another, as shares of their bars, and whether it is a fill."""

    first_bar: int
    at: Fraction
    last_bar: int
    until: Fraction
    is_fill: bool


def decided(song: Transcription, asked: FillAsked) -> Transcription:
    """The song with this decision; earlier ones about the same stretch give way.

    Raises InvalidTranscription where there is no such stretch, or it can be no fill.
    """
    first, last = song.bar(asked.first_bar), song.bar(asked.last_bar)
    if not (0 <= asked.at < 1 and 0 < asked.until <= 1):
        raise InvalidTranscription("a fill begins and ends within its bars")
    start, end = first.time_at(asked.at), last.time_at(asked.until)
    if end <= start:
        raise InvalidTranscription("a fill ends after it begins")
    if asked.last_bar - asked.first_bar >= LONGEST_DRAWN_BARS:
        raise InvalidTranscription(f"a fill lasts {LONGEST_DRAWN_BARS} bars at most")
    mine = FillDecision(start, end, asked.is_fill)
    others = [d for d in song.fill_decisions if min(d.end, end) - max(d.start, start) <= 1e-6]
    decisions = tuple(sorted([*others, mine], key=lambda decision: decision.start))
    fills = with_decisions(song.fills, song.bars, decisions)
    return replace(song, fill_decisions=decisions, fills=fills)


def decision_words(song: Transcription, asked: FillAsked) -> str:
    """For the log: "Fill from the & of 3 of bar 12", "No fill in bar 12"."""
    if not asked.is_fill:
        return f"No fill in bar {asked.last_bar}"
    meter = song.bar(asked.first_bar).meter
    return f"Fill from {place_words(asked.at, meter)} of bar {asked.first_bar}" + (
        f" to bar {asked.last_bar}" if asked.last_bar != asked.first_bar else ""
    )

"""The counting voice: which word is spoken when, in each school.

The samples ship with the application (`demo/render_voice.py`); where in its sample a word is felt
to fall is told beside them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis.groove.count import DEFAULT_SCHOOL, SCHOOLS, CountWords, spoken
from orchesis.music.values import Bar, Hit

NUMBERS = {
    str(number): name
    for number, name in enumerate(
        (
            "one",
            "two",
            "three",
            "four",
            "five",
            "six",
            "sev",
            "eight",
            "nine",
            "ten",
            "lev",
            "twelve",
        ),
        1,
    )
}
"""Of one syllable each, so that they fit before the next word."""

NAMES = {"&": "and"}


@dataclass(frozen=True, slots=True)
class Spoken:
    """A word at a moment of the song, in seconds; `sample` is the name of its sound."""

    time: float
    word: str
    sample: str


def sample_name(word: str) -> str:
    """The file of a word."""
    return NUMBERS.get(word, NAMES.get(word, word))


def all_words() -> tuple[str, ...]:
    """Every word of every school, as it is spelled for speaking."""
    words = dict.fromkeys(NUMBERS.values())
    for school in SCHOOLS.values():
        words |= dict.fromkeys(
            sample_name(word)
            for word in (*school.sixteenths, *school.triplets, *school.sextuplets, school.between)
        )
    return tuple(words)


def counted_aloud(
    bars: Sequence[Bar], hits: Sequence[Hit], words: CountWords = SCHOOLS[DEFAULT_SCHOOL]
) -> tuple[Spoken, ...]:
    """The count of what is played: every beat, and each place on which something falls.

    In the song's own time: a beat that lags is counted where it lags.
    """
    found = []
    for bar in bars:
        pulses = bar.meter.pulses
        places = {Fraction(beat, pulses) for beat in range(pulses)}
        played = {hit.position for hit in hits if hit.bar == bar.number}
        for position in sorted(places | played):
            beat = int(position * pulses)
            within = {(other * pulses) % 1 for other in played if int(other * pulses) == beat}
            sixths = any((part * 6).denominator == 1 and part.denominator == 6 for part in within)
            word = spoken(position, bar.meter, words, 6 if sixths else 0)
            if word:
                found.append(Spoken(bar.time_at(position), word, sample_name(word)))
    return tuple(found)

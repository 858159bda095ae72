"""The spoken count: how drummers say where a note falls.

`1 e & a 2 e & a` for sixteenths, `1 & 2 &` for eighths, `1 trip let` for triplets; sextuplets are
said as two triplets. Schools differ in their words, so the words are data.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache

from orchesis.music.values import Bar, Meter


@dataclass(frozen=True, slots=True)
class CountWords:
    """The words of one school, for what follows the number of the beat."""

    name: str
    sixteenths: tuple[str, str, str]
    triplets: tuple[str, str]
    sextuplets: tuple[str, str, str, str, str]

    def word(self, within: Fraction) -> str:
        """The word for a place within the beat; "" for 0 and for places that have no word."""
        table = {
            Fraction(1, 4): self.sixteenths[0],
            Fraction(1, 2): self.sixteenths[1],
            Fraction(3, 4): self.sixteenths[2],
            Fraction(1, 3): self.triplets[0],
            Fraction(2, 3): self.triplets[1],
            Fraction(1, 6): self.sextuplets[0],
            Fraction(5, 6): self.sextuplets[4],
        }
        return table.get(within, "")


SCHOOLS: dict[str, CountWords] = {
    "e-and-a": CountWords(
        "1 e & a", ("e", "&", "a"), ("trip", "let"), ("ta", "la", "&", "ta", "la")
    ),
    "e-and-ah": CountWords(
        "1 e & ah", ("e", "&", "ah"), ("la", "li"), ("ta", "la", "&", "ta", "la")
    ),
    "e-and-da": CountWords(
        "1 e & da", ("e", "&", "da"), ("trip", "let"), ("ta", "la", "&", "ta", "la")
    ),
}
DEFAULT_SCHOOL = "e-and-a"


def spoken(position: Fraction, meter: Meter, words: CountWords = SCHOOLS[DEFAULT_SCHOOL]) -> str:
    """How a place in the bar is said: "2", "e", "&", "trip"; "" where there is no word."""
    place = position * meter.pulses
    beat = place.numerator // place.denominator
    within = place - beat
    return str(beat + 1) if within == 0 else words.word(within)


def said_in_full(
    position: Fraction, meter: Meter, words: CountWords = SCHOOLS[DEFAULT_SCHOOL]
) -> str:
    """How one tells somebody the place: "beat 2", "the a of 3"."""
    place = position * meter.pulses
    beat = place.numerator // place.denominator
    within = place - beat
    if within == 0:
        return f"beat {beat + 1}"
    word = words.word(within)
    return f"the {word} of {beat + 1}" if word else f"{within} into beat {beat + 1}"


def count_ruler(
    bar: Bar, words: CountWords = SCHOOLS[DEFAULT_SCHOOL]
) -> tuple[tuple[Fraction, str], ...]:
    """Every place of a bar's grid with its word, in order."""
    return _ruler(bar.divisions, bar.meter, words)


@lru_cache(maxsize=512)
def _ruler(
    divisions: tuple[int, ...], meter: Meter, words: CountWords
) -> tuple[tuple[Fraction, str], ...]:
    """Kept, since the bars of a song are divided in few ways."""
    ruler = []
    for beat, parts in enumerate(divisions):
        for step in range(parts):
            position = (Fraction(beat) + Fraction(step, parts)) / meter.pulses
            ruler.append((position, spoken(position, meter, words)))
    return tuple(ruler)

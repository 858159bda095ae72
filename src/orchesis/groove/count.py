"""The spoken count: how drummers say where a note falls.

`1 e & a 2 e & a` for sixteenths, `1 & 2 &` for eighths, `1 trip let` for triplets; sextuplets and
thirty-seconds have words of their own. Schools differ in their words, so the words are data.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache

from orchesis.music.instruments import Ornament
from orchesis.music.values import Bar, Hit, Meter, written


@dataclass(frozen=True, slots=True)
class CountWords:
    """The words of one school, for what follows the number of the beat.

    sixteenths : after the number, three words. triplets : two. sextuplets : five.
    between : what is said for a thirty-second after any sixteenth.
    grace : what is said before a word for a flam and for a drag.
    """

    name: str
    sixteenths: tuple[str, str, str]
    triplets: tuple[str, str]
    sextuplets: tuple[str, str, str, str, str]
    between: str = "t"
    grace: tuple[str, str] = ("ka", "ka-ka")

    def word(self, within: Fraction, parts: int = 0) -> str:
        """The word for a place within the beat; "" for 0 and for places that have no word.

        parts : into how many the beat is divided, where that is known: thirds of a beat in six
            parts are said otherwise than in three.
        """
        if parts == 6 and within:
            return self.sextuplets[int(within * 6) - 1] if (within * 6).denominator == 1 else ""
        table = {
            Fraction(1, 4): self.sixteenths[0],
            Fraction(1, 2): self.sixteenths[1],
            Fraction(3, 4): self.sixteenths[2],
            Fraction(1, 3): self.triplets[0],
            Fraction(2, 3): self.triplets[1],
            Fraction(1, 6): self.sextuplets[0],
            Fraction(5, 6): self.sextuplets[4],
        }
        if within.denominator == 8:
            return self.between
        return table.get(within, "")


SCHOOLS: dict[str, CountWords] = {
    "e-and-a": CountWords(
        "1 e & a, 1 trip let", ("e", "&", "a"), ("trip", "let"), ("ta", "la", "&", "ta", "la")
    ),
    "e-and-ah": CountWords(
        "1 e & ah, 1 la li", ("e", "&", "ah"), ("la", "li"), ("ta", "la", "li", "ta", "li")
    ),
    "e-and-da": CountWords(
        "1 e & da, 1 trip let", ("e", "&", "da"), ("trip", "let"), ("ta", "trip", "ta", "let", "ta")
    ),
}
DEFAULT_SCHOOL = "e-and-a"


def _split(position: Fraction, meter: Meter) -> tuple[int, Fraction]:
    """The beat, from 0, and how far within it."""
    place = position * meter.pulses
    beat = place.numerator // place.denominator
    return beat, place - beat


def spoken(
    position: Fraction,
    meter: Meter,
    words: CountWords = SCHOOLS[DEFAULT_SCHOOL],
    parts: int = 0,
) -> str:
    """How a place in the bar is said: "2", "e", "&", "trip"; "" where there is no word."""
    beat, within = _split(position, meter)
    return str(beat + 1) if within == 0 else words.word(within, parts)


def place_words(
    position: Fraction, meter: Meter, words: CountWords = SCHOOLS[DEFAULT_SCHOOL]
) -> str:
    """How one names the place within a sentence: "2", "the a of 2"."""
    beat, within = _split(position, meter)
    if within == 0:
        return str(beat + 1)
    word = words.word(within) if within.denominator != 8 else ""
    return f"the {word} of {beat + 1}" if word else f"{within} into beat {beat + 1}"


def said_in_full(
    position: Fraction, meter: Meter, words: CountWords = SCHOOLS[DEFAULT_SCHOOL]
) -> str:
    """How one tells somebody the place: "beat 2", "the a of 3"."""
    said = place_words(position, meter, words)
    return f"beat {said}" if said.isdigit() else said


def count_ruler(
    bar: Bar, words: CountWords = SCHOOLS[DEFAULT_SCHOOL]
) -> tuple[tuple[Fraction, str], ...]:
    """Every place of a bar's grid with its word, in order."""
    return ruler(bar.divisions, bar.meter, words)


@lru_cache(maxsize=512)
def ruler(
    divisions: tuple[int, ...], meter: Meter, words: CountWords = SCHOOLS[DEFAULT_SCHOOL]
) -> tuple[tuple[Fraction, str], ...]:
    """The same for any bar so divided; kept, since the bars of a song are divided in few ways."""
    places = []
    for beat, parts in enumerate(divisions):
        for step in range(parts):
            position = (Fraction(beat) + Fraction(step, parts)) / meter.pulses
            places.append((position, spoken(position, meter, words, parts)))
    return tuple(places)


def spoken_count(
    bars: Iterable[Bar], hits: Sequence[Hit], words: CountWords = SCHOOLS[DEFAULT_SCHOOL]
) -> str:
    """The count of what is played, as one says it: "1 & a 2 (e) & 3 | 1 & 2".

    Numbers on which nothing is played are said all the same, in brackets, since nobody counts
    without them. Grace notes come before their word. A place without a word is a dot.
    """
    return " | ".join(_bar_count(bar, hits, words) for bar in bars)


def _bar_count(bar: Bar, hits: Sequence[Hit], words: CountWords) -> str:
    at: dict[Fraction, list[Hit]] = {}
    for hit in written(hits):
        if hit.bar == bar.number:
            at.setdefault(hit.position, []).append(hit)
    said = []
    numbers = {Fraction(beat, bar.meter.pulses) for beat in range(bar.meter.pulses)}
    for position in sorted(numbers | set(at)):
        beat, _ = _split(position, bar.meter)
        word = spoken(position, bar.meter, words, _parts_played(bar, beat, at)) or "·"
        here = at.get(position)
        if here is None:
            said.append(f"({word})")
            continue
        ornaments = {hit.ornament for hit in here}
        if Ornament.DRAG in ornaments:
            word = f"{words.grace[1]}-{word}"
        elif Ornament.FLAM in ornaments:
            word = f"{words.grace[0]}-{word}"
        said.append(word)
    return " ".join(said)


def _parts_played(bar: Bar, beat: int, at: dict[Fraction, list[Hit]]) -> int:
    """6 where a beat holds a true sextuplet: a sixth of it is played. Else 0: words as usual."""
    for position in at:
        mine, within = _split(position, bar.meter)
        if mine == beat and within.denominator == 6:
            return 6
    return 0

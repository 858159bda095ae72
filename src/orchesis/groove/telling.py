"""Grooves told as drummers tell them: what is where, against what everybody expects there.

Each fact says which notes it is about, so that they can be lit. Facts are read off the typical
phrase, without its occasional notes.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from orchesis.groove.count import place_words
from orchesis.groove.phrase import Phrase, PhraseNote, Standing
from orchesis.music.instruments import SPOKEN_NAMES, TIMEKEEPERS, Instrument
from orchesis.music.values import Meter

Place = tuple[int, Fraction]
"""Bar of the phrase, from 0, and place in it."""

LEAST_LINEAR = 5
"""Strokes in a row with nothing together: fewer are everywhere."""

LEAST_ACROSS = 4
"""Strokes at one distance that is no part of the beat."""

LEAST_ALIKE = 3
"""Places that two bars begin alike with, before it is worth saying."""

MOST_FACTS = 6
BACKBEATS = frozenset({Instrument.SNARE, Instrument.CROSS_STICK, Instrument.CLAP})


@dataclass(frozen=True, slots=True)
class Fact:
    """Something that is so in a groove, and the notes that it is about."""

    words: str
    places: tuple[tuple[int, Fraction, Instrument], ...]


def facts(phrase: Phrase, meter: Meter) -> tuple[Fact, ...]:
    """What there is to tell of a phrase, MOST_FACTS at most."""
    notes = [note for note in phrase.notes if note.standing is not Standing.OCCASIONAL]
    if not notes:
        return ()
    found = [
        *_explained_by_the_first(notes, phrase.length, meter),
        *_displaced_backbeats(notes, phrase.length, meter),
        *_across_the_beat(notes, meter),
        *_linear(notes, meter),
        *_kick_alone(notes, meter),
        *_answered(notes, meter),
        *_hat_accents(notes, meter),
    ]
    return tuple(found[:MOST_FACTS])


def _place(position: Fraction, meter: Meter, bar: int, length: int) -> str:
    words = place_words(position, meter)
    return f"{words} of bar {bar + 1}" if length > 1 else words


def _told(notes: Sequence[PhraseNote]) -> tuple[tuple[int, Fraction, Instrument], ...]:
    return tuple((note.bar, note.position, note.instrument) for note in notes)


def _explained_by_the_first(notes: Sequence[PhraseNote], length: int, meter: Meter) -> list[Fact]:
    """Up to where a bar is the first one: "Bar 2 is bar 1 up to the & of 3"."""
    found = []
    first = {(note.position, note.instrument) for note in notes if note.bar == 0}
    for bar in range(1, length):
        mine = {(note.position, note.instrument) for note in notes if note.bar == bar}
        differing = sorted(position for position, _ in first ^ mine)
        if not differing or not mine:
            continue
        alike = {position for position, _ in mine if position < differing[0]}
        if len(alike) < LEAST_ALIKE:
            continue
        words = f"Bar {bar + 1} is bar 1 up to {place_words(differing[0], meter)}."
        lit = [n for n in notes if n.bar == bar and n.position >= differing[0]]
        found.append(Fact(words, _told(lit)))
    return found


def _displaced_backbeats(notes: Sequence[PhraseNote], length: int, meter: Meter) -> list[Fact]:
    """A backbeat that is missing on its beat, and there an eighth or a sixteenth beside it."""
    if meter.pulses != 4:
        return []
    found = []
    firm = {(n.bar, n.position): n for n in notes if n.instrument in BACKBEATS and not n.ghost}
    on_beat = [place for place in firm if place[1] in (Fraction(1, 4), Fraction(3, 4))]
    if not on_beat:
        return []
    for bar in range(length):
        for beat in (Fraction(1, 4), Fraction(3, 4)):
            if (bar, beat) in firm:
                continue
            for shift, name in (
                (Fraction(1, 8), "an eighth late"),
                (Fraction(-1, 8), "an eighth early"),
                (Fraction(1, 16), "a sixteenth late"),
                (Fraction(-1, 16), "a sixteenth early"),
            ):
                note = firm.get((bar, beat + shift))
                if note is not None:
                    where = _place(note.position, meter, bar, length)
                    words = f"The backbeat of {int(beat * 4) + 1} comes {name}, on {where}."
                    found.append(Fact(words, _told([note])))
                    break
    return found


def _across_the_beat(notes: Sequence[PhraseNote], meter: Meter) -> list[Fact]:
    """A voice that goes on at one distance which is no part of the beat: threes in sixteenths."""
    found = []
    for instrument in (Instrument.KICK, Instrument.SNARE, Instrument.CROSS_STICK):
        name = SPOKEN_NAMES[instrument]
        mine = sorted(
            (n for n in notes if n.instrument is instrument and not n.ghost),
            key=lambda n: (n.bar, n.position),
        )
        beats = [(n.bar + n.position) * meter.pulses for n in mine]
        run = 1
        for index, (one, other) in enumerate(pairwise(beats)):
            step = other - one
            before = beats[index] - beats[index - 1] if index else None
            run = run + 1 if step == before else 2
            ends = index == len(beats) - 2 or beats[index + 2] - other != step
            across = step.denominator != 1 and (1 / step).denominator != 1
            if ends and run >= LEAST_ACROSS and across:
                lit = mine[index + 2 - run : index + 2]
                parts = int(step * 4) if (step * 4).denominator == 1 else int(step * 3)
                kind = "sixteenths" if (step * 4).denominator == 1 else "triplets"
                where = place_words(lit[0].position, meter)
                words = f"The {name} goes in {parts}s over {kind}, {run} times from {where}."
                found.append(Fact(words, _told(lit)))
    return found


def _by_place(notes: Sequence[PhraseNote]) -> list[tuple[Place, list[PhraseNote]]]:
    at: dict[Place, list[PhraseNote]] = {}
    for note in notes:
        at.setdefault((note.bar, note.position), []).append(note)
    return sorted(at.items())


def _linear(notes: Sequence[PhraseNote], meter: Meter) -> list[Fact]:
    """A stretch in which nothing falls together, of different drums."""
    best: list[PhraseNote] = []
    run: list[PhraseNote] = []
    for _, mine in _by_place(notes):
        run = [*run, mine[0]] if len(mine) == 1 else []
        if len(run) > len(best) and len({note.instrument for note in run}) > 2:
            best = list(run)
    if len(best) < LEAST_LINEAR:
        return []
    first, last = best[0], best[-1]
    words = (
        f"Nothing falls together from {place_words(first.position, meter)} to "
        f"{place_words(last.position, meter)}: {len(best)} strokes one after the other."
    )
    return [Fact(words, _told(best))]


def _kick_alone(notes: Sequence[PhraseNote], meter: Meter) -> list[Fact]:
    """The kick alone on a beat, where the hands rest."""
    alone = [
        mine[0]
        for (_, position), mine in _by_place(notes)
        if len(mine) == 1
        and mine[0].instrument is Instrument.KICK
        and (position * meter.pulses).denominator == 1
    ]
    if not alone or len(alone) > 2:
        return []
    names = " and ".join(place_words(note.position, meter) for note in alone)
    return [Fact(f"The kick is alone on {names}.", _told(alone))]


def _answered(notes: Sequence[PhraseNote], meter: Meter) -> list[Fact]:
    """Backbeats that are each followed by a ghost, at one distance."""
    snares = sorted(
        (n for n in notes if n.instrument is Instrument.SNARE), key=lambda n: (n.bar, n.position)
    )
    loud = [n for n in snares if not n.ghost]
    pairs = [(one, other) for one, other in pairwise(snares) if not one.ghost and other.ghost]
    steps = {(b.bar + b.position - a.bar - a.position) * meter.pulses for a, b in pairs}
    if len(loud) < 2 or len(pairs) < len(loud) or len(steps) != 1:
        return []
    step = steps.pop()
    name = {
        Fraction(1, 4): "a sixteenth",
        Fraction(1, 2): "an eighth",
        Fraction(1, 3): "a triplet",
        Fraction(3, 4): "a dotted eighth",
    }.get(step)
    if name is None:
        return []
    lit = [note for pair in pairs for note in pair]
    return [Fact(f"A ghost answers each backbeat {name} later.", _told(lit))]


def _hat_accents(notes: Sequence[PhraseNote], meter: Meter) -> list[Fact]:
    """Accents of the steady hand, on the beat or off it."""
    loud = [n for n in notes if n.instrument in TIMEKEEPERS and n.accent]
    steady = [n for n in notes if n.instrument in TIMEKEEPERS]
    if len(loud) < 2 or len(loud) == len(steady):
        return []
    on_beat = [(note.position * meter.pulses).denominator == 1 for note in loud]
    if all(on_beat):
        return [Fact("The steady hand accents the beat.", _told(loud))]
    if not any(on_beat):
        return [Fact("The steady hand accents off the beat.", _told(loud))]
    return []

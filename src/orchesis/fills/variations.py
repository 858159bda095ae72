"""Variations of a fill to practise, by rule; and loops of groove and fill.

Kick first, the other way round, moved round the player's kit, and its last two beats at
the end of the section's own groove. Each is bars of notes like any others, so that everything that
can be said or shown of a bar can be said and shown of it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from orchesis.fills.describe import is_inside
from orchesis.groove.phrase import Phrase, PhraseNote, Standing
from orchesis.limbs.assign import assign_limbs
from orchesis.limbs.kit import STANDARD, Player
from orchesis.limbs.playable import PITCH_ORDER
from orchesis.music.instruments import FEET, TOMS, Instrument, Status
from orchesis.music.values import Bar, Fill, Hit, in_order, written

LOOPS = (2, 4, 8)
TAIL_BEATS = 2
GROOVE_VELOCITY = 80

Notes = tuple[Hit, ...]
"""Notes of a bar, all of bar 1; their times mean nothing but their order."""


@dataclass(frozen=True, slots=True)
class Exercise:
    """Something to practise: its bars one after the other, in the metre and division of `bar`.

    key : tells the exercises of one fill apart.
    """

    key: str
    name: str
    words: str
    bars: tuple[Notes, ...]


def exercises(
    fill: Fill,
    bars: Sequence[Bar],
    hits: Sequence[Hit],
    groove: Phrase | None,
    player: Player = STANDARD,
) -> tuple[Exercise, ...]:
    """All variations of a fill that differ from it, and its loops with the groove.

    bars, hits : of the song. groove : the phrase of the section that it belongs to.
    """
    bar = next(b for b in bars if b.number == fill.bar)
    own = _own_notes(fill, bars, hits)
    alone = own[-1]
    if not alone:
        return ()
    found = [Exercise("alone", "The fill alone", "Over and over, slowly.", own)]
    feet = from_the_feet(alone, len(bar.beats))
    if feet is not None:
        words = "The first stroke of each beat goes to the kick; the hands follow."
        found.append(Exercise("feet", "Kick first", words, (*own[:-1], feet)))
    turned = other_way_round(alone)
    if turned is not None:
        words = "The same rhythm, the drums in reverse order."
        found.append(Exercise("mirrored", "Drums reversed", words, (*own[:-1], turned)))
    moved = round_the_kit(alone, len(bar.beats), player)
    if moved is not None:
        words = "The same rhythm, a drum further on each beat."
        found.append(Exercise("moved", "Around the kit", words, (*own[:-1], moved)))
    if groove is not None:
        typical = _groove_bars(groove, bar)
        tail = _with_tail(typical[-1], alone, bar)
        words = "Its last two beats at the end of the section's own groove."
        found.append(Exercise("tail", "At the end of the groove", words, (tail,)))
        filled = _merged(typical[-1], alone, fill)
        for count in LOOPS:
            grooves = [typical[i % len(typical)] for i in range(count - len(own))]
            if len(grooves) < 1:
                continue
            words = f"{count - len(own)} {'bar' if count - len(own) == 1 else 'bars'} of groove, "
            words += "then the fill."
            loop = (*grooves, *own[:-1], filled)
            found.append(Exercise(f"loop-{count}", f"Loop of {count} bars", words, loop))
    return tuple(
        replace(one, bars=tuple(_handed(notes, bar, player) for notes in one.bars)) for one in found
    )


def _own_notes(fill: Fill, bars: Sequence[Bar], hits: Sequence[Hit]) -> tuple[Notes, ...]:
    numbers = [b.number for b in bars if fill.begins_in <= b.number <= fill.bar]
    inside = [hit for hit in written(hits) if is_inside(hit, fill)]
    return tuple(tuple(_plain(hit) for hit in inside if hit.bar == number) for number in numbers)


def _plain(hit: Hit) -> Hit:
    return replace(hit, bar=1, status=Status.HEARD, confidence=1.0, limb=None, reason="", source="")


def from_the_feet(notes: Notes, beats: int) -> Notes | None:
    """The first stroke of each beat on the kick; None where that changes nothing."""
    result: list[Hit] = []
    begun: set[int] = set()
    for place, group in _by_place(notes):
        beat = int(place * beats)
        if beat not in begun and place * beats == beat:
            result.append(replace(group[0], instrument=Instrument.KICK, ornament=None, ghost=False))
        else:
            result += group
        begun.add(beat)
    return _unless_same(result, notes)


def other_way_round(notes: Notes) -> Notes | None:
    """The drums of the hands in reverse order over the same rhythm; None where none moves."""
    hands = [group for _, group in _by_place(notes) if any(h.instrument not in FEET for h in group)]
    drums = [[h.instrument for h in group if h.instrument not in FEET] for group in hands]
    result = [hit for hit in notes if hit.instrument in FEET]
    for group, wanted in zip(hands, reversed(drums), strict=True):
        model = next(hit for hit in group if hit.instrument not in FEET)
        result += [replace(model, instrument=drum, ornament=None) for drum in wanted]
    return _unless_same(result, notes)


def round_the_kit(notes: Notes, beats: int, player: Player) -> Notes | None:
    """A drum further on each beat: snare, then the player's toms from the highest on."""
    toms = sorted(player.toms, key=PITCH_ORDER.index)
    way = [Instrument.SNARE, *toms]
    used = sorted({int(hit.position * beats) for hit in notes})
    drum_of = {beat: way[min(index, len(way) - 1)] for index, beat in enumerate(used)}
    movable = TOMS | {Instrument.SNARE}
    result = [
        replace(hit, instrument=drum_of[int(hit.position * beats)])
        if hit.instrument in movable
        else hit
        for hit in notes
    ]
    return _unless_same(result, notes)


def _unless_same(result: Sequence[Hit], notes: Notes) -> Notes | None:
    unique = {(hit.position, hit.instrument): hit for hit in result}
    if set(unique) == {(hit.position, hit.instrument) for hit in notes}:
        return None
    return tuple(sorted(unique.values(), key=in_order))


def _by_place(notes: Notes) -> list[tuple[Fraction, list[Hit]]]:
    at: dict[Fraction, list[Hit]] = {}
    for hit in sorted(notes, key=in_order):
        at.setdefault(hit.position, []).append(hit)
    return sorted(at.items())


def _groove_bars(groove: Phrase, bar: Bar) -> list[Notes]:
    """The typical bars of a phrase, without its occasional notes."""
    return [
        tuple(
            _note_of(note, bar)
            for note in groove.notes
            if note.bar == index and note.standing is not Standing.OCCASIONAL
        )
        for index in range(groove.length)
    ]


def _note_of(note: PhraseNote, bar: Bar) -> Hit:
    return Hit(
        time=bar.stroke_at(note.position),
        instrument=note.instrument,
        velocity=note.velocity or GROOVE_VELOCITY,
        bar=1,
        position=note.position,
        ghost=note.ghost,
        accent=note.accent,
        limb=note.limb,
        ornament=note.ornament,
    )


def _with_tail(groove: Notes, fill: Notes, bar: Bar) -> Notes:
    start = Fraction(max(0, len(bar.beats) - TAIL_BEATS), len(bar.beats))
    kept = [hit for hit in groove if hit.position < start]
    tail = [hit for hit in fill if hit.position >= start]
    return tuple(sorted([*kept, *tail], key=in_order))


def _merged(groove: Notes, fill_notes: Notes, fill: Fill) -> Notes:
    """A bar of groove up to the fill, the fill, and what comes after it."""
    begins = fill.at if fill.begins_in == fill.bar else Fraction(0)
    kept = [hit for hit in groove if hit.position < begins or hit.position >= fill.until]
    return tuple(sorted([*kept, *fill_notes], key=in_order))


def _handed(notes: Notes, bar: Bar, player: Player) -> Notes:
    timed = [replace(hit, time=bar.stroke_at(hit.position)) for hit in notes]
    return assign_limbs(sorted(timed, key=in_order), len(bar.beats), player)

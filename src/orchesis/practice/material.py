"""What is practised: a groove or a fill as bars with notes that one player can play.

A groove is the typical phrase of its section, on the first of the section's bars; a fill is the
bars that it stands in. Notes that one player cannot play are left to an overdub, and that is said.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from orchesis.errors import Missing
from orchesis.groove.phrase import Standing, find_phrases
from orchesis.limbs.assign import assign_limbs
from orchesis.limbs.kit import STANDARD, Player
from orchesis.limbs.playable import is_plain, playable
from orchesis.music.values import Bar, Fill, Hit, Section, Transcription, in_order, written


@dataclass(frozen=True, slots=True)
class Material:
    """Bars to be looped and their notes, each with its limb.

    start, end : of a fill, where it begins in the first bar and ends in the last; of a groove, all.
    left_to_overdub : notes that one player cannot play beside the others.
    optional, occasional : of a groove, the notes among `hits` that are not its core, and those that
    the song has now and then and that are not among `hits`; each with how firmly it belongs.
    loops : of a fill, the bars of the song that lead into it together with it, short to long.
    """

    name: str
    bars: tuple[Bar, ...]
    hits: tuple[Hit, ...]
    start: Fraction = Fraction(0)
    end: Fraction = Fraction(1)
    left_to_overdub: tuple[Hit, ...] = ()
    is_fill: bool = False
    optional: tuple[tuple[Hit, Standing], ...] = ()
    occasional: tuple[tuple[Hit, Standing], ...] = ()
    loops: tuple[Material, ...] = ()

    @property
    def seconds(self) -> float:
        """How long one turn of the loop lasts at the tempo of the record."""
        return self.bars[-1].end - self.bars[0].start

    @property
    def fill_hits(self) -> tuple[Hit, ...]:
        """The notes of the fill itself; of a groove all notes."""
        first, last = self.bars[0].number, self.bars[-1].number
        return tuple(
            hit
            for hit in self.hits
            if (hit.bar, hit.position) >= (first, self.start)
            and (hit.bar < last or hit.position < self.end)
        )


def has_groove(song: Transcription, section: Section) -> bool:
    """Whether anything is typical of a section."""
    phrases = find_phrases(song.bars_in(section), song.hits_in(section), song.fills)
    return bool(phrases) and any(
        note.standing is not Standing.OCCASIONAL for note in phrases[0].notes
    )


def groove_material(song: Transcription, section: Section, player: Player = STANDARD) -> Material:
    """The typical phrase of a section. Raises Missing where nothing is typical of it."""
    bars = song.bars_in(section)
    phrases = find_phrases(bars, song.hits_in(section), song.fills)
    if not phrases:
        raise Missing("this section has no groove that could be practised")
    phrase = phrases[0]
    first = next(index for index, bar in enumerate(bars) if bar.number == phrase.first_bar)
    own = bars[first : first + phrase.length]
    notes = [
        (note.in_bar(own[note.bar]), note.standing) for note in phrase.notes if note.bar < len(own)
    ]
    firm = [hit for hit, standing in notes if standing is not Standing.OCCASIONAL]
    made = material(section.label, own, firm, player)
    usual = {hit.place for hit, standing in notes if standing is Standing.USUAL}
    now_and_then = [(hit, standing) for hit, standing in notes if standing is Standing.OCCASIONAL]
    return replace(
        made,
        optional=tuple((hit, Standing.USUAL) for hit in made.hits if hit.place in usual),
        occasional=tuple(now_and_then),
    )


LOOP_BARS = (2, 4)
"""Groove and fill in turn: so many bars that end with the fill."""


def fill_material(song: Transcription, fill: Fill, player: Player = STANDARD) -> Material:
    """The bars of a fill, what leads into it included."""
    made = _bars_to(song, fill, fill.begins_in, player)
    loops = [
        _bars_to(song, fill, fill.bar - length + 1, player)
        for length in LOOP_BARS
        if song.bars[0].number <= fill.bar - length + 1 < fill.begins_in
    ]
    return replace(made, start=fill.at, end=fill.until, is_fill=True, loops=tuple(loops))


def _bars_to(song: Transcription, fill: Fill, first: int, player: Player) -> Material:
    bars = tuple(bar for bar in song.bars if first <= bar.number <= fill.bar)
    numbers = {bar.number for bar in bars}
    hits = [hit for hit in written(song.hits) if hit.bar in numbers]
    return material(f"Fill in bar {fill.bar}", bars, hits, player)


def material(
    name: str, bars: Sequence[Bar], hits: Sequence[Hit], player: Player = STANDARD
) -> Material:
    """These notes as a player can play them. Raises Missing where there are none."""
    ordered = sorted(hits, key=in_order)
    if not ordered or not bars:
        raise Missing("there is nothing here that could be practised")
    if is_plain(ordered, player):
        # The hands of the score are the truth: they are practised as they stand there.
        played = tuple(hit for hit in ordered if hit.limb is not None)
        beside = tuple(hit for hit in ordered if hit.limb is None)
        return Material(name, tuple(bars), played, left_to_overdub=beside)
    done = playable(ordered, bars[0].meter.pulses, player)
    played = assign_limbs(done.played, bars[0].meter.pulses, player)
    kept = [
        found if own.limb is None else own for own, found in zip(done.played, played, strict=True)
    ]
    return Material(
        name,
        tuple(bars),
        tuple(sorted((hit for hit in kept if hit.limb is not None), key=in_order)),
        left_to_overdub=done.overdubs,
    )

"""Gestures that are asked for in a word: the same in like bars, as the phrase, a copy, confirmed.

Each becomes edits of notes, so that it is stored, told and taken back like any other.
"""

from __future__ import annotations

from collections.abc import Sequence

from orchesis.edits.edit import Edit, inverse
from orchesis.edits.gesture import Gesture, apply_gesture
from orchesis.edits.make import as_bar, as_the_phrase, confirmed, in_like_bars
from orchesis.errors import InvalidTranscription
from orchesis.groove.alike import kinds_of_bars
from orchesis.groove.phrase import Phrase, find_phrases
from orchesis.music.values import Transcription


def like_gesture(song: Transcription, edits: Sequence[Edit]) -> Gesture:
    """Edits that were made together, in all bars that played the same before them.

    Each edited bar has like bars of its own; what was edited itself is left as it is. Raises
    InvalidTranscription where no other bar can take any of them.
    """
    edited = {edit.bar for edit in edits}
    found: list[Edit] = []
    piece = song
    for bar in sorted(edited):
        mine = [edit for edit in edits if edit.bar == bar]
        others = [number for number in like_bars(song, mine) if number not in edited]
        for edit in mine:
            there = in_like_bars(piece, edit, others)
            found += there
            piece = _with_edits(piece, there)
    if not found:
        raise InvalidTranscription("no other bar like this one can take that change")
    return Gesture(tuple(found), f"The same in {named([item.bar for item in found])}")


def _with_edits(song: Transcription, edits: Sequence[Edit]) -> Transcription:
    if not edits:
        return song
    changed = apply_gesture(
        {edit.bar: song.hits_of(edit.bar) for edit in edits}, Gesture((*edits,))
    )
    rest = [hit for hit in song.hits if hit.bar not in changed]
    return song.with_hits([*rest, *(hit for hits in changed.values() for hit in hits)])


def phrase_gesture(song: Transcription, bars: Sequence[int]) -> Gesture:
    """Bars made as their phrase has them. Raises InvalidTranscription for nothing to do."""
    edits = [edit for n in bars for edit in as_the_phrase(song, phrase_of(song, n), n)]
    return Gesture(tuple(edits), _sentence(f"{named(bars)} made as the phrase"))


def copy_gesture(song: Transcription, sources: Sequence[int], bars: Sequence[int]) -> Gesture:
    """Bars copied over others, each as it is now: one step, also where they overlap.

    sources : each over the bar at its place in `bars`; a single one over all of them.

    Raises InvalidTranscription where there is nothing to do, or not one source for each bar.
    """
    if len(sources) == 1:
        pairs = [(sources[0], bar) for bar in bars]
    elif len(sources) == len(set(bars)) == len(bars):
        pairs = list(zip(sources, bars, strict=True))
    else:
        raise InvalidTranscription(f"{len(sources)} bars cannot be copied over {len(bars)}")
    edits = [edit for source, bar in pairs for edit in as_bar(song, source, bar)]
    return Gesture(tuple(edits), _sentence(f"{named(sources)} copied to {named(bars)}"))


def confirm_gesture(song: Transcription, bars: Sequence[int], *, settled: bool) -> Gesture:
    """All notes of bars confirmed, or opened again. Raises as above."""
    words = f"{named(bars)} {'confirmed' if settled else 'open again'}"
    return Gesture(tuple(confirmed(song, bars, settled)), _sentence(words))


def named(bars: Sequence[int]) -> str:
    """Bars in a few words: "bar 4", "bars 4 to 7", "3 bars"."""
    distinct = sorted(set(bars))
    if len(distinct) == 1:
        return f"bar {distinct[0]}"
    if distinct and distinct[-1] - distinct[0] == len(distinct) - 1:
        return f"bars {distinct[0]} to {distinct[-1]}"
    return f"{len(distinct)} bars"


def _sentence(words: str) -> str:
    return f"{words[:1].upper()}{words[1:]}"


def like_bars(song: Transcription, edits: Sequence[Edit]) -> list[int]:
    """The bars that played what the edited bar played before, in all sections of its letter.

    edits : of one bar, in the order in which they were made.
    """
    number = edits[0].bar
    home = song.section_of(number)
    if home is None:
        return []
    try:
        bars = {number: song.hits_of(number)}
        before = apply_gesture(bars, Gesture(tuple(map(inverse, reversed(edits)))))[number]
    except InvalidTranscription:
        before = song.hits_of(number)
    others = [hit for hit in song.hits if hit.bar != number]
    as_it_was = song.with_hits([*others, *before])
    alike = [s for s in song.sections if s is home or (home.mark and s.mark == home.mark)]
    bars_there = [bar for section in alike for bar in as_it_was.bars_in(section)]
    hits_there = [hit for section in alike for hit in as_it_was.hits_in(section)]
    for kind in kinds_of_bars(bars_there, hits_there):
        if number in kind.bars:
            return list(kind.bars)
    return []


def phrase_of(song: Transcription, number: int) -> Phrase:
    """The phrase that a bar belongs to. Raises InvalidTranscription outside all sections."""
    home = song.section_of(number)
    phrases = find_phrases(song.bars_in(home), song.hits_in(home), song.fills) if home else ()
    for phrase in phrases:
        if phrase.first_bar <= number < phrase.first_bar + phrase.bars:
            return phrase
    raise InvalidTranscription(f"bar {number} is in no section: there is no phrase to take")

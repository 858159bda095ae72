"""Choosing the sticking of a fill, and keeping every hand to one stroke at a time: as edits."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace
from fractions import Fraction

from orchesis.edits.edit import Edit
from orchesis.edits.gesture import Gesture
from orchesis.errors import InvalidTranscription, Missing
from orchesis.fills.describe import length_in_beats, places_of
from orchesis.fills.families import Kinship, kinship, notes_of
from orchesis.fills.hands import FillHands, hands_of_fill, letters_of
from orchesis.limbs.assign import assign_limbs
from orchesis.limbs.kit import STANDARD, Player
from orchesis.music.instruments import FEET, Limb
from orchesis.music.values import Bar, Fill, Hit, Transcription, written


def apply_sticking(
    song: Transcription, bar: int, letters: str, player: Player, *, also_kin: bool = False
) -> Gesture:
    """Another sticking for the fill that ends in a bar.

    Parameters
    ----------
    letters : of one of the ways that are offered for it: R, L, or B, a stroke.
    also_kin : fills that are the same again get the same hands.

    Raises
    ------
    Missing : no fill ends there.
    InvalidTranscription : that way is not offered, or it is the one that the fill has.
    """
    fill = next((fill for fill in song.fills if fill.bar == bar), None)
    if fill is None:
        raise Missing("no fill ends in this bar")
    own = _hands(song, fill, player)
    way = next((way for way in own.ways if letters_of(way.hands) == letters), None)
    if way is None:
        raise InvalidTranscription(f"{letters[:40]} is no way to play this fill any more")
    edits = _edits(own, way.hands)
    bars = [fill.bar]
    for other in song.fills if also_kin else ():
        if other == fill or not _is_same(song, fill, other):
            continue
        theirs = _hands(song, other, player)
        if [s.drums for s in theirs.strokes] == [s.drums for s in own.strokes]:
            edits += _edits(theirs, way.hands)
            bars.append(other.bar)
    if not edits:
        raise InvalidTranscription("this fill is played so already")
    named = f"bar {bars[0]}" if len(bars) == 1 else f"bars {', '.join(map(str, bars[:6]))}"
    spaced = " ".join(letters[:24]) + (" …" if len(letters) > 24 else "")
    return Gesture(tuple(edits), f"Sticking of the fill in {named}: {spaced}")


def resolve_hand_conflicts(
    bars: Mapping[int, Sequence[Hit]], touched: set[tuple[int, Fraction]], pulses: Mapping[int, int]
) -> tuple[Edit, ...]:
    """Edits by which no hand has two strokes at one of the touched places.

    Parameters
    ----------
    bars : the hits of each bar, as they are after a change. touched : bar and position.
    pulses : felt beats of each bar.

    What no hand is free for has no limb then: it is told of as unplayable where it stands.
    """
    found: list[Edit] = []
    for number in sorted({bar for bar, _ in touched}):
        hits = list(written(bars[number]))
        at: dict[Fraction, list[Hit]] = defaultdict(list)
        for hit in hits:
            if hit.instrument not in FEET:
                at[hit.position].append(hit)
        clash = {
            position
            for position, here in at.items()
            if (number, position) in touched and _is_clash(here)
        }
        if not clash:
            continue
        given = dict(zip(hits, assign_limbs(hits, pulses[number], STANDARD), strict=True))
        for position in sorted(clash):
            found += [
                Edit(hit, replace(hit, limb=given[hit].limb))
                for hit in at[position]
                if hit.limb is not given[hit].limb
            ]
    return tuple(found)


def _is_clash(here: Sequence[Hit]) -> bool:
    limbs = [hit.limb for hit in here if hit.limb is not None]
    return len(set(limbs)) < len(limbs)


def _hands(song: Transcription, fill: Fill, player: Player) -> FillHands:
    _, hits = _about(song, fill)
    return hands_of_fill(fill, hits, len(song.bar(fill.bar).beats), player)


def _about(song: Transcription, fill: Fill) -> tuple[list[Bar], list[Hit]]:
    """The bars of a fill and the one after it, with their notes."""
    first = song.bars[0].number
    bars = list(song.bars[fill.begins_in - first : fill.bar - first + 2])
    return bars, [hit for bar in bars for hit in written(song.hits_of(bar.number))]


def _is_same(song: Transcription, one: Fill, other: Fill) -> bool:
    notes = []
    for fill in (one, other):
        bars, hits = _about(song, fill)
        notes.append(notes_of(places_of(fill, bars, hits), length_in_beats(fill, bars)))
    return kinship(notes[0], notes[1]) is Kinship.SAME


def _edits(own: FillHands, hands: Sequence[Sequence[Limb]]) -> list[Edit]:
    return [
        Edit(hit, replace(hit, limb=limb))
        for group, choice in zip(own.groups, hands, strict=True)
        for hit, limb in zip(group, choice, strict=True)
        if hit.limb is not limb
    ]

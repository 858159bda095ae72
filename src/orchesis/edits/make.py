"""Making gestures: what an edit becomes in like bars, a bar as the phrase has it, a copied bar."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from orchesis.edits.edit import Edit
from orchesis.groove.phrase import Phrase, Standing
from orchesis.music.instruments import Status
from orchesis.music.values import Bar, Hit, Transcription
from orchesis.rhythm.due import written_time

TAKEN_OVER = (
    "instrument",
    "position",
    "ghost",
    "accent",
    "velocity",
    "status",
    "limb",
    "reason",
    "ornament",
    "opening",
    "source",
)
"""What an edit may change of a note in like bars; its time and evidence are its own."""


def between(before: Sequence[Hit], after: Sequence[Hit]) -> tuple[Edit, ...]:
    """The edits that make one bar's hits into others: removals and changes first, then additions.

    A hit that stays at its place is changed there; nothing is said of what stays as it is.
    """
    old = {hit.place[1:]: hit for hit in before}
    new = {hit.place[1:]: hit for hit in after}
    edits = [Edit(hit, new.get(place)) for place, hit in old.items() if new.get(place) != hit]
    edits += [Edit(None, hit) for place, hit in new.items() if place not in old]
    return tuple(edits)


def in_like_bars(song: Transcription, edit: Edit, bars: Iterable[int]) -> tuple[Edit, ...]:
    """The same edit in other bars, as far as it applies there.

    A note is found by its place; there it keeps its own time, loudness and evidence, and gets what
    the edit changes. Bars that lack the note, have it already or cannot hold it are passed over.
    """
    found = []
    for number in bars:
        if number == edit.bar:
            continue
        bar = song.bar(number)
        hits = {hit.place[1:]: hit for hit in song.hits_of(number)}
        mine = hits.get(edit.before.place[1:]) if edit.before else None
        if edit.before and mine is None:
            continue
        after = _as_there(song, edit, mine, bar)
        if after is not None and (after == mine or not _fits(after, bar)):
            continue
        if after is not None and after.place[1:] in hits and hits[after.place[1:]] != mine:
            continue
        found.append(Edit(mine, after))
    return tuple(found)


def _as_there(song: Transcription, edit: Edit, mine: Hit | None, bar: Bar) -> Hit | None:
    after, before = edit.after, edit.before
    if after is None:
        return None
    if mine is None or before is None:
        time = written_time(song, bar.number, after.position)
        return replace(after, bar=bar.number, time=time)
    changed = {name: getattr(after, name) for name in TAKEN_OVER if _differ(after, before, name)}
    return replace(mine, **changed, settled=after.settled)


def _differ(one: Hit, other: Hit, name: str) -> bool:
    return bool(getattr(one, name) != getattr(other, name))


def _fits(hit: Hit, bar: Bar) -> bool:
    """Whether a bar of this metre has such a place at all."""
    return (hit.position * bar.meter.pulses * 48).denominator == 1


def as_the_phrase(song: Transcription, phrase: Phrase, number: int) -> tuple[Edit, ...]:
    """A bar made into what its phrase plays there: core and usual notes, nothing else.

    Notes that are there already stay as they are; what the phrase lacks is left out, not lost.
    """
    wanted = {
        (note.position, note.instrument): note
        for note in phrase.notes
        if note.bar == (number - phrase.first_bar) % phrase.length
        and note.standing is not Standing.OCCASIONAL
    }
    after = []
    here = {hit.place[1:]: hit for hit in song.hits_of(number)}
    for place, hit in here.items():
        if place in wanted:
            is_out = hit.status is Status.LEFT_OUT
            after.append(replace(hit, status=Status.INFERRED) if is_out else hit)
        elif hit.status is not Status.LEFT_OUT:
            after.append(
                replace(hit, status=Status.LEFT_OUT, settled=True, reason="left out: as the phrase")
            )
        else:
            after.append(hit)
    for place, note in wanted.items():
        if place not in here:
            after.append(
                Hit(
                    time=written_time(song, number, note.position),
                    instrument=note.instrument,
                    velocity=note.velocity,
                    bar=number,
                    position=note.position,
                    ghost=note.ghost,
                    accent=note.accent,
                    status=Status.INFERRED,
                    limb=note.limb,
                    reason=f"as the phrase: {note.count} of {note.asked} bars have it",
                    ornament=note.ornament,
                    opening=note.opening,
                    settled=True,
                )
            )
    return between(song.hits_of(number), after)


def as_bar(song: Transcription, source: int, target: int) -> tuple[Edit, ...]:
    """A bar made into a copy of another; strokes that both have keep their own time and loudness.

    Raises InvalidTranscription when there is no such bar.
    """
    home = song.bar(target)
    song.bar(source)
    here = {hit.place[1:]: hit for hit in song.hits_of(target)}
    after = []
    for hit in song.hits_of(source):
        if not _fits(hit, home):
            continue
        mine = here.get(hit.place[1:])
        time = mine.time if mine else written_time(song, target, hit.position)
        after.append(
            replace(
                hit,
                bar=target,
                time=time,
                velocity=mine.velocity if mine else hit.velocity,
                settled=True,
                reason=hit.reason if mine else f"copied from bar {source}",
            )
        )
    return between(song.hits_of(target), after)


def confirmed(song: Transcription, bars: Iterable[int], settled: bool = True) -> tuple[Edit, ...]:
    """Every note of these bars as a person's own decision, or open again.

    What was doubtful is taken as heard: whoever confirms a bar has listened to it.
    """
    edits = []
    for number in bars:
        for hit in song.hits_of(number):
            after = replace(hit, settled=settled)
            if settled and hit.status is Status.DOUBTFUL:
                after = replace(after, status=Status.HEARD, reason="confirmed by ear")
            if after != hit:
                edits.append(Edit(hit, after))
    return tuple(edits)


def settled_bars(song: Transcription) -> frozenset[int]:
    """The numbers of the bars in which every note is a person's own decision."""
    notes: dict[int, bool] = {}
    for hit in song.hits:
        notes[hit.bar] = notes.get(hit.bar, True) and hit.settled
    return frozenset(number for number, is_settled in notes.items() if is_settled)

"""One drum of a section, of all sections like it, or of the song, changed in one gesture."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from enum import StrEnum

from orchesis.edits.edit import Edit
from orchesis.edits.gesture import Gesture
from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import FEET, SPOKEN_NAMES, Instrument, Status
from orchesis.music.values import Hit, Transcription

NEVER_PLAYED = "left out by ear"


class Scope(StrEnum):
    """Where a drum is changed."""

    SECTION = "section"
    LIKE = "like"
    """The section and all that have its letter."""

    SONG = "song"


def change_voice(
    song: Transcription,
    instrument: Instrument,
    bar: int,
    scope: Scope,
    to: Instrument | None,
) -> Gesture:
    """All strokes of a drum, where it is asked, are another's; or are not played.

    Parameters
    ----------
    bar : one of the section that is meant.
    to : what the strokes are; None: they are left out, and can be brought back one by one.

    Raises
    ------
    InvalidTranscription : there is nothing to change, or a hand's stroke would be a foot's.

    Where the other drum is written at the same place already, the stroke that is in the way is
    left out: one drum is struck once at a time.
    """
    if to is instrument:
        raise InvalidTranscription("that is what it is called already")
    if to is not None and (to in FEET) is not (instrument in FEET):
        raise InvalidTranscription(
            f"a {SPOKEN_NAMES[instrument]} and a {SPOKEN_NAMES[to]} are not played by one limb"
        )
    where, words = _bars_of(song, bar, scope)
    edits: list[Edit] = []
    count = 0
    for number in where:
        hits = song.hits_of(number)
        taken = {hit.position for hit in hits if hit.instrument is to}
        for hit in hits:
            if hit.instrument is not instrument or hit.status is Status.LEFT_OUT:
                continue
            count += 1
            edits.append(Edit(hit, _changed(hit, to, is_taken=hit.position in taken)))
    if not edits:
        raise InvalidTranscription(f"no {SPOKEN_NAMES[instrument]} is played {words}")
    name = SPOKEN_NAMES[instrument].capitalize()
    many = f"{count} {'stroke' if count == 1 else 'strokes'}"
    told = f"is a {SPOKEN_NAMES[to]}" if to is not None else "is not played"
    return Gesture(tuple(edits), f"{name} {told} {words}: {many}")


def _changed(hit: Hit, to: Instrument | None, *, is_taken: bool) -> Hit:
    if to is None:
        return replace(hit, status=Status.LEFT_OUT, reason=NEVER_PLAYED, settled=True)
    if is_taken:
        reason = f"the {SPOKEN_NAMES[to]} is written there already"
        return replace(hit, status=Status.LEFT_OUT, reason=reason, settled=True)
    opening = hit.opening if to is Instrument.HIHAT_OPEN else None
    status = Status.HEARD if hit.status is Status.DOUBTFUL else hit.status
    return replace(hit, instrument=to, opening=opening, status=status, settled=True)


def _bars_of(song: Transcription, bar: int, scope: Scope) -> tuple[Sequence[int], str]:
    """The bars that are meant, and where that is in words."""
    if scope is Scope.SONG:
        return [one.number for one in song.bars], "in the whole song"
    home = song.section_of(bar)
    if home is None:
        raise InvalidTranscription(f"bar {bar} is in no section")
    alike = [home]
    if scope is Scope.LIKE and home.mark:
        alike = [section for section in song.sections if section.mark == home.mark]
    numbers = [one.number for section in alike for one in song.bars_in(section)]
    labels = [section.label for section in alike]
    named = labels[0] if len(labels) == 1 else f"{', '.join(labels[:-1])} and {labels[-1]}"
    return numbers, f"in {named}"

"""What the user has confirmed outlives a new listening run.

A confirmed grid keeps its beats and its reading: the newly heard strokes are written on it.
Confirmed sections keep their place, their name and their letter; the newly found ones fill what is
left between them.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace
from itertools import pairwise

import numpy as np

from orchesis.form.label import LETTERS
from orchesis.music.values import Section, Transcription
from orchesis.rhythm.rewrite import beats_at_level, on_beats, sections_on

GRID_FINDINGS = ("tempo", "meter", "first beat")


def with_confirmed(
    old: Transcription, new: Transcription, confirmed: Collection[str]
) -> Transcription:
    """The new transcription with what was confirmed in the old one.

    confirmed : findings that the user confirmed, of "tempo", "meter", "first beat", "feel".
    """
    result = new
    if old.readings and new.bars and any(name in confirmed for name in GRID_FINDINGS):
        reading = old.readings[0]
        kept = replace(new, tracked_beats=old.tracked_beats)
        beats = beats_at_level(old.tracked_beats, reading.key)
        result = on_beats(kept, beats, reading, old.readings)
    if "feel" in confirmed:
        result = replace(result, feel=old.feel)
    settled = [section for section in old.sections if section.confirmed]
    if settled and result.bars:
        result = replace(result, sections=_sections(result, settled))
    return result


def _sections(song: Transcription, settled: list[Section]) -> tuple[Section, ...]:
    """Confirmed sections where they were, found ones in the gaps between them."""
    lines = np.array([*(bar.start for bar in song.bars), song.bars[-1].end])

    def nearest(time: float) -> int:
        return int(np.argmin(np.abs(lines - time)))

    owner: list[Section | None] = [None] * len(song.bars)
    for section in song.sections:
        for index in range(nearest(section.start), nearest(section.end)):
            owner[index] = section
    used = {section.mark for section in settled}
    free = iter(letter for letter in LETTERS if letter not in used)
    renamed: dict[str, str] = {}
    for section in settled:
        for index in range(nearest(section.start), min(nearest(section.end), len(owner))):
            owner[index] = section
    cuts = [0, *(i for i in range(1, len(owner)) if owner[i] is not owner[i - 1]), len(owner)]
    made = []
    for first, last in pairwise(cuts):
        section = owner[first] or song.sections[-1]
        if section not in settled and section.mark:
            mark = renamed.setdefault(section.mark, "")
            if not mark:
                mark = renamed[section.mark] = next(free, section.mark)
            section = replace(section, mark=mark)
        made.append(replace(section, start=float(lines[first]), end=float(lines[last])))
    return sections_on(song.bars, made)

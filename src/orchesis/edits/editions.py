"""How two versions of a song differ, told to whoever plays from the older one."""

from __future__ import annotations

from collections import defaultdict

from orchesis.edits.between import edits_between, same_grid
from orchesis.music.values import Transcription

MOST_TOLD = 6
"""Bars, sections that are named: whoever wants to know more looks."""


def told_changes(old: Transcription, new: Transcription) -> list[str]:
    """What is otherwise: the grid, the form, the bars; empty where nothing is."""
    told = []
    if not same_grid(old, new):
        told.append(f"counted at {new.tempo_bpm:.0f} bpm in {new.meter}, {len(new.bars)} bars")
    names = [(section.label, section.bars) for section in new.sections]
    if names != [(section.label, section.bars) for section in old.sections]:
        listed = ", ".join(f"{name} {bars}" for name, bars in names[:MOST_TOLD])
        told.append(f"the form is another: {listed}{' ...' if len(names) > MOST_TOLD else ''}")
    numbers = _changed_bars(old, new)
    if numbers:
        shown = ", ".join(map(str, numbers[:MOST_TOLD]))
        more = f" and {len(numbers) - MOST_TOLD} more" if len(numbers) > MOST_TOLD else ""
        told.append(f"bar{'s' if len(numbers) > 1 else ''} {shown}{more} changed")
    return told


def _changed_bars(old: Transcription, new: Transcription) -> list[int]:
    if same_grid(old, new):
        return [proposal.bar for proposal in edits_between(old, new)]
    looks = []
    for song in (old, new):
        found: dict[int, set[tuple[object, ...]]] = defaultdict(set)
        for hit in song.hits:
            found[hit.bar].add(
                (hit.position, hit.instrument, hit.ghost, hit.accent, hit.is_half_open)
            )
        looks.append(found)
    before, after = looks
    return [number for number in sorted(after) if before.get(number, set()) != after[number]]

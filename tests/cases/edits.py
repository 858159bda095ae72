"""Edits and what they make of bars, by the core: the page applies the same ones by itself.

`python -m tests.cases.edits` writes edits.json beside this file; `tests/core/test_shared_cases.py`
proves it current, and `frontend/tests/sharedCases.test.ts` runs the page's own code on it.
"""

from __future__ import annotations

import json
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

from orchesis.edits.edit import Edit, EditConflict, edit_to_json
from orchesis.edits.gesture import Gesture, apply_gesture
from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import Instrument, Limb, Ornament, Status
from orchesis.music.json import hit_to_json
from tests.composing import ROCK, song

FILE = Path(__file__).with_suffix(".json")
PIECE = song([ROCK, {**ROCK, Instrument.SNARE: "....X..g....X..."}])
BARS = {bar.number: PIECE.hits_of(bar.number) for bar in PIECE.bars}


def cases() -> list[dict[str, Any]]:
    """Name, edits, and the bars that they changed; null where the edits do not fit."""
    kick = next(hit for hit in BARS[1] if hit.instrument is Instrument.KICK)
    snare = next(hit for hit in BARS[2] if hit.instrument is Instrument.SNARE)
    flam = replace(snare, ornament=Ornament.FLAM)
    moved = replace(kick, position=Fraction(3, 16))
    crash = replace(kick, instrument=Instrument.CRASH, limb=Limb.RIGHT_HAND)
    named = {
        "a note removed": (Edit(kick, None),),
        "a note added beside another of its place": (Edit(None, crash),),
        "a ghost, an accent, a flam": (
            Edit(kick, replace(kick, ghost=True)),
            Edit(snare, flam),
            Edit(flam, replace(flam, accent=not flam.accent)),
        ),
        "moved, and back": (Edit(kick, moved), Edit(moved, kick)),
        "marked doubtful, then left out": (
            Edit(kick, replace(kick, status=Status.DOUBTFUL)),
            Edit(
                replace(kick, status=Status.DOUBTFUL),
                replace(kick, status=Status.LEFT_OUT, reason="an echo"),
            ),
        ),
        "settled in two bars at one stroke": (
            Edit(kick, replace(kick, settled=True)),
            Edit(snare, replace(snare, settled=True)),
        ),
        "given to another limb": (Edit(snare, replace(snare, limb=Limb.RIGHT_HAND)),),
        "what is not there cannot be removed": (Edit(crash, None),),
        "a place is taken": (Edit(None, replace(kick, ghost=True)),),
        "another loudness than it has is another note": (Edit(replace(kick, velocity=1), None),),
        "one that does not fit spoils all": (Edit(kick, None), Edit(crash, None)),
        "removed twice": (Edit(kick, None), Edit(kick, None)),
        "a bar that the song has not": (Edit(None, replace(kick, bar=9)),),
    }
    return [_case(name, edits) for name, edits in named.items()]


def _case(name: str, edits: tuple[Edit, ...]) -> dict[str, Any]:
    try:
        changed = apply_gesture(BARS, Gesture(edits))
        made = [_bar(number, hits) for number, hits in changed.items()]
    except (EditConflict, InvalidTranscription):
        made = None
    return {
        "name": name,
        "edits": [edit_to_json(edit) for edit in edits],
        "after": made,
    }


def _bar(number: int, hits: Any) -> dict[str, Any]:
    return {"number": number, "hits": [hit_to_json(hit) for hit in hits]}


def text() -> str:
    """The file: the bars that all cases begin with, then a line a case."""
    bars = json.dumps([_bar(number, hits) for number, hits in BARS.items()])
    lines = ",\n".join(json.dumps(case) for case in cases())
    return f'{{"bars": {bars},\n"cases": [\n{lines}\n]}}\n'


if __name__ == "__main__":
    FILE.write_text(text())

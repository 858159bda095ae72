"""Orchesis: from a recorded song to a drum chart that people play along with.

>>> import orchesis
>>> song = orchesis.load("demo/songs/rain-on-the-awning.score.json")
>>> pdf = orchesis.render_chart(song, reading="essence")

The names below are the public face (`orchesis.public`). The rest of the package is rules and
computation: it knows no database, no web and no screen, and touches only the files that it is
handed. A part imports only from parts below it: cli, public, pipeline, exchange, practice, chart,
edits, feel, form, fills, limbs, lexicon, groove, rhythm, sources, listening, audio, music.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from orchesis.public import (
        Beats,
        compare,
        detect_onsets,
        find_fills,
        find_grooves,
        find_sections,
        load,
        practice_plan,
        render_chart,
        save,
        sticking,
        track_beats,
        transcribe,
    )

__version__ = "0.1.0"

__all__ = [
    "Beats",
    "compare",
    "detect_onsets",
    "find_fills",
    "find_grooves",
    "find_sections",
    "load",
    "practice_plan",
    "render_chart",
    "save",
    "sticking",
    "track_beats",
    "transcribe",
]


def __getattr__(name: str) -> Any:
    # Loaded when first asked for: what listens takes a second to import.
    if name in __all__:
        return getattr(import_module("orchesis.public"), name)
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")


def __dir__() -> list[str]:
    return sorted([*globals(), *__all__])

"""What Python and TypeScript both must know, written once in the core: the front end's copy of it.

`vocabulary_text` is the text of `frontend/src/api/vocabulary.ts`; `studio.api_types` writes it, and
`./orchesis check` proves it current.
"""

from __future__ import annotations

import json
from typing import Any

from orchesis.audio.decode import (
    LARGEST_BYTES,
    LIMITS_TEXT,
    LONGEST_SECONDS,
    SHORTEST_SECONDS,
    SUFFIXES,
)
from orchesis.chart.ornaments import AWAY, SOFTER
from orchesis.exchange.bundle import BUNDLE_SUFFIX
from orchesis.exchange.imported import GM_KEYS
from orchesis.exchange.read import ENDINGS
from orchesis.groove.count import DEFAULT_SCHOOL, SCHOOLS
from orchesis.limbs.lanes import LIMB_NAMES, PLAYED_BY
from orchesis.music.instruments import CROSSED, SPOKEN_NAMES, TOMS, Instrument, Limb
from orchesis.music.values import HALF_OPEN_BELOW, HALF_OPENING
from orchesis.rhythm.tapped import FEWEST_TAPS

HEAD = """/**
 * Generated from the core by `python -m studio.api_types`: do not edit.
 * What Python and TypeScript both must know is written once, there.
 */
import type { Instrument, Limb, Ornament } from './client'
"""


def vocabulary_text() -> str:
    """The generated file."""
    constants: list[tuple[str, str, str, Any]] = [
        ("LIMBS", "readonly Limb[]", "The four lanes, from above.", list(Limb)),
        ("LIMB_NAMES", "Record<Limb, string>", "", dict(LIMB_NAMES)),
        (
            "INSTRUMENT_NAMES",
            "Record<Instrument, string>",
            "How a drummer says it.",
            {instrument: SPOKEN_NAMES[instrument] for instrument in Instrument},
        ),
        (
            "PLAYED_BY",
            "Record<Limb, readonly Instrument[]>",
            "What a limb can play, the likeliest first.",
            {limb: list(drums) for limb, drums in PLAYED_BY.items()},
        ),
        (
            "CROSSED",
            "readonly Instrument[]",
            "Drums whose heads are crosses.",
            [instrument for instrument in Instrument if instrument in CROSSED],
        ),
        (
            "TOMS",
            "readonly Instrument[]",
            "",
            [instrument for instrument in Instrument if instrument in TOMS],
        ),
        (
            "GRACE_SECONDS",
            "Record<Ornament, readonly number[]>",
            "When the soft strokes of an ornament sound: seconds from the main one.",
            {ornament: list(away) for ornament, away in AWAY.items()},
        ),
        ("GRACE_SHARE", "number", "How loud they are, of the main one's velocity.", SOFTER),
        ("HALF_OPEN_BELOW", "number", "A hat open by less is written half open.", HALF_OPEN_BELOW),
        ("HALF_OPENING", "number", "How far one is that somebody calls half open.", HALF_OPENING),
        (
            "SCHOOLS",
            "Record<string, string>",
            "The words of each school, as one says them.",
            {key: words.name.replace(", 1 ", " · ") for key, words in SCHOOLS.items()},
        ),
        (
            "MIDI_KEYS",
            "Record<number, Instrument>",
            "What an electronic kit means by a key.",
            {str(key): drum for key, drum in sorted(GM_KEYS.items())},
        ),
        ("DEFAULT_SCHOOL", "string", "", DEFAULT_SCHOOL),
        ("FEWEST_TAPS", "number", "", FEWEST_TAPS),
        ("SUFFIXES", "readonly string[]", "Endings of recordings that are taken.", list(SUFFIXES)),
        (
            "PART_SUFFIXES",
            "readonly string[]",
            "Endings of drum parts of other programs that are taken.",
            list(ENDINGS),
        ),
        (
            "BUNDLE_SUFFIX",
            "string",
            "The ending of a bundle.",
            BUNDLE_SUFFIX,
        ),
        ("LIMITS_TEXT", "string", "What is taken, in a line.", LIMITS_TEXT),
        ("LARGEST_BYTES", "number", "", LARGEST_BYTES),
        ("SHORTEST_SECONDS", "number", "", SHORTEST_SECONDS),
        ("LONGEST_SECONDS", "number", "", LONGEST_SECONDS),
    ]
    parts = [HEAD]
    for name, kind, words, value in constants:
        comment = f"/** {words} */\n" if words else ""
        text = json.dumps(value, indent=2, ensure_ascii=False)
        parts.append(f"{comment}export const {name}: {kind} = {text}\n")
    return "\n".join(parts)

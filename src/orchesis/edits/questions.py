"""What a song's doubts come down to: one question for many notes, where one answer settles them.

A voice that doubles another on every stroke, all song long, is asked about once, as a layer. Of the
notes in doubt those of one kind are put together: the same drum, soft or firm, on its own or under
the same other drum. Whoever knows that this record has no ghosts answers once.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction

import numpy as np

from orchesis.groove.layers import FEWEST, FEWEST_FAINT, doubling_layers
from orchesis.music.instruments import (
    CYMBALS,
    SPOKEN_NAMES,
    STRUCK_HATS,
    TOMS,
    Instrument,
    Status,
)
from orchesis.music.values import Hit, Transcription, written

FEWEST_ALIKE = 3
"""Doubts of a kind: with fewer, asking one by one is as quick."""

SOFT = 0.6
"""Of the drum's usual loudness, as MIDI has it (the median of its firm, sure strokes)."""

HEARD_AS = frozenset({Status.HEARD, Status.DOUBTFUL, Status.INFERRED})
"""What sounds; besides, what the tool left out and nobody has settled yet."""

Place = tuple[int, Fraction]


class Asked(StrEnum):
    """What one answer is about."""

    LAYER = "layer"
    ALIKE = "alike"


@dataclass(frozen=True, slots=True)
class Question:
    """Notes that one answer settles: are they there? The words name them, as a drummer would."""

    kind: Asked
    words: str
    hits: tuple[Hit, ...]


def questions(song: Transcription) -> tuple[Question, ...]:
    """Layers first, then kinds of doubts, the largest first; none of what is settled."""
    hits = list(written(song.hits))
    layers = _layers([hit for hit in song.hits if not hit.settled or hit.status in HEARD_AS])
    asked = {id(hit) for layer in layers for hit in layer.hits}
    doubts = [hit for hit in hits if hit.is_uncertain and id(hit) not in asked]
    return (*layers, *_kinds(doubts, hits))


def _layers(hits: Sequence[Hit]) -> list[Question]:
    """Voices that double another, which nobody has settled; also those that were left out."""
    found = []
    for layer in doubling_layers(hits):
        opened = tuple(hit for hit in layer.hits if not hit.settled)
        if len(opened) < (FEWEST if layer.in_unison else FEWEST_FAINT):
            continue
        away = opened[0].status is Status.LEFT_OUT
        voice = _voice_name(layer.doubled)
        how = (
            f" on every stroke of the {voice}, {len(opened)} times"
            if layer.in_unison
            else f", {len(opened)} times, always with the {voice} or another cymbal"
        )
        words = (
            f"the {SPOKEN_NAMES[layer.instrument]}{how}"
            + (", left out as the same sound" if away else "")
            + ": is it there at all?"
        )
        found.append(Question(Asked.LAYER, words, opened))
    return found


def _voice_name(instrument: Instrument) -> str:
    return "hat" if instrument is Instrument.HIHAT_CLOSED else SPOKEN_NAMES[instrument]


def _kinds(doubts: Sequence[Hit], hits: Sequence[Hit]) -> list[Question]:
    firm = _firm_loudness(hits)
    company: dict[Place, set[Instrument]] = defaultdict(set)
    for hit in hits:
        company[hit.place[:2]].add(hit.instrument)
    groups: dict[tuple[str, str, frozenset[Instrument]], list[Hit]] = defaultdict(list)
    for hit in doubts:
        # A tom is nearly always there: of what size it is, is another question (`naming`).
        voice = TOMS if hit.instrument in TOMS else frozenset({hit.instrument})
        groups[_how(hit, firm), _beside(hit, company[hit.place[:2]]), voice].append(hit)
    found = [
        Question(Asked.ALIKE, _words(how, beside, group), tuple(group))
        for (how, beside, _), group in groups.items()
        if len(group) >= FEWEST_ALIKE
    ]
    return sorted(found, key=lambda question: -len(question.hits))


def _firm_loudness(hits: Sequence[Hit]) -> dict[Instrument, float]:
    sure: dict[Instrument, list[int]] = defaultdict(list)
    for hit in hits:
        if not (hit.is_uncertain or hit.ghost):
            sure[hit.instrument].append(hit.velocity)
    return {instrument: float(np.median(values)) for instrument, values in sure.items()}


def _how(hit: Hit, firm: dict[Instrument, float]) -> str:
    if hit.ghost:
        return "ghost"
    usual = firm.get(hit.instrument)
    return "soft" if usual is not None and hit.velocity < SOFT * usual else ""


FAMILIES = (
    ("the kick", frozenset({Instrument.KICK})),
    ("the snare", frozenset({Instrument.SNARE, Instrument.CROSS_STICK})),
    ("a tom", TOMS),
    ("a cymbal", frozenset(CYMBALS) | STRUCK_HATS),
)
"""What may hide a stroke, the loudest first."""


def _beside(hit: Hit, there: set[Instrument]) -> str:
    """What sounds at the same place, of other families than the note's own."""
    for name, family in FAMILIES:
        if hit.instrument not in family and there & family:
            return f"together with {name}"
    return "on their own"


def _words(how: str, beside: str, hits: Sequence[Hit]) -> str:
    """Such as: 41 soft closed hats together with the snare."""
    named = {SPOKEN_NAMES[hit.instrument] for hit in hits}
    name = named.pop() if len(named) == 1 else "tom"
    many = name if name.endswith("s") else f"{name}es" if name.endswith("sh") else f"{name}s"
    several = f"ghosts of the {name}" if how == "ghost" else f"{how} {many}".strip()
    return f"{len(hits)} {several} {beside}"

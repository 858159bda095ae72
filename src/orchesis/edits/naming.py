"""Naming: which instrument is this voice? Asked once for all of its strokes, not one by one.

Where only some sections leave it open, the question is about these sections.

Where the network takes all strokes of a voice nearly as well for another instrument of its family,
the same mistake was made all song long or not at all. On songs of people that were played with kits
which the network knows, a voice with a mean margin below NAMING_MARGIN was truly its rival in
21 of 74 cases, above it in 29 of 1776; on a kit that it does not know in 5 of 16 and 6 of 547
(docs/measurements.md).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from orchesis.listening.candidates import logit
from orchesis.listening.evidence import Evidence
from orchesis.music.instruments import SPOKEN_NAMES, Instrument
from orchesis.music.values import Hit, Transcription, written

NAMING_MARGIN = 1.0
"""Mean log odds of the voice's own name over its rival's."""

FEWEST_STROKES = 12
"""Fewer are asked about as doubts, if at all."""

MOST_QUESTIONS = 4
REACH_FRAMES = 2
EXAMPLES = 3
"""So many strokes can be listened to for either name."""

RIVALS: tuple[frozenset[Instrument], ...] = (
    frozenset(
        {
            Instrument.HIHAT_CLOSED,
            Instrument.HIHAT_OPEN,
            Instrument.HIHAT_FOOT,
            Instrument.RIDE,
            Instrument.RIDE_BELL,
            Instrument.CRASH,
            Instrument.TAMBOURINE,
            Instrument.SHAKER,
        }
    ),
    frozenset({Instrument.SNARE, Instrument.CROSS_STICK, Instrument.CLAP}),
    frozenset({Instrument.TOM_HIGH, Instrument.TOM_MID, Instrument.TOM_FLOOR}),
)
"""What may be taken for one another all song long."""

LOOSE_OTHERS = (Instrument.RIDE, Instrument.CRASH, Instrument.RIDE_BELL)
"""What else a hat that is always open may be."""

LOOSE_SHARE = 0.95
"""Of the struck hats: from here on all are called open."""


@dataclass(frozen=True, slots=True)
class Naming:
    """A voice, the name that it may have instead, and which of its strokes to listen to.

    hits : the voice's strokes that nobody has settled. margin : mean log odds of its name over the
    rival's; None where the question is how a hat that is open all the time is to be called.
    like_itself, like_rival : the strokes that speak most for either name. family : all names that
    it may have, its own first, then by the network's word. sections : the marks of the sections
    that are asked about; empty: all song long.
    """

    instrument: Instrument
    rival: Instrument
    hits: tuple[Hit, ...]
    margin: float | None
    like_itself: tuple[Hit, ...]
    like_rival: tuple[Hit, ...]
    family: tuple[Instrument, ...] = ()
    sections: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """The question, as a drummer would ask it."""
        name, rival = SPOKEN_NAMES[self.instrument], SPOKEN_NAMES[self.rival]
        if self.margin is None:
            return (
                f"{len(self.hits)} open hats and hardly a closed one: is it ridden open, or a "
                "loose pair played closed?"
            )
        where = f"in {_listed(self.sections)}" if self.sections else "all song long"
        return f"{len(self.hits)} strokes {where}: {name} or {rival}?"


def naming_questions(song: Transcription, evidence: Evidence) -> tuple[Naming, ...]:
    """The voices whose name is open, the longest first; at most MOST_QUESTIONS.

    Strokes at which both names are written are no witness: there two things sound.
    """
    at: dict[tuple[int, Fraction], set[Instrument]] = defaultdict(set)
    voices: dict[Instrument, list[Hit]] = defaultdict(list)
    for hit in written(song.hits):
        at[hit.place[:2]].add(hit.instrument)
        if not hit.settled and not hit.source:
            voices[hit.instrument].append(hit)
    marks = {
        bar.number: _stem(section.label)
        for section in song.sections
        for bar in song.bars_in(section)
    }
    found = []
    for instrument, hits in voices.items():
        family = next((rivals for rivals in RIVALS if instrument in rivals), frozenset())
        asked = [
            naming
            for rival in sorted(family - {instrument})
            if rival in evidence.classes and instrument in evidence.classes
            for naming in [
                _between(
                    instrument,
                    rival,
                    [h for h in hits if rival not in at[h.place[:2]]],
                    marks,
                    evidence,
                )
            ]
            if naming is not None
        ]
        if asked:
            nearest = min(asked, key=lambda naming: naming.margin or 0.0)
            found.append(replace(nearest, family=_ranked(nearest, family, evidence)))
    if (loose := _always_open(song.hits)) and all(
        naming.instrument is not Instrument.HIHAT_OPEN for naming in found
    ):
        found.append(loose)
    # Of two voices that may each be the other one question is enough.
    found.sort(key=lambda naming: -len(naming.hits))
    kept: list[Naming] = []
    for naming in found:
        if all({naming.instrument, naming.rival} != {k.instrument, k.rival} for k in kept):
            kept.append(naming)
    return tuple(kept[:MOST_QUESTIONS])


def _between(
    instrument: Instrument,
    rival: Instrument,
    hits: Sequence[Hit],
    marks: Mapping[int, str],
    evidence: Evidence,
) -> Naming | None:
    if len(hits) < FEWEST_STROKES:
        return None
    margins = _strength(hits, instrument, evidence) - _strength(hits, rival, evidence)
    where = np.array([marks.get(hit.bar, "") for hit in hits])
    long = [mark for mark in dict.fromkeys(where) if (where == mark).sum() >= FEWEST_STROKES]
    unclear = [mark for mark in long if margins[where == mark].mean() < NAMING_MARGIN]
    sections: tuple[str, ...] = ()
    if unclear and len(unclear) < len(long):
        meant = np.isin(where, unclear)
        hits = [hit for hit, is_meant in zip(hits, meant, strict=True) if is_meant]
        margins, sections = margins[meant], tuple(str(mark) for mark in unclear)
    elif margins.mean() >= NAMING_MARGIN:
        return None
    order = np.argsort(margins, kind="stable")
    return Naming(
        instrument,
        rival,
        tuple(hits),
        float(margins.mean()),
        tuple(hits[i] for i in order[::-1][:EXAMPLES]),
        tuple(hits[i] for i in order[:EXAMPLES]),
        sections=sections,
    )


def _ranked(
    naming: Naming, family: Collection[Instrument], evidence: Evidence
) -> tuple[Instrument, ...]:
    """All names of the family: the voice's own, its rival, then by the network's word."""
    heard = {
        one: float(_strength(naming.hits, one, evidence).mean())
        for one in family
        if one in evidence.classes
    }
    first = (naming.instrument, naming.rival)
    rest = sorted(set(family) - set(first), key=lambda one: (-heard.get(one, -np.inf), one))
    return (*first, *rest)


def _stem(label: str) -> str:
    """Chorus for Chorus 2: sections of one name play the same."""
    name, _, number = label.rpartition(" ")
    return name if name and number.isdigit() else label


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def _strength(hits: Sequence[Hit], instrument: Instrument, evidence: Evidence) -> np.ndarray:
    """Log odds of the network for a drum at each stroke, shape (hits,)."""
    curve = evidence.onsets[:, evidence.classes.index(instrument)]
    frames = np.round(np.array([hit.time for hit in hits]) * evidence.frame_rate).astype(int)
    near = frames[:, None] + np.arange(-REACH_FRAMES, REACH_FRAMES + 1)
    return logit(curve[np.clip(near, 0, len(curve) - 1)].max(axis=1) / 255)


def _always_open(hits: Sequence[Hit]) -> Naming | None:
    """A hat that is called open on every stroke: a drummer hears whether it is ridden so."""
    struck = {
        kind: [hit for hit in written(hits) if hit.instrument is kind]
        for kind in (Instrument.HIHAT_OPEN, Instrument.HIHAT_CLOSED)
    }
    opened, closed = struck[Instrument.HIHAT_OPEN], struck[Instrument.HIHAT_CLOSED]
    mine = [hit for hit in opened if not hit.settled]
    if len(mine) < FEWEST_STROKES or len(opened) < LOOSE_SHARE * (len(opened) + len(closed)):
        return None
    loud = sorted(mine, key=lambda hit: -hit.velocity)
    examples = tuple(loud[:EXAMPLES])
    return Naming(
        Instrument.HIHAT_OPEN,
        Instrument.HIHAT_CLOSED,
        tuple(mine),
        None,
        examples,
        examples,
        family=(Instrument.HIHAT_OPEN, Instrument.HIHAT_CLOSED, *LOOSE_OTHERS),
    )

"""Inferred layers: notes that cannot be heard but must be there. Proposed, never written as heard.

From the bass: where the kick is hardly heard at all and a bass line walks, a kick that is feathered
under it is proposed. From the pattern: where a note of the phrase is lacking in a single bar, is
not contradicted there by silence, and all its neighbours have it.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis.groove.phrase import Phrase, Standing
from orchesis.music.instruments import Instrument, Limb, Status
from orchesis.music.values import Bar, Fill, Hit, written

WALKING = 0.7
"""Share of the beats on which the bass begins a note, for it to be called walking."""

HARDLY_ANY_KICK = 0.5
"""Kicks heard a bar, at most, for the kick to count as unheard."""

FEATHERED_VELOCITY = 30
LEAST_TRACE = 0.06
"""How strongly something must have been heard for a note to be inferred from the pattern."""

BASS_NEAR = 0.06

Strength = Callable[[Instrument, float, float], float]
"""How strongly a drum is heard between two times, 0 to 1."""


@dataclass(frozen=True, slots=True)
class Proposal:
    """Notes that are proposed together, with the reason."""

    kind: str
    words: str
    hits: tuple[Hit, ...]


def from_the_bass(
    bars: Sequence[Bar], hits: Sequence[Hit], bass: Sequence[float]
) -> Proposal | None:
    """A feathered kick under a walking bass, for the bars given; `bass`: seconds of its onsets."""
    mine = {bar.number for bar in bars}
    kicks = [h for h in written(hits) if h.bar in mine and h.instrument is Instrument.KICK]
    playing = {hit.bar for hit in written(hits)} & mine
    if not playing or len(kicks) > HARDLY_ANY_KICK * len(playing):
        return None
    beats = [beat for bar in bars if bar.number in playing for beat in bar.beats]
    met = sum(any(abs(time - beat) < BASS_NEAR for time in bass) for beat in beats)
    if met < WALKING * len(beats):
        return None
    taken = {(hit.bar, hit.position) for hit in hits if hit.instrument is Instrument.KICK}
    new = []
    for bar in bars:
        if bar.number not in playing:
            continue
        for index, beat in enumerate(bar.beats):
            position = Fraction(index, len(bar.beats))
            if (bar.number, position) not in taken:
                new.append(
                    Hit(
                        time=max(0.0, beat),
                        instrument=Instrument.KICK,
                        velocity=FEATHERED_VELOCITY,
                        bar=bar.number,
                        position=position,
                        ghost=True,
                        confidence=met / len(beats),
                        status=Status.INFERRED,
                        limb=Limb.RIGHT_FOOT,
                        reason="inferred: feathered under the walking bass",
                    )
                )
    if not new:
        return None
    words = (
        f"The bass begins a note on {met} of {len(beats)} beats and the kick is not heard: it may "
        "be feathered under it."
    )
    return Proposal("bass", words, tuple(new))


def from_the_pattern(
    phrase: Phrase,
    bars: Sequence[Bar],
    hits: Sequence[Hit],
    fills: Sequence[Fill],
    strength: Strength,
) -> Proposal | None:
    """Core notes of the phrase that single bars lack although a trace of them was heard."""
    inside = [b for b in bars if phrase.first_bar <= b.number < phrase.first_bar + phrase.bars]
    by_bar: dict[int, set[tuple[Fraction, Instrument]]] = defaultdict(set)
    for hit in hits:
        # What was left out by hand is not proposed again.
        by_bar[hit.bar].add((hit.position, hit.instrument))
    filled = {fill.bar: fill.start for fill in fills}
    new = []
    for row, bar in enumerate(inside):
        if not by_bar[bar.number]:
            continue
        for note in phrase.notes:
            if note.standing is not Standing.CORE or note.bar != row % phrase.length:
                continue
            if (note.position, note.instrument) in by_bar[bar.number]:
                continue
            time = bar.time_at(note.position)
            if time >= filled.get(bar.number, bar.end):
                continue
            trace = strength(note.instrument, time - 0.03, time + 0.04)
            if trace >= LEAST_TRACE:
                new.append(
                    Hit(
                        time=max(0.0, time),
                        instrument=note.instrument,
                        velocity=note.velocity,
                        bar=bar.number,
                        position=note.position,
                        ghost=note.ghost,
                        accent=note.accent,
                        confidence=min(1.0, round(note.share * 0.7 + 0.3 * trace, 3)),
                        status=Status.INFERRED,
                        limb=note.limb,
                        reason=(
                            f"inferred from the pattern: {note.count} of {note.asked} bars have it"
                        ),
                    )
                )
    if not new:
        return None
    many = len(new)
    words = (
        f"{many} {'note' if many == 1 else 'notes'} of the phrase {'is' if many == 1 else 'are'} "
        "lacking in single bars where the record leaves a trace of "
        f"{'it' if many == 1 else 'them'}."
    )
    return Proposal("pattern", words, tuple(new))

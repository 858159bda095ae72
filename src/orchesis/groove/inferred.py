"""Inferred layers: notes that cannot be heard but must be there. Proposed, never written as heard.

From the bass: where the kick is hardly heard at all and a bass line walks, a kick that is feathered
under it is proposed. From the pattern: where a note of the phrase is lacking in a single bar, is
not contradicted there by silence, and all its neighbours have it. By convention: where the hands
leave the hi-hat alone and no foot was written, a left foot on the off-beats is proposed if the
traces of it, too weak to be heard in any one bar, lie there in nearly all of them.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import comb

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
HARDLY_ANY_FOOT = 0.5
"""Foot chicks heard a bar, at most, for the left foot to count as unheard."""

FOOT_VELOCITY = 50
CHANCE = 0.02
"""As many bars that favour a place come by chance no oftener than this (sign test)."""

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


HAND_HATS = frozenset({Instrument.HIHAT_CLOSED, Instrument.HIHAT_OPEN})
FOOT_HATS = frozenset({Instrument.HIHAT_FOOT, Instrument.HIHAT_SPLASH})


def by_convention(bars: Sequence[Bar], hits: Sequence[Hit], strength: Strength) -> Proposal | None:
    """A left foot on the back beats, or on the off-beats between, for the bars given.

    Each bar is asked whether the traces of a foot are stronger there than on the other eighths; a
    sign test over the bars tells whether that may be chance.
    """
    mine = {bar.number for bar in bars}
    played = [hit for hit in written(hits) if hit.bar in mine]
    sounding = {hit.bar for hit in played}
    playing = [bar for bar in bars if bar.number in sounding]
    hands_on_hat = {hit.bar for hit in played if hit.instrument in HAND_HATS}
    feet = [hit for hit in played if hit.instrument in FOOT_HATS]
    if not playing or len(hands_on_hat) > 0.5 * len(playing):
        return None
    if len(feet) > HARDLY_ANY_FOOT * len(playing):
        return None
    ruled_out = {(hit.bar, hit.position) for hit in hits if hit.instrument in FOOT_HATS}
    best: tuple[int, str, list[list[Fraction]]] | None = None
    for words, places_in in _FOOT_PLACES.items():
        chosen = [places_in(len(bar.beats)) for bar in playing]
        asked = [(bar, places) for bar, places in zip(playing, chosen, strict=True) if places]
        wins = sum(_favoured(bar, places, strength) for bar, places in asked)
        if asked and _by_chance(wins, len(asked)) <= CHANCE and (best is None or wins > best[0]):
            best = (wins, words, chosen)
    if best is None:
        return None
    wins, words, chosen = best
    new = tuple(
        Hit(
            time=bar.stroke_at(position),
            instrument=Instrument.HIHAT_FOOT,
            velocity=FOOT_VELOCITY,
            bar=bar.number,
            position=position,
            confidence=round(wins / len(playing), 3),
            status=Status.INFERRED,
            limb=Limb.LEFT_FOOT,
            reason=f"inferred by convention: the foot on {words}",
        )
        for bar, places in zip(playing, chosen, strict=True)
        for position in places
        if (bar.number, position) not in ruled_out
    )
    said = (
        f"The left foot may play on {words}: in {wins} of {len(playing)} bars the record leaves a "
        "trace of it there, more than elsewhere in the bar."
    )
    return Proposal("convention", said, new) if new else None


def _back_beats(beats: int) -> list[Fraction]:
    """2 and 4; 2 and 3 in three."""
    places = range(1, beats, 2) if beats % 2 == 0 else range(1, beats)
    return [Fraction(beat, beats) for beat in places]


def _between_beats(beats: int) -> list[Fraction]:
    return [Fraction(2 * beat + 1, 2 * beats) for beat in range(beats)]


_FOOT_PLACES: dict[str, Callable[[int], list[Fraction]]] = {
    "the back beats": _back_beats,
    "the off-beats": _between_beats,
}


def _favoured(bar: Bar, places: Sequence[Fraction], strength: Strength) -> bool:
    """Whether a foot is traced at these places, and more than at the bar's other eighths."""
    eighths = [Fraction(step, 2 * len(bar.beats)) for step in range(2 * len(bar.beats))]

    def trace(where: Sequence[Fraction]) -> float:
        times = [bar.time_at(place) for place in where]
        strengths = [strength(Instrument.HIHAT_FOOT, time - 0.03, time + 0.04) for time in times]
        return sum(strengths) / len(strengths)

    there = trace(places)
    others = [place for place in eighths if place not in places]
    return there >= LEAST_TRACE and there > 2 * trace(others)


def _by_chance(wins: int, asked: int) -> float:
    """How often so many heads or more come of so many coins."""
    return float(sum(comb(asked, k) for k in range(wins, asked + 1)) / 2**asked)


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
            time = bar.stroke_at(note.position)
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

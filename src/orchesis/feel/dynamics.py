"""Dynamics: ghosts against backbeats, the hat's accents, how even the backbeat is, what swells."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
import numpy.typing as npt
from scipy.stats import theilslopes

from orchesis.groove.count import place_words
from orchesis.listening.levels import StrokeLevels, interval_of_median
from orchesis.music.instruments import TIMEKEEPERS, Instrument
from orchesis.music.values import Bar, Hit, Section, written

FEWEST = 8
"""Strokes of a kind: of fewer nothing is said."""

SAME_STROKE = 0.03
"""Seconds between a note and the stroke whose level is measured."""

COVERING = frozenset({Instrument.SNARE, Instrument.CLAP, Instrument.CRASH, Instrument.CHINA})
"""What hides the level of a cymbal that is struck with it."""

AN_ACCENT_DB = 2.0
"""Between two places of the bar: less is evenness."""

SWELL_DB = 3.0
"""Over a section: less is how people play."""

Decibels = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Middle:
    """A median in dB with its 95 % interval, and of how many strokes."""

    db: float
    low: float
    high: float
    strokes: int


@dataclass(frozen=True, slots=True)
class Dynamics:
    """What was measured; None where there are too few strokes.

    ghosts : ghosts below the backbeats. hat : for each place of the bar that the steady hand plays
    often, its name and its level against the hand's mean. backbeat : median distance of a
    backbeat from the usual one. swells : section and dB from its beginning to its end.
    """

    ghosts: Middle | None
    hat: tuple[tuple[str, float], ...]
    backbeat: Middle | None
    swells: tuple[tuple[str, float], ...]


def levels_of_hits(hits: Sequence[Hit], levels: StrokeLevels) -> dict[int, float]:
    """The level in dB of each note, by its index, where its stroke was measured.

    Parameters
    ----------
    hits : the notes. levels : of the recording's strokes.
    """
    found: dict[int, float] = {}
    by_drum: dict[Instrument, list[int]] = {}
    for index, hit in enumerate(hits):
        by_drum.setdefault(hit.instrument, []).append(index)
    for instrument, mine in by_drum.items():
        times, decibels = levels.of(instrument)
        if not len(times):
            continue
        order = np.argsort(times)
        times, decibels = times[order], decibels[order]
        for index in mine:
            near = int(np.clip(np.searchsorted(times, hits[index].time), 0, len(times) - 1))
            near = min((near - 1, near), key=lambda i: abs(times[i] - hits[index].time))
            if abs(times[near] - hits[index].time) <= SAME_STROKE:
                found[index] = float(decibels[near])
    return found


def dynamics(
    bars: Sequence[Bar], hits: Sequence[Hit], sections: Sequence[Section], levels: StrokeLevels
) -> Dynamics:
    """How loud what is played, measured in the sound.

    Parameters
    ----------
    bars, hits, sections : of the song. levels : in dB, of the recording's strokes.
    """
    notes = written(hits)
    known = levels_of_hits(notes, levels)
    snares = [(notes[i], db) for i, db in known.items() if notes[i].instrument is Instrument.SNARE]
    firm = np.array([db for hit, db in snares if not hit.ghost])
    soft = np.array([db for hit, db in snares if hit.ghost])
    return Dynamics(
        ghosts=_below(soft, firm),
        hat=_hat_accents(bars, notes, known),
        backbeat=_evenness(firm),
        swells=_swells(notes, known, sections),
    )


def _below(soft: Decibels, firm: Decibels) -> Middle | None:
    if len(soft) < FEWEST or len(firm) < FEWEST:
        return None
    usual = float(np.median(firm))
    below = np.sort(usual - soft)
    low, high = interval_of_median(below)
    return Middle(float(np.median(below)), low, high, len(soft))


def _evenness(firm: Decibels) -> Middle | None:
    if len(firm) < FEWEST:
        return None
    apart = np.sort(np.abs(firm - np.median(firm)))
    low, high = interval_of_median(apart)
    return Middle(float(np.median(apart)), low, high, len(firm))


def _hat_accents(
    bars: Sequence[Bar], notes: Sequence[Hit], known: dict[int, float]
) -> tuple[tuple[str, float], ...]:
    """Each drum of the steady hand against its own usual level, by the place in the bar.

    Under a backbeat or a crash nobody can tell how loud a hat is: such strokes are not asked.
    """
    meters = {bar.number: bar.meter for bar in bars}
    common = max(set(meters.values()), key=list(meters.values()).count) if meters else None
    usual: dict[Instrument, float] = {}
    for instrument in TIMEKEEPERS:
        mine = [db for i, db in known.items() if notes[i].instrument is instrument]
        if len(mine) >= FEWEST:
            usual[instrument] = float(np.median(mine))
    covered = {h.place[:2] for h in notes if h.instrument in COVERING and not h.ghost}
    places: dict[Fraction, list[float]] = {}
    for index, db in known.items():
        hit = notes[index]
        if hit.place[:2] in covered:
            continue
        if hit.instrument in usual and meters.get(hit.bar) == common:
            places.setdefault(hit.position, []).append(db - usual[hit.instrument])
    return tuple(
        (place_words(position, common), float(np.median(values)))
        for position, values in sorted(places.items())
        if common is not None and len(values) >= FEWEST
    )


def _swells(
    notes: Sequence[Hit], known: dict[int, float], sections: Sequence[Section]
) -> tuple[tuple[str, float], ...]:
    """Sections in which all drums together grow louder or softer, clearly."""
    usual = {
        instrument: np.median([db for i, db in known.items() if notes[i].instrument is instrument])
        for instrument in {notes[i].instrument for i in known}
    }
    found = []
    for section in sections:
        mine = [
            (notes[i].time, db - usual[notes[i].instrument])
            for i, db in known.items()
            if section.start <= notes[i].time < section.end and not notes[i].ghost
        ]
        if len(mine) < 4 * FEWEST:
            continue
        times, apart = (np.array(column) for column in zip(*mine, strict=True))
        slope, _, low, high = theilslopes(apart, times, alpha=0.95)
        change = float(slope * (section.end - section.start))
        if low * high > 0 and abs(change) >= SWELL_DB:
            found.append((section.label, change))
    return tuple(found)


def ghost_words(ghosts: Middle | None) -> str:
    """How soft the ghosts are, and what to do about it."""
    if ghosts is None:
        return "Too few ghosts were heard to say how soft they are."
    told = (
        f"Ghosts are {ghosts.db:.0f} dB below the backbeats ({ghosts.low:.0f} to {ghosts.high:.0f})"
    )
    if ghosts.db >= 16:
        return f"{told}: drop them from an inch above the head, and let the stick fall."
    if ghosts.db >= 9:
        return f"{told}: keep the left stick low between the backbeats."
    return f"{told}: they are taps rather than ghosts; play them so that they speak."


def hat_words(hat: Sequence[tuple[str, float]]) -> str:
    """The accent pattern of the steady hand."""
    if len(hat) < 2:
        return "Too few strokes of the steady hand were measured to say which are accented."
    loud = [name for name, db in hat if db >= AN_ACCENT_DB / 2]
    soft = [name for name, db in hat if db <= -AN_ACCENT_DB / 2]
    spread = max(db for _, db in hat) - min(db for _, db in hat)
    if spread < AN_ACCENT_DB or not loud or not soft:
        return "The steady hand plays evenly: no place stands out by more than one can hear."
    return (
        f"The steady hand leans on {_listed(loud)} and takes back {_listed(soft)}, by "
        f"{spread:.0f} dB: shoulder of the stick on the first, tip on the others."
    )


def backbeat_words(backbeat: Middle | None) -> str:
    """How even the backbeats are."""
    if backbeat is None:
        return "Too few backbeats were measured to say how even they are."
    told = f"Backbeats stay within {backbeat.db:.1f} dB of each other, half of them"
    if backbeat.db <= 1.0:
        return f"{told}: one stroke, always from the same height."
    if backbeat.db <= 2.5:
        return f"{told}: a human hand; mind the height of the stick."
    return f"{told}: they are meant to differ, or the record lets them."


def swell_words(swells: Sequence[tuple[str, float]]) -> str:
    """Which sections grow or fall away."""
    if not swells:
        return "No section swells or falls away by more than 3 dB."
    parts = [
        f"{label} {'grows' if db > 0 else 'falls away'} by {abs(db):.0f} dB" for label, db in swells
    ]
    return f"{_listed(parts)}: pace it, from the first bar on."


def _listed(names: Sequence[str]) -> str:
    names = [*names[:6], *(["…"] if len(names) > 6 else [])]
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"

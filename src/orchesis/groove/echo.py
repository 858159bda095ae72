"""Echo suspects: soft strokes that may be the record's delay and not the player's.

A delay repeats a stroke after a constant time in seconds and softer by a constant ratio, whatever
the grid does; a player's ghosts keep to the grid and vary. Both are measured. A delay over the
whole kit shows as one lag at which kick and snare alike are followed by softer strokes of their
own, as the lag of a comb filter shows in an autocorrelation; its repeats are one question.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from orchesis.music.instruments import SPOKEN_NAMES, Instrument
from orchesis.music.values import Bar, Hit, written

SHORTEST, LONGEST = 0.05, 0.75
WINDOW = 0.008
"""Seconds: delays this near each other are one."""

FEWEST = 6
FOLLOWED = 0.4
"""Share of the loud strokes that must be followed."""

MOST_SPREAD = 0.005
MOST_SPREAD_DB = 3.0
LEAST_DROP_DB = 4.0
OFF_GRID = 0.009
"""Seconds from the nearest sixteenth or triplet: nearer, it may simply be played."""

STRAY = 0.04
MOST_STRAYING = 0.2
"""Of the soft strokes within STRAY seconds of the delay no more than this share may miss it."""

DRIFT_TELLS = 1.6
"""How many times steadier in seconds than in beats the delay must be where it is on the grid."""


@dataclass(frozen=True, slots=True)
class EchoSuspect:
    """Strokes of one drum, or of the whole kit, that may be an echo, with the figures.

    followed, loud : how many strokes an echo follows, of how many that could have one.
    """

    instruments: tuple[Instrument, ...]
    delay: float
    spread: float
    drop_db: float
    followed: int
    loud: int
    hits: tuple[Hit, ...]
    words: str


def echo_suspects(bars: Sequence[Bar], hits: Sequence[Hit]) -> tuple[EchoSuspect, ...]:
    """What may be the record's delay: over the whole kit first, then drum by drum."""
    by_drum: dict[Instrument, list[Hit]] = defaultdict(list)
    for hit in written(hits):
        by_drum[hit.instrument].append(hit)
    edges = np.array([*(beat for bar in bars for beat in bar.beats), bars[-1].end if bars else 0.0])
    for strokes in by_drum.values():
        strokes.sort(key=lambda hit: hit.time)
    whole = _of_the_kit(by_drum, edges)
    found = [whole] if whole else []
    for instrument, strokes in by_drum.items():
        suspect = _suspect(instrument, strokes, edges)
        if suspect and not (whole and abs(suspect.delay - whole.delay) < WINDOW):
            found.append(suspect)
    return tuple(found)


def _decibels(hit: Hit) -> float:
    return float(20 * np.log10(hit.velocity / 127))


BOTH = (Instrument.KICK, Instrument.SNARE)
KIT_FOLLOWED = 0.25
"""Share of the kicks, and of the snares, that an echo of the whole kit follows at least."""

KIT_FOLLOWED_ON_GRID = 0.6
"""The same where the lag is a place of the grid: there a player may well play."""

SOFTER_BY_DB = 2.0
SAME_DROP_DB = 3.0
"""An echo takes as much from the kick as from the snare."""

Pairs = list[tuple[float, int, int]]
"""Lag in seconds, index of a stroke, index of a softer one after it."""


def _of_the_kit(by_drum: Mapping[Instrument, list[Hit]], edges: np.ndarray) -> EchoSuspect | None:
    """An echo of every drum after one lag, or None."""
    pairs = {drum: _softer_after(strokes) for drum, strokes in by_drum.items()}
    if any(len(pairs.get(drum, ())) < FEWEST for drum in BOTH):
        return None
    lags = np.sort(np.concatenate([[lag for lag, _, _ in pairs[drum]] for drum in BOTH]))
    within = np.searchsorted(lags, lags + WINDOW) - np.searchsorted(lags, lags - WINDOW)
    for peak in lags[np.argsort(-within)][: MOST_PEAKS * FEWEST : FEWEST]:
        found = _comb(by_drum, pairs, float(peak), edges)
        if found is not None:
            return found
    return None


MOST_PEAKS = 8


def _comb(
    by_drum: Mapping[Instrument, list[Hit]],
    pairs: Mapping[Instrument, Pairs],
    lag: float,
    edges: np.ndarray,
) -> EchoSuspect | None:
    """The echo of the whole kit after this lag, where there is one."""
    delay = float(
        np.median([at for drum in BOTH for at, _, _ in pairs[drum] if abs(at - lag) < WINDOW])
    )
    drops, spreads = [], []
    followed = loud = 0
    for drum in BOTH:
        strokes = by_drum[drum]
        chosen = [pair for pair in pairs[drum] if abs(pair[0] - delay) < WINDOW]
        echoes = {after for _, _, after in chosen}
        sources = [index for index in range(len(strokes)) if index not in echoes]
        mine = {first for _, first, _ in chosen if first not in echoes}
        if len(mine) < FEWEST or len(mine) < KIT_FOLLOWED * len(sources):
            return None
        drop = np.array(
            [_decibels(strokes[a]) - _decibels(strokes[b]) for _, a, b in chosen if a in mine]
        )
        spread = float(np.std([at for at, _, _ in chosen]))
        if drop.std() > MOST_SPREAD_DB or spread > MOST_SPREAD:
            return None
        times = np.array([hit.time for hit in strokes])
        apart = _apart_from_grid(chosen, times, edges, delay, spread)
        if not apart and len(mine) < KIT_FOLLOWED_ON_GRID * len(sources):
            return None
        drops.append(float(drop.mean()))
        spreads.append(spread)
        followed += len(mine)
        loud += len(sources)
    if abs(drops[0] - drops[1]) > SAME_DROP_DB:
        return None
    hits = [
        by_drum[drum][after]
        for drum, found in pairs.items()
        for after in sorted({b for at, _, b in found if abs(at - delay) < WINDOW})
    ]
    words = (
        f"May be the record's delay: every drum again {1000 * delay:.0f} ms "
        f"(± {1000 * max(spreads):.0f}) after it was struck, {np.mean(drops):.0f} dB softer, after "
        f"{followed} of {loud} strokes of kick and snare."
    )
    drums = tuple(dict.fromkeys(hit.instrument for hit in hits))
    return EchoSuspect(
        drums, delay, max(spreads), float(np.mean(drops)), followed, loud, tuple(hits), words
    )


def _softer_after(strokes: Sequence[Hit]) -> Pairs:
    """Each stroke with every softer one of its drum within LONGEST after it."""
    found = []
    for first, one in enumerate(strokes):
        for after in range(first + 1, len(strokes)):
            lag = strokes[after].time - one.time
            if lag > LONGEST:
                break
            if lag >= SHORTEST and _decibels(strokes[after]) < _decibels(one) - SOFTER_BY_DB:
                found.append((lag, first, after))
    return found


def _suspect(instrument: Instrument, strokes: list[Hit], edges: np.ndarray) -> EchoSuspect | None:
    if len(strokes) < 2 * FEWEST:
        return None
    levels = np.array([_decibels(hit) for hit in strokes])
    times = np.array([hit.time for hit in strokes])
    loud_level = np.percentile(levels, 75) - LEAST_DROP_DB
    pairs = []
    for soft in np.flatnonzero(levels < loud_level):
        for loud in np.flatnonzero(
            (times > times[soft] - LONGEST) & (times < times[soft] - SHORTEST)
        ):
            if levels[loud] >= loud_level:
                pairs.append((times[soft] - times[loud], int(loud), int(soft)))
    if len(pairs) < FEWEST:
        return None
    delays = np.array([pair[0] for pair in pairs])
    near = np.abs(delays[:, None] - delays[None, :]) < WINDOW
    members = np.flatnonzero(near[int(near.sum(axis=1).argmax())])
    chosen = [pairs[i] for i in members]
    drops = np.array([levels[loud] - levels[soft] for _, loud, soft in chosen])
    delay, spread = float(np.median(delays[members])), float(delays[members].std())
    followed = len({loud for _, loud, _ in chosen})
    # A stroke at the very end of the song could not have been followed.
    loud_count = int((levels >= loud_level).sum())
    about = np.abs(delays - delay) < STRAY
    if len(members) < (1 - MOST_STRAYING) * about.sum():
        return None
    steady = spread <= MOST_SPREAD and drops.std() <= MOST_SPREAD_DB
    if followed < max(FEWEST, FOLLOWED * loud_count) or not steady:
        return None
    if drops.mean() < LEAST_DROP_DB or not _apart_from_grid(chosen, times, edges, delay, spread):
        return None
    words = (
        f"May be the record's delay: {SPOKEN_NAMES[instrument]} always {1000 * delay:.0f} ms "
        f"(± {1000 * spread:.0f}) after a loud stroke, {drops.mean():.0f} dB softer, after "
        f"{followed} of {loud_count}."
    )
    soft_hits = tuple(strokes[soft] for soft in sorted({soft for _, _, soft in chosen}))
    return EchoSuspect(
        (instrument,), delay, spread, float(drops.mean()), followed, loud_count, soft_hits, words
    )


def _apart_from_grid(
    pairs: list[tuple[float, int, int]],
    times: np.ndarray,
    edges: np.ndarray,
    delay: float,
    spread: float,
) -> bool:
    """True when the delay is no grid interval, or keeps its seconds while the tempo moves."""
    if len(edges) < 3:
        return False
    beats = np.interp([times[pair[1]] for pair in pairs], edges[:-1], np.diff(edges))
    shares = np.array([pair[0] for pair in pairs]) / beats
    grid = np.concatenate([np.arange(1, 13) / 4, np.arange(1, 10) / 3])
    nearest = grid[np.abs(grid - np.median(shares)).argmin()]
    off = abs(float(np.median(shares)) - nearest) * float(np.median(beats))
    if off > OFF_GRID:
        return True
    in_beats = float(shares.std() * np.median(beats))
    return in_beats > DRIFT_TELLS * max(spread, 1e-4) and in_beats > 0.002
